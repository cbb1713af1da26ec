"""A pour that is weighed on a live scale: begun by a press, kept at every cup, logged by itself."""

from datetime import UTC, datetime
from uuid import UUID

from sqlalchemy import select

from mildhusk.core.casting.plan import CoatPlan
from mildhusk.core.pouring.steps import PourStep, next_step
from mildhusk.core.pouring.weighing import WantedPart, Weighing
from mildhusk.devices.protocol import DeviceKind
from mildhusk.services.devices import find_device
from mildhusk.services.errors import ConflictError
from mildhusk.services.pour_facts import followed_by, records_of
from mildhusk.services.pours import Press, WeighedParts, find_pour, record_step
from mildhusk.services.transaction import Transaction
from mildhusk.store.live import ORDERS, announce
from mildhusk.store.tables import LiveWeighing, Pour, PourStatus
from mildhusk.store.values import WEIGHINGS


def begin_weighing(transaction: Transaction, pour_id: UUID, device_id: UUID) -> None:
    """Weigh a pour on a scale, this coat and those after it."""
    pour = find_pour(transaction, pour_id)
    device = find_device(transaction, device_id)
    if device.kind != DeviceKind.SCALE:
        raise ConflictError(f"'{device.name}' is no scale; choose one that is.")
    coat = _coat_to_weigh(pour)
    if coat is None:
        raise ConflictError("Nothing is to be weighed at this step of the pour.")
    kept = transaction.session.get(LiveWeighing, pour_id, with_for_update=True)
    if kept is None:
        kept = LiveWeighing(pour_id=pour_id)
        transaction.session.add(kept)
    kept.device_id, kept.coat = device_id, coat.number
    kept.state = WEIGHINGS.write(Weighing(wanted_parts(coat)))
    _tell(transaction, pour_id)


def end_weighing(transaction: Transaction, pour_id: UUID) -> None:
    """Weigh a pour by hand again."""
    find_pour(transaction, pour_id)
    kept = transaction.session.get(LiveWeighing, pour_id)
    if kept is not None:
        transaction.session.delete(kept)
    _tell(transaction, pour_id)


def press_at_scale(transaction: Transaction, pour_id: UUID, press: str) -> None:
    """Tell the weighing what only a person knows: that the cup is on, that it shall be as it is."""
    if scale_of(transaction, pour_id) is None:
        raise ConflictError("This pour is weighed on no scale now.")
    order = {"do": "press", "pour": str(pour_id), "press": press}
    announce(transaction.session, order, ORDERS)


def scale_of(transaction: Transaction, pour_id: UUID) -> UUID | None:
    """Return the scale a pour is weighed on."""
    kept = transaction.session.get(LiveWeighing, pour_id)
    return None if kept is None else kept.device_id


def weighing_on(transaction: Transaction, device_id: UUID) -> tuple[UUID, int, Weighing] | None:
    """Return the pour, the coat and the weighing that a scale is to follow now."""
    rows = transaction.session.scalars(
        select(LiveWeighing)
        .join(Pour, Pour.id == LiveWeighing.pour_id)
        .where(LiveWeighing.device_id == device_id, Pour.status == PourStatus.OPEN)
        .order_by(Pour.created_at.desc())
    )
    for kept in rows:
        coat = _coat_to_weigh(find_pour(transaction, kept.pour_id))
        if coat is None:
            continue
        if coat.number != kept.coat:
            kept.coat, kept.state = coat.number, WEIGHINGS.write(Weighing(wanted_parts(coat)))
        return kept.pour_id, coat.number, WEIGHINGS.read(kept.state)
    return None


def keep_weighing(transaction: Transaction, pour_id: UUID, coat: int, state: Weighing) -> None:
    """Keep where a weighing stands, so that nothing of it is lost."""
    kept = transaction.session.get(LiveWeighing, pour_id)
    if kept is not None and kept.coat == coat:
        kept.state = WEIGHINGS.write(state)


def finish_weighing(transaction: Transaction, pour_id: UUID, coat: int, state: Weighing) -> None:
    """Log what was weighed; where B met A in the cup, the clock started there.

    Raises
    ------
    ConflictError
        It was ticked off by hand meanwhile.
    """
    parts = dict(zip((one.name for one in state.parts), state.poured_kg, strict=True))
    met = None if state.contact_s is None else datetime.fromtimestamp(state.contact_s, UTC)
    first = state.parts[0].name
    weighed = WeighedParts(parts[first], parts.get("B", 0.0), by_weight=True)
    record_step(transaction, pour_id, coat, PourStep.WEIGH, Press(at=met), weighed)
    if met is not None:
        record_step(transaction, pour_id, coat, PourStep.MIX, Press(at=met), None)


def wanted_parts(coat: CoatPlan) -> tuple[WantedPart, ...]:
    """Return what goes into the cup for a coat, in the order in which it is poured."""
    added = coat.added_kg
    parts = (
        WantedPart("A" if coat.parts_kg.B > 0.0 else "clay", coat.parts_kg.A),
        WantedPart("B", coat.parts_kg.B),
        WantedPart("thinner", added.thinner),
        WantedPart("thickener", added.thickener),
        WantedPart("powder", added.powder),
    )
    return tuple(one for one in parts if one.kg > 0.0)


def _coat_to_weigh(pour: Pour) -> CoatPlan | None:
    """Return the coat that is to be weighed now, if one is."""
    if pour.status != PourStatus.OPEN:
        return None
    step = next_step(records_of(pour))
    if step is None or step.step is not PourStep.WEIGH:
        return None
    return followed_by(pour).coats[step.coat - 1]


def _tell(transaction: Transaction, pour_id: UUID) -> None:
    transaction.session.flush()
    announce(transaction.session, {"do": "weighings"}, ORDERS)
    announce(transaction.session, {"topic": "pour", "id": str(pour_id)})
