"""A database of an earlier release becomes one of this, and nothing in it is lost."""

import json
import threading
import time
from datetime import datetime
from uuid import UUID, uuid4

import pytest
from alembic import command
from sqlalchemy import text

from core.plans import FACE, RESIN, WISH
from mildhusk.core.casting.plan import plan_cast
from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.materials.catalogue import record_of
from mildhusk.services.files import content_of
from mildhusk.services.pour_facts import followed_by
from mildhusk.services.pours import find_pour
from mildhusk.services.sheets import find_sheet, plan_of
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import equipment_here, found_workshop
from mildhusk.store.database import migrate, migration_config, open_engine, open_sessions
from mildhusk.store.kept import facts
from mildhusk.store.tables import Material
from served import fresh_database

HOME, RESIN_ID, PIECE_ID = uuid4(), uuid4(), uuid4()
AS_OF_OLD, OF_CLAY, POUR_ID = uuid4(), uuid4(), uuid4()
WHEN = "2026-11-01T12:00:00Z"
STL = b"as it was uploaded"


@pytest.fixture
def url(cluster):
    with fresh_database(cluster) as made:
        yield made


def _insert(connection, table, **values):
    names = ", ".join(values)
    slots = ", ".join(f":{name}" for name in values)
    plain = {
        name: json.dumps(value) if isinstance(value, dict | list | tuple) else value
        for name, value in values.items()
    }
    connection.execute(text(f"INSERT INTO {table} ({names}) VALUES ({slots})"), plain)


def _as_kept_before(connection):
    """Rows as the release before wrote them: no versions, the plan whole, files in one piece."""
    row = {"workshop_id": HOME, "created_at": WHEN}
    _insert(connection, "workshop", id=HOME, name="Old", currency="EUR",
            bench={"opens": 25_200.0, "closes": 64_800.0})  # fmt: skip
    resin = record_of(RESIN)
    _insert(connection, "material", id=RESIN_ID, **row, version=1, kind=resin.kind,
            key=resin.key, name=resin.name, sheet=facts(resin.sheet))  # fmt: skip
    _insert(connection, "mesh_file", workshop_id=HOME, sha256="a" * 64, uploaded_at=WHEN,
            file_name="old.stl", content=STL, faces=10, extents=[1.0, 1.0, 1.0],
            guessed_unit="mm", guess_is_sure=True)  # fmt: skip
    _insert(connection, "piece", id=PIECE_ID, **row, version=1, name="Old piece", source="file",
            mesh_sha256="a" * 64, units="mm", asked={}, measures=facts(FACE), survey={},
            face=b"")  # fmt: skip
    wish = {name: value for name, value in facts(WISH).items() if name != "school"}
    for key, name, school in ((AS_OF_OLD, "Of resin", "equal"), (OF_CLAY, "Of clay", "clay")):
        _insert(connection, "cast_sheet", id=key, **row, version=1, name=name, piece_id=PIECE_ID,
                material_id=RESIN_ID, wish={**wish, "school": school})  # fmt: skip
    plan = facts(PourPlan.of(plan_cast(FACE, RESIN, WISH)))
    densities = plan.pop("densities_kg_m3")
    _insert(connection, "pour", id=POUR_ID, **row, sheet_id=AS_OF_OLD,
            material_id=RESIN_ID, sheet_name="Of resin",
            piece_name="Old piece", resin_name=resin.name, status="open",
            plan={**plan, "why": [], "cautions": ["Gloves."]}, densities_kg_m3=densities,
            note="")  # fmt: skip


def _make_old(engine):
    with engine.begin() as connection:
        config = migration_config()
        config.attributes["connection"] = connection
        command.upgrade(config, "0009")
        _as_kept_before(connection)


