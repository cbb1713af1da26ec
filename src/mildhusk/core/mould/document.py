"""A planned mould as a plain document, for the API and the command line."""

from dataclasses import asdict
from math import degrees, isfinite
from typing import Any

from mildhusk.core.mould.brushing import RubberCoat
from mildhusk.core.mould.clock import Step, is_long_wait
from mildhusk.core.mould.findings import mould_findings
from mildhusk.core.mould.plan import MouldPlan
from mildhusk.core.mould.study import MouldWay
from mildhusk.core.planning.document import finding_document

Document = dict[str, Any]


def plan_document(plan: MouldPlan) -> Document:
    """Return a planned mould; times of coats run from the first contact of A and B of the one."""
    study, split = plan.study, plan.split
    return {
        "estimate": True,
        "way": str(plan.wish.way),
        "wall_m": study.wall_m,
        "rubber_kg": plan.rubber_kg,
        "brushed_m2": study.brushed_m2,
        "rubber_rel_error": study.curve.relative_error,
        "coats": [_coat(coat) for coat in plan.coats],
        "patches": [
            {
                "name": one.patch.name,
                "rubber_name": one.patch.rubber.name,
                "kg": one.kg,
                "parts_kg": {"A": one.a_kg, "B": one.b_kg},
                "area_m2": one.size.area_m2,
                "volume_m3": one.size.volume_m3,
                "allowed": one.allowed,
            }
            for one in plan.patches
        ],
        "schools": [asdict(one) for one in plan.schools],
        "blanket": None if plan.blanket is None else asdict(plan.blanket),
        "block": {
            "box_m3": study.block.box_m3,
            "outline_m3": study.block.outline_m3,
            "saved_kg": study.block.saved_m3 * plan.wish.rubber.density_kg_m3,
            "saved_cost": str(plan.saved),
        },
        "shell": {
            "parts": split.parts,
            "split_deg": degrees(split.angle),
            "locked_area_m2": split.locked_m2,
            "filler_m3": split.filler_m3,
            "kg": plan.shell.kg if plan.wish.way is not MouldWay.BLOCK else 0.0,
        },
        "splits": [
            {
                "parts": one.parts,
                "split_deg": degrees(one.angle),
                "locked_area_m2": one.locked_m2,
                "filler_m3": one.filler_m3,
            }
            for one in study.splits
        ],
        "shells": [asdict(one) for one in plan.shells],
        "stretch": {
            "lets_go": study.peel.lets_go,
            "needed": study.peel.needed,
            "allowed": study.peel.allowed,
            "cut_m": study.peel.cut_m,
            "stations": [asdict(one) for one in study.peel.stations],
        },
        "filler_kg": plan.filler_kg,
        "weight_kg": plan.weight_kg,
        "lift": {**asdict(plan.lift), "alone": plan.lift.alone},
        "hanging": {**asdict(plan.hanging), "carried": plan.hanging.carried},
        "handles": plan.handles,
        "cost": str(plan.cost),
        "clock_s": plan.clock_s,
        "hands_s": plan.hands_s,
        "steps": _steps(plan.steps),
        "findings": [finding_document(one) for one in mould_findings(plan)],
    }


def _coat(coat: RubberCoat) -> Document:
    return {
        "number": coat.number,
        "from_m": coat.from_m,
        "to_m": coat.to_m,
        "sag_m": coat.sag_m if isfinite(coat.sag_m) else None,
        "kg": coat.total_kg,
        "parts_kg": {"A": coat.a_kg, "B": coat.b_kg},
        "thinner_kg": coat.thinner_kg,
        "thickener_kg": coat.thickener_kg,
        "tint_kg": coat.tint_kg,
        "gauze_m2": coat.gauze_m2,
        "hands_s": coat.hands_s,
        "batches": coat.batches,
        "next_from_s": coat.next_from_s,
        "next_until_s": coat.next_until_s,
    }


def _steps(steps: tuple[Step, ...]) -> list[Document]:
    made: list[Document] = []
    for before, step in zip((None, *steps), steps, strict=False):
        waits = before is not None and is_long_wait(before, step)
        made.append(
            {
                "id": step.task.id,
                "title": step.task.title,
                "starts_at": step.starts.isoformat(),
                "ends_at": step.ends.isoformat(),
                "latest_at": None if step.latest is None else step.latest.isoformat(),
                "late": step.late,
                "hands_s": step.task.hands_s,
                "meanwhile": step.task.meanwhile if waits else "",
            }
        )
    return made
