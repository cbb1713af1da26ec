"""Which of several motions or charges does best, and how sure that is."""

from collections.abc import Sequence
from dataclasses import dataclass

from mildhusk.core.coating.motion import motion_words
from mildhusk.core.wording import Quantity, Unit, in_metric

SURE = 0.1
"""First looks closer than this are alike: they are rougher than the walls themselves (assumed)."""
_NEARLY_ALL = 0.999
_PUDDLE_SHARE = 0.02


@dataclass(frozen=True, slots=True)
class Trial:
    """What one way came to.

    Parameters
    ----------
    name : str
    coats : int
    thin_m : float
        Wall that 95 % of the face has at least. [m]
    lead : float
        So many times as heavy as each of the others the first coat is.
    """

    name: str
    coats: int
    thin_m: float
    lead: float = 1.0

    def is_equal(self, name: str, coats: int) -> bool:
        """Whether it is a motion with so many coats that are alike."""
        return (self.name, self.coats, self.lead) == (name, coats, 1.0)


def split_words(coats: int, lead: float) -> str:
    """Return how the resin is split, as one says it."""
    if lead == 1.0:
        return f"{coats} equal"
    return f"{coats}, the first {lead:.2g} × the others"


def best_of(trials: Sequence[Trial]) -> Trial | None:
    """Return the one with the thickest thin wall; all of them have the same resin."""
    return max(trials, key=lambda one: one.thin_m, default=None)


def gain_words(usual: Trial | None, best: Trial | None, tried: int) -> str:
    """Say honestly what the best gains over the usual way.

    Parameters
    ----------
    usual, best : Trial or None
        The usual motion and the best of those tried.
    tried : int
        How many motions were.

    Returns
    -------
    str
        One sentence or more; says so where nothing is gained.
    """
    if best is None or usual is None:
        return "Nothing is known yet." if best is None else "The usual way cannot be done here."
    way, old = (
        f"{motion_words(one.name)}, coats: {split_words(one.coats, one.lead)}"
        for one in (best, usual)
    )
    before, after = (in_metric(Quantity(one.thin_m, Unit.LENGTH)) for one in (usual, best))
    if best.thin_m <= usual.thin_m * (1.0 + SURE):
        return (
            f"Of {tried} ways none is better than the usual one ({old}) by more than the "
            f"{SURE * 100:.0f} % that a first look is sure of."
        )
    gain = best.thin_m / max(usual.thin_m, 1e-9) - 1.0
    much = f"{gain * 100:.0f} % more" if usual.thin_m > 1e-4 else "where there was next to nothing"
    return (
        f"Of {tried} ways the best is {way}: with the same resin 95 % of the face has at least "
        f"{after} instead of {before} ({old}); {much}. A first look, of the first coat."
    )


@dataclass(frozen=True, slots=True)
class ChargeTrial:
    """What one charge came to as a first coat. [kg], [m^2] as a share"""

    charge_kg: float
    reached: float
    puddle_kg: float
    spilt_kg: float


def useful_charges(trials: Sequence[ChargeTrial]) -> tuple[float | None, float | None]:
    """Return the smallest charge that reaches everywhere and the largest that leaves no puddle.

    Of those that were tried; None where none of them does. A puddle is more than a fiftieth of the
    charge; what is spilt counts as one.
    """
    reach = [one.charge_kg for one in trials if one.reached >= _NEARLY_ALL]
    clean = [
        one.charge_kg
        for one in trials
        if one.puddle_kg + one.spilt_kg <= _PUDDLE_SHARE * one.charge_kg
    ]
    return min(reach, default=None), max(clean, default=None)
