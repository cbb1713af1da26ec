"""Core values as plain JSON-able documents: the one form that files, API and command line share."""

from collections.abc import Callable
from dataclasses import asdict, dataclass
from decimal import Decimal
from enum import Enum
from typing import TYPE_CHECKING, Any

from mildhusk.core.cure.model import catalyst_doses
from mildhusk.core.errors import HuskError
from mildhusk.core.findings import Finding, gravest_first
from mildhusk.core.geometry.measure import FaceMeasures
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.catalogue import AnyMaterial, kind_of
from mildhusk.core.materials.cautions import (
    CASTING,
    USUAL_CAUTION,
    OperationCautions,
    cautions_for,
)
from mildhusk.core.materials.compatibility import PairVerdict
from mildhusk.core.mixing.recipe import Premix
from mildhusk.core.mould.estimate import MouldEstimate
from mildhusk.core.planning.buying import Purchase
from mildhusk.core.planning.chain import Candidate, Link, Task
from mildhusk.core.planning.coats import WHEN
from mildhusk.core.planning.costing import Cost
from mildhusk.core.planning.findings import piece_findings, sheet_findings
from mildhusk.core.planning.learned import LearnedTimes, learned_findings
from mildhusk.core.planning.ribbon import ribbon
from mildhusk.core.planning.schools import School
from mildhusk.core.planning.sheet import CastSheet, CoatPlan
from mildhusk.core.planning.why import Why, explain
from mildhusk.core.planning.wish import CoatSchool
from mildhusk.core.wording import Quantity, Sentence

if TYPE_CHECKING:  # the survey is slow to load, and its document needs nothing of it
    from mildhusk.core.geometry.survey import Survey

Document = dict[str, Any]


def material_document(material: AnyMaterial) -> Document:
    """Return `{key, kind, name, sheet}`; money as text, so that no cent is lost."""
    values = {name: _plain(value) for name, value in asdict(material).items()}
    key, name = values.pop("key"), values.pop("name")
    return {"key": key, "kind": kind_of(material), "name": name, "sheet": values}


def _plain(value: Any) -> Any:
    if isinstance(value, dict):
        return {name: _plain(one) for name, one in value.items()}
    if isinstance(value, tuple):
        return [_plain(one) for one in value]
    return str(value) if isinstance(value, Decimal | Enum) else value


def verdict_document(verdict: PairVerdict) -> Document:
    """Return the verdict on a pair with the rules behind it."""
    return {
        "pair": [verdict.first, verdict.second],
        "verdict": str(verdict.verdict),
        "rules": [
            {
                "id": rule.id,
                "severity": str(rule.severity),
                "reason": rule.reason,
                "remedy": rule.remedy,
                "origin": rule.origin,
            }
            for rule in verdict.rules
        ],
    }


def chain_document(
    task: Task, decided: dict[Link, tuple[Candidate, ...]], disagreements: tuple[School, ...]
) -> Document:
    """Return the ranked candidates of every link, and the stretch they were judged by."""
    return {
        "schools": [_plain(asdict(school)) for school in disagreements],
        "needed_stretch": task.needed_stretch,
        "links": {
            str(link): [
                {
                    "key": one.key,
                    "name": one.name,
                    "verdict": str(one.standing),
                    "reasons": list(one.reasons),
                }
                for one in candidates
            ]
            for link, candidates in decided.items()
        },
    }


def purchase_document(key: str, need_kg: float, purchase: Purchase) -> Document:
    """Return how a need is met; money as text."""
    return {
        "key": key,
        "need_kg": need_kg,
        "from_lots": [{"lot": one.lot, "kg": one.kg} for one in purchase.taken],
        "kits": [
            {
                "name": one.kit.name,
                "mass_kg": one.kit.mass_kg,
                "price": str(one.kit.price),
                "count": one.count,
            }
            for one in purchase.bought
        ],
        "cost": str(purchase.cost),
        "left_over_kg": purchase.left_over_kg,
        "left_over_days": purchase.left_over_days,
        "trial_covers_kg": purchase.trial_covers_kg,
        "why_not_bigger": purchase.why_not_bigger,
    }


def cost_document(cost: Cost) -> Document:
    """Return the cost line by line; money as text. `each` is one cast, `run` all of them."""
    return {
        "casts": cost.casts,
        "moulds": cost.moulds,
        "each": str(cost.each),
        "run": str(cost.run),
        "lines": [
            {
                "id": line.id,
                "label": line.label,
                "group": str(line.group),
                "quantity": _quantity_document(line.quantity),
                "rate": f"{line.rate.amount:.2f}",
                "rate_per": line.rate.per,
                "source": str(line.rate.source),
                "shared_by": line.shared_by,
                "each": str(line.each),
                "run": str(line.run),
            }
            for line in cost.lines
        ],
    }


