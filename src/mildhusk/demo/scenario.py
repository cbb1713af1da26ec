"""Fills an empty workshop: the Salt Lantern, an invented carnival workshop. All of it made up."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from decimal import Decimal
from hashlib import sha256
from io import BytesIO
from uuid import UUID

import numpy as np
from sqlalchemy import select

from mildhusk.core.casting.plan import CoatPlan
from mildhusk.core.casting.wish import USUAL, CastWish
from mildhusk.core.coating.motion import motion_named
from mildhusk.core.constants import ZERO_CELSIUS_K
from mildhusk.core.finishing.finish import FinishWish, Paint
from mildhusk.core.geometry.length_units import LengthUnit
from mildhusk.core.geometry.reading import read_shape
from mildhusk.core.geometry.survey import survey
from mildhusk.core.geometry.survey_options import SurveyWish
from mildhusk.core.learning.readings import ReadBy, WallReading
from mildhusk.core.pouring.steps import PourStep
from mildhusk.demo.shapes import bottle_stl, bust_stl, half_mask_stl, helmet_stl
from mildhusk.services.days.jobs import NewDayJob, add_job
from mildhusk.services.days.planning import plan_days_here
from mildhusk.services.errors import ConflictError
from mildhusk.services.faults import add_fault, change_fault, mend_sheet
from mildhusk.services.files import keep_file, read_facts, write_facts
from mildhusk.services.lots import add_lot
from mildhusk.services.mould_build import MouldRequest
from mildhusk.services.moulds import add_mould
from mildhusk.services.pieces import keep_surveyed
from mildhusk.services.pour_facts import followed_by
from mildhusk.services.pours import (
    Ending,
    Press,
    WeighedParts,
    close_pour,
    record_step,
    start_pour,
)
from mildhusk.services.readings import NewReading, add_readings
from mildhusk.services.sheets import SheetQuestion, add_sheet
from mildhusk.services.transaction import Transaction
from mildhusk.services.turning import SENSOR_OUT, keep_readings
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import Sessions
from mildhusk.store.tables import (
    CastSheetRow,
    DayJobKind,
    Material,
    MouldRow,
    Piece,
    PieceSource,
    PourStatus,
    Workshop,
)
from mildhusk.store.values import SURVEY_WISHES, DayJobRequest

_USUAL_YIELD = 0.95
"""Of what is mixed, in a cast that loses as much as is planned for. [1]"""
_READ_EVERY_S, _NOISE = 0.1, 0.004
"""Of a turn sensor. [s], [1]"""


@dataclass(frozen=True, slots=True)
class _DemoPour:
    """A pour of long ago: how far each coat was off its plan, and what came out.

    Where the belt slipped, in which coat and after what share of it, a sensor recorded the turning.
    `late_min` is by how much the second coat missed its window; `walls_mm` what was read, by place;
    `verdict` what its maker found the fault to be, and `mended` says that the sheet was changed.
    """

    days_ago: int
    overweight: tuple[float, ...]
    slow: float
    cast_share: float
    note: str
    spoilt: bool = False
    slipped: tuple[int, float] | None = None
    fault: tuple[str, str] | None = None
    late_min: float = 0.0
    walls_mm: tuple[tuple[str, float], ...] = ()
    verdict: str = ""
    mended: bool = False


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


def _souvenirs() -> tuple[_DemoPour, ...]:
    """Nine casts of one mould: it swells a little, one has a fault, and what mended it."""
    noise = np.random.default_rng(20)
    pours = []
    for number in range(1, 10):
        thin = number == 7
        walls = {"crown": 3.1, "brow": 2.7, "left cheek": 3.3, "chin": 3.0, "shoulder": 3.6}
        grown = 1.0 + 0.0015 * number
        told = tuple(
            (place, round(wall * float(noise.normal(1.0, 0.03)), 2))
            for place, wall in walls.items()
        )
        if thin:
            told = tuple((place, 1.2 if place == "brow" else wall) for place, wall in told)
        pours.append(
            _DemoPour(
                3 * (10 - number) - 1,
                tuple(noise.normal(0.0, 0.004, 3).round(4).tolist()),
                round(float(noise.normal(1.09, 0.02)), 3),
                round(0.925 * grown * float(noise.normal(1.0, 0.003)), 4),
                _SOUVENIR_NOTES.get(number, ""),
                fault=("thin", "brow") if thin else None,
                late_min=9.0 if thin else 0.0,
                walls_mm=told,
                verdict="too-little-resin" if thin else "",
                mended=thin,
            )
        )
    return tuple(pours)


_SOUVENIR_NOTES = {
    1: "First of the mould. Clean.",
    7: "Telephone rang after the first coat. Light through the brow.",
    8: "One coat more. Brow is fine.",
}

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
                "Lamplighter, market day",
                "pu-fast-rigid",
                3.0,
                21.0,
                motion=USUAL,
                worn=True,
                pours=(
                    _DemoPour(
                        2,
                        (0.0, 0.004),
                        1.02,
                        0.93,
                        "The belt slipped in coat 2. Thin over the brow.",
                        slipped=(2, 0.35),
                        fault=("thin", "brow"),
                    ),
                ),
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
            _DemoSheet(
                "Harbour mistress, souvenir",
                "pu-light-filled",
                2.5,
                21.0,
                motion=USUAL,
                pours=_souvenirs(),
            ),
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
    _DemoPiece(
        "Ferryman's bottle",
        "ferryman.stl",
        bottle_stl,
        _DemoMould("Ferryman, cut down one side", "rubber-addition-soft", 8.0, "shell-bandage", 30),
        (
            _DemoSheet(
                "Ferryman, tavern fight",
                "pu-brittle",
                2.5,
                21.0,
                motion=USUAL,
                pours=(
                    _DemoPour(
                        4, (0.0, 0.006, 0.002), 1.0, 0.93, "Thin below the neck; one coat more."
                    ),
                ),
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
            bought = Transaction(session, workshop_id, now - timedelta(days=60))
            add_lot(
                bought,
                _material(bought, lot.resin).id,
                lot.label,
                lot.kg,
                (now - timedelta(days=lot.opened_days_ago)).date() if lot.opened_days_ago else None,
                (now + timedelta(days=lot.good_for_days)).date(),
                None if lot.price is None else Decimal(lot.price),
            )
        for age, piece in enumerate(_PIECES, start=20):
            _add(Transaction(session, workshop_id, now - timedelta(days=age)), piece, now)
        _put_into_the_days(Transaction(session, workshop_id, now))
        return True


def _put_into_the_days(transaction: Transaction) -> None:
    """Two masks for the chorus out of one mould, with their finish, and what else is to be done."""
    sheet = transaction.session.scalars(
        select(CastSheetRow).where(CastSheetRow.name == "Marsh bird, chorus copy")
    ).one()
    mould = transaction.session.scalars(
        select(MouldRow).where(MouldRow.name == "Marsh bird glove")
    ).one()
    finish = FinishWish(Paint.WATER, worn=True, straps=True, cut_outs=2)
    cast = DayJobRequest(finish, "release-paintable-spray")
    for number in (1, 2):
        title = f"Marsh bird for the chorus, {number}"
        add_job(transaction, NewDayJob(DayJobKind.CAST, title, cast, sheet.id, mould.id))
    strips = DayJobRequest(minutes=40.0)
    add_job(transaction, NewDayJob(DayJobKind.OWN, "Cut strips of bandage", strips))
    plan_days_here(transaction, "UTC")


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
        row = _sheet(transaction, piece, sheet)
        for pour in sheet.pours:
            evening = (now - timedelta(days=pour.days_ago)).replace(hour=17, minute=40, second=0)
            _pour(Transaction(transaction.session, transaction.workshop_id, evening), row.id, pour)


def _sheet(transaction: Transaction, piece: Piece, demo: _DemoSheet) -> CastSheetRow:
    wish = CastWish(
        wall_m=demo.wall_mm / 1e3,
        room_temperature_k=demo.room_c + ZERO_CELSIUS_K,
        allowance=demo.allowance,
        motion=demo.motion,
        worn=demo.worn,
    )
    material = _material(transaction, demo.resin)
    return add_sheet(transaction, demo.name, SheetQuestion(piece.id, material.id, wish))


def add_example(transaction: Transaction) -> UUID:
    """Add one piece and one cast sheet to look at; returns the sheet. Both may be deleted again.

    Raises
    ------
    ConflictError
        The workshop has pieces of its own.
    """
    if transaction.count(Piece) > 0:
        raise ConflictError("Your workshop has a piece already; plan a cast of that.")
    demo = next(one for one in _PIECES if "helmet" in one.name)
    sheet = next(one for one in demo.sheets if one.motion is not None)
    return _sheet(transaction, _piece(transaction, demo), sheet).id


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
    mine = (Material.workshop_id == transaction.workshop_id) & (Material.key == key)
    return transaction.session.scalars(select(Material).where(mine)).one()


def _pour(transaction: Transaction, sheet_id: UUID, demo: _DemoPour) -> None:
    pour = start_pour(transaction, sheet_id)
    plan = followed_by(pour)
    poured_kg = 0.0
    late_s = 60.0 * demo.late_min
    for coat, more in zip(plan.coats, _cycled(demo.overweight), strict=False):
        parts = coat.parts_m3 if plan.ratio_basis == "volume" else coat.parts_kg
        weighed = WeighedParts(parts.A * (1.0 + more), parts.B * (1.0 + more))
        poured_kg += coat.charge_kg * (1.0 + more)
        delay_s = late_s if coat.number > 1 else 0.0
        first_contact = transaction.now + timedelta(seconds=coat.starts_s * demo.slow + delay_s)
        for step, seconds in (
            (PourStep.WEIGH, -15.0),
            (PourStep.MIX, 0.0),
            (PourStep.POUR, coat.pour_by_s * 0.8),
            (PourStep.GEL, coat.roll_until_s * demo.slow),
        ):
            moment = first_contact + timedelta(seconds=seconds)
            at = Transaction(transaction.session, transaction.workshop_id, moment)
            record_step(at, pour.id, coat.number, step, Press(), weighed)
        if demo.slipped is not None:
            _record_turning(transaction, pour.id, coat, demo)
    done = transaction.now + timedelta(seconds=plan.out_after_s * demo.slow + late_s)
    at = Transaction(transaction.session, transaction.workshop_id, done)
    if demo.spoilt:
        ending = Ending(PourStatus.SPOILT, note=demo.note)
    else:
        # What a plan says stays on lid and rim is none of the cup's.
        in_cast = plan.cast_kg / plan.total_charge_kg / _USUAL_YIELD
        ending = Ending(PourStatus.CAST, poured_kg * in_cast * demo.cast_share, demo.note)
    close_pour(at, pour.id, Press(), ending)
    if demo.fault is not None:
        kind, place = demo.fault
        fault = add_fault(at, pour.id, kind, place, {})
        if demo.verdict:
            change_fault(at, fault.id, place, {}, demo.verdict)
        if demo.mended:
            mend_sheet(at, fault.id, demo.verdict)
    read = [
        NewReading(WallReading(ReadBy.HOLE, wall_mm / 1e3), place=place)
        for place, wall_mm in demo.walls_mm
    ]
    if read:
        add_readings(at, pour.id, read)


def _record_turning(
    transaction: Transaction, pour_id: UUID, coat: CoatPlan, demo: _DemoPour
) -> None:
    """Keep what a sensor on the mould told of a coat, from the pour until it gelled."""
    assert demo.slipped is not None
    lasted_s = coat.roll_until_s * demo.slow - 0.8 * coat.pour_by_s
    at_s = np.arange(0.0, lasted_s, _READ_EVERY_S)
    slipped_coat, share = demo.slipped
    turned_s = np.minimum(at_s, share * lasted_s if coat.number == slipped_coat else lasted_s)
    ups = motion_named(coat.motion).ups(SENSOR_OUT, turned_s)
    ups += np.random.default_rng(coat.number).normal(0.0, _NOISE, ups.shape)
    ups /= np.linalg.norm(ups, axis=1)[:, None]
    keep_readings(transaction, pour_id, coat.number, np.column_stack([at_s, ups]))


def _cycled(values: tuple[float, ...]) -> tuple[float, ...]:
    """More of the same for a sheet with more coats than the demo thought of."""
    return values * 8
