"""Casts as their coats land: asked of a worker, kept by what they were computed from."""

import json
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, field, fields
from hashlib import sha256
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert

from mildhusk.core.coating.motion import motion_named
from mildhusk.core.geometry.mesh import Flags, Mesh
from mildhusk.core.planning.document import material_document
from mildhusk.core.planning.sheet import CastSheet
from mildhusk.core.progress import Tell
from mildhusk.services.desk import Desk
from mildhusk.services.errors import ConflictError
from mildhusk.services.jobs import OPEN, put_job
from mildhusk.services.pieces import model_of_piece
from mildhusk.services.sheets import find_sheet, plan_of
from mildhusk.store.tables import CastSheetRow, CoatRunRow, Job, JobKind, JobStatus, PieceSource

MODEL = 4
"""Another number when the simulation changes, so that nothing old is taken for it."""
_SHAPED = (PieceSource.FILE, PieceSource.TAPE)


@dataclass(frozen=True, slots=True)
class WallAsked:
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
class WallAnswer:
    """What is known of a wall: a run that is done, else the job that computes it."""

    run: CoatRunRow | None
    job: Job | None


def wall_of(desk: Desk, sheet_id: UUID, asked: WallAsked) -> WallAnswer:
    """Return the wall of a sheet's cast, or ask a worker for it; nothing is computed twice."""
    return walls_of(desk, sheet_id, [asked])[0]


def walls_of(
    desk: Desk, sheet_id: UUID, several: Sequence[WallAsked], *, again: bool = True
) -> list[WallAnswer]:
    """Return several walls of one sheet, or ask for them; each is a job of its own.

    What was refused or cancelled is asked for again only where that is wanted.
    """
    for one in several:
        motion_named(one.motion)
    sheet = find_sheet(desk, sheet_id)
    if sheet.piece.source not in _SHAPED:
        raise ConflictError(
            f"Of '{sheet.piece.name}' only its size is known, not its shape; the wall of a piece "
            "from a file or a tape can be shown."
        )
    key_of = _keys(desk, sheet)
    answers = []
    for one in several:
        key = key_of(one)
        run = desk.session.scalars(
            select(CoatRunRow).where(
                CoatRunRow.workshop_id == desk.workshop_id, CoatRunRow.key == key
            )
        ).first()
        job = None if run is not None else _job_for(desk, key, again=again)
        if run is None and job is None:
            content = {"key": key, "sheet_id": str(sheet_id), **asdict(one)}
            job = put_job(desk, JobKind.COAT, sheet.name, content)
        answers.append(WallAnswer(run, job))
    return answers


def _job_for(desk: Desk, key: str, *, again: bool) -> Job | None:
    """Return the newest job for a wall; where it may be asked again, only one that is not ended."""
    mine = select(Job).where(
        Job.workshop_id == desk.workshop_id,
        Job.kind == JobKind.COAT,
        Job.asked["key"].astext == key,
        Job.status != JobStatus.DONE,
    )
    if again:
        mine = mine.where(Job.status.in_(OPEN))
    return desk.session.scalars(mine.order_by(Job.created_at.desc())).first()


def _keys(desk: Desk, row: CastSheetRow) -> Callable[[WallAsked], str]:
    """Return what hashes all that a wall of a sheet is computed from."""
    plan = plan_of(desk, row)
    face = sha256(row.piece.face).hexdigest()
    coats = [
        (str(one.kind), one.recipe.total_kg, one.charge.total_kg, one.wall_m) for one in plan.coats
    ]
    at = plan.conditions
    sheet = (
        MODEL, face, material_document(plan.resin)["sheet"], coats, plan.wish.loss,
        plan.wish.catalyst, plan.wish.wall_m, str(plan.wish.extras),
        (at.room_k, at.mould_k, at.parts_k, at.cups),
    )  # fmt: skip

    def key(asked: WallAsked) -> str:
        whole = json.dumps((*sheet, asdict(asked)), default=str, sort_keys=True)
        return sha256(whole.encode()).hexdigest()

    return key


def find_run(desk: Desk, key: UUID) -> CoatRunRow:
    """Return one run."""
    return desk.find(CoatRunRow, key, "wall")


@dataclass(frozen=True, slots=True)
class CoatTask:
    """What a worker needs to simulate a cast; it holds no transaction."""

    face: Mesh = field(repr=False)
    cut_away: Flags = field(repr=False)
    sheet: CastSheet = field(repr=False)
    asked: WallAsked

    @classmethod
    def read(cls, desk: Desk, asked: dict[str, Any]) -> "CoatTask":
        """Read what a job asks for, as it is now."""
        row = find_sheet(desk, UUID(asked["sheet_id"]))
        how = WallAsked(**{one.name: asked[one.name] for one in fields(WallAsked)})
        if _keys(desk, row)(how) != asked["key"]:
            raise ConflictError("The sheet was changed meanwhile; ask for its wall again.")
        model = model_of_piece(desk, row.piece_id)
        return cls(model.face, model.cut_away, plan_of(desk, row), how)

    def compute(self, tell: Tell) -> "Computed":
        """Simulate it; returns its figures and its arrays."""
        # The flow is slow to load, and only a worker needs it.
        from mildhusk.core.coating.casting import HowTurned, coat_sheet, density_of
        from mildhusk.core.coating.document import coated_document
        from mildhusk.core.coating.grid import marked_on
        from mildhusk.documents.wall_files import pack_films, pack_wall, wall_model

        asked = self.asked
        motion = motion_named(asked.motion)
        how = HowTurned(motion, asked.capped, asked.edge_m, asked.coats, asked.lead, asked.share)
        landed = coat_sheet(self.face, self.sheet, how, tell)
        waste = marked_on(landed.mould.grid, self.face, self.cut_away)
        target_m = self.sheet.wish.wall_m
        figures = coated_document(landed.mould, density_of(self.sheet), target_m, waste)
        return Computed(
            figures, pack_wall(wall_model(landed.mould)), pack_films(landed.mould, landed.played)
        )

    def write(self, desk: Desk, asked: dict[str, Any], found: "Computed") -> dict[str, Any]:
        """Keep it; where another worker was faster, its result stands."""
        desk.session.execute(
            insert(CoatRunRow)
            .values(
                id=uuid4(),
                workshop_id=desk.workshop_id,
                created_at=desk.now,
                key=asked["key"],
                figures={**found.figures, "asked": asdict(self.asked)},
                model=found.model,
                films=found.films,
            )
            .on_conflict_do_nothing()
        )
        return {"sheet_id": asked["sheet_id"]}


@dataclass(frozen=True, slots=True)
class Computed:
    """What a worker computed of a wall: figures, and packed arrays of the wall and its films."""

    figures: dict[str, Any]
    model: bytes = field(repr=False)
    films: bytes = field(repr=False)
