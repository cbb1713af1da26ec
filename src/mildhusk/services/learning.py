"""What this workshop's pours taught of a resin, and what else is known when a sheet is read."""

from uuid import UUID

from sqlalchemy import and_, select

from mildhusk.core.planning.document import Known
from mildhusk.core.planning.learned import LearnedTimes, learn_times
from mildhusk.services.desk import Desk
from mildhusk.services.sheets import resins_here
from mildhusk.services.stock import usable_lots
from mildhusk.store.tables import LotDraw, LotRow, Pour, PouredCoat

_MOST_COATS = 60


def learned_times(desk: Desk, material_id: UUID) -> LearnedTimes | None:
    """Return how a resin's gel times came out: of the lot in use, else of all its lots."""
    in_use = next(iter(usable_lots(desk, material_id, desk.now.date())), None)
    of_lot = [] if in_use is None else _ratios(desk, material_id, in_use)
    learned = learn_times(tuple(of_lot), "" if in_use is None else in_use.label)
    return learned or learn_times(tuple(_ratios(desk, material_id, None)), "")


def _ratios(desk: Desk, material_id: UUID, lot: LotRow | None) -> list[float]:
    """Return measured gel times by what the data sheet's times would have given, newest first."""
    query = (
        select(PouredCoat, Pour.plan)
        .join(Pour, Pour.id == PouredCoat.pour_id)
        .where(
            Pour.workshop_id == desk.workshop_id,
            Pour.material_id == material_id,
            PouredCoat.mixed_at.is_not(None),
            PouredCoat.gelled_at.is_not(None),
        )
        .order_by(PouredCoat.gelled_at.desc())
        .limit(_MOST_COATS)
    )
    if lot is not None:
        query = query.join(
            LotDraw,
            and_(
                LotDraw.pour_id == Pour.id,
                LotDraw.coat == PouredCoat.number,
                LotDraw.lot_id == lot.id,
            ),
        )
    ratios = []
    for coat, plan in desk.session.execute(query):
        assert coat.gelled_at is not None
        assert coat.mixed_at is not None
        measured = (coat.gelled_at - coat.mixed_at).total_seconds()
        planned = plan["coats"][coat.number - 1]["roll_until_s"]
        # A plan that stood on learned times is measured against the data sheet all the same.
        ratios.append(measured / planned * plan.get("time_factor", 1.0))
    return ratios


def known_of(desk: Desk, material_id: UUID) -> Known:
    """Return what findings may propose beside the plan: other resins, times learned."""
    return Known(resins_here(desk), learned_times(desk, material_id))
