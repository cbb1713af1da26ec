"""The answer about a planned mould, and its drawing."""

from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from math import degrees, isfinite

from mildhusk.core.findings import Finding
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.mould.brushing import BrushSchool, RubberCoat
from mildhusk.core.mould.clock import Step, is_long_wait
from mildhusk.core.mould.findings import mould_findings
from mildhusk.core.mould.letting_go import Peel, PeelStation
from mildhusk.core.mould.locks import Split
from mildhusk.core.mould.patches import PatchPlan
from mildhusk.core.mould.plan import MouldPlan
from mildhusk.core.mould.poured import Blanket
from mildhusk.core.mould.shells import ShellBuild
from mildhusk.core.mould.study import MouldWay

_DIGITS = 5

Line = tuple[tuple[float, ...], ...]


@dataclass(frozen=True, slots=True)
class RubberParts:
    """The two parts of a rubber. [kg]"""

    A: float
    B: float


@dataclass(frozen=True, slots=True)
class BrushedCoat:
    """One brushed coat; `sag_m` is None where nothing sags.

    Its times run from the first contact of its own A and B.
    """

    number: int
    from_m: float
    to_m: float
    sag_m: float | None
    kg: float
    parts_kg: RubberParts
    thinner_kg: float
    thickener_kg: float
    tint_kg: float
    gauze_m2: float
    hands_s: float
    batches: int
    next_from_s: float
    next_until_s: float

    @classmethod
    def of(cls, coat: RubberCoat) -> "BrushedCoat":
        """Return what is told of a coat."""
        return cls(
            number=coat.number,
            from_m=coat.from_m,
            to_m=coat.to_m,
            sag_m=coat.sag_m if isfinite(coat.sag_m) else None,
            kg=coat.total_kg,
            parts_kg=RubberParts(coat.a_kg, coat.b_kg),
            thinner_kg=coat.thinner_kg,
            thickener_kg=coat.thickener_kg,
            tint_kg=coat.tint_kg,
            gauze_m2=coat.gauze_m2,
            hands_s=coat.hands_s,
            batches=coat.batches,
            next_from_s=coat.next_from_s,
            next_until_s=coat.next_until_s,
        )


@dataclass(frozen=True, slots=True)
class SoftPlace:
    """A soft place: its rubber to weigh, and the stretch that it bears."""

    name: str
    rubber_name: str
    kg: float
    parts_kg: RubberParts
    area_m2: float
    volume_m3: float
    allowed: float

    @classmethod
    def of(cls, plan: PatchPlan) -> "SoftPlace":
        """Return what is told of a soft place."""
        return cls(
            name=plan.patch.name,
            rubber_name=plan.patch.rubber.name,
            kg=plan.kg,
            parts_kg=RubberParts(plan.a_kg, plan.b_kg),
            area_m2=plan.size.area_m2,
            volume_m3=plan.size.volume_m3,
            allowed=plan.allowed,
        )


@dataclass(frozen=True, slots=True)
class BlockOfRubber:
    """A block of rubber: in a straight box, along the outline, saved by the second."""

    box_m3: float
    outline_m3: float
    saved_kg: float
    saved_cost: Decimal


@dataclass(frozen=True, slots=True)
class ShellSplit:
    """A shell in parts, and where it locks."""

    parts: int
    split_deg: float
    locked_area_m2: float
    filler_m3: float

    @classmethod
    def of(cls, split: Split) -> "ShellSplit":
        """Return what is told of a split."""
        return cls(split.parts, degrees(split.angle), split.locked_m2, split.filler_m3)


@dataclass(frozen=True, slots=True)
class ShellAsBuilt(ShellSplit):
    """The shell as it is built."""

    kg: float


@dataclass(frozen=True, slots=True)
class PeelReport:
    """Whether the glove lets go, as it is reported."""

    lets_go: bool
    needed: float
    allowed: float
    cut_m: float
    stations: tuple[PeelStation, ...]

    @classmethod
    def of(cls, peel: Peel) -> "PeelReport":
        """Return what is told of a peel."""
        return cls(peel.lets_go, peel.needed, peel.allowed, peel.cut_m, peel.stations)


@dataclass(frozen=True, slots=True)
class LiftReport:
    """Whether one person may lift it."""

    weight_kg: float
    limit_kg: float
    alone: bool


@dataclass(frozen=True, slots=True)
class HangingReport:
    """How it hangs on a machine."""

    weight_kg: float
    limit_kg: float
    moment_upright_nm: float
    moment_across_nm: float
    counterweight_kg: float
    carried: bool


