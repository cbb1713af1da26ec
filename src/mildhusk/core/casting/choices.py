"""The choice between resin, time and evenness: one least wall in more or fewer coats."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from mildhusk.core.casting.plan import CastSheet, rolled_coats
from mildhusk.core.casting.unevenness import StandsOn, Unevenness

_ALIKE = 0.01
"""What differs by less is alike: charges are rounded to what a scale shows (assumed). [1]"""
_BARE = 1e-3
"""Less even than this is as good as bare. [1]"""
_ELSEWHERE_BAND = 0.15
"""What resin may be off by where coats of other charges are taken to be as uneven (assumed). [1]"""


@dataclass(frozen=True, slots=True)
class Choice:
    """One cast in so many coats.

    Parameters
    ----------
    coats : int
        That are poured and rolled.
    total_charge_kg : float
        [kg]
    band_kg : tuple of 2 floats
        Between what it may really come to. [kg]
    hands_on_s, out_after_s : float
        [s]
    evenness : float or None
        The wall on 95 % of the face over the mean one; None where it was not simulated. [1]
    stands_on : StandsOn
    keeps : bool
        Every coat keeps every limit, and the least wall is kept as far as is known.
    on_frontier : bool
        None of the others is known to take no more resin and no more time, and to be as even.
    """

    coats: int
    total_charge_kg: float
    band_kg: tuple[float, float]
    hands_on_s: float
    out_after_s: float
    evenness: float | None
    stands_on: StandsOn
    keeps: bool
    on_frontier: bool


def compare(sheets: Sequence[CastSheet]) -> tuple[Choice, ...]:
    """Compare plans of one cast in several numbers of coats.

    Parameters
    ----------
    sheets : sequence of CastSheet

    Returns
    -------
    tuple of Choice
        In the order of the plans.

    Notes
    -----
    The frontier is Pareto's: V. Pareto, Manuale di economia politica (1906), from memory. How even
    a plan comes out that was not simulated is not known, so that it beats none that keeps as much
    as it does, and none beats it.
    """
    every = [_choice(sheet) for sheet in sheets]
    return tuple(
        replace(one, on_frontier=not any(_beats(other, one) for other in every)) for one in every
    )


def elsewhere(found: Unevenness) -> Unevenness:
    """Return what coats of other charges are taken to be: as uneven as those that were found.

    Parameters
    ----------
    found : Unevenness
        Of the coats that were simulated, or estimated.

    Returns
    -------
    Unevenness
        An estimate, for any number of coats.
    """
    band = max(found.band, _ELSEWHERE_BAND)
    return replace(found, band=band, stands_on=StandsOn.ESTIMATE, coats=None)


def is_better(one: Sequence[float], other: Sequence[float]) -> bool:
    """Whether one is as good in everything and better in something, to a hundredth.

    Parameters
    ----------
    one, other : sequence of float
        Of one length, above nought; less is better. [1]

    Returns
    -------
    bool
    """
    pairs = list(zip(one, other, strict=True))
    as_good = all(a <= b * (1.0 + _ALIKE) for a, b in pairs)
    return as_good and any(a < b * (1.0 - _ALIKE) for a, b in pairs)


def _beats(one: Choice, other: Choice) -> bool:
    if one.keeps != other.keeps:
        return one.keeps
    if one.evenness is None or other.evenness is None:
        return False
    return is_better(
        (one.total_charge_kg, one.hands_on_s, 1.0 / max(one.evenness, _BARE)),
        (other.total_charge_kg, other.hands_on_s, 1.0 / max(other.evenness, _BARE)),
    )


def _choice(sheet: CastSheet) -> Choice:
    wall = sheet.wall
    return Choice(
        coats=len(rolled_coats(sheet)),
        total_charge_kg=sheet.total_charge_kg,
        band_kg=sheet.total_charge_band_kg,
        hands_on_s=sheet.hands_on_s,
        out_after_s=sheet.out_after_s,
        evenness=None if wall is None else wall.p05_m / wall.mean_m,
        stands_on=sheet.stands_on,
        keeps=sheet.fits and (wall is None or wall.share_under <= sheet.least.share_under),
        on_frontier=False,
    )