def test_what_a_release_kept_is_read_by_the_next(url):
    engine = open_engine(url)
    _make_old(engine)
    migrate(engine)
    with open_sessions(engine).begin() as session:
        assert found_workshop(session, WHEN) == HOME
        at = Transaction(session, HOME, datetime.fromisoformat(WHEN))
        assert (equipment_here(at).opens_h, equipment_here(at).closes_h) == (7.0, 18.0)
        assert content_of(at, "a" * 64) == STL
        before = plan_cast(FACE, RESIN, WISH)
        assert plan_of(at, find_sheet(at, AS_OF_OLD)).total_charge_kg == before.total_charge_kg
        clay = find_sheet(at, OF_CLAY)
        assert session.get(Material, clay.material_id).key == "clay-melted"
        assert plan_of(at, clay).cost > 0
        followed = followed_by(find_pour(at, UUID(str(POUR_ID))))
        assert followed.coats == PourPlan.of(before).coats
        assert RESIN.density_a_kg_m3 == followed.densities_kg_m3.A
    engine.dispose()


@pytest.fixture
def old(url):
    """Somebody at work in a database of an earlier release, and how it is upgraded beside them."""
    engine = open_engine(url)
    _make_old(engine)
    upgrading = threading.Thread(target=migrate, args=(engine,))
    with engine.connect() as somebody:
        yield engine, somebody, upgrading
    upgrading.join(60)
    assert not upgrading.is_alive()
    with engine.connect() as connection:
        assert _revision_in(connection) > "0021"
    engine.dispose()


def _revision_in(connection):
    return connection.execute(text("SELECT version_num FROM alembic_version")).scalar_one()


def test_an_upgrade_holds_up_nobody_for_long_and_is_whole_or_not_at_all(old):
    """PostgreSQL's manual, 13.3: whoever asks for a table waits behind who waits for it alone."""
    engine, somebody, upgrading = old
    waits = []
    # Somebody looks at the pieces, and takes their time.
    somebody.execute(text("SELECT name FROM piece"))
    upgrading.start()
    ends = time.monotonic() + 8.0
    while time.monotonic() < ends:
        began = time.monotonic()
        with engine.connect() as another:
            another.execute(text("SET LOCAL statement_timeout = '4s'"))
            assert another.execute(text("SELECT name FROM piece")).scalar_one() == "Old piece"
            assert _revision_in(another) == "0009"
        waits.append(time.monotonic() - began)
        time.sleep(0.01)
    assert upgrading.is_alive()
    somebody.rollback()
    # Some did meet it, none for longer than it waits.
    assert 0.05 < max(waits) < 1.5


def test_an_upgrade_and_somebodys_work_never_wait_for_each_other(old):
    """PostgreSQL's manual, 13.3.4: of two that do, one is ended after a second."""
    engine, somebody, upgrading = old
    somebody.execute(text("UPDATE pour SET note = 'so far'"))
    upgrading.start()
    # Long enough for it to hold some tables and wait for the pours.
    time.sleep(1.0)
    tables = somebody.execute(
        text("SELECT tablename FROM pg_tables WHERE schemaname = 'public' ORDER BY tablename")
    ).scalars()
    for table in tables.all():
        somebody.execute(text(f"SELECT count(*) FROM {table}"))
        time.sleep(0.05)
    somebody.commit()
    upgrading.join(60)
    with engine.connect() as another:
        assert another.execute(text("SELECT note FROM pour")).scalar_one() == "so far"


def test_of_several_that_start_at_once_one_makes_the_tables(url):
    engines = [open_engine(url) for _ in range(3)]
    failed = []

    def start(engine):
        try:
            migrate(engine)
        except BaseException as error:  # noqa: BLE001 - told below
            failed.append(error)

    starts = [threading.Thread(target=start, args=(one,)) for one in engines]
    for one in starts:
        one.start()
    for one in starts:
        one.join(120)
    assert failed == []
    with engines[0].connect() as connection:
        assert connection.execute(text("SELECT count(*) FROM alembic_version")).scalar_one() == 1
    for one in engines:
        one.dispose()
