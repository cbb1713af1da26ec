"""Which values of the core are kept as JSON, and how what earlier releases kept is read."""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from mildhusk.core.casting.plan import ChargeEstimate, SheetWall
from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.casting.unevenness import Unevenness
from mildhusk.core.casting.wish import CastWish
from mildhusk.core.coating.answer import LandedWall
from mildhusk.core.coating.motion import motion_named, motion_words
from mildhusk.core.days.days import Move, Plan
from mildhusk.core.equipment import Equipment
from mildhusk.core.finishing.finish import FinishWish
from mildhusk.core.geometry.answer import HollowFacts, SurveyFacts
from mildhusk.core.geometry.measure import FaceMeasures
from mildhusk.core.geometry.skin_terms import NO_EVIDENCE, HollowVerdict
from mildhusk.core.geometry.survey_options import SurveyWish
from mildhusk.core.learning.lesson import Lesson
from mildhusk.core.mould.estimate import RUBBER_LOSS, MouldEstimate
from mildhusk.core.mould.study import MouldWay
from mildhusk.core.patterns.request import PatternRequest
from mildhusk.core.pouring.weighing import Weighing
from mildhusk.store.kept import Json, Kept, facts


@dataclass(frozen=True, slots=True)
class Brushing:
    """How rubber is brushed on, but for its wall; see `BrushWish`."""

    coat_m: float = 0.003
    print_coat_m: float = 0.001
    thinned: bool = False
    thickened_from: int = 2
    thickener: float = 0.01
    keys: int = 8
    gauze_in: int = 0
    coats_m: tuple[float, ...] = ()
    loss: float = RUBBER_LOSS


@dataclass(frozen=True, slots=True)
class RemovedClay:
    """The clay that was taken off again: what it weighs, or the block it was packed to."""

    mass_kg: float | None = None
    size_m: tuple[float, float, float] | None = None


@dataclass(frozen=True, slots=True)
class KeptBuild:
    """How a mould is built, beside its materials, wall and life."""

    way: MouldWay = MouldWay.BRUSH
    parts: int | None = None
    brush: Brushing = Brushing()
    clay: RemovedClay | None = None


@dataclass(frozen=True, slots=True)
class DayJobRequest:
    """How something is to be done that is put into the days.

    Parameters
    ----------
    finish : FinishWish or None
        Of a cast, what becomes of the husk; None where it is left as it comes out.
    release : str
        Of a cast, the key of the release in its mould; empty for none.
    minutes : float
        Of a task of one's own. [min]
    hands : int
    place : str
    interruptible : bool
    """

    finish: FinishWish | None = None
    release: str = ""
    minutes: float = 60.0
    hands: int = 1
    place: str = ""
    interruptible: bool = False


@dataclass(frozen=True, slots=True)
class KeptDayPlan:
    """When everything is done, without the tasks themselves, and what moved when it was made.

    Parameters
    ----------
    plan : Plan
    moves : tuple of Move
    pins : dict of str to datetime
        Tasks that were put somewhere by hand, and before when they do not begin since.
    """

    plan: Plan
    moves: tuple[Move, ...] = ()
    pins: dict[str, datetime] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class WallRequest:
    """How a sheet's cast is to be turned; see `HowTurned`.

    Parameters
    ----------
    motion : str
        Its name.
    capped : bool
    edge_m : float
        [m]
    coats : int or None
    lead : float
    share : float or None
    """

    motion: str
    capped: bool
    edge_m: float
    coats: int | None = None
    lead: float = 1.0
    share: float | None = None


@dataclass(frozen=True, slots=True)
class KeptPlan:
    """What makes the plan again that was settled by a run; a first look has no wall of its plan."""

    uneven: Unevenness
    wall: SheetWall | None
    estimate: ChargeEstimate


@dataclass(frozen=True, slots=True)
class KeptWall:
    """A cast as its coats landed.

    Parameters
    ----------
    asked : WallRequest
    wall : LandedWall
    plan : KeptPlan or None
        That it settled.
    recorded : tuple of int
        Of a pour, the coats that were turned as a sensor recorded it.
    """

    asked: WallRequest
    wall: LandedWall
    plan: KeptPlan | None = None
    recorded: tuple[int, ...] = ()

    @property
    def turned_words(self) -> str:
        """How the mould was turned, as one says it."""
        if self.recorded:
            return "as it was recorded"
        return motion_words(motion_named(self.asked.motion).name)


