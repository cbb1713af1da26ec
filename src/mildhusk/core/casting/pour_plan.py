"""The plan a pour follows, as it was when it began: facts, whatever becomes of the sheet."""

from dataclasses import dataclass

from mildhusk.core.casting.plan import CastSheet, CoatPlan, Parts
from mildhusk.core.mixing.recipe import Premix


@dataclass(frozen=True, slots=True)
class PourPlan:
    """What the hands and the log need of a plan.

    Parameters
    ----------
    total_charge_kg, cast_kg : float
        [kg]
    demould_s, out_after_s : float
        See `CastPlan`. [s]
    ratio_basis : str
    measured_parts : tuple of str
    scale_step_kg : float
        Last digit of the scale. [kg]
    densities_kg_m3 : Parts
        Of the parts, to turn a volume into a weight. [kg/m^3]
    time_factor : float
        On the data sheet's times, as it was planned with. [1]
    premix : Premix or None
    coats : tuple of CoatPlan
    """

    total_charge_kg: float
    cast_kg: float
    demould_s: float
    out_after_s: float
    ratio_basis: str
    measured_parts: tuple[str, ...]
    scale_step_kg: float
    densities_kg_m3: Parts
    time_factor: float
    premix: Premix | None
    coats: tuple[CoatPlan, ...]

    @classmethod
    def of(cls, sheet: CastSheet) -> "PourPlan":
        """Return what a pour of a sheet follows."""
        return cls(
            total_charge_kg=sheet.total_charge_kg,
            cast_kg=sheet.cast_kg,
            demould_s=sheet.demould_s,
            out_after_s=sheet.out_after_s,
            ratio_basis=sheet.ratio_basis,
            measured_parts=sheet.measured_parts,
            scale_step_kg=sheet.scale_step_kg,
            densities_kg_m3=Parts(*sheet.pourable.part_densities_kg_m3),
            time_factor=sheet.time_factor,
            premix=sheet.premix,
            coats=tuple(_plain(coat) for coat in sheet.coats),
        )


def _plain(coat: CoatPlan) -> CoatPlan:
    """Return a coat without what it was made from."""
    return CoatPlan(**{name: getattr(coat, name) for name in CoatPlan.__dataclass_fields__})
