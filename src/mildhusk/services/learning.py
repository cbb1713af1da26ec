"""What this workshop's pours taught: told once of each pour by a worker, pooled for a plan."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from sqlalchemy import exists, or_, select, update
from sqlalchemy.orm import selectinload

from mildhusk.core.casting.learned_bands import LearnedBands
from mildhusk.core.casting.wish import CastWish
from mildhusk.core.errors import InputError
from mildhusk.core.learning.learned import MOST_POURS, Learned, Taught, Value, hands, learn
from mildhusk.core.learning.lesson import Lesson, Told
from mildhusk.core.learning.offers import band_if_taken
from mildhusk.core.learning.pooling import Groups, Level
from mildhusk.core.learning.readings import ReadBy, WallReading
from mildhusk.core.pouring.lessons import lesson_of
from mildhusk.core.progress import Tell
from mildhusk.services.jobs import newest_jobs, put_job
from mildhusk.services.lots import usable_lots
from mildhusk.services.pour_facts import followed_by, records_of, whole_cast_kg
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import (
    JobKind,
    JobStatus,
    LotDraw,
    Pour,
    PouredCoat,
    WallReadingRow,
)
from mildhusk.store.values import LESSONS, KeptLesson

_NO_MOULD = "piece "
_AT_ONCE = 200
"""So many pours that changed are told anew at once; the rest when it is asked again."""


def unlearn(pour: Pour) -> None:
    """Let a pour be told anew, as something of it has changed."""
    pour.lesson = None


def learn_soon(transaction: Transaction, pour: Pour) -> None:
    """Ask a worker to tell what a pour teaches; a plan that is made before it does so itself."""
    if transaction.queue is None:
        return
    key = f"learn {pour.id}"
    waiting = newest_jobs(transaction, JobKind.LEARN, [key]).get(key)
    if waiting is None or waiting.status is not JobStatus.WAITING:
        put_job(transaction, JobKind.LEARN, pour.sheet_name, {}, key)


@dataclass(frozen=True, slots=True)
class LearnTask:
    """What a worker tells of pours that have changed; all of it in the transaction it writes in."""

    @classmethod
    def read(cls, _transaction: Transaction, _asked: dict[str, Any]) -> "LearnTask":
        """Nothing is needed beforehand."""
        return cls()

    def compute(self, tell: Tell) -> None:
        """Nothing is computed without the pours."""
        tell(0.0, "looking at your pours")

    @staticmethod
    def write(transaction: Transaction, _asked: dict[str, Any], _found: None) -> dict[str, Any]:
        """Tell what those pours teach that have changed."""
        return {"told": tell_anew(transaction)}


def learned_values(
    transaction: Transaction,
    material_id: UUID,
    mould: str,
    values: Sequence[Value] = tuple(Value),
    *,
    by_hand: bool,
    course: int = 0,
) -> dict[Value, Learned]:
    """Return what the newest pours teach of a resin in a mould.

    Parameters
    ----------
    transaction : Transaction
    material_id : UUID
    mould : str
        See `mould_group`.
    values : sequence of Value
    by_hand : bool
        It is turned so, and not on a machine.
    course : int
        After how many of the newest pours each value is told too.
    """
    taught = taught_pours(transaction, material_id, mould)
    in_use = next(iter(usable_lots(transaction, material_id, transaction.now.date())), None)
    groups: Groups = {
        Level.WORKSHOP: str(transaction.workshop_id),
        Level.RESIN: str(material_id),
        Level.MOULD: mould,
    }
    groups[Level.HANDS] = hands(by_hand=by_hand)
    groups[Level.LOT] = _lot_group(None if in_use is None else str(in_use.id), material_id)
    return {key: learn(key, taught, groups, course=course) for key in values}


def mould_group(piece_id: UUID, mould_id: UUID | None) -> str:
    """Return what names a mould among the groups of pours; its piece where it is not known."""
    return str(mould_id) if mould_id else f"{_NO_MOULD}{piece_id}"


def _lot_group(lot: str | None, material_id: UUID) -> str:
    """Return what names a lot; where lots are not kept, all of a resin is one."""
    return lot or f"of {material_id}"


def bands_of(learned: dict[Value, Learned], wish: CastWish) -> LearnedBands:
    """Return how sure those values of a wish are that pours taught."""
    return LearnedBands(
        **{
            key: band_if_taken(learned, key, getattr(wish, key))
            for key in (Value.LOSS, Value.AREA, Value.TIME)
        }
    )


def taught_pours(transaction: Transaction, material_id: UUID, mould: str) -> list[Taught]:
    """Return what the newest pours teach: of a resin, of a mould, and of the workshop."""
    tell_anew(transaction)
    mine = (Pour.workshop_id == transaction.workshop_id, Pour.lesson.is_not(None))
    alike = [Pour.material_id == material_id, Pour.workshop_id == transaction.workshop_id]
    if not mould.startswith(_NO_MOULD):
        alike.append(Pour.mould_id == UUID(mould))
    newest = [
        select(Pour.id).where(*mine, one).order_by(Pour.created_at.desc()).limit(MOST_POURS)
        for one in alike
    ]
    rows = transaction.session.execute(
        select(
            Pour.created_at, Pour.sheet_name, Pour.material_id, Pour.piece_id, Pour.mould_id,
            Pour.lesson,
        )
        .where(or_(*(Pour.id.in_(one) for one in newest)))
        .order_by(Pour.created_at, Pour.id)
    )  # fmt: skip
    found = []
    for at, name, material, piece, mould_id, kept in rows:
        told = LESSONS.read(kept)
        groups: Groups = {
            Level.WORKSHOP: str(transaction.workshop_id),
            Level.RESIN: str(material),
            Level.MOULD: mould_group(piece, mould_id),
        }
        groups[Level.HANDS] = hands(by_hand=told.lesson.by_hand)
        groups[Level.LOT] = _lot_group(told.lot, material)
        found.append(Taught(told.lesson, groups, at, name))
    return found


def tell_anew(transaction: Transaction) -> int:
    """Tell what those pours teach that have changed since they were told; return how many."""
    gelled = exists().where(PouredCoat.pour_id == Pour.id, PouredCoat.gelled_at.is_not(None))
    untold = transaction.session.scalars(
        select(Pour)
        .where(Pour.workshop_id == transaction.workshop_id, Pour.lesson.is_(None), gelled)
        .order_by(Pour.created_at.desc())
        .limit(_AT_ONCE)
        .options(selectinload(Pour.coats))
        # What changes meanwhile waits, and is told anew after that; what is told elsewhere is left.
        .with_for_update(skip_locked=True)
    ).all()
    if not untold:
        return 0
    keys = [one.id for one in untold]
    read = _readings(transaction, keys)
    lots = _first_lots(transaction, keys)
    for pour in untold:
        told = KeptLesson(_lesson(pour, read.get(pour.id, [])), lots.get(pour.id))
        # Past the row itself: what is told of it is no change of it.
        transaction.session.execute(
            update(Pour)
            .where(Pour.id == pour.id)
            .values(lesson=LESSONS.write(told))
            .execution_options(synchronize_session=False)
        )
    return len(untold)


def _lesson(pour: Pour, readings: Sequence[WallReading]) -> Lesson:
    fitted = pour.viscosity
    viscosity = None if fitted is None else Told(fitted["value"], fitted["noise"])
    try:
        return lesson_of(
            followed_by(pour), records_of(pour), whole_cast_kg(pour), readings, viscosity
        )
    except InputError:
        # A plan of long ago that no longer holds teaches nothing.
        return Lesson()


def _readings(transaction: Transaction, pours: Sequence[UUID]) -> dict[UUID, list[WallReading]]:
    rows = transaction.session.scalars(
        select(WallReadingRow)
        .where(WallReadingRow.pour_id.in_(pours))
        .order_by(WallReadingRow.created_at, WallReadingRow.id)
    )
    found: dict[UUID, list[WallReading]] = defaultdict(list)
    for row in rows:
        found[row.pour_id].append(reading_of(row))
    return found


def reading_of(row: WallReadingRow) -> WallReading:
    """Return a kept reading as the core's value."""
    return WallReading(ReadBy(row.by), row.wall_m, row.light, row.simulated_m, row.simulated_kg)


def _first_lots(transaction: Transaction, pours: Sequence[UUID]) -> dict[UUID, str]:
    """Return the lot that the first coat of each pour was drawn from."""
    rows = transaction.session.execute(
        select(LotDraw.pour_id, LotDraw.lot_id)
        .where(LotDraw.pour_id.in_(pours))
        .order_by(LotDraw.coat.desc(), LotDraw.grams, LotDraw.lot_id)
    )
    return {pour: str(lot) for pour, lot in rows}
