"""What a cast costs in this workshop: its lots, its rates, its mould."""

from dataclasses import dataclass
from decimal import Decimal
from uuid import UUID

from sqlalchemy import select

from mildhusk.core.amounts import Source, source_of
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.catalogue import CastingMaterial
from mildhusk.core.materials.kinds import Consumable
from mildhusk.core.mould.plan import MouldPlan
from mildhusk.core.supply.costing import Cost, MouldCosting, Rate, cost_of_mould, cost_of_run
from mildhusk.services.buying import kits_of
from mildhusk.services.lots import usable_lots
from mildhusk.services.mould_build import build_of
from mildhusk.services.mould_study import MouldPrices, PlanRequest, plan_of_mould
from mildhusk.services.moulds import estimate_of, find_mould
from mildhusk.services.sheets import find_sheet, plan_of
from mildhusk.services.shelf import material_of
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import workshop_here
from mildhusk.store.tables import Material, MouldRow, Workshop

USUAL_HOUR_RATE = Decimal("20.00")
"""Stands until the workshop says what its hour costs (assumed)."""


@dataclass(frozen=True, slots=True)
class CostOfSheet:
    """The cost of a sheet's casts, and the names it is told with."""

    sheet_name: str
    mould_name: str | None
    cost: Cost


def cost_sheet(
    transaction: Transaction, sheet_id: UUID, casts: int, mould_id: UUID | None
) -> CostOfSheet:
    """Cost a run of a sheet, with a mould of the same piece or without."""
    row = find_sheet(transaction, sheet_id)
    mould = None if mould_id is None else find_mould(transaction, mould_id)
    if mould is not None and mould.piece_id != row.piece_id:
        raise ConditionError(
            f"The mould '{mould.name}' is of another piece; choose one of '{row.piece.name}'.",
            "mould_id",
        )
    cost = cost_of_run(
        plan_of(transaction, row),
        casts,
        resin_rate=rate_of(transaction, row.material),
        hour_rate=hour_rate_of(workshop_here(transaction)),
        consumables=_consumables(transaction),
        mould=None if mould is None else _mould_costing(transaction, mould),
    )
    return CostOfSheet(row.name, None if mould is None else mould.name, cost)


def _mould_costing(transaction: Transaction, mould: MouldRow) -> MouldCosting:
    return MouldCosting(build_of(mould), estimate_of(mould), rate_of(transaction, mould.rubber))


def mould_cost(transaction: Transaction, mould: MouldRow) -> Decimal | None:
    """Return what a mould costs with its shell and hours; None where nobody knows its rubber's."""
    try:
        costing = _mould_costing(transaction, mould)
    except ConditionError:
        return None
    hour_rate = hour_rate_of(workshop_here(transaction))
    return cost_of_mould(costing, _consumables(transaction), hour_rate)


def price_mould(transaction: Transaction, key: UUID, asked: PlanRequest) -> MouldPlan:
    """Plan a mould with what its rubber costs here."""
    row = find_mould(transaction, key)
    patches = tuple(rate_of(transaction, one.rubber).amount for one in row.patches)
    prices = MouldPrices(rate_of(transaction, row.rubber).amount, patches)
    return plan_of_mould(transaction, row, prices, asked)


def rate_of(transaction: Transaction, material: Material) -> Rate:
    """Return what a kilogram costs: by the lots in date, else the sheet's kit, else a kit offer."""
    lots = [
        lot
        for lot in usable_lots(transaction, material.id, transaction.now.date())
        if lot.price is not None
    ]
    if lots:
        paid = sum((lot.price for lot in lots if lot.price is not None), Decimal(0))
        weight = sum((lot.bought_g for lot in lots), Decimal(0)) / 1000
        return Rate(paid / weight, "kg", Source.LOTS)
    sheet = material_of(material)
    if isinstance(sheet, CastingMaterial):
        return Rate(sheet.price_per_kg, "kg", source_of(sheet.origin))
    offers = kits_of(transaction, material.id)
    if not offers:
        raise ConditionError(
            f"Nobody knows what '{material.name}' costs; add a kit with its price, or a lot.",
            "kits",
        )
    return Rate(offers[0].price / Decimal(repr(offers[0].mass_kg)), "kg", Source.KITS)


def hour_rate_of(workshop: Workshop) -> Rate:
    """Return what an hour costs: what the workshop said, or what is assumed."""
    if workshop.hour_rate is None:
        return Rate(USUAL_HOUR_RATE, "h", Source.ASSUMED)
    return Rate(workshop.hour_rate, "h", Source.WORKSHOP)


def _consumables(transaction: Transaction) -> tuple[Consumable, ...]:
    rows = transaction.session.scalars(
        select(Material)
        .where(Material.workshop_id == transaction.workshop_id, Material.kind == "consumable")
        .order_by(Material.name)
    )
    return tuple(one for one in map(material_of, rows) if isinstance(one, Consumable))
