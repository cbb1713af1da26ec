"""Catalyst of condensation rubbers: how much, against the room, and part of it fast."""

import json
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

import numpy as np

from mildhusk.core.checks import require_between
from mildhusk.core.constants import RATE_DOUBLING_K, ZERO_CELSIUS_K
from mildhusk.core.errors import MouldError


@dataclass(frozen=True, slots=True)
class CatalystPoint:
    """What the data sheet says at one dose. `life`: of the mould, as a share of its usual one."""

    share: float
    pot_life_s: float
    cure_s: float
    life: float = 1.0


@dataclass(frozen=True, slots=True)
class CatalystSheet:
    """What a data sheet tells of a catalyst.

    Parameters
    ----------
    temperature_k : float
        At which its times were taken. [K]
    by_share : tuple of CatalystPoint
        By dose, of part A by weight; the first and the last are the sheet's limits.
    by_fast_share : tuple of CatalystPoint
        By how much of the catalyst is swapped for a fast one.
    """

    temperature_k: float
    by_share: tuple[CatalystPoint, ...]
    by_fast_share: tuple[CatalystPoint, ...]


@dataclass(frozen=True, slots=True)
class Catalysed:
    """Times of a catalysed rubber. [s]; `life` of the mould as a share of its usual one."""

    pot_life_s: float
    cure_s: float
    life: float


@cache
def usual_catalyst() -> CatalystSheet:
    """Return the sheet that stands for the class."""
    text = (files("mildhusk.core.materials") / "catalysts.json").read_text("utf-8")
    usual = json.loads(text)["usual"]
    return CatalystSheet(
        usual["temperature_k"],
        tuple(CatalystPoint(**one) for one in usual["by_share"]),
        tuple(CatalystPoint(**one) for one in usual["by_fast_share"]),
    )


def catalysed(
    sheet: CatalystSheet, share: float, fast_share: float, temperature_k: float
) -> Catalysed:
    """Interpolate between a sheet's points, never outside them.

    Parameters
    ----------
    sheet : CatalystSheet
    share : float
        Catalyst, of part A by weight. [1]
    fast_share : float
        Of the catalyst, the part that is fast. [1]
    temperature_k : float
        Of the room. [K]

    Returns
    -------
    Catalysed

    Raises
    ------
    MouldError
        Outside the range of the sheet, which is told.

    Notes
    -----
    Logarithms of the times run straight between the points; the blend's times scale with those of
    the dose. Warmer by 10 degrees is twice as fast (rule of thumb, common practice, no source).
    """
    _within(sheet.by_share, share, "The catalyst", "catalyst")
    _within(sheet.by_fast_share, fast_share, "The fast part of the catalyst", "fast_share")
    require_between(
        temperature_k,
        ZERO_CELSIUS_K + 5.0,
        ZERO_CELSIUS_K + 40.0,
        name="The room",
        field="room_temperature_k",
        error=MouldError,
        shown_in="°C",
        offset=-ZERO_CELSIUS_K,
    )
    rate = 2.0 ** ((temperature_k - sheet.temperature_k) / RATE_DOUBLING_K)
    slow = sheet.by_fast_share[0]
    blend_pot = _between(sheet.by_fast_share, fast_share, "pot_life_s") / slow.pot_life_s
    blend_cure = _between(sheet.by_fast_share, fast_share, "cure_s") / slow.cure_s
    return Catalysed(
        _between(sheet.by_share, share, "pot_life_s") * blend_pot / rate,
        _between(sheet.by_share, share, "cure_s") * blend_cure / rate,
        _between(sheet.by_fast_share, fast_share, "life"),
    )


def share_for_room(sheet: CatalystSheet, temperature_k: float, wanted_s: float) -> float:
    """Return the dose within the sheet's range whose pot life comes nearest to a wanted one. [1]

    Parameters
    ----------
    sheet : CatalystSheet
    temperature_k : float
        Of the room. [K]
    wanted_s : float
        Pot life. [s]

    Returns
    -------
    float
        Of part A, by weight. [1]
    """
    low, high = sheet.by_share[0].share, sheet.by_share[-1].share
    doses = np.linspace(low, high, 41)
    pots = [catalysed(sheet, float(dose), 0.0, temperature_k).pot_life_s for dose in doses]
    return float(doses[int(np.argmin(np.abs(np.log(np.array(pots) / wanted_s))))])


def _within(points: tuple[CatalystPoint, ...], share: float, name: str, field: str) -> None:
    require_between(
        share,
        points[0].share,
        points[-1].share,
        name=name,
        field=field,
        error=MouldError,
        shown_in="%",
        scale=100.0,
    )


def _between(points: tuple[CatalystPoint, ...], share: float, what: str) -> float:
    at = [one.share for one in points]
    return float(np.exp(np.interp(share, at, [np.log(getattr(one, what)) for one in points])))
