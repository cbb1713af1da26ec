"""What is wanted of a cast, checked."""

from dataclasses import dataclass
from enum import StrEnum

from mildhusk.core.casting.coats import MOST_COATS
from mildhusk.core.casting.paste import PastePlace
from mildhusk.core.checks import Bounds, check_bounds, needed_within, within
from mildhusk.core.coating.motion import motion_named
from mildhusk.core.coating.turning import LeastWall, Pour
from mildhusk.core.constants import CLOCK_HIGHEST_K, CLOCK_LOWEST_K, ZERO_CELSIUS_K
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.casting_resin import RatioBasis
from mildhusk.core.mixing.recipe import METAL_POWDER_KG_M3, Extras

USUAL = "usual"
"""The motion that is usual for a piece."""


class CoatSchool(StrEnum):
    """A way of dividing what is poured into coats that makers swear by."""

    EQUAL = "equal"
    FIXED = "fixed"
    DETAIL = "detail"
    MACHINE = "machine"
    LONG = "long"
    PASTE = "paste"
    FOAM = "foam"
    POWDER = "powder"
    CLAY = "clay"


LOSS = Bounds(0.0, 0.5, "The loss", "%", 100.0)
"""What of a charge may stay in the cup, on the stick and over the rim."""


def _temperature(name: str) -> Bounds:
    return Bounds(CLOCK_LOWEST_K, CLOCK_HIGHEST_K, name, "°C", offset=-ZERO_CELSIUS_K)


@dataclass(frozen=True, slots=True)
class CastWish:
    """What is wanted of a cast.

    Parameters
    ----------
    wall_m : float
        Least wall. Judged against the piece when the sheet is made. [m]
    allowance : float
        Added to the wall because rolled walls come out uneven, as a share of it, where it is not
        said how the mould is turned. [1]
    loss : float
        Share of what is mixed that stays in the cup, on the stick or over the rim. [1]
    room_temperature_k : float
        Of the room. [K]
    mould_temperature_k, parts_temperature_k : float or None
        Of the mould, and of both parts; None as the room. [K]
    worn : bool
        The husk will be worn.
    school : CoatSchool
        How it is divided into coats.
    fixed_m3 : float
        Of every coat, where its volume is fixed. [m^3]
    hands : int
        Pairs of hands at the pour, 1 or 2.
    measure : RatioBasis or None
        Whether A and B are weighed or measured; None as the data sheet says.
    tint, filler, thickener, thinner : float
        By weight, as shares of A and B together. [1]
    filler_density_kg_m3 : float
        [kg/m^3]
    catalyst : float or None
        Of part A by weight, where the resin takes one; None is its usual dose. [1]
    time_factor, viscosity_factor : float
        On all times and the viscosity of the resin, as pours taught. [1]
    area_factor : float
        On the measured casting face, as weighed and read casts taught. [1]
    evenness : float
        How uneven walls come out by how uneven they are simulated, as read casts taught. [1]
    paste_places : tuple of PastePlace
        Where a paste goes; none is the usual thin share of the face.
    motion : str or None
        How the mould is turned, by its name; `USUAL` as is usual for the piece. None where that is
        not said: the wall is taken to be even, but for the allowance.
    lid : bool
        A lid closes every opening, and keeps resin of its own.
    pour : Pour
        Where a charge goes into an open mould.
    least : LeastWall
        What part of the face the least wall is meant for, where it is said how it is turned.
    coats : int or None
        So many equal ones; None as the limits of a coat have it.
    scale_step_kg, volume_step_m3 : float
        Last digit of the scale and finest mark of the cup. [kg], [m^3]

    Raises
    ------
    ConditionError
        A value out of range.
    """

    wall_m: float
    room_temperature_k: float = needed_within(_temperature("The room temperature"))
    allowance: float = within(Bounds(0.0, 1.0, "The allowance for unevenness", "%", 100.0), 0.0)
    loss: float = within(LOSS, 0.05)
    worn: bool = False
    mould_temperature_k: float | None = within(_temperature("The temperature of the mould"), None)
    parts_temperature_k: float | None = within(_temperature("The temperature of A and B"), None)
    school: CoatSchool = CoatSchool.EQUAL
    fixed_m3: float = within(Bounds(2e-6, 0.02, "The volume of a coat", "ml", 1e6), 100e-6)
    hands: int = within(Bounds(1, 2, "The number of pairs of hands"), 1)
    measure: RatioBasis | None = None
    tint: float = 0.0
    filler: float = 0.0
    thickener: float = 0.0
    thinner: float = 0.0
    filler_density_kg_m3: float = METAL_POWDER_KG_M3
    catalyst: float | None = None
    time_factor: float = within(Bounds(0.25, 4.0, "The factor on the resin's times"), 1.0)
    viscosity_factor: float = within(Bounds(0.25, 4.0, "The factor on the resin's viscosity"), 1.0)
    area_factor: float = within(Bounds(0.5, 1.5, "The factor on the area"), 1.0)
    evenness: float = within(Bounds(0.25, 2.5, "The factor on how uneven walls are"), 1.0)
    paste_places: tuple[PastePlace, ...] = ()
    motion: str | None = None
    lid: bool = False
    pour: Pour = Pour.RIM
    least: LeastWall = LeastWall.MOST
    coats: int | None = within(Bounds(1, MOST_COATS, "The number of coats"), None)
    scale_step_kg: float = within(Bounds(1e-5, 0.1, "The last digit of the scale", "g", 1e3), 1e-4)
    volume_step_m3: float = within(
        Bounds(1e-7, 1e-4, "The finest mark of the cup", "ml", 1e6), 1e-6
    )

    def __post_init__(self) -> None:
        check_bounds(self, ConditionError)
        # What is mixed in checks itself, and so does a motion.
        _ = self.extras
        if self.motion not in (None, USUAL):
            motion_named(self.motion)

    @property
    def extras(self) -> Extras:
        """What is mixed in."""
        return Extras(
            self.tint, self.filler, self.thickener, self.thinner, self.filler_density_kg_m3
        )

    @property
    def mould_k(self) -> float:
        """Temperature of the mould. [K]"""
        return self.mould_temperature_k or self.room_temperature_k

    @property
    def parts_k(self) -> float:
        """Temperature of what is poured before it is mixed. [K]"""
        return self.parts_temperature_k or self.room_temperature_k


FIRST_WISH = CastWish(wall_m=0.003, room_temperature_k=21.0 + ZERO_CELSIUS_K, motion=USUAL)
"""What a new sheet starts from: a usual wall in a usual room (common practice, no source)."""
