"""Faults of what came of a pour, and their likely causes."""

from typing import Annotated
from uuid import UUID

from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mildhusk.api.common import PREFIX, Body, Deleted, IdPath, Shape, ShortText, Word, transaction
from mildhusk.api.sheets import SheetShape, sheet_shape
from mildhusk.core.pouring.faults import faults, signs
from mildhusk.services import faults as service
from mildhusk.services.transaction import Transaction

blueprint = APIBlueprint("faults", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Pour and log")])

Told = Annotated[dict[Word, bool], Field(max_length=40)]
"""By sign, whether it was there."""


class SignShape(Shape):
    """Something that only the maker knows, and that speaks for a cause."""

    id: str
    title: str


class FaultKind(Shape):
    """A kind of fault, and the signs that matter for it and only a maker can tell."""

    id: str
    title: str
    asks: tuple[SignShape, ...]


class FaultKinds(Shape):
    """The kinds of faults there are."""

    kinds: list[FaultKind]


class LikelyCauseShape(Shape):
    """A cause: how likely of all, what speaks for it, what to do; `mend` changes the sheet."""

    id: str
    title: str
    share: float
    evidence: tuple[str, ...]
    advice: str
    mend: str | None


class FaultShape(Shape):
    """A fault of a pour with its causes, the likeliest first."""

    id: UUID
    kind: str
    place: str
    told: dict[str, bool]
    verdict: str
    causes: list[LikelyCauseShape]


class FaultList(Shape):
    """The faults of a pour."""

    faults: list[FaultShape]


class NewFault(Body):
    """What is wrong, and where."""

    kind: Word
    place: ShortText = ""
    told: Told = Field(default_factory=dict)


class FaultBody(Body):
    """What is known of a fault; a verdict is one of its causes, or empty."""

    place: ShortText = ""
    told: Told = Field(default_factory=dict)
    verdict: Word = ""


class MendBody(Body):
    """By which cause the sheet is changed."""

    cause: Word


def _list(at: Transaction, pour_id: UUID) -> dict[str, object]:
    shown = [
        FaultShape(
            id=one.row.id,
            kind=one.row.kind,
            place=one.row.place,
            told=one.row.told,
            verdict=one.row.verdict,
            causes=[
                LikelyCauseShape(
                    id=cause.ranked.cause.id,
                    title=cause.ranked.cause.title,
                    share=cause.ranked.share,
                    evidence=cause.ranked.evidence,
                    advice=cause.ranked.cause.advice,
                    mend=cause.mend and cause.mend.words,
                )
                for cause in one.causes
            ],
        )
        for one in service.list_faults(at, pour_id)
    ]
    return FaultList(faults=shown).model_dump(mode="json")


@blueprint.get("/fault-kinds", responses={200: FaultKinds}, summary="The kinds of faults")
def kinds() -> dict[str, object]:  # noqa: D103
    shown = []
    for fault in faults():
        matter = {sign for cause in fault.causes for sign in cause.factors}
        asks = tuple(
            SignShape(id=one.id, title=one.title)
            for one in signs()
            if one.told and one.id in matter
        )
        shown.append(FaultKind(id=fault.id, title=fault.title, asks=asks))
    return FaultKinds(kinds=shown).model_dump(mode="json")


@blueprint.get("/pours/<uuid:id>/faults", responses={200: FaultList}, summary="Faults of a pour")
def index(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _list(at, path.id)


@blueprint.post("/pours/<uuid:id>/faults", responses={201: FaultList}, summary="Note a fault")
def add(path: IdPath, body: NewFault) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        service.add_fault(at, path.id, body.kind, body.place, body.told)
        return _list(at, path.id), 201


@blueprint.put("/faults/<uuid:id>", responses={200: FaultList}, summary="Say more of a fault")
def change(path: IdPath, body: FaultBody) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        row = service.change_fault(at, path.id, body.place, body.told, body.verdict)
        return _list(at, row.pour_id)


@blueprint.delete("/faults/<uuid:id>", responses={200: Deleted}, summary="Take a fault off the log")
def remove(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        service.remove_fault(at, path.id)
    return Deleted().model_dump(mode="json")


@blueprint.post("/faults/<uuid:id>/mend", responses={200: SheetShape}, summary="Mend the sheet")
def mend(path: IdPath, body: MendBody) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return sheet_shape(at, service.mend_sheet(at, path.id, body.cause))
