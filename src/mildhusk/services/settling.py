"""Settled plans: a cast's coats simulated by a worker, and planned by what they leave."""

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import timedelta
from typing import TYPE_CHECKING, Any
from uuid import UUID

from sqlalchemy import ColumnElement, delete, func, select, update

from mildhusk.core.casting.plan import CastSheet
from mildhusk.core.casting.wish import CastWish
from mildhusk.core.equipment import Equipment
from mildhusk.core.geometry.measure import FaceMeasures
from mildhusk.core.geometry.mesh import Flags, Mesh
from mildhusk.core.materials.catalogue import CastingMaterial
from mildhusk.core.progress import Tell
from mildhusk.services.errors import ConflictError
from mildhusk.services.jobs import cancel_job, newest_jobs, put_job
from mildhusk.services.pieces import face_of, find_piece, model_of_piece
from mildhusk.services.sheets import (
    LOOK,
    SheetQuestion,
    first_look_key,
    plan_sheet,
    settling_key,
)
from mildhusk.services.shelf import castable_of, find_material
from mildhusk.services.transaction import Transaction
from mildhusk.services.walls import Computed, WallAnswer, keep_run
from mildhusk.services.workshop import equipment_here
from mildhusk.store.tables import CastSheetRow, CoatRunRow, JobKind
from mildhusk.store.values import WALLS, WISHES, KeptPlan, KeptWall, WallRequest

if TYPE_CHECKING:
    from mildhusk.core.casting.planner import Settled

_LOOKED_AT_FOR = timedelta(hours=1)


@dataclass(frozen=True, slots=True)
class SettledAnswer:
    """A plan as it is known now, and its wall or the job that settles it.

    While it is settled there may be both: the wall of a first look, and the job.
    """

    plan: CastSheet
    wall: WallAnswer


def settle_sheet(
    transaction: Transaction, asked: SheetQuestion, dropped: UUID | None = None
) -> SettledAnswer:
    """Return a plan with its wall, or ask a worker to settle it; nothing is computed twice.

    `dropped` is the job of a question that is not asked any more: it is cancelled.

    Raises
    ------
    ConflictError
        Nothing is said of how it is turned, or it is a material or a piece that is not simulated.
    """
    if dropped is not None:
        cancel_job(transaction, dropped)
    plan = plan_sheet(transaction, asked)
    key = settling_key(transaction, asked)
    if key is None:
        raise ConflictError(
            "This plan is not simulated: say how the mould is turned, and take a resin and a piece "
            "from a file or a tape."
        )
    look = first_look_key(key)
    runs = {
        run.key: run
        for run in transaction.session.scalars(
            select(CoatRunRow).where(
                CoatRunRow.workshop_id == transaction.workshop_id, CoatRunRow.key.in_([key, look])
            )
        )
    }
    if key in runs:
        return SettledAnswer(plan, WallAnswer(runs[key], None))
    # Two who ask for one plan at the same time get one job.
    transaction.session.execute(select(func.pg_advisory_xact_lock(func.hashtext(key))))
    job = newest_jobs(transaction, JobKind.SETTLE, [key]).get(key)
    if job is None or not job.is_open:
        content = {
            "key": key,
            "piece_id": str(asked.piece_id),
            "material_id": str(asked.material_id),
            "wish": WISHES.write(asked.wish),
        }
        name = find_piece(transaction, asked.piece_id).name
        job = put_job(transaction, JobKind.SETTLE, name, content, key)
    return SettledAnswer(plan, WallAnswer(runs.get(look), job))


@dataclass(frozen=True, slots=True)
class SettleTask:
    """What a worker needs to settle a plan; it holds no transaction."""

    face: Mesh = field(repr=False)
    cut_away: Flags = field(repr=False)
    measures: FaceMeasures = field(repr=False)
    material: CastingMaterial
    wish: CastWish
    equipment: Equipment

    @classmethod
    def read(cls, transaction: Transaction, asked: dict[str, Any]) -> "SettleTask":
        """Read what a job asks for, as it is now."""
        question = SheetQuestion(
            UUID(asked["piece_id"]), UUID(asked["material_id"]), WISHES.read(asked["wish"])
        )
        if settling_key(transaction, question) != asked["key"]:
            raise ConflictError("The piece or the resin was changed meanwhile; settle it again.")
        piece = find_piece(transaction, question.piece_id)
        model = model_of_piece(transaction, piece.id)
        return cls(
            model.face, model.cut_away, face_of(piece),
            castable_of(find_material(transaction, question.material_id)),
            question.wish, equipment_here(transaction),
        )  # fmt: skip

    def compute(self, tell: Tell, first_look: Callable[[Computed], None]) -> Computed:
        """Settle it; returns its figures and its arrays, after those of a first look are given."""
        # The flow is slow to load, and only a worker needs it.
        from mildhusk.core.casting.planner import Piece, settle

        piece = Piece(self.face, self.cut_away, self.measures)
        settled = settle(
            piece, self.material, self.wish, self.equipment, tell,
            first_look=lambda seen: first_look(self._computed(seen)),
        )  # fmt: skip
        return self._computed(settled)

    @staticmethod
    def _computed(settled: "Settled") -> Computed:
        from mildhusk.documents.wall_files import pack_films, pack_wall, wall_model

        sheet, mould = settled.sheet, settled.landed.mould
        assert sheet.uneven is not None
        asked = WallRequest(str(sheet.motion), sheet.lid, settled.edge_m)
        plan = KeptPlan(sheet.uneven, sheet.wall, sheet.estimate)
        kept = WALLS.write(KeptWall(asked, settled.wall, plan))
        return Computed(
            kept, pack_wall(wall_model(mould)), pack_films(mould, settled.landed.played)
        )

    @staticmethod
    def write_first_look(transaction: Transaction, asked: dict[str, Any], found: Computed) -> None:
        """Keep it for a while, and let lists tell the plan that it leads to."""
        old = transaction.session.execute(
            delete(CoatRunRow)
            .where(
                CoatRunRow.workshop_id == transaction.workshop_id,
                CoatRunRow.key.startswith(LOOK),
                CoatRunRow.created_at < transaction.now - _LOOKED_AT_FOR,
            )
            .returning(CoatRunRow.id)
        ).all()
        if old:
            # Whose they were is not known.
            _tell_anew(transaction)
        keep_run(transaction, first_look_key(asked["key"]), found)
        _tell_anew(transaction, *_sheets_of(asked))

    def write(
        self, transaction: Transaction, asked: dict[str, Any], found: Computed
    ) -> dict[str, Any]:
        """Keep it, and let lists tell the settled plan."""
        keep_run(transaction, asked["key"], found)
        _tell_anew(transaction, *_sheets_of(asked))
        return {"key": asked["key"]}


def _sheets_of(asked: dict[str, Any]) -> tuple[ColumnElement[bool], ...]:
    """Return what is true of the kept sheets that a plan may be of."""
    return (
        CastSheetRow.piece_id == UUID(asked["piece_id"]),
        CastSheetRow.material_id == UUID(asked["material_id"]),
    )


def _tell_anew(transaction: Transaction, *which: ColumnElement[bool]) -> None:
    """Let lists make their figures of some sheets anew; the sheets themselves are not changed."""
    transaction.session.execute(
        update(CastSheetRow)
        .where(CastSheetRow.workshop_id == transaction.workshop_id, *which)
        .values(summary_of="")
        .execution_options(synchronize_session=False)
    )
