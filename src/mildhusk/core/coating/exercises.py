"""What is practised on the tray, and what is told of a try; light to import, as the tray is not."""

from dataclasses import dataclass
from enum import StrEnum

from mildhusk.core.coating.answer import LandedWall
from mildhusk.core.coating.places import Place
from mildhusk.core.geometry.mesh import Floats

MORE, LATE, RIM_WITHIN_S = 1.6, 0.6, 30.0
"""How much more than usual is poured, at what share of the gel time a late coat goes in, how soon
the rim shall be wet (assumed). [1], [1], [s]"""


class Exercise(StrEnum):
    """What is practised."""

    FREE = "free"
    RIM_FIRST = "rim-first"
    NO_SPILL = "no-spill"
    THIN_SIDE = "thin-side"
    LATE_COAT = "late-coat"


@dataclass(frozen=True, slots=True)
class ExerciseWords:
    """An exercise as one says it: what it is called, what is to be done."""

    key: Exercise
    name: str
    says: str


EXERCISES = (
    ExerciseWords(
        Exercise.FREE, "One coat", "Poured round the rim. Get it everywhere, as even as you can."
    ),
    ExerciseWords(
        Exercise.RIM_FIRST, "Rim first",
        f"Poured into the deepest place. Wet the whole rim within {RIM_WITHIN_S:.0f} seconds.",
    ),
    ExerciseWords(
        Exercise.NO_SPILL, "No spill",
        f"{100 * (MORE - 1.0):.0f} % more than usual is in the mould. Wet all of it and spill "
        "nothing.",
    ),
    ExerciseWords(
        Exercise.THIN_SIDE, "Chase the thin side",
        "The first coat ran to one side. Give the thin side more than the thick one.",
    ),
    ExerciseWords(
        Exercise.LATE_COAT, "Save a late coat",
        f"Poured when {100 * LATE:.0f} % of its gel time is gone. Get it everywhere before it "
        "stops.",
    ),
)  # fmt: skip


@dataclass(frozen=True, slots=True, eq=False)
class Frame:
    """What a tray looks like at a moment.

    Parameters
    ----------
    t_s, gels_at_s : float
        Since the pour; when a film of middling depth stops flowing. [s]
    up : (3,) float
        Where up is, seen from the mould.
    liquid_m : (m,) float
        On every face, of this coat. [m]
    spilt_kg, pool_kg : float
        [kg]
    wet, rim_wet : float
        Shares of the face, and of the band along its rim, that were ever wet. [1]
    pa_s : float or None
        Viscosity of a film of middling depth; None once it has gelled. [Pa s]
    has_set : bool
    """

    t_s: float
    gels_at_s: float
    up: Floats
    liquid_m: Floats
    spilt_kg: float
    pool_kg: float
    wet: float
    rim_wet: float
    pa_s: float | None
    has_set: bool


@dataclass(frozen=True, slots=True)
class LostPlace:
    """A thin place, and when the film there became thinner than wished.

    Parameters
    ----------
    place : Place
    lost_s : float or None
        None where it never was thick enough. [s]
    """

    place: Place
    lost_s: float | None


@dataclass(frozen=True, slots=True)
class Judged:
    """What an exercise asks for: whether it was reached, and the figure it is judged by."""

    is_reached: bool
    said: str


@dataclass(frozen=True, slots=True)
class Practised:
    """What came of a try.

    Parameters
    ----------
    wall : LandedWall
        What this coat left.
    lost : tuple of LostPlace
    judged : tuple of Judged
    evenness : float
        The wall that 95 % of the face has at least, over the mean. [1]
    rim_wet_s, all_wet_s : float or None
        [s]
    """

    wall: LandedWall
    lost: tuple[LostPlace, ...]
    judged: tuple[Judged, ...]
    evenness: float
    rim_wet_s: float | None
    all_wet_s: float | None


@dataclass(frozen=True, slots=True)
class PatternTry:
    """What a shipped pattern makes of the same coat; `said` why it cannot."""

    motion: str
    name: str
    practised: Practised | None
    said: str = ""
