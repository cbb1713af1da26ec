"""The school of melted clay: rolled as it thickens, each pour onto one that has set."""

from collections.abc import Iterator
from typing import TYPE_CHECKING

from mildhusk.core.casting.coats import CoatKind, Layer, Need, coat_count
from mildhusk.core.casting.schools.base import School
from mildhusk.core.casting.wish import CoatSchool
from mildhusk.core.findings import Finding, Severity
from mildhusk.core.materials.kinds import MeltedClay
from mildhusk.core.wording import Unit, sentence

if TYPE_CHECKING:
    from mildhusk.core.casting.plan import CastSheet


class Melted(School):
    """Equal pours of a clay that sets by cooling."""

    key = CoatSchool.CLAY
    name = "melted clay"
    when = "For a copy to work on: clay rolled as it thickens; too hot, it melts what has set."
    pours = MeltedClay

    @property
    def plain_coat(self) -> CoatKind:
        """A pour of clay."""
        return CoatKind.CLAY

    def divide(self, need: Need) -> tuple[Layer, ...]:
        """Divide into equal pours."""
        count = coat_count(need.wall_m, need.carried_m)
        return (Layer(need.kind, need.total_kg / count, need.wall_m / count),) * count

    def findings(self, sheet: "CastSheet") -> Iterator[Finding]:
        """Say how hot it is poured, and that it burns."""
        clay = sheet.as_on_shelf
        assert isinstance(clay, MeltedClay)
        yield Finding(
            "hot-clay",
            Severity.WARNING,
            sentence(
                "Take the clay off the heat at {melted}, pour it at {pour} and not above, and roll "
                "until {thick}. It burns skin and sticks: gloves, sleeves, face shield.",
                melted=(clay.melt_k, Unit.TEMPERATURE),
                pour=(clay.pour_k, Unit.TEMPERATURE),
                thick=(clay.thick_k, Unit.TEMPERATURE),
            ),
        )
