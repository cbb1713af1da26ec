"""Bands of the times: what an uncertain input changes, carried through the cure and added up."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from math import exp

from mildhusk.core.cure.clock import CoatClock, coat_clock
from mildhusk.core.cure.kinetics import GAS_CONSTANT
from mildhusk.core.cure.model import cure_model
from mildhusk.core.materials.casting_resin import Origin
from mildhusk.core.planning.coats import CoatKind
from mildhusk.core.planning.sheet import CastSheet

TEMPERATURE_BAND_K = 1.0
"""A workshop's thermometer, and the mould against the air (assumed). [K]"""
SHEET_BAND = {Origin.OWN_SHEET: 0.05, Origin.TYPICAL: 0.15}
"""Times of a data sheet from lot to lot; of a class, from maker to maker (assumed). [1]"""
LEARNED_BAND = 0.05
"""Times that measured gel times have corrected (assumed). [1]"""
ACTIVATION_BAND = 0.15
"""Activation energies within a class (assumed). [1]"""
FILM_BAND = 0.2
"""Of a rolled film about its mean (assumed). [1]"""


@dataclass(frozen=True, slots=True)
class Part:
    """What one input's uncertainty changes of a time.

    Parameters
    ----------
    input : str
        Its name, as the figure's inputs are called.
    half_width : float
        Of the input, in its own unit.
    changes_s : float
        Of the time. [s]
    """

    input: str
    half_width: float
    changes_s: float


Pick = Callable[[CoatClock], float]


def time_parts(sheet: CastSheet) -> Callable[[Pick], tuple[Part, ...]]:
    """Return what the inputs' uncertainties change of any time of a sheet's largest coat.

    Parameters
    ----------
    sheet : CastSheet

    Returns
    -------
    callable
        From a time of the clock to its parts.

    Notes
    -----
    Temperature and film by solving the cure again with each moved by its half width; the times of
    the data sheet in proportion; the activation energy by its effect at the mould's temperature.
    """
    coat, at = sheet.largest, sheet.conditions
    if coat.kind is CoatKind.CLAY:
        return lambda pick: (Part("room", TEMPERATURE_BAND_K, 0.05 * pick(coat.clock)),)
    warm = replace(
        at,
        room_k=at.room_k + TEMPERATURE_BAND_K,
        mould_k=at.mould_k + TEMPERATURE_BAND_K,
        parts_k=at.parts_k + TEMPERATURE_BAND_K,
    )
    charge, film = coat.charge.total_kg, coat.wall_m
    warmer = coat_clock(sheet.resin, warm, charge, film)
    thicker = coat_clock(sheet.resin, at, charge, film * (1.0 + FILM_BAND))
    learned = sheet.wish.time_factor != 1.0
    of_sheet = LEARNED_BAND if learned else SHEET_BAND[sheet.resin.origin]
    activation = cure_model(sheet.resin).kinetics.activation_j_mol
    cold = 1.0 / at.mould_k - 1.0 / sheet.resin.standard_temperature_k
    energy = abs(exp(ACTIVATION_BAND * activation / GAS_CONSTANT * cold) - 1.0)

    def parts(pick: Pick) -> tuple[Part, ...]:
        time = pick(coat.clock)
        return (
            Part("data sheet's time", of_sheet, of_sheet * time),
            Part("room", TEMPERATURE_BAND_K, abs(pick(warmer) - time)),
            Part("film of one coat", FILM_BAND * film, abs(pick(thicker) - time)),
            Part("class's activation energy", ACTIVATION_BAND * activation, energy * time),
        )

    return parts


def half_width(parts: tuple[Part, ...]) -> float:
    """Return the half width of a time's band: independent parts add in squares.

    References
    ----------
    JCGM 100:2008, 5.1.2.
    """
    return math.hypot(*(part.changes_s for part in parts))
