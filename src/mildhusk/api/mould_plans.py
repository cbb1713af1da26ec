"""The plan of a mould as the API shows it."""

from datetime import datetime
from typing import Annotated

from pydantic import BaseModel, Field

from mildhusk.api.common import Body, FindingShape
from mildhusk.core.mould.document import plan_document
from mildhusk.core.mould.locks import MOST_PARTS
from mildhusk.core.mould.plan import MouldPlan


class MouldPlanQuestion(Body):
    """When a build shall begin, what wet charge is lifted with it."""

    begins_at: datetime
    charge_kg: Annotated[float, Field(ge=0.0, le=100.0, allow_inf_nan=False)] = 0.0


class PartsQuery(BaseModel):
    """In how many parts the shell is."""

    parts: Annotated[int, Field(ge=1, le=MOST_PARTS)] = 2


class RubberCoatShape(BaseModel):
    """One brushed coat; `sag_m` is None where nothing sags."""

    number: int
    from_m: float
    to_m: float
    sag_m: float | None
    kg: float
    parts_kg: dict[str, float]
    thinner_kg: float
    thickener_kg: float
    tint_kg: float
    gauze_m2: float
    hands_s: float
    batches: int
    next_from_s: float
    next_until_s: float


class BrushSchoolShape(BaseModel):
    """A way of brushing, as it comes out here."""

    name: str
    says: str
    coats: int
    rubber_kg: float
    hands_s: float
    wait_s: float


class PatchPlanShape(BaseModel):
    """A soft place: its rubber to weigh, and the stretch that bears."""

    name: str
    rubber_name: str
    kg: float
    parts_kg: dict[str, float]
    area_m2: float
    volume_m3: float
    allowed: float


class BlanketShape(BaseModel):
    """A blanket of clay that stands for the rubber."""

    clay_m3: float
    clay_kg: float
    fill_s: float
    in_time: bool
    bleed_holes: int


class BlockShape(BaseModel):
    """A block of rubber: in a straight box, along the outline, saved by the second."""

    box_m3: float
    outline_m3: float
    saved_kg: float
    saved_cost: str


class SplitShape(BaseModel):
    """A shell in parts, and where it locks."""

    parts: int
    split_deg: float
    locked_area_m2: float
    filler_m3: float


class ShellChoiceShape(SplitShape):
    """The shell as it is built."""

    kg: float


class ShellNeedShape(BaseModel):
    """One thing a shell takes."""

    what: str
    amount: float
    unit: str


class ShellBuildShape(BaseModel):
    """A shell of one material."""

    key: str
    name: str
    area_m2: float
    kg: float
    cost: float
    hours: float
    set_s: float
    bolts_on: bool
    hazards: list[str]
    needs: list[ShellNeedShape]


class PeelStationShape(BaseModel):
    """One ring of the glove: its height over the board, its girth, the stretch it needs."""

    height_m: float
    girth_m: float
    needed: float


class PeelShape(BaseModel):
    """Whether the glove lets go."""

    lets_go: bool
    needed: float
    allowed: float
    cut_m: float
    stations: list[PeelStationShape]


class LiftShape(BaseModel):
    """Whether one person may lift it."""

    weight_kg: float
    limit_kg: float
    alone: bool


class HangingShape(BaseModel):
    """How it hangs on a machine."""

    weight_kg: float
    limit_kg: float
    moment_upright_nm: float
    moment_across_nm: float
    counterweight_kg: float
    carried: bool


class BuildStepShape(BaseModel):
    """A step of the build on the clock."""

    id: str
    title: str
    starts_at: datetime
    ends_at: datetime
    latest_at: datetime | None
    late: bool
    hands_s: float
    meanwhile: str


class MouldDrawing(BaseModel):
    """What is drawn of it: both faces cut upright, part lines, cut and its teeth. [m]"""

    face_section: list[list[list[float]]]
    rubber_section: list[list[list[float]]]
    up: list[float]
    lines: list[list[list[float]]]
    cut_line: list[list[float]]
    teeth: list[list[float]]


class MouldPlanShape(BaseModel):
    """A planned mould."""

    estimate: bool
    way: str
    wall_m: float
    rubber_kg: float
    brushed_m2: float
    rubber_rel_error: float
    coats: list[RubberCoatShape]
    patches: list[PatchPlanShape]
    schools: list[BrushSchoolShape]
    blanket: BlanketShape | None
    block: BlockShape
    shell: ShellChoiceShape
    splits: list[SplitShape]
    shells: list[ShellBuildShape]
    stretch: PeelShape
    filler_kg: float
    weight_kg: float
    lift: LiftShape
    hanging: HangingShape
    handles: int
    cost: str
    clock_s: float
    hands_s: float
    steps: list[BuildStepShape]
    findings: list[FindingShape]
    drawing: MouldDrawing


def plan_shape(plan: MouldPlan) -> MouldPlanShape:
    """Return a plan as the API shows it."""
    study = plan.study
    drawing = {
        "face_section": study.face_section.round(5).tolist(),
        "rubber_section": study.rubber_section.round(5).tolist(),
        "up": list(study.up),
        "lines": plan.split.lines.round(5).tolist(),
        "cut_line": study.peel.cut_line.round(5).tolist(),
        "teeth": study.peel.teeth.round(5).tolist(),
    }
    return MouldPlanShape.model_validate({**plan_document(plan), "drawing": drawing})
