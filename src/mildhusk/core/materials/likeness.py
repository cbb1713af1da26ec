"""Whether a husk of another resin would be the same husk."""

from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.traits import Trait

_ANOTHER_HUSK = frozenset(
    {
        Trait.URETHANE,
        Trait.POLYESTER,
        Trait.EPOXY,
        Trait.GYPSUM,
        Trait.SOFT,
        Trait.BRITTLE,
        Trait.LIGHT,
    }
)
"""With one of these, or without it, it would be another husk."""


def is_like(one: CastingResin, other: CastingResin) -> bool:
    """Return whether two resins are of one chemistry, and as soft, as brittle and as light."""
    return not _ANOTHER_HUSK & (set(one.traits) ^ set(other.traits))


def is_less_tough(one: CastingResin, other: CastingResin) -> bool:
    """Return whether the first gives up the toughness of the other."""
    return Trait.TOUGH in other.traits and Trait.TOUGH not in one.traits