@dataclass(frozen=True, slots=True)
class BuildStep:
    """A step of the build on the clock."""

    id: str
    title: str
    starts_at: datetime
    ends_at: datetime
    latest_at: datetime | None
    late: bool
    hands_s: float
    meanwhile: str


@dataclass(frozen=True, slots=True)
class MouldDrawing:
    """What is drawn of it: both faces cut upright, part lines, cut and its teeth. [m]"""

    face_section: tuple[Line, ...]
    rubber_section: tuple[Line, ...]
    up: tuple[float, float, float]
    lines: tuple[Line, ...]
    cut_line: Line
    teeth: Line


@dataclass(frozen=True, slots=True)
class PlannedMould:
    """A planned mould as it is told; see `MouldPlan`. An estimate."""

    estimate: bool
    way: MouldWay
    wall_m: float
    rubber_kg: float
    brushed_m2: float
    rubber_rel_error: float
    coats: tuple[BrushedCoat, ...]
    patches: tuple[SoftPlace, ...]
    schools: tuple[BrushSchool, ...]
    blanket: Blanket | None
    block: BlockOfRubber
    shell: ShellAsBuilt
    splits: tuple[ShellSplit, ...]
    shells: tuple[ShellBuild, ...]
    stretch: PeelReport
    filler_kg: float
    weight_kg: float
    lift: LiftReport
    hanging: HangingReport
    handles: int
    cost: Decimal
    clock_s: float
    hands_s: float
    steps: tuple[BuildStep, ...]
    findings: tuple[Finding, ...]
    drawing: MouldDrawing

    @classmethod
    def of(cls, plan: MouldPlan) -> "PlannedMould":
        """Return what is told of a plan."""
        study, split = plan.study, plan.split
        has_shell = plan.wish.way is not MouldWay.BLOCK
        built = ShellSplit.of(split)
        lift, hanging = plan.lift, plan.hanging
        return cls(
            estimate=True,
            way=plan.wish.way,
            wall_m=study.wall_m,
            rubber_kg=plan.rubber_kg,
            brushed_m2=study.brushed_m2,
            rubber_rel_error=study.curve.relative_error,
            coats=tuple(map(BrushedCoat.of, plan.coats)),
            patches=tuple(map(SoftPlace.of, plan.patches)),
            schools=plan.schools,
            blanket=plan.blanket,
            block=BlockOfRubber(
                study.block.box_m3,
                study.block.outline_m3,
                study.block.saved_m3 * plan.wish.rubber.density_kg_m3,
                plan.saved,
            ),
            shell=ShellAsBuilt(
                built.parts,
                built.split_deg,
                built.locked_area_m2,
                built.filler_m3,
                plan.shell.kg if has_shell else 0.0,
            ),
            splits=tuple(map(ShellSplit.of, study.splits)),
            shells=plan.shells,
            stretch=PeelReport.of(study.peel),
            filler_kg=plan.filler_kg,
            weight_kg=plan.weight_kg,
            lift=LiftReport(lift.weight_kg, lift.limit_kg, lift.alone),
            hanging=HangingReport(
                hanging.weight_kg,
                hanging.limit_kg,
                hanging.moment_upright_nm,
                hanging.moment_across_nm,
                hanging.counterweight_kg,
                hanging.carried,
            ),
            handles=plan.handles,
            cost=plan.cost,
            clock_s=plan.clock_s,
            hands_s=plan.hands_s,
            steps=_steps(plan.steps),
            findings=mould_findings(plan),
            drawing=_drawing(plan),
        )


def _steps(steps: tuple[Step, ...]) -> tuple[BuildStep, ...]:
    made = []
    for before, step in zip((None, *steps), steps, strict=False):
        waits = before is not None and is_long_wait(before, step)
        made.append(
            BuildStep(
                id=step.task.id,
                title=step.task.title,
                starts_at=step.starts,
                ends_at=step.ends,
                latest_at=step.latest,
                late=step.late,
                hands_s=step.task.hands_s,
                meanwhile=step.task.meanwhile if waits else "",
            )
        )
    return tuple(made)


def _drawing(plan: MouldPlan) -> MouldDrawing:
    study = plan.study
    return MouldDrawing(
        face_section=tuple(map(_line, study.face_section)),
        rubber_section=tuple(map(_line, study.rubber_section)),
        up=study.up,
        lines=tuple(map(_line, plan.split.lines)),
        cut_line=_line(study.peel.cut_line),
        teeth=_line(study.peel.teeth),
    )


def _line(points: Floats) -> Line:
    return tuple(tuple(point) for point in points.round(_DIGITS).tolist())