@dataclass(frozen=True, slots=True)
class SheetFigures:
    """What a list tells of a plan: one that cannot be planned any more says why."""

    coats: int
    total_charge_kg: float
    cast_kg: float
    out_after_s: float
    cost: str
    refused: str = ""


@dataclass(frozen=True, slots=True)
class KeptLesson:
    """What a pour teaches, and the lot that its first coat was drawn from."""

    lesson: Lesson
    lot: str | None = None


def _hours(kept: Json) -> Json:
    """Working hours were kept in seconds."""
    values = dict(kept)
    for name in ("opens", "closes"):
        if name in values:
            values[f"{name}_h"] = values.pop(name) / 3600.0
    return values


def _no_clay(kept: Json) -> Json:
    """No removed clay was kept as an empty object."""
    return {**kept, "clay": kept.get("clay") or None}


_OLD_COAT: dict[str, Any] = {
    "kind": "rolled",
    "added_kg": {"thickener": 0.0, "thinner": 0.0, "powder": 0.0},
    "binding_limit": "carry",
    "fits": True,
    "places": [],
}


def _facts_of_a_plan(kept: Json) -> Json:
    """A pour kept the whole sheet, sentences and all."""
    coats = [{**_OLD_COAT, **coat} for coat in kept["coats"]]
    clay = any(coat["kind"] == "clay" for coat in coats)
    last = coats[-1]
    return {
        "premix": None,
        "time_factor": 1.0,
        "out_after_s": last["starts_s"] + kept["demould_s"],
        **kept,
        "coats": coats,
        "measured_parts": ["clay"] if clay else ["A", "B"],
    }


def _with_its_scale(kept: Json) -> Json:
    """A pour did not know the scale it was weighed on; all showed tenths of a gram."""
    return {"scale_step_kg": 1e-4, **kept}


def _with_its_lid(kept: Json) -> Json:
    """A wall was kept flat, with its doubt as a sentence."""
    wall = {name: value for name, value in kept.items() if name not in ("asked", "doubt")}
    return {"asked": kept["asked"], "wall": {**wall, "has_lid": kept["asked"]["capped"]}}


def _with_its_least(kept: Json) -> Json:
    """A wall told its thinnest face, and not what 99 % have; what no coat wet was not told."""
    wall = kept["wall"]
    told = {"p01_m": wall["min_m"], "never_wet": 1.0 - wall["reached"], "face_m2": 0.0}
    return {**kept, "wall": {**wall, **told}}


def _what_nobody_asked(kept: Json) -> Json:
    """The outer skin was looked for in every file, and nobody was asked."""
    skin = kept.get("skin", "outer")
    return {**kept, "skin": "unasked" if skin == "outer" else skin}


def _unquestioned(kept: Json) -> Json:
    """A survey asked nothing, weighed no evidence, and had one band for all."""
    share = kept["shell_volume_rel_error"]
    # How much was left out is not known of it, and is told only once it is measured again.
    verdict = HollowVerdict.YES if kept["skin"]["dropped_faces"] else HollowVerdict.NO
    return {
        **kept,
        "hollow": facts(HollowFacts(verdict, NO_EVIDENCE, 0.0, 0.0)),
        "asks": [],
        "bands": {"area": share, "shell_volume": share, "girth": share},
    }


WISHES = Kept(CastWish)
EQUIPMENT = Kept(Equipment, _hours)
FACES = Kept(FaceMeasures)
SURVEYS = Kept(SurveyFacts, _unquestioned)
SURVEY_WISHES = Kept(SurveyWish, _what_nobody_asked)
BUILDS = Kept(KeptBuild, _no_clay)
TAKES = Kept(MouldEstimate)
POUR_PLANS = Kept(PourPlan, _facts_of_a_plan, _with_its_scale)
WEIGHINGS = Kept(Weighing)
LESSONS = Kept(KeptLesson)
DAY_JOBS = Kept(DayJobRequest)
DAY_PLANS = Kept(KeptDayPlan)
PATTERNS = Kept(PatternRequest)
WALLS = Kept(KeptWall, _with_its_lid, _with_its_least)
SHEET_FIGURES = Kept(SheetFigures)
