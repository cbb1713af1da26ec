"""Stock: lots that pours draw down, kits on offer, and what to buy for the casts to come."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from uuid import UUID

from sqlalchemy import ColumnElement, delete, select
from sqlalchemy.orm import joinedload

from mildhusk.core.errors import InputError
from mildhusk.core.materials.kit import Kit
from mildhusk.core.planning.buying import Lot, Purchase, plan_purchase
from mildhusk.services.desk import Desk
from mildhusk.services.errors import ConflictError
from mildhusk.services.moulds import estimate_of, find_mould
from mildhusk.services.sheets import find_sheet, plan_of
from mildhusk.services.shelf import find_material
from mildhusk.store.tables import KitOffer, LotDraw, LotRow, Material

_DEAREST = Decimal(1_000_000)
_MOST_KITS = 20


@dataclass(frozen=True, slots=True)
class Need:
    """What the casts to come need of one material, and how to get it."""

    material: Material
    need_kg: float
    purchase: Purchase


def add_lot(
    desk: Desk,
    material_id: UUID,
    label: str,
    bought_kg: float,
    opened_on: date | None,
    expires_on: date,
    price: Decimal | None = None,
) -> LotRow:
    """Put a lot on the shelf."""
    find_material(desk, material_id)
    grams = (Decimal(repr(bought_kg)) * 1000).quantize(Decimal("0.01"))
    if not 0 < grams < 1_000_000:
        raise InputError("A lot weighs more than 0 and less than 1,000 kg.", "bought_kg")
    if opened_on is not None and expires_on < opened_on:
        raise InputError(
            f"The lot ends on {expires_on}, before it was opened on {opened_on}; check the dates.",
            "expires_on",
        )
    if price is not None and not 0 <= price < _DEAREST:
        raise InputError("A lot costs 0 to 1,000,000; leave the price out if unknown.", "price")
    lot = LotRow(
        workshop_id=desk.workshop_id,
        created_at=desk.now,
        material_id=material_id,
        label=label,
        bought_g=grams,
        left_g=grams,
        opened_on=opened_on,
        expires_on=expires_on,
        price=price,
    )
    desk.session.add(lot)
    desk.session.flush()
    return lot


def list_lots(desk: Desk) -> Sequence[LotRow]:
    """Return the lots, those that expire first first."""
    mine = select(LotRow).where(LotRow.workshop_id == desk.workshop_id)
    mine = mine.options(joinedload(LotRow.material))
    return desk.session.scalars(mine.order_by(LotRow.expires_on, LotRow.label)).all()


def delete_lot(desk: Desk, key: UUID) -> None:
    """Take a lot off the shelf that no pour drew from."""
    lot = desk.find(LotRow, key, "lot", lock=True)
    if desk.session.scalars(select(LotDraw.coat).where(LotDraw.lot_id == key).limit(1)).first():
        raise ConflictError("Pours drew from this lot; it is part of the log and stays.")
    desk.session.delete(lot)
    desk.session.flush()


def draw(
    desk: Desk, material_id: UUID, pour_id: UUID, coat: int, grams: Decimal, on: date
) -> Decimal:
    """Draw a coat from the lots in date, opened ones first; returns what no lot covered. [g]

    The rows are locked in the order of their keys, so that any number of pours at once neither
    draw a gram twice nor wait for each other in a ring.
    """
    locked = desk.session.scalars(
        select(LotRow)
        .where(*_usable(desk, material_id, on))
        .order_by(LotRow.id)
        .with_for_update()
        # What another pour drew while this one waited must be seen.
        .execution_options(populate_existing=True)
    ).all()
    missing = grams
    for lot in sorted(locked, key=lambda one: (one.opened_on or date.max, one.expires_on, one.id)):
        taken = min(missing, lot.left_g)
        if taken > 0:
            lot.left_g -= taken
            lot.opened_on = lot.opened_on or on
            desk.session.add(LotDraw(lot_id=lot.id, pour_id=pour_id, coat=coat, grams=taken))
            missing -= taken
    desk.session.flush()
    return missing


def _usable(desk: Desk, material_id: UUID, on: date) -> tuple[ColumnElement[bool], ...]:
    return (
        LotRow.workshop_id == desk.workshop_id,
        LotRow.material_id == material_id,
        LotRow.expires_on >= on,
        LotRow.left_g > 0,
    )


def put_back(desk: Desk, pour_id: UUID, coat: int) -> None:
    """Give back what a coat drew."""
    draws = desk.session.scalars(
        select(LotDraw)
        .where(LotDraw.pour_id == pour_id, LotDraw.coat == coat)
        .order_by(LotDraw.lot_id)
    ).all()
    for one in draws:
        lot = desk.session.get_one(LotRow, one.lot_id, with_for_update=True, populate_existing=True)
        lot.left_g += one.grams
        desk.session.delete(one)
    desk.session.flush()


def plan_buying(
    desk: Desk, casts: Sequence[tuple[UUID, int]], moulds: Sequence[tuple[UUID, int]]
) -> list[Need]:
    """Plan what to buy for casts of some sheets and for some moulds; equal needs are added up."""
    if not casts and not moulds:
        raise InputError("Say how many casts of a sheet, or how many moulds.", "casts")
    needed: dict[UUID, float] = defaultdict(float)
    for sheet_id, count in casts:
        row = find_sheet(desk, sheet_id)
        needed[row.material_id] += plan_of(desk, row).resin_kg * count
    for mould_id, count in moulds:
        mould = find_mould(desk, mould_id)
        takes = estimate_of(mould)
        needed[mould.rubber_id] += takes.rubber_kg * count
        needed[mould.shell_id] += takes.shell_kg * count
    today = desk.now.date()
    return [
        Need(
            material=find_material(desk, material_id),
            need_kg=need_kg,
            purchase=plan_purchase(
                need_kg, _lots(desk, material_id, today), kits_of(desk, material_id), today
            ),
        )
        for material_id, need_kg in needed.items()
    ]


def usable_lots(desk: Desk, material_id: UUID, on: date) -> Sequence[LotRow]:
    """Return the lots of a material that are in date and not empty."""
    return desk.session.scalars(select(LotRow).where(*_usable(desk, material_id, on))).all()


def _lots(desk: Desk, material_id: UUID, on: date) -> tuple[Lot, ...]:
    return tuple(
        Lot(row.label, float(row.left_g) / 1000.0, row.opened_on, row.expires_on)
        for row in usable_lots(desk, material_id, on)
    )


def kits_of(desk: Desk, material_id: UUID) -> tuple[Kit, ...]:
    """Return the kits on offer for a material, the smallest first."""
    rows = desk.session.scalars(
        select(KitOffer)
        .where(KitOffer.workshop_id == desk.workshop_id, KitOffer.material_id == material_id)
        .order_by(KitOffer.mass_kg)
    ).all()
    return tuple(Kit(row.name, row.mass_kg, row.price, row.shelf_life_days) for row in rows)


def set_kits(desk: Desk, material_id: UUID, kits: Sequence[Kit]) -> tuple[Kit, ...]:
    """Replace the kits on offer for a material."""
    material = desk.find(Material, material_id, "material", lock=True)
    if len(kits) > _MOST_KITS:
        raise InputError(f"Up to {_MOST_KITS} kits are offered of one material.", "kits")
    if any(kit.price >= _DEAREST for kit in kits):
        raise InputError("A kit costs less than 1,000,000.", "price")
    desk.session.execute(delete(KitOffer).where(KitOffer.material_id == material.id))
    desk.session.add_all(
        KitOffer(
            workshop_id=desk.workshop_id,
            created_at=desk.now,
            material_id=material.id,
            name=kit.name,
            mass_kg=kit.mass_kg,
            price=kit.price,
            shelf_life_days=kit.shelf_life_days,
        )
        for kit in kits
    )
    desk.session.flush()
    return kits_of(desk, material.id)
