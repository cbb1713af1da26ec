"""Splitting a charge into parts A and B that add up as they are read off the scale or the cup."""

import math
from dataclasses import dataclass

from mildhusk.core.checks import require_between
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.casting_resin import CastingResin, RatioBasis

# A demand this close above a whole step is that step: it is arithmetic noise, not liquid.
_STEP_NOISE = 1e-6


@dataclass(frozen=True, slots=True)
class Charge:
    """The weighed (or measured) liquid for one coat.

    Parameters
    ----------
    a_kg, b_kg : float
        Parts by weight. [kg]
    a_m3, b_m3 : float
        The same by volume. [m^3]
    basis : RatioBasis
        Which of the two is measured out, and so is a whole number of steps.
    """

    a_kg: float
    b_kg: float
    a_m3: float
    b_m3: float
    basis: RatioBasis

    @property
    def total_kg(self) -> float:
        """A and B together. [kg]"""
        return self.a_kg + self.b_kg

    @property
    def total_m3(self) -> float:
        """A and B together, before they shrink into each other. [m^3]"""
        return self.a_m3 + self.b_m3


def split_charge(
    resin: CastingResin,
    wanted_kg: float,
    scale_step_kg: float,
    volume_step_m3: float,
    basis: RatioBasis | None = None,
) -> Charge:
    """Split a charge so that it is enough and each part can be read off.

    Parameters
    ----------
    resin : CastingResin
    wanted_kg : float
        Least weight of A and B together. [kg]
    scale_step_kg : float
        What the scale shows as its last digit; used for resins by weight. [kg]
    volume_step_m3 : float
        The finest mark of the cup; used for resins by volume. [m^3]
    basis : RatioBasis or None
        How it is measured out; None as the data sheet says.

    Returns
    -------
    Charge
        Each part rounded up to a whole step: A + B is at least `wanted_kg`, and more by at most
        one step of each.

    Raises
    ------
    ConditionError
        A weight or step that nobody weighs.
    """
    require_weight(wanted_kg, "The charge", "charge_kg")
    require_step(scale_step_kg)
    require_between(
        volume_step_m3, 1e-9, 0.01, name="The finest mark of the cup", field="volume_step_m3",
        error=ConditionError, shown_in="ml", scale=1e6,
    )  # fmt: skip
    basis = basis or resin.ratio_basis
    share_b = resin.weight_share_b
    a_kg, b_kg = wanted_kg * (1.0 - share_b), wanted_kg * share_b
    if basis is RatioBasis.WEIGHT:
        a_kg, b_kg = up_to_step(a_kg, scale_step_kg), up_to_step(b_kg, scale_step_kg)
        a_m3, b_m3 = a_kg / resin.density_a_kg_m3, b_kg / resin.density_b_kg_m3
    else:
        a_m3 = up_to_step(a_kg / resin.density_a_kg_m3, volume_step_m3)
        b_m3 = up_to_step(b_kg / resin.density_b_kg_m3, volume_step_m3)
        a_kg = weight_of(a_m3, resin.density_a_kg_m3)
        b_kg = weight_of(b_m3, resin.density_b_kg_m3)
    return Charge(a_kg, b_kg, a_m3, b_m3, basis)


def require_weight(kg: float, name: str, field: str) -> None:
    """Refuse a weight that nobody mixes.

    Parameters
    ----------
    kg : float
        [kg]
    name, field : str
        How the sentence calls it, and its field.

    Raises
    ------
    ConditionError
        Less than a milligram, more than a hundred tonnes.
    """
    require_between(
        kg, 1e-6, 100_000.0, name=name, field=field, error=ConditionError, shown_in="g", scale=1e3
    )


def require_step(scale_step_kg: float) -> None:
    """Refuse a last digit that no scale has. [kg]"""
    require_between(
        scale_step_kg, 1e-7, 1.0, name="The last digit of the scale", field="scale_step_kg",
        error=ConditionError, shown_in="g", scale=1e3,
    )  # fmt: skip


def up_to_step(value: float, step: float) -> float:
    """Round up to a whole step, at least one."""
    return max(1, math.ceil(value / step - _STEP_NOISE)) * step


def weight_of(volume_m3: float, density_kg_m3: float) -> float:
    """Weight of a volume of a part. [kg]"""
    return volume_m3 * density_kg_m3
