"""How high a volume stands in a tapered cup."""

import math
from dataclasses import dataclass

from mildhusk.core.errors import ConditionError


@dataclass(frozen=True, slots=True)
class Cup:
    """A tapered mixing cup, round inside.

    Parameters
    ----------
    bottom_diameter_m, top_diameter_m, height_m : float
        Inside. [m]
    """

    bottom_diameter_m: float
    top_diameter_m: float
    height_m: float

    def __post_init__(self) -> None:
        if not 0.0 < self.bottom_diameter_m <= self.top_diameter_m <= 1.0:
            raise ConditionError(
                "The cup must be at least as wide at the top as at the bottom, and below 1 m.",
                "cup",
            )
        if not 0.0 < self.height_m <= 1.0:
            raise ConditionError("The height of the cup must be above 0 and below 1 m.", "cup")

    @property
    def capacity_m3(self) -> float:
        """Volume to the brim: the frustum of a cone. [m^3]"""
        r, big = self.bottom_diameter_m / 2.0, self.top_diameter_m / 2.0
        return math.pi * self.height_m / 3.0 * (r * r + r * big + big * big)


MIXING_CUP = Cup(bottom_diameter_m=0.070, top_diameter_m=0.095, height_m=0.120)
"""A disposable cup of about 0.65 l (invented, until the workshop's cups are known)."""


def fill_height(cup: Cup, volume_m3: float) -> float | None:
    """Height of a volume above the bottom of a cup, [m]; None when it would run over.

    Notes
    -----
    Inverse of the frustum volume: with r(h) = r0 + k h,
    V = pi / (3 k) ((r0 + k h)^3 - r0^3).
    """
    if volume_m3 > cup.capacity_m3:
        return None
    r0 = cup.bottom_diameter_m / 2.0
    k = (cup.top_diameter_m / 2.0 - r0) / cup.height_m
    if k == 0.0:
        return volume_m3 / (math.pi * r0 * r0)
    return (math.cbrt(3.0 * k * volume_m3 / math.pi + r0**3) - r0) / k


def reading_error(cup: Cup, volume_m3: float, misread_m: float) -> float | None:
    """Share by which a volume is off when its height is misread; None when it runs over. [1]

    Parameters
    ----------
    cup : Cup
    volume_m3 : float
        [m^3]
    misread_m : float
        Of the height. [m]

    Returns
    -------
    float or None
        [1]
    """
    height = fill_height(cup, volume_m3)
    if height is None:
        return None
    radius = (
        cup.bottom_diameter_m + (cup.top_diameter_m - cup.bottom_diameter_m) * height / cup.height_m
    ) / 2.0
    return math.pi * radius * radius * misread_m / volume_m3
