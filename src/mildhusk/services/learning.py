"""What this workshop's pours taught of a resin."""

from uuid import UUID

from sqlalchemy import and_, select

from mildhusk.core.learning.gel_times import LearnedTimes, learn_times
from mildhusk.services.lots import usable_lots
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import LotDraw, Pour, PouredCoat

_MOST_COATS = 60


def learned_times(transaction: Transaction, material_id: UUID) -> LearnedTimes | None:
    """Return how a resin's gel times came out: of the lot in use, else of all its lots."""
    poured = _ratios(transaction, material_id)
    if not poured:
        return None
    in_use = next(iter(usable_lots(transaction, material_id, transaction.now.date())), None)
    if in_use is not None:
        of_lot = tuple(ratio for ratio, lot_id in poured if lot_id == in_use.id)
        if (learned := learn_times(of_lot, in_use.label)) is not None:
            return learned
    return learn_times(tuple(ratio for ratio, _ in poured), "")


def _ratios(transaction: Transaction, material_id: UUID) -> list[tuple[float, UUID | None]]:
    """Return measured gel times by what the data sheet's would be, newest first, and their lots."""
    query = (
        select(
            PouredCoat.mixed_at,
            PouredCoat.gelled_at,
            # A plan's coats are numbered from 1.
            Pour.plan["coats"][PouredCoat.number - 1]["roll_until_s"].as_float(),
            Pour.plan["time_factor"].as_float(),
            LotDraw.lot_id,
        )
        .join(Pour, Pour.id == PouredCoat.pour_id)
        .outerjoin(LotDraw, and_(LotDraw.pour_id == Pour.id, LotDraw.coat == PouredCoat.number))
        .where(
            Pour.workshop_id == transaction.workshop_id,
            Pour.material_id == material_id,
            PouredCoat.mixed_at.is_not(None),
            PouredCoat.gelled_at.is_not(None),
        )
        .order_by(PouredCoat.gelled_at.desc())
        .limit(_MOST_COATS)
    )
    return [
        # A plan that stood on learned times is measured against the data sheet all the same.
        (
            (gelled - mixed).total_seconds() / planned_s * (factor or 1.0),
            lot_id,
        )
        for mixed, gelled, planned_s, factor, lot_id in transaction.session.execute(query)
    ]
