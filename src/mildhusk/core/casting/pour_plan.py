"""The plan a pour follows, as it was when it began: facts, whatever becomes of the sheet."""

from dataclasses import dataclass

from mildhusk.core.casting.charges import CoatingSetup
from mildhusk.core.casting.plan import CastSheet, CoatPlan, Parts, SheetWall, rolled_coats
from mildhusk.core.casting.room_clock import RoomTimes, clocks_in_rooms
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
    room_k : float or None
        For which it was planned; None of one that is older. [K]
    in_rooms : tuple of tuple of RoomTimes
        Of every coat, its clock in colder and warmer rooms.
    setup : CoatingSetup or None
        What its wall is simulated with; None of one that is older, or of melted clay.
    wall : SheetWall or None
        That its coats leave, where it was settled.
    viscosity_factor, area_factor, evenness : float
        As it was planned with. [1]
    astray_share : float
        Of what comes into the mould, what stays on the lid or runs over the rim. [1]
    even_wall_m, coat_wall_m : float or None
        The even wall that takes as much resin, and what the data sheet says one coat leaves; None
        of one that is older. [m]
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
    room_k: float | None = None
    in_rooms: tuple[tuple[RoomTimes, ...], ...] = ()
    setup: CoatingSetup | None = None
    wall: SheetWall | None = None
    viscosity_factor: float = 1.0
    area_factor: float = 1.0
    evenness: float = 1.0
    astray_share: float = 0.0
    even_wall_m: float | None = None
    coat_wall_m: float | None = None

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
            room_k=sheet.conditions.room_k,
            in_rooms=clocks_in_rooms(sheet),
            setup=CoatingSetup.of(sheet) if rolled_coats(sheet) else None,
            wall=sheet.wall,
            viscosity_factor=sheet.wish.viscosity_factor,
            area_factor=sheet.wish.area_factor,
            evenness=sheet.wish.evenness,
            astray_share=0.0 if sheet.uneven is None else sheet.uneven.astray_share,
            even_wall_m=sheet.planned_wall_m,
            coat_wall_m=sheet.pourable.coat_wall_m,
        )

    def rooms_of(self, number: int) -> tuple[RoomTimes, ...]:
        """Return the clock of a coat in rooms about the planned one; none of an older plan."""
        return self.in_rooms[number - 1] if self.in_rooms else ()


def _plain(coat: CoatPlan) -> CoatPlan:
    """Return a coat without what it was made from."""
    return CoatPlan(**{name: getattr(coat, name) for name in CoatPlan.__dataclass_fields__})
