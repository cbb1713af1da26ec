"""The school of a last coat thickened to a paste and spread where the wall is thin."""

import math
from collections.abc import Iterator
from typing import TYPE_CHECKING

from mildhusk.core.amounts import Source, Term, derived, given
from mildhusk.core.casting.coats import CoatKind, Layer, Need, equal_layers
from mildhusk.core.casting.paste import paste_area
from mildhusk.core.casting.schools.base import Husk, School
from mildhusk.core.casting.wish import CoatSchool
from mildhusk.core.constants import USUAL_UNEVENNESS
from mildhusk.core.findings import Finding, Severity
from mildhusk.core.wording import Unit, sentence

if TYPE_CHECKING:
    from mildhusk.core.casting.plan import CastSheet

LEAST_CUP_KG = 0.002
"""Less than this is not stirred in a cup (assumed)."""


class Pasted(School):
    """Equal coats, and a paste over rims, edges and corners."""

    key = CoatSchool.PASTE
    name = "last coat as a paste"
    when = (
        "For rims, edges and corners that come out thin: less resin than a thicker wall all over."
    )
    mends_thin_places = True

    def divide(self, need: Need) -> tuple[Layer, ...]:
        """Divide into equal coats and the paste."""
        film = need.wall_m * USUAL_UNEVENNESS
        # What is too little to be weighed out is mixed larger, and goes on thicker.
        paste = max(film * need.paste_m2 * need.per_m2_m, LEAST_CUP_KG, need.limits.scale_kg)
        rolled = equal_layers(need, need.total_kg, need.wall_m)
        return (*rolled, Layer(CoatKind.PASTE, paste, film))

    def to_mix(self, husk: Husk) -> Term:
        """Return what the wall and the paste take. [kg]"""
        return derived(
            "", "weight needed for the wall and the paste", Unit.MASS,
            "weight needed for the wall + paste",
            lambda need, paste: need + paste, husk.needed, _paste(husk),
        )  # fmt: skip

    def skin(self, husk: Husk) -> Term:
        """Return the weight of the husk with its paste. [kg]"""
        return derived(
            "", "set on the wall, with the paste", Unit.MASS,
            "set on the wall + paste × (1 − loss)",
            lambda wall, paste, loss: wall + paste * (1.0 - loss),
            husk.on_wall, _paste(husk), husk.loss,
        )  # fmt: skip

    def findings(self, sheet: "CastSheet") -> Iterator[Finding]:
        """Say how much thickener makes it a paste, and where it goes."""
        coat = sheet.coats[-1]
        where = "at the places named" if coat.places else "over the rim, edges and corners, about"
        yield Finding(
            "paste",
            Severity.NOTE,
            sentence(
                "Coat {number} is a paste: {thickener} of thickener makes it stay where it is "
                f"spread, {where} {{area}}.",
                number=(coat.number, Unit.COUNT),
                thickener=(coat.added_kg.thickener, Unit.MASS),
                area=(paste_area(sheet.wish.paste_places, sheet.face.area_m2), Unit.AREA),
            ),
        )


def _paste(husk: Husk) -> Term:
    kg = math.fsum(one.wanted_kg for one in husk.layers if one.kind is CoatKind.PASTE)
    return given("paste", kg, Unit.MASS, Source.COMPUTED)
