"""Walls: casts as their coats land, asked of a worker, kept by what they were computed from."""

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, fields
from hashlib import sha256
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert

from mildhusk.core.casting.plan import CastSheet
from mildhusk.core.casting.two_part import two_part_of
from mildhusk.core.coating.motion import motion_named
from mildhusk.core.coating.turning import HowTurned
from mildhusk.core.geometry.mesh import Flags, Mesh
from mildhusk.core.materials.catalogue import record_of
from mildhusk.core.progress import Tell, within
from mildhusk.services.errors import ConflictError
from mildhusk.services.jobs import JobState, newest_jobs, put_job
from mildhusk.services.pieces import model_of_piece
from mildhusk.services.sheets import MODEL, SHAPED, find_sheet, plan_of
from mildhusk.services.transaction import Transaction
from mildhusk.store.kept import facts
from mildhusk.store.tables import CastSheetRow, CoatRunRow, JobKind
from mildhusk.store.values import WALLS, KeptWall, WallRequest

_MESHING = 0.1


@dataclass(frozen=True, slots=True)
class WallAnswer:
    """What is known of a wall: a run that is done, else the job that computes it."""

    run: CoatRunRow | None
    job: JobState | None


def wall_of(transaction: Transaction, sheet_id: UUID, asked: WallRequest) -> WallAnswer:
    """Return the wall of a sheet's cast, or ask a worker for it; nothing is computed twice."""
    return walls_of(transaction, sheet_id, [asked])[0]


def walls_of(
    transaction: Transaction, sheet_id: UUID, several: Sequence[WallRequest], *, again: bool = True
) -> list[WallAnswer]:
    """Return several walls of one sheet, or ask for them; each is a job of its own.

    What was refused or cancelled is asked for again only where that is wanted.
    """
    for one in several:
        _how(one)
    sheet = find_sheet(transaction, sheet_id)
    if sheet.piece.source not in SHAPED:
        raise ConflictError(
            f"Of '{sheet.piece.name}' only its size is known, not its shape; the wall of a piece "
            "from a file or a tape can be shown."
        )
    keys = [_keys(transaction, sheet)(one) for one in several]
    runs = {
        run.key: run
        for run in transaction.session.scalars(
            select(CoatRunRow).where(
                CoatRunRow.workshop_id == transaction.workshop_id, CoatRunRow.key.in_(keys)
            )
        )
    }
    # Two who ask for one wall at the same time get one job.
    for key in sorted(set(keys) - runs.keys()):
        transaction.session.execute(select(func.pg_advisory_xact_lock(func.hashtext(key))))
    jobs = newest_jobs(transaction, JobKind.COAT, [key for key in keys if key not in runs])
    answers = []
    for key, one in zip(keys, several, strict=True):
        run, job = runs.get(key), jobs.get(key)
        if run is None and (job is None or (not job.is_open and (again or job.is_done))):
            content = {"key": key, "sheet_id": str(sheet_id), **facts(one)}
            job = jobs[key] = put_job(transaction, JobKind.COAT, sheet.name, content, key)
        answers.append(WallAnswer(run, None if run is not None else job))
    return answers


def _keys(transaction: Transaction, row: CastSheetRow) -> Callable[[WallRequest], str]:
    """Return what hashes all that a wall of a sheet is computed from."""
    plan = plan_of(transaction, row)
    face = sha256(row.piece.face).hexdigest()
    coats = [(str(one.kind), one.recipe.total_kg, one.reacts_kg, one.wall_m) for one in plan.coats]
    at = plan.conditions
    sheet = (
        MODEL, face, record_of(two_part_of(plan).resin).sheet, coats, plan.wish.loss,
        plan.wish.catalyst, plan.wish.wall_m, str(plan.wish.extras),
        (at.room_k, at.mould_k, at.parts_k, at.cups),
    )  # fmt: skip

    def key(asked: WallRequest) -> str:
        whole = json.dumps((*sheet, facts(asked)), default=str, sort_keys=True)
        return sha256(whole.encode()).hexdigest()

    return key


def wall_of_run(run: CoatRunRow) -> KeptWall:
    """Return what is kept of a run as values."""
    return WALLS.read(run.figures)


def _how(asked: WallRequest) -> HowTurned:
    """Return what is asked as the core's checked value.

    Raises
    ------
    CoatingError
        A motion that is not known, a number out of range.
    """
    motion = motion_named(asked.motion)
    return HowTurned(motion, asked.capped, asked.edge_m, asked.coats, asked.lead, asked.share)


def find_run(transaction: Transaction, key: UUID) -> CoatRunRow:
    """Return one run."""
    return transaction.find(CoatRunRow, key, "wall")


@dataclass(frozen=True, slots=True)
class CoatTask:
    """What a worker needs to simulate a cast; it holds no transaction."""

    face: Mesh = field(repr=False)
    cut_away: Flags = field(repr=False)
    sheet: CastSheet = field(repr=False)
    asked: WallRequest

    @classmethod
    def read(cls, transaction: Transaction, asked: dict[str, Any]) -> "CoatTask":
        """Read what a job asks for, as it is now."""
        row = find_sheet(transaction, UUID(asked["sheet_id"]))
        how = WallRequest(**{one.name: asked[one.name] for one in fields(WallRequest)})
        if _keys(transaction, row)(how) != asked["key"]:
            raise ConflictError("The sheet was changed meanwhile; ask for its wall again.")
        model = model_of_piece(transaction, row.piece_id)
        return cls(model.face, model.cut_away, plan_of(transaction, row), how)

    def compute(self, tell: Tell) -> "Computed":
        """Simulate it; returns its figures and its arrays."""
        # The flow is slow to load, and only a worker needs it.
        from mildhusk.core.casting.settling import bare_mould, coat_sheet, density_of
        from mildhusk.core.coating.answer import landed_wall
        from mildhusk.core.coating.grid import marked_on
        from mildhusk.documents.wall_files import pack_films, pack_wall, wall_model

        asked = self.asked
        how = _how(asked)
        tell(0.0, "meshing the casting face")
        mould = bare_mould(self.face, how.edge_m, capped=how.capped)
        landed = coat_sheet(mould, self.sheet, how, within(tell, _MESHING, 1.0))
        waste = marked_on(landed.mould.grid, self.face, self.cut_away)
        target_m = self.sheet.wish.wall_m
        wall = landed_wall(landed.mould, density_of(self.sheet), target_m, waste)
        kept = WALLS.write(KeptWall(asked, wall))
        return Computed(
            kept, pack_wall(wall_model(landed.mould)), pack_films(landed.mould, landed.played)
        )

    def write(
        self, transaction: Transaction, asked: dict[str, Any], found: "Computed"
    ) -> dict[str, Any]:
        """Keep it."""
        keep_run(transaction, asked["key"], found)
        return {"sheet_id": asked["sheet_id"]}


def keep_run(transaction: Transaction, key: str, found: "Computed") -> None:
    """Keep a run; where another worker was faster, its result stands."""
    transaction.session.execute(
        insert(CoatRunRow)
        .values(
            id=uuid4(),
            workshop_id=transaction.workshop_id,
            created_at=transaction.now,
            key=key,
            figures=found.figures,
            model=found.model,
            films=found.films,
        )
        .on_conflict_do_nothing()
    )


@dataclass(frozen=True, slots=True)
class Computed:
    """What a worker computed of a wall: figures, and packed arrays of the wall and its films."""

    figures: dict[str, Any]
    model: bytes = field(repr=False)
    films: bytes = field(repr=False)
