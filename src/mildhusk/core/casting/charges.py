"""The charges of a cast as they come into the mould, and what all of them have in common."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from mildhusk.core.coating.motion import Motion
from mildhusk.core.coating.turning import Pour
from mildhusk.core.constants import MIXING_TIME_S

if TYPE_CHECKING:
    from mildhusk.core.casting.plan import CastSheet


@dataclass(frozen=True, slots=True)
class CoatingSetup:
    """What all coats of a cast have in common.

    Parameters
    ----------
    wall_m : float
        Least wall that is wished. [m]
    loss : float
        Of a charge, what stays in the cup. [1]
    density_kg_m3 : float
        Of what sets on the wall. [kg/m^3]
    mould_k, parts_k : float
        [K]
    cups : int
        In which a charge is mixed at once.
    catalyst : float or None
        See `Conditions`. [1]
    lid : bool
        It closes every opening.
    into : Pour
        Where a charge goes in.
    area_factor : float
        The area that is covered, by that of the casting face. [1]
    evenness : float
        How uneven walls come out by how uneven they are simulated. [1]
    """

    wall_m: float
    loss: float
    density_kg_m3: float
    mould_k: float
    parts_k: float
    cups: int
    catalyst: float | None
    lid: bool
    into: Pour
    area_factor: float = 1.0
    evenness: float = 1.0

    @classmethod
    def of(cls, sheet: "CastSheet") -> "CoatingSetup":
        """Return what the coats of a sheet have in common."""
        wish, at = sheet.wish, sheet.conditions
        return cls(
            wish.wall_m, wish.loss, sheet.pourable.density.value, at.mould_k, at.parts_k, at.cups,
            wish.catalyst, sheet.lid, wish.pour, wish.area_factor,
            wish.evenness,
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Charge:
    """A coat as it is poured.

    Parameters
    ----------
    weighed_kg : float
        Into the cup. [kg]
    motion : Motion
        How the mould is turned meanwhile.
    room_k : float
        [K]
    poured_s : float
        From the first contact of A and B to the pour. [s]
    """

    weighed_kg: float
    motion: Motion
    room_k: float
    poured_s: float = MIXING_TIME_S
