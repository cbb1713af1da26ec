"""How a mix cures: times, peaks and curves in the cup and on the mould."""

from uuid import UUID

from flask_openapi3 import APIBlueprint, Tag

from mildhusk.api.common import PREFIX, Answer, Body, Number, calmly, transaction
from mildhusk.core.cure.answer import CureQuestions, CureReport
from mildhusk.core.cure.model import CureSetup
from mildhusk.services.curing import cure_of

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

    def mix(self) -> CureSetup:
        """Return the mix as the core's checked value."""
        room = self.room_temperature_k
        mould, parts = self.mould_temperature_k or room, self.parts_temperature_k or room
        return CureSetup(self.mass_kg, room, mould, parts, self.film_m, self.catalyst)


class CureAnswer(Answer[CureReport]):
    """A cure."""


@blueprint.post("/cure", responses={200: CureAnswer}, summary="How a mix cures")
@calmly
def show(body: CureQuestion) -> dict[str, object]:  # noqa: D103
    more = CureQuestions(body.puddle_m, body.post_cure_k, body.time_factor)
    with transaction() as at:
        found = cure_of(at, body.material_id, body.mix(), more)
    return CureAnswer(found).told()