def mould_document(estimate: MouldEstimate) -> Document:
    """Return what a mould takes."""
    return asdict(estimate)


def caution_documents(cautions: tuple[OperationCautions, ...]) -> list[Document]:
    """Return the cautions operation by operation."""
    return [
        {"operation": str(c.operation), "title": c.title, "sentences": list(c.sentences)}
        for c in cautions
    ]


def face_document(face: FaceMeasures) -> Document:
    """Return the measures of a piece."""
    return {
        "area_m2": face.area_m2,
        "volume_m3": face.volume_m3,
        "faces": face.faces,
        "watertight": face.watertight,
        "bounds_m": [list(face.lowest_m), list(face.highest_m)],
        "openings": [
            {"perimeter_m": o.perimeter_m, "area_m2": o.area_m2, "centre_m": list(o.centre_m)}
            for o in face.openings
        ],
        "mean_curvature_m": face.mean_curvature_m,
        "total_curvature": face.total_curvature,
        "bodies": face.bodies,
        "findings": [finding_document(finding) for finding in piece_findings(face)],
    }


_SHOWN_WALLS_M = (0.002, 0.003, 0.006)


def survey_document(found: "Survey") -> Document:
    """Return what a survey found out beside the measures of the face."""
    curve = found.measures.curve
    volumes = {} if curve is None else {str(w): curve.volume(w) for w in _SHOWN_WALLS_M}
    return {
        "skin": {
            "kept_faces": int(found.skin.kept.sum()),
            "dropped_faces": int((~found.skin.kept).sum()),
            "method": str(found.skin.method),
            "wall_m": found.skin.wall_m,
            "said": found.skin_said,
        },
        "repairs": [
            {"kind": str(one.kind), "count": one.count, "said": one.sentence}
            for one in found.repairs
        ],
        "waste_area_m2": found.measures.waste_m2,
        "shell_volume_m3": volumes,
        "shell_volume_rel_error": found.measures.band,
        "centre_of_mass_m": {
            str(w): list(centre)
            for w in _SHOWN_WALLS_M
            if curve is not None and (centre := curve.centre(w)) is not None
        },
        "narrow": [_plain(asdict(one)) for one in found.narrow],
        "girths": [asdict(one) for one in found.girths],
        "opening_girth_m": found.opening_girth_m,
        "widest_girth_m": found.widest_girth_m,
    }


@dataclass(frozen=True, slots=True)
class Known:
    """What findings may propose beside a plan: other resins, times that were learned.

    The shelf is read only when a plan does not fit.
    """

    shelf: Callable[[], tuple[CastingResin, ...]] = tuple
    learned: LearnedTimes | None = None


NOTHING_KNOWN = Known()


def sheet_document(sheet: CastSheet, known: Known = NOTHING_KNOWN) -> Document:
    """Return a cast sheet; times of a coat run from its own first contact of A and B.

    Parameters
    ----------
    sheet : CastSheet
    known : Known

    Notes
    -----
    Part B of a coat is what is weighed: with its share of tint and filler. `next_from_s` and
    `next_until_s` of the last coat tell its tack window all the same: a further coat could go on
    then. `demould_s` runs from the first contact of the last coat.
    """
    last = sheet.last.clock
    return {
        "estimate": True,
        "fits": sheet.fits,
        "area_m2": sheet.face.area_m2,
        "planned_wall_m": sheet.wish.planned_wall_m,
        "shell_volume_m3": sheet.shell_volume_m3,
        "total_charge_kg": sheet.total_charge_kg,
        "total_charge_band_kg": list(sheet.total_charge_band_kg),
        "resin_kg": sheet.resin_kg,
        "cast_kg": sheet.cast_kg,
        "trimmed_kg": sheet.trimmed_kg,
        "cost": str(sheet.cost),
        "hands_on_s": sheet.hands_on_s,
        "demould_s": last.demould_s,
        "full_cure_s": last.full_cure_s,
        "out_after_s": sheet.out_after_s,
        "ratio_basis": str(sheet.coats[0].charge.basis),
        "school": _named_school(sheet.wish.school),
        "limits": {**asdict(sheet.limits), "spread_s": sheet.conditions.spread_s},
        "catalyst": None if (doses := catalyst_doses(sheet.resin)) is None else asdict(doses),
        "premix": None if sheet.premix is None else _premix_document(sheet.premix),
        "foam": None if sheet.backing is None else asdict(sheet.backing),
        "largest": {"number": sheet.largest.number, "cup_kg": sheet.cup_kg},
        "coats": [_coat_document(coat) for coat in sheet.coats],
        "ribbon": [asdict(stretch) for stretch in ribbon(sheet)],
        "time_factor": sheet.wish.time_factor,
        "findings": [finding_document(finding) for finding in _sheet_findings(sheet, known)],
        "why": [_why_document(why) for why in explain(sheet)],
        "cautions": [*sheet.resin.hazards, USUAL_CAUTION],
        "operations": caution_documents(cautions_for(CASTING, (sheet.resin,))),
    }


