"""Doses of catalyst; light to import, as the cure is not."""

from dataclasses import dataclass, replace

from mildhusk.core.checks import require_between
from mildhusk.core.cure.classes import class_of
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.casting_resin import CastingResin, RatioBasis


@dataclass(frozen=True, slots=True)
class Doses:
    """Least and largest dose of catalyst of a class, and the data sheet's, of A by weight. [1]"""

    low: float
    usual: float
    high: float


def catalyst_doses(resin: CastingResin) -> Doses | None:
    """Return the doses of catalyst a resin of its class takes; None where it takes none."""
    doses = class_of(resin).catalyst
    if doses is None:
        return None
    share_b = resin.weight_share_b
    return Doses(doses.low, share_b / (1.0 - share_b), doses.high)


def with_dose(resin: CastingResin, catalyst: float | None) -> CastingResin:
    """Return a resin as it is mixed with a dose of catalyst; None leaves it as its sheet says.

    Its cure is asked of the resin as it was, with the dose beside it: that is what its times hold
    for.

    Raises
    ------
    ConditionError
        A dose out of range, or of a resin that takes none.
    """
    if catalyst is None:
        return resin
    dosed(resin, catalyst)
    return replace(resin, ratio_basis=RatioBasis.WEIGHT, parts_a=100.0, parts_b=100.0 * catalyst)


def dosed(resin: CastingResin, catalyst: float | None) -> float:
    """Return how much faster a dose of catalyst makes it than its data sheet's.

    Raises
    ------
    ConditionError
        A dose out of range, or of a resin that takes none.
    """
    if catalyst is None:
        return 1.0
    doses = catalyst_doses(resin)
    if doses is None:
        raise ConditionError(f"'{resin.name}' takes no catalyst; leave it out.", "catalyst")
    require_between(
        catalyst,
        doses.low,
        doses.high,
        name="The catalyst",
        field="catalyst",
        error=ConditionError,
        shown_in="%",
        scale=100.0,
    )
    return float(catalyst / doses.usual)
