"""What one coat can be: at least to reach everywhere, at most to be carried, spread and held."""

from dataclasses import dataclass
from enum import StrEnum

from mildhusk.core.bench import Bench
from mildhusk.core.constants import MIXING_TIME_S
from mildhusk.core.cure.asking import largest_cup, working_times
from mildhusk.core.cure.clock import Conditions
from mildhusk.core.cure.model import with_dose
from mildhusk.core.geometry.measure import FaceMeasures
from mildhusk.core.materials.casting_resin import CastingResin, RatioBasis
from mildhusk.core.mixing.ratio import ratio_by, smallest_batch
from mildhusk.core.planning.wish import CastWish

LEAST_FILM_M = 0.0003
"""A film that still wets a mould everywhere when it is rolled (assumed)."""
CUP_FILL = 0.85
"""A cup is stirred up to this share of its brim (assumed)."""
RIM_SHARE = 0.3
"""An open mould can be tipped all round with so much of its hollow filled (assumed)."""
POUR_S = 15.0
"""Emptying a cup into the mould (assumed)."""
MACHINE_SPREAD_S = 20.0
"""A machine covers a mould in about one turn of each axis (assumed)."""


class Limit(StrEnum):
    """What bounds a charge."""

    REACH = "reach"
    """Less would not reach everywhere."""
    SCALE = "scale"
    """Less cannot be read to 1 %."""
    CARRY = "carry"
    """More runs down before it gels."""
    TIME = "time"
    """More cannot be mixed and spread within its working time."""
    RIM = "rim"
    """More runs out over the rim when the mould is tipped."""
    CUP = "cup"
    """More does not fit the cup."""


LOWER = (Limit.REACH, Limit.SCALE)


@dataclass(frozen=True, slots=True)
class CoatLimits:
    """The charges that limits allow, each in kilograms of everything mixed."""

    reach_kg: float
    scale_kg: float
    carry_kg: float
    time_kg: float
    rim_kg: float
    cup_kg: float

    def at(self, limit: Limit) -> float:
        """Return the charge a limit allows. [kg]"""
        return float(getattr(self, f"{limit}_kg"))

    @property
    def least_kg(self) -> float:
        """Least charge. [kg]"""
        return max(self.reach_kg, self.scale_kg)

    @property
    def most_kg(self) -> float:
        """Largest charge. [kg]"""
        return min(self.carry_kg, self.time_kg, self.rim_kg, self.cup_kg)

    def allows(self, charge_kg: float) -> bool:
        """Whether a charge keeps all limits, to a thousandth."""
        return self.least_kg <= charge_kg * 1.001 and charge_kg <= self.most_kg * 1.001

    def binding(self, charge_kg: float) -> Limit:
        """Return the limit that a charge breaks most, or comes nearest to."""

        def slack(limit: Limit) -> float:
            bound = max(self.at(limit), 1e-12)
            return charge_kg / bound if limit in LOWER else bound / charge_kg

        return min(Limit, key=slack)


def spread_s(area_m2: float, wish: CastWish, bench: Bench) -> float:
    """Return how long it takes from the pour until everything is covered once. [s]"""
    if wish.on_machine:
        return POUR_S + MACHINE_SPREAD_S
    return POUR_S + area_m2 / (bench.cover_m2_s * wish.hands)


def coat_limits(
    face: FaceMeasures,
    resin: CastingResin,
    wish: CastWish,
    bench: Bench,
    at: Conditions,
    densities: tuple[float, float],
) -> CoatLimits:
    """Return the limits of one coat of a cast.

    Parameters
    ----------
    face : FaceMeasures
    resin : CastingResin
    wish : CastWish
    bench : Bench
    at : Conditions
    densities : tuple of 2 floats
        Of the mix: cured, and liquid. [kg/m^3]

    Returns
    -------
    CoatLimits
    """
    cured, liquid = densities
    stays = 1.0 - wish.loss
    film_kg_m = face.area_m2 * cured / stays
    mixed = with_dose(resin, at.catalyst)
    basis = wish.measure or mixed.ratio_basis
    if basis is RatioBasis.WEIGHT:
        scale = smallest_batch(ratio_by(mixed, basis), wish.scale_step_kg)
    else:
        scale = smallest_batch(ratio_by(mixed, basis), wish.volume_step_m3) * liquid
    times = working_times(resin, at.parts_k, at.room_k, at.catalyst)
    rim = 1.0 if not face.openings else RIM_SHARE
    return CoatLimits(
        reach_kg=LEAST_FILM_M * film_kg_m,
        scale_kg=scale,
        carry_kg=wish.carried_m(resin.coat_wall_m) * film_kg_m,
        time_kg=at.cups * largest_cup(times, MIXING_TIME_S + at.spread_s),
        rim_kg=rim * face.volume_m3 * liquid,
        cup_kg=at.cups * CUP_FILL * bench.cup.capacity_m3 * liquid,
    )
