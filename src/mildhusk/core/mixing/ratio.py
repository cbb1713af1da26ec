"""Mix ratios: read, converted between weight and volume, followed when a part was overshot."""

import math
from dataclasses import dataclass

from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.casting_resin import CastingResin, RatioBasis

SMALLEST_WITHIN = 0.01
"""A part may be misread by this share of itself."""


@dataclass(frozen=True, slots=True)
class Ratio:
    """Parts of A and B. [1]"""

    a: float
    b: float


def read_ratio(text: str) -> Ratio:
    """Read a ratio as it is printed on a kit, for instance 100:90 or 1:1.

    Raises
    ------
    ConditionError
        It has not two parts, or one is not a number above 0.
    """
    return Ratio(*read_parts(text))


def read_parts(text: str, most: int = 2) -> tuple[float, ...]:
    """Read the parts of a ratio, for instance 100:90, or 100:5:5 where three are taken.

    Parameters
    ----------
    text : str
    most : int
        Parts that are taken; at least two are wanted.

    Returns
    -------
    tuple of float

    Raises
    ------
    ConditionError
        Too many or too few parts, or one that is not a number above 0.
    """
    parts = text.replace(" ", "").split(":")
    if len(parts) > most:
        raise ConditionError(
            f"The ratio '{text}' has {len(parts)} parts; give A and B, as 100:90, and the rest as "
            "tint, filler, thickener or thinner.",
            "ratio",
        )
    try:
        numbers = [float(one) for one in parts]
    except ValueError:
        numbers = []
    if len(numbers) < 2 or not all(math.isfinite(one) and one > 0.0 for one in numbers):
        raise ConditionError(f"The ratio '{text}' is not A:B; write for instance 100:90.", "ratio")
    return tuple(numbers)


def ratio_by(resin: CastingResin, basis: RatioBasis) -> Ratio:
    """Return a resin's ratio by weight or by volume, as parts of B to the sheet's parts of A.

    Notes
    -----
    By the two densities: a : b by volume is a rho_a : b rho_b by weight.
    """
    if basis is resin.ratio_basis:
        return Ratio(resin.parts_a, resin.parts_b)
    heavier = resin.density_b_kg_m3 / resin.density_a_kg_m3
    factor = heavier if basis is RatioBasis.WEIGHT else 1.0 / heavier
    return Ratio(resin.parts_a, resin.parts_b * factor)


def still_to_add(ratio: tuple[float, ...], poured: tuple[float, ...]) -> tuple[float, ...]:
    """Return what is still to add of each part when some, or too much, is in the cup already.

    Parameters
    ----------
    ratio : tuple of float
        What was wanted of each part, or their ratio scaled to it; all above 0.
    poured : tuple of float
        What is in the cup of each.

    Returns
    -------
    tuple of float
        Nothing is ever taken out: the part that is furthest over stands, the others follow it.

    Raises
    ------
    ConditionError
        Other numbers of parts, or a part below 0.
    """
    if len(ratio) != len(poured) or not all(one > 0.0 for one in ratio):
        raise ConditionError("Give what was poured of every part, 0 where none was.", "poured")
    if not all(math.isfinite(one) and one >= 0.0 for one in poured):
        raise ConditionError("What was poured cannot be below 0.", "poured")
    grown = max(1.0, *(got / part for got, part in zip(poured, ratio, strict=True)))
    return tuple(max(0.0, grown * part - got) for got, part in zip(poured, ratio, strict=True))


def smallest_charge(
    resin: CastingResin, basis: RatioBasis, scale_step_kg: float, volume_step_m3: float
) -> float:
    """Return the smallest charge whose smaller part is read to 1 %, weighed or measured.

    Parameters
    ----------
    resin : CastingResin
    basis : RatioBasis
    scale_step_kg : float
        Last digit of the scale. [kg]
    volume_step_m3 : float
        Finest mark of the cup. [m^3]

    Returns
    -------
    float
        A and B together. [kg]
    """
    ratio = ratio_by(resin, basis)
    if basis is RatioBasis.WEIGHT:
        return smallest_batch(ratio, scale_step_kg)
    least_m3 = smallest_batch(ratio, volume_step_m3)
    share_a = ratio.a / (ratio.a + ratio.b)
    return least_m3 * (share_a * resin.density_a_kg_m3 + (1.0 - share_a) * resin.density_b_kg_m3)


def smallest_batch(ratio: Ratio, step: float, within: float = SMALLEST_WITHIN) -> float:
    """Return the smallest A and B together whose smaller part is read to a share of itself.

    Parameters
    ----------
    ratio : Ratio
    step : float
        Last digit of the scale, or finest mark; reading errs by half of it.
    within : float
        [1]

    Returns
    -------
    float
        In the unit of `step`.
    """
    least = 0.5 * step / within
    return least * (ratio.a + ratio.b) / min(ratio.a, ratio.b)
