"""What is asked of a pattern: its kind, what of its wish was given, the sheets it is cut from."""

from dataclasses import dataclass, field, fields
from types import MappingProxyType
from typing import Any

from mildhusk.core.errors import PatternError
from mildhusk.core.patterns.box import BoxWish
from mildhusk.core.patterns.flat import PatternKind
from mildhusk.core.patterns.part_line import PartLineWish
from mildhusk.core.patterns.sheets import SheetSize
from mildhusk.core.patterns.skirt import SkirtWish
from mildhusk.core.patterns.strips import StripsWish
from mildhusk.core.patterns.trim import TrimWish
from mildhusk.core.patterns.visor import VisorWish

WISHES = MappingProxyType(
    {
        PatternKind.PART_LINE: PartLineWish,
        PatternKind.SKIRT: SkirtWish,
        PatternKind.BOX: BoxWish,
        PatternKind.VISOR: VisorWish,
        PatternKind.STRIPS: StripsWish,
        PatternKind.TRIM: TrimWish,
    }
)
"""What is wanted of each kind."""


@dataclass(frozen=True, slots=True)
class PatternRequest:
    """A kind, the fields of its wish that were given, and the sheets it is cut from.

    Raises
    ------
    PatternError
        A field that the kind does not have, or a value out of range.
    """

    kind: PatternKind
    given: dict[str, bool | int | float | str] = field(default_factory=dict)
    size: SheetSize = SheetSize()  # noqa: RUF009 - a frozen value

    def __post_init__(self) -> None:
        self.wish()

    def wish(self, **usual: Any) -> Any:
        """Return the wish of its kind; what was not given is as usual.

        Raises
        ------
        PatternError
            A field that the kind does not have, or a value out of range.
        """
        kind = WISHES[self.kind]
        known = {one.name for one in fields(kind)}
        for name in self.given:
            if name not in known:
                raise PatternError(f"A {self.kind} pattern has no '{name}'; leave it out.", name)
        return kind(**{**usual, **self.given})
