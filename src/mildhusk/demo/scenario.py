"""Fills an empty workshop: the Salt Lantern, an invented carnival workshop. All of it made up."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from decimal import Decimal
from hashlib import sha256
from io import BytesIO
from uuid import UUID

from sqlalchemy import select

from mildhusk.core.casting.wish import USUAL, CastWish
from mildhusk.core.constants import ZERO_CELSIUS_K
from mildhusk.core.geometry.length_units import LengthUnit
from mildhusk.core.geometry.reading import read_shape
from mildhusk.core.geometry.survey import survey
from mildhusk.core.geometry.survey_options import SurveyWish
from mildhusk.core.pouring.steps import PourStep
from mildhusk.demo.shapes import bust_stl, half_mask_stl, helmet_stl
from mildhusk.services.files import keep_file, read_facts, write_facts
from mildhusk.services.lots import add_lot
from mildhusk.services.mould_build import MouldRequest
from mildhusk.services.moulds import add_mould
from mildhusk.services.pieces import keep_surveyed
from mildhusk.services.pours import (
    WeighedParts,
    close_pour,
    followed_by,
    record_step,
    start_pour,
)
from mildhusk.services.sheets import SheetQuestion, add_sheet
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import Sessions
from mildhusk.store.tables import Material, Piece, PieceSource, PourStatus, Workshop
from mildhusk.store.values import SURVEY_WISHES


@dataclass(frozen=True, slots=True)
class _DemoPour:
    """A pour of long ago: how far each coat was off its plan, and what came out."""

    days_ago: int
    overweight: tuple[float, ...]
    slow: float
    cast_share: float
    note: str
    spoilt: bool = False


@dataclass(frozen=True, slots=True)
class _DemoSheet:
    name: str
    resin: str
    wall_mm: float
    room_c: float
    allowance: float = 0.15
    motion: str | None = None
    worn: bool = False
    pours: tuple[_DemoPour, ...] = ()


@dataclass(frozen=True, slots=True)
class _DemoLot:
    """A lot on the demo's shelf; `opened_days_ago` 0 is unopened."""

    resin: str
    label: str
    kg: float
    opened_days_ago: int
    good_for_days: int
    price: str | None = None


@dataclass(frozen=True, slots=True)
class _DemoMould:
    name: str
    rubber: str
    wall_mm: float
    shell: str
    life_casts: int


@dataclass(frozen=True, slots=True)
class _DemoPiece:
    name: str
    file_name: str
    make: Callable[[], bytes]
    mould: _DemoMould
    sheets: tuple[_DemoSheet, ...]


_PIECES = (
    _DemoPiece(
        "Marsh bird half mask",
        "marsh-bird.stl",
        half_mask_stl,
        _DemoMould("Marsh bird glove", "rubber-addition-soft", 9.0, "shell-bandage", 40),
        (
            _DemoSheet(
                "Marsh bird, chorus copy",
                "pu-fast-rigid",
                2.5,
                21.0,
                worn=True,
                pours=(
                    _DemoPour(
                        9,
                        (0.004, 0.0, 0.011),
                        1.05,
                        0.93,
                        "Beak tip came out solid. Brow thin on the left.",
                    ),
                    _DemoPour(6, (0.0, 0.006, -0.003), 0.98, 0.94, "Even. Kept turning longer."),
                    _DemoPour(
                        5,
                        (0.0, 0.0, 0.0),
                        1.0,
                        0.0,
                        "Ran out over the rim in coat 3, mask too thin to keep.",
                        spoilt=True,
                    ),
                ),
            ),
            _DemoSheet("Marsh bird, see-through", "pu-clear-tintable", 3.0, 22.0, worn=True),
        ),
    ),
    _DemoPiece(
        "Lamplighter helmet",
        "lamplighter.stl",
        helmet_stl,
        _DemoMould(
            "Lamplighter, two parts", "rubber-addition-firm", 11.0, "shell-urethane-paste", 50
        ),
        (
            _DemoSheet(
                "Lamplighter, parade",
                "pu-medium-rigid",
                4.0,
                20.0,
                worn=True,
                pours=(
                    _DemoPour(
                        3, (0.002, 0.0, 0.004, 0.0, 0.01), 1.1, 0.95, "Cold evening, gelled late."
                    ),
                ),
            ),
            _DemoSheet("Lamplighter, feather light", "pu-light-filled", 4.0, 23.0, worn=True),
            _DemoSheet(
                "Lamplighter, market day", "pu-fast-rigid", 3.0, 21.0, motion=USUAL, worn=True
            ),
        ),
    ),
    _DemoPiece(
        "Harbour mistress bust",
        "harbour-mistress.stl",
        bust_stl,
        _DemoMould(
            "Harbour mistress, cut back", "rubber-condensation", 10.0, "shell-bandage-gypsum", 25
        ),
        (
            _DemoSheet("Harbour mistress, shop window", "polyester", 3.0, 19.0),
            _DemoSheet(
                "Harbour mistress, stage break",
                "pu-brittle",
                2.0,
                22.0,
                allowance=0.0,
                pours=(_DemoPour(1, (0.0, 0.012), 0.97, 0.92, "Breaks well, big shards."),),
            ),
        ),
    ),
)


