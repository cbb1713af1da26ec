"""The practice tray: begin a try, roll it as it is held, see what came of it."""

from uuid import UUID

import numpy as np
from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mildhusk.api.common import (
    PREFIX,
    Answer,
    Body,
    IdPath,
    Number,
    Shape,
    Word,
    backstage,
    calmly,
    download,
    file_of,
    transaction,
)
from mildhusk.core.coating.exercises import (
    EXERCISES,
    ExerciseWords,
    Frame,
    PatternTry,
    Practised,
)
from mildhusk.core.errors import InputError
from mildhusk.core.geometry.mesh import Floats
from mildhusk.documents.model import mesh_to_glb
from mildhusk.documents.wall_files import frame_file
from mildhusk.services import practice
from mildhusk.services.practice import Try

blueprint = APIBlueprint("practice", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Practice")])

MOST_SAMPLES = 600
"""Of one frame: a minute of them."""
_MOST_FILM = 3.0
"""What is so many times the wished wall is drawn as the thickest."""
Triple = tuple[float, float, float]


class ExerciseList(Shape):
    """What can be practised."""

    exercises: tuple[ExerciseWords, ...]


class NewTry(Body):
    """A piece, a resin and an exercise."""

    piece_id: UUID
    material_id: UUID
    exercise: Word = "free"


class TryShape(Shape):
    """A try that was begun: what is poured, what it is meant to leave, when it gels.

    `out` is out of the opening, `aside` and `across` are square to it: a tilt t to a side s has up
    at out cos t - (aside cos s + across sin s) sin t.
    """

    id: UUID
    exercise: str
    charge_kg: float
    target_m: float
    gels_at_s: float
    faces: int
    out: Triple
    aside: Triple
    across: Triple


class Tilted(Body):
    """How far over to which side at a moment. [s], [rad], [rad]"""

    t_s: Number
    tilt: Number
    side: Number


class Sensed(Body):
    """Where up was at a moment, as a turn sensor tells it; its z is out of the opening. [s]"""

    t_s: Number
    x: Number
    y: Number
    z: Number


class Oriented(Body):
    """How a tablet on the mould told that it was held at a moment. [s], [degrees]"""

    t_s: Number
    beta: Number
    gamma: Number


class RollRequest(Body):
    """How the tray was held since the last frame, told in one of three ways."""

    tilted: list[Tilted] = Field(default_factory=list, max_length=MOST_SAMPLES)
    sensed: list[Sensed] = Field(default_factory=list, max_length=MOST_SAMPLES)
    oriented: list[Oriented] = Field(default_factory=list, max_length=MOST_SAMPLES)


class PractisedAnswer(Answer[Practised]):
    """What came of a try."""


class PatternList(Shape):
    """What the shipped patterns make of the same coat."""

    patterns: tuple[PatternTry, ...]


@blueprint.get("/practice/exercises", responses={200: ExerciseList}, summary="The exercises")
def exercises() -> dict[str, object]:  # noqa: D103
    return ExerciseList(exercises=EXERCISES).model_dump(mode="json")


@blueprint.post("/practice", responses={201: TryShape}, summary="Begin a try")
@calmly
def begin(body: NewTry) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        asked = practice.tray_question(at, body.piece_id, body.material_id, body.exercise)
    return _try_shape(practice.begin(backstage().scratch, asked)), 201


def _try_shape(found: Try) -> dict[str, object]:
    setup = found.setup
    return TryShape(
        id=found.key,
        exercise=str(setup.exercise),
        charge_kg=setup.charge_kg,
        target_m=setup.target_m,
        gels_at_s=setup.liquid.gels_at_s,
        faces=len(setup.mesh.faces),
        out=_triple(found.out),
        aside=_triple(found.aside),
        across=_triple(found.across),
    ).model_dump(mode="json")


def _triple(way: Floats) -> Triple:
    x, y, z = way.tolist()
    return (x, y, z)


@blueprint.get(
    "/practice/<uuid:id>/mould.glb",
    responses=file_of("model/gltf-binary"),
    summary="The tray's mould",
)
@calmly
def mould(path: IdPath) -> Response:  # noqa: D103
    found = practice.find_try(backstage().scratch, path.id)
    return download(mesh_to_glb(found.setup.mesh), "model/gltf-binary", "tray.glb")


@blueprint.post(
    "/practice/<uuid:id>/roll",
    responses=file_of("application/octet-stream"),
    summary="Go on as it is held; answers with a frame",
)
def roll(path: IdPath, body: RollRequest) -> Response:  # noqa: D103
    scratch = backstage().scratch
    if sum(map(bool, (body.tilted, body.sensed, body.oriented))) != 1:
        raise InputError(
            "Say in one way how the tray was held: tilted, sensed or oriented.", "tilted"
        )
    if body.tilted:
        t_s, *held = np.array([(one.t_s, one.tilt, one.side) for one in body.tilted]).T
        frame = practice.roll_tilted(scratch, path.id, t_s, *held)
    elif body.sensed:
        told = np.array([(one.t_s, one.x, one.y, one.z) for one in body.sensed])
        frame = practice.roll_sensed(scratch, path.id, told[:, 0], told[:, 1:])
    else:
        t_s, *held = np.array([(one.t_s, one.beta, one.gamma) for one in body.oriented]).T
        frame = practice.roll_oriented(scratch, path.id, t_s, *np.radians(held))
    return _frame(path.id, frame)


def _frame(key: UUID, frame: Frame) -> Response:
    setup = practice.find_try(backstage().scratch, key).setup
    head = {
        "t_s": frame.t_s,
        "gels_at_s": frame.gels_at_s,
        "up": frame.up.tolist(),
        "spilt_kg": frame.spilt_kg,
        "pool_kg": frame.pool_kg,
        "wet": frame.wet,
        "rim_wet": frame.rim_wet,
        "pa_s": frame.pa_s,
        "has_set": frame.has_set,
    }
    content = frame_file(head, setup.mesh, frame.liquid_m, _MOST_FILM * setup.target_m)
    return Response(content, content_type="application/octet-stream")


@blueprint.get(
    "/practice/<uuid:id>/practised", responses={200: PractisedAnswer}, summary="What came of it"
)
@calmly
def practised(path: IdPath) -> dict[str, object]:  # noqa: D103
    return PractisedAnswer(practice.finish(backstage().scratch, path.id)).told()


@blueprint.get(
    "/practice/<uuid:id>/patterns",
    responses={200: PatternList},
    summary="The same coat by the shipped patterns",
)
@calmly
def patterns(path: IdPath) -> dict[str, object]:  # noqa: D103
    found = practice.patterns(backstage().scratch, path.id)
    return PatternList(patterns=found).model_dump(mode="json")


@blueprint.get(
    "/practice/<uuid:id>/motion.json",
    responses=file_of("application/json"),
    summary="How it was held, as a motion's file",
)
@calmly
def motion(path: IdPath) -> Response:  # noqa: D103
    content = practice.motion_of(backstage().scratch, path.id)
    return download(content.encode(), "application/json", "practice.json")
