"""The log as it leaves: every pour with its coats, its cast and its faults."""

from collections import defaultdict
from collections.abc import Iterator
from decimal import Decimal
from uuid import UUID

from sqlalchemy import select

from mildhusk.documents.log_files import LoggedCoat, LoggedPour, LoggedReading
from mildhusk.services.learning import tell_anew
from mildhusk.services.pours import every_pour
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import (
    LotRow,
    MouldRow,
    NumberedCast,
    Pour,
    PouredCoat,
    WallReadingRow,
)
from mildhusk.store.values import LESSONS


def logged_pours(transaction: Transaction) -> Iterator[LoggedPour]:
    """Return every pour, the newest first: a few statements, whatever there is."""
    tell_anew(transaction)
    coats, readings = _coats(transaction), _readings(transaction)
    labels = transaction.session.execute(
        select(LotRow.id, LotRow.label).where(LotRow.workshop_id == transaction.workshop_id)
    )
    lots = {row.id: row.label for row in labels}
    rest = {
        row[0]: row[1:]
        for row in transaction.session.execute(
            select(
                Pour.id, Pour.note, MouldRow.name, NumberedCast.state, NumberedCast.for_whom,
                NumberedCast.place, Pour.offcuts_g, Pour.lesson,
            )
            .outerjoin(MouldRow, MouldRow.id == Pour.mould_id)
            .outerjoin(NumberedCast, NumberedCast.pour_id == Pour.id)
            .where(Pour.workshop_id == transaction.workshop_id)
        )
    }  # fmt: skip
    for pour in every_pour(transaction):
        note, mould, state, for_whom, place, offcuts_g, kept = rest[pour.id]
        told = None if kept is None else LESSONS.read(kept)
        lot = None if told is None or told.lot is None else lots.get(UUID(told.lot))
        yield LoggedPour(
            started_at=pour.started_at,
            closed_at=pour.closed_at,
            sheet=pour.sheet_name,
            piece=pour.piece_name,
            resin=pour.resin_name,
            status=str(pour.status),
            mould=mould or "",
            cast_number=pour.cast_number,
            state=state or "",
            for_whom=for_whom or "",
            place=place or "",
            planned_g=1e3 * pour.planned_kg,
            poured_g=1e3 * pour.poured_kg,
            planned_cast_g=1e3 * pour.planned_cast_kg,
            cast_g=None if pour.cast_kg is None else 1e3 * pour.cast_kg,
            faults=pour.faults,
            note=note,
            coats=tuple(coats[pour.id]),
            offcuts_g=_grams(offcuts_g),
            lot=lot or "",
            lesson=None if told is None else told.lesson,
            readings=tuple(readings[pour.id]),
        )


def _coats(transaction: Transaction) -> dict[UUID, list[LoggedCoat]]:
    found = defaultdict(list)
    rows = transaction.session.execute(
        select(
            PouredCoat.pour_id, PouredCoat.number, PouredCoat.a_g, PouredCoat.b_g,
            PouredCoat.weighed_at, PouredCoat.mixed_at, PouredCoat.poured_at,
            PouredCoat.gelled_at, PouredCoat.room_k,
        )
        .join(Pour, Pour.id == PouredCoat.pour_id)
        .where(Pour.workshop_id == transaction.workshop_id)
        .order_by(PouredCoat.pour_id, PouredCoat.number)
    )  # fmt: skip
    for pour_id, number, a_g, b_g, weighed, mixed, poured, gelled, room_k in rows:
        coat = LoggedCoat(number, _grams(a_g), _grams(b_g), weighed, mixed, poured, gelled, room_k)
        found[pour_id].append(coat)
    return found


def _readings(transaction: Transaction) -> dict[UUID, list[LoggedReading]]:
    found = defaultdict(list)
    row = WallReadingRow
    rows = transaction.session.execute(
        select(row.pour_id, row.by, row.place, row.wall_m, row.light, row.simulated_m)
        .where(row.workshop_id == transaction.workshop_id)
        .order_by(row.created_at, row.id)
    )
    for pour_id, by, place, wall_m, light, simulated_m in rows:
        walls = [None if one is None else 1e3 * one for one in (wall_m, simulated_m)]
        found[pour_id].append(LoggedReading(by, place, walls[0], light, walls[1]))
    return found


def _grams(kept: Decimal | None) -> float | None:
    return None if kept is None else float(kept)