_LOTS = (
    _DemoLot("pu-fast-rigid", "Fast, shelf 2 left", 1.9, 40, 150, "39.50"),
    _DemoLot("pu-fast-rigid", "Fast, new pair", 1.9, 0, 260, "42.00"),
    _DemoLot("pu-medium-rigid", "Medium, blue lids", 2.0, 12, 200, "46.00"),
    _DemoLot("rubber-addition-firm", "Firm rubber, half pail", 5.0, 30, 220, "131.00"),
    _DemoLot("polyester", "Polyester, by the door", 5.0, 300, -4),
)


def fill(sessions: Sessions, now: datetime) -> bool:
    """Fill the workshop with the demo unless it has pieces already; tell whether it was filled."""
    with sessions.begin() as session:
        workshop_id = found_workshop(session, now)
        if session.scalars(select(Piece.id).limit(1)).first() is not None:
            return False
        workshop = session.get_one(Workshop, workshop_id)
        workshop.name = "The Salt Lantern"
        for lot in _LOTS:
            material = session.scalars(select(Material).where(Material.key == lot.resin)).one()
            add_lot(
                Transaction(session, workshop_id, now - timedelta(days=60)),
                material.id,
                lot.label,
                lot.kg,
                (now - timedelta(days=lot.opened_days_ago)).date() if lot.opened_days_ago else None,
                (now + timedelta(days=lot.good_for_days)).date(),
                None if lot.price is None else Decimal(lot.price),
            )
        for age, piece in enumerate(_PIECES, start=20):
            _add(Transaction(session, workshop_id, now - timedelta(days=age)), piece, now)
        return True


def _add(transaction: Transaction, demo: _DemoPiece, now: datetime) -> None:
    piece = _piece(transaction, demo)
    add_mould(
        transaction,
        MouldRequest(
            name=demo.mould.name,
            piece_id=piece.id,
            rubber_id=_material(transaction, demo.mould.rubber).id,
            shell_id=_material(transaction, demo.mould.shell).id,
            rubber_wall_m=demo.mould.wall_mm / 1e3,
            life_casts=demo.mould.life_casts,
        ),
    )
    for sheet in demo.sheets:
        material = _material(transaction, sheet.resin)
        wish = CastWish(
            wall_m=sheet.wall_mm / 1e3,
            room_temperature_k=sheet.room_c + ZERO_CELSIUS_K,
            allowance=sheet.allowance,
            motion=sheet.motion,
            worn=sheet.worn,
        )
        row = add_sheet(transaction, sheet.name, SheetQuestion(piece.id, material.id, wish))
        for pour in sheet.pours:
            evening = (now - timedelta(days=pour.days_ago)).replace(hour=17, minute=40, second=0)
            _pour(Transaction(transaction.session, transaction.workshop_id, evening), row.id, pour)


def _piece(transaction: Transaction, demo: _DemoPiece) -> Piece:
    """Survey a piece at once, as a worker would."""
    content, units, wish = demo.make(), LengthUnit.MILLIMETRE, SurveyWish()
    key = sha256(content).hexdigest()
    keep_file(transaction, demo.file_name, key, len(content), BytesIO(content))
    write_facts(transaction, key, read_facts(content, demo.file_name))
    found = survey(read_shape(content, demo.file_name).mesh.scaled(units.metres), wish)
    asked = SURVEY_WISHES.write(wish)
    return keep_surveyed(transaction, demo.name, PieceSource.FILE, key, units, asked, found)


def _material(transaction: Transaction, key: str) -> Material:
    return transaction.session.scalars(select(Material).where(Material.key == key)).one()


def _pour(transaction: Transaction, sheet_id: UUID, demo: _DemoPour) -> None:
    pour = start_pour(transaction, sheet_id)
    plan = followed_by(pour)
    poured_kg = 0.0
    for coat, more in zip(plan.coats, _cycled(demo.overweight), strict=False):
        parts = coat.parts_m3 if plan.ratio_basis == "volume" else coat.parts_kg
        weighed = WeighedParts(parts.A * (1.0 + more), parts.B * (1.0 + more))
        poured_kg += coat.charge_kg * (1.0 + more)
        first_contact = transaction.now + timedelta(seconds=coat.starts_s * demo.slow)
        for step, seconds in (
            (PourStep.WEIGH, -15.0),
            (PourStep.MIX, 0.0),
            (PourStep.POUR, coat.pour_by_s * 0.8),
            (PourStep.GEL, coat.roll_until_s * demo.slow),
        ):
            moment = first_contact + timedelta(seconds=seconds)
            at = Transaction(transaction.session, transaction.workshop_id, moment)
            record_step(at, pour.id, coat.number, step, None, weighed)
    done = transaction.now + timedelta(seconds=plan.out_after_s * demo.slow)
    at = Transaction(transaction.session, transaction.workshop_id, done)
    if demo.spoilt:
        close_pour(at, pour.id, PourStatus.SPOILT, None, demo.note)
    else:
        close_pour(at, pour.id, PourStatus.CAST, poured_kg * demo.cast_share, demo.note)


def _cycled(values: tuple[float, ...]) -> tuple[float, ...]:
    """More of the same for a sheet with more coats than the demo thought of."""
    return values * 8
