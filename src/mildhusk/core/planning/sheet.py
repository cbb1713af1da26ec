"""The cast sheet: what to weigh, how often, when; by equal charges."""

import math
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal

from mildhusk.core.constants import LOSS_BAND
from mildhusk.core.cure.clock import CoatClock, coat_clock
from mildhusk.core.geometry.measure import FaceMeasures
from mildhusk.core.geometry.shell import ShellCurve, inner_area, shell_volume
from mildhusk.core.materials.casting_resin import CastingResin, RatioBasis
from mildhusk.core.mixing.cup import MIXING_CUP, fill_height
from mildhusk.core.mixing.split import Charge, split_charge
from mildhusk.core.planning.wish import CastWish

_CENT = Decimal("0.01")
# A wall this little above a whole number of coats does not ask for one more.
_COAT_NOISE = 1e-6


@dataclass(frozen=True, slots=True)
class CoatPlan:
    """One coat of the sheet.

    Parameters
    ----------
    number : int
        From 1.
    charge : Charge
        What is mixed for it.
    starts_s : float
        First contact of A and B, from the first contact of coat 1. [s]
    wall_m : float
        Mean wall it adds. [m]
    cup_mark_a_m, cup_mark_full_m : float or None
        Liquid height in the cup with A in it, and with both; None above the brim. [m]
    """

    number: int
    charge: Charge
    starts_s: float
    wall_m: float
    cup_mark_a_m: float | None
    cup_mark_full_m: float | None


@dataclass(frozen=True, slots=True)
class CastSheet:
    """What to weigh, how often, when. An estimate: the flow in the mould is not simulated.

    Parameters
    ----------
    face, resin, wish
        What it was made from.
    shell_volume_m3 : float
        Resin that stays on the wall. [m^3]
    inner_area_m2 : float
        Area of the inside of the finished wall. [m^2]
    coats : tuple of CoatPlan
    clock : CoatClock
        The same for every coat.
    total_charge_kg : float
        Sum of the charges as they are weighed. [kg]
    total_charge_band_kg : tuple of 2 floats
        What the total may really turn out as. [kg]
    cast_kg, trimmed_kg : float
        Weight of the husk before and after skirt and cut-outs are cut away. [kg]
    cost : Decimal
        Of the resin mixed, at the kit's price per weight.
    hands_on_s : float
        Sum of the times from first contact to gel. [s]
    out_after_s : float
        From the first contact of coat 1 to demoulding. [s]
    """

    face: FaceMeasures
    resin: CastingResin
    wish: CastWish
    shell_volume_m3: float
    inner_area_m2: float
    coats: tuple[CoatPlan, ...]
    clock: CoatClock
    total_charge_kg: float
    total_charge_band_kg: tuple[float, float]
    cast_kg: float
    trimmed_kg: float
    cost: Decimal
    hands_on_s: float
    out_after_s: float


def plan_cast(face: FaceMeasures, resin: CastingResin, wish: CastWish) -> CastSheet:
    """Plan a cast by equal charges.

    Parameters
    ----------
    face : FaceMeasures
    resin : CastingResin
    wish : CastWish

    Returns
    -------
    CastSheet

    Raises
    ------
    WallError
        The wall does not fit the piece.
    ConditionError
        A temperature for which there is no clock.

    Notes
    -----
    Charge = shell volume x cured density / (1 - loss), in as many equal parts as the wall needs
    coats of the resin's usual wall. Each next coat is mixed when the tack window opens.
    """
    curve = ShellCurve.of(face)
    volume = shell_volume(curve, wish.planned_wall_m)
    count = coat_count(wish.planned_wall_m, resin.coat_wall_m)
    cast_kg = volume * resin.density_cured_kg_m3
    charge = split_charge(
        resin, cast_kg / (1.0 - wish.loss) / count, wish.scale_step_kg, wish.volume_step_m3
    )
    film = wish.planned_wall_m / count
    clock = coat_clock(resin, wish.room_temperature_k, charge.total_kg, film)
    coats = tuple(_coat(n, charge, clock, wish.planned_wall_m / count) for n in range(1, count + 1))
    total = charge.total_kg * count
    last_start = coats[-1].starts_s
    return CastSheet(
        face=face,
        resin=resin,
        wish=wish,
        shell_volume_m3=volume,
        inner_area_m2=inner_area(curve, wish.planned_wall_m),
        coats=coats,
        clock=clock,
        total_charge_kg=total,
        total_charge_band_kg=_charge_band(total, wish.loss, face.band),
        cast_kg=cast_kg,
        trimmed_kg=cast_kg * (1.0 - face.waste_share),
        cost=(resin.price_per_kg * Decimal(repr(total))).quantize(_CENT, ROUND_HALF_UP),
        hands_on_s=clock.roll_until_s * count,
        out_after_s=last_start + clock.demould_s,
    )


def coat_count(wall_m: float, coat_wall_m: float) -> int:
    """Number of coats for a wall, when one coat leaves at most `coat_wall_m`."""
    return max(1, math.ceil(wall_m / coat_wall_m - _COAT_NOISE))


def _coat(number: int, charge: Charge, clock: CoatClock, wall_m: float) -> CoatPlan:
    by_volume = charge.basis is RatioBasis.VOLUME
    return CoatPlan(
        number=number,
        charge=charge,
        starts_s=(number - 1) * clock.next_from_s,
        wall_m=wall_m,
        cup_mark_a_m=fill_height(MIXING_CUP, charge.a_m3) if by_volume else None,
        cup_mark_full_m=fill_height(MIXING_CUP, charge.total_m3) if by_volume else None,
    )


def _charge_band(total_kg: float, loss: float, area_band: float) -> tuple[float, float]:
    """Independent errors of area and loss, added in squares (JCGM 100:2008, 5.1.2)."""
    relative = math.hypot(area_band, LOSS_BAND * loss / (1.0 - loss))
    return (total_kg * (1.0 - relative), total_kg * (1.0 + relative))
