"""How a mix cures: times, peaks and curves in the cup and on the mould."""

from dataclasses import asdict
from uuid import UUID

from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel

from mildhusk.api.common import PREFIX, Body, Number, desk
from mildhusk.core.cure.document import curve_document
from mildhusk.core.cure.model import CureAsked, cure_model, viscosity
from mildhusk.services.curing import CureQuestionAsked, cure_of

blueprint = APIBlueprint("curing", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Cure")])


class CureQuestion(Body):
    """What is mixed, and where it cures; a puddle's depth; where the cast stands afterwards."""

    material_id: UUID
    mass_kg: Number
    room_temperature_k: Number
    mould_temperature_k: Number | None = None
    parts_temperature_k: Number | None = None
    film_m: Number
    catalyst: Number | None = None
    puddle_m: Number = 0.01
    post_cure_k: Number = 323.15
    time_factor: Number = 1.0

    def asked(self) -> CureQuestionAsked:
        """Return it as the service takes it."""
        room = self.room_temperature_k
        mix = CureAsked(
            mass_kg=self.mass_kg,
            room_k=room,
            mould_k=self.mould_temperature_k or room,
            parts_k=self.parts_temperature_k or room,
            film_m=self.film_m,
            catalyst=self.catalyst,
        )
        return CureQuestionAsked(mix, self.puddle_m, self.post_cure_k, self.time_factor)


class CurveShape(BaseModel):
    """A course: time, degree of cure, temperature, viscosity (None from gel on)."""

    t_s: list[float]
    degree: list[float]
    temperature_k: list[float]
    viscosity_pa_s: list[float | None]


class ShiftShape(BaseModel):
    """By how much later (above 0) or earlier things happen. [s]"""

    working_time_s: float
    gel_film_s: float


class SensitivityShape(BaseModel):
    """What two degrees and ten grams change."""

    warmer: ShiftShape
    cooler: ShiftShape
    more: ShiftShape
    less: ShiftShape


class CureShape(BaseModel):
    """A cure; every figure of it is an estimate from the data sheet and the resin's class."""

    estimate: bool
    working_time_s: float
    gel_cup_s: float
    gel_film_s: float
    tack_from_s: float
    tack_until_s: float
    demould_s: float
    peak_cup_k: float
    peak_film_k: float
    peak_puddle_k: float
    post_cure_s: float
    curve: CurveShape
    film_curve: CurveShape
    sensitivity: SensitivityShape


@blueprint.post("/cure", responses={200: CureShape}, summary="How a mix cures")
def show(body: CureQuestion) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        found = cure_of(at, body.material_id, body.asked())
    times = found.cure
    on_film = viscosity(cure_model(found.resin), times.film)
    plain = ("working_time_s", "gel_cup_s", "gel_film_s", "tack_from_s", "tack_until_s")
    shown = CureShape.model_validate(
        {
            **{name: getattr(times, name) for name in (*plain, "demould_s")},
            "estimate": True,
            "peak_cup_k": times.peak_cup_k,
            "peak_film_k": times.peak_film_k,
            "peak_puddle_k": found.puddle_peak_k,
            "post_cure_s": found.post_cure_s,
            "curve": curve_document(times.cup, times.viscosity_pa_s, times.demould_s),
            "film_curve": curve_document(times.film, on_film, times.demould_s),
            "sensitivity": asdict(found.sensitivity),
        }
    )
    return shown.model_dump(mode="json")