def school_document(school: CoatSchool, planned: CastSheet | HuskError) -> Document:
    """Return what a cast comes to by a school, or why it cannot be planned so."""
    if isinstance(planned, HuskError):
        figures = ("coats", "total_charge_kg", "cast_kg", "hands_on_s", "out_after_s")
        return {
            **_named_school(school),
            **dict.fromkeys(figures, 0),
            "fits": False,
            "binding_limit": None,
            "said": str(planned),
        }
    return {
        **_named_school(school),
        "coats": len(planned.coats),
        "total_charge_kg": planned.total_charge_kg,
        "cast_kg": planned.cast_kg,
        "hands_on_s": planned.hands_on_s,
        "out_after_s": planned.out_after_s,
        "fits": planned.fits,
        "binding_limit": str((planned.broken or planned.largest).binding_limit),
        "said": "",
    }


def _named_school(school: CoatSchool) -> Document:
    name, when = WHEN[school]
    return {"key": str(school), "name": name, "when": when}


def _sheet_findings(sheet: CastSheet, known: Known) -> tuple[Finding, ...]:
    learned = learned_findings(known.learned, sheet.wish.time_factor)
    return gravest_first((*sheet_findings(sheet, known.shelf), *learned))


def _premix_document(premix: Premix) -> Document:
    return {**asdict(premix), "total_kg": premix.total_kg}


def _coat_document(coat: CoatPlan) -> Document:
    charge, mixed, clock = coat.charge, coat.recipe, coat.clock
    return {
        "number": coat.number,
        "kind": str(coat.kind),
        "charge_kg": mixed.total_kg + coat.powder_kg,
        "parts_kg": {"A": charge.a_kg, "B": mixed.b_kg},
        "parts_m3": {"A": charge.a_m3, "B": mixed.b_m3},
        "added_kg": {
            "thickener": mixed.thickener_kg,
            "thinner": mixed.thinner_kg,
            "powder": coat.powder_kg,
        },
        "places": [
            {
                "name": one.place.name,
                "area_m2": one.place.area_m2,
                "mixed_kg": one.mixed_kg,
            }
            for one in coat.places
        ],
        "cup_marks_m": {"A": coat.cup_mark_a_m, "A+B": coat.cup_mark_full_m},
        "wall_m": coat.wall_m,
        "binding_limit": str(coat.binding_limit),
        "fits": coat.fits,
        "starts_s": coat.starts_s,
        "pour_by_s": clock.pour_by_s,
        "roll_until_s": clock.roll_until_s,
        "next_from_s": clock.next_from_s,
        "next_until_s": clock.next_until_s,
    }


def finding_document(finding: Finding) -> Document:
    """Return a finding: its text in metric, and its parts for whoever speaks other units."""
    action = finding.action
    return {
        "id": finding.id,
        "severity": str(finding.severity),
        "text": str(finding.sentence),
        "sentence": _sentence_document(finding.sentence),
        "action": None
        if action is None
        else {
            "label": _sentence_document(action.label),
            "field": action.field,
            "value": action.value,
        },
    }


def _sentence_document(said: Sentence) -> Document:
    return {
        "template": said.template,
        "values": {name: _quantity_document(value) for name, value in said.values},
    }


def _quantity_document(quantity: Quantity) -> Document:
    return {"value": quantity.value, "unit": str(quantity.unit)}


def _why_document(why: Why) -> Document:
    return {
        "id": why.id,
        "title": why.title,
        "figure": _quantity_document(why.figure),
        "words": why.words,
        "inputs": [
            {
                "name": i.name,
                **_quantity_document(i.quantity),
                "source": str(i.source),
                "band": i.band,
            }
            for i in why.inputs
        ],
        "band": None if why.band is None else list(why.band),
    }
