"""The demo: shapes that a mould could be made of, and a scenario that fits itself."""

from datetime import UTC, datetime

import pytest
from sqlalchemy import select

from mildhusk.core.casting.findings import piece_findings, sheet_findings
from mildhusk.core.findings import Severity
from mildhusk.core.geometry.length_units import LengthUnit, guess_unit
from mildhusk.core.geometry.measure import measure_face
from mildhusk.core.geometry.reading import read_stl
from mildhusk.core.geometry.wall_volume import ShellCurve, shell_volume
from mildhusk.demo.scenario import fill
from mildhusk.demo.shapes import bottle_stl, bust_stl, half_mask_stl, helmet_stl
from mildhusk.services.pour_facts import comparison_of
from mildhusk.services.sheets import plan_of
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import CastSheetRow, LotRow, Pour, PourStatus
from served import sessions_on

NOW = datetime(2026, 6, 1, 12, 0, tzinfo=UTC)


@pytest.mark.parametrize("make", [half_mask_stl, helmet_stl, bust_stl, bottle_stl])
def test_a_demo_piece_is_one_clean_face_with_one_opening(make):
    mesh = read_stl(make())
    assert guess_unit(mesh) == (LengthUnit.MILLIMETRE, True)
    face = measure_face(mesh.scaled(1e-3))
    assert (face.bodies, len(face.openings)) == (1, 1)
    assert piece_findings(face) == ()
    # A browser that draws in software stays quick below about this many faces.
    assert face.faces < 30_000
    # Less than area times wall, because every piece bends outwards more than inwards.
    assert shell_volume(ShellCurve.of(face), 0.003) < 0.003 * face.area_m2


def test_the_same_demo_is_made_every_time():
    assert half_mask_stl() == half_mask_stl()


@pytest.fixture(scope="module")
def scene(engine):
    with engine.connect() as connection, connection.begin() as transaction:
        sessions = sessions_on(connection)
        assert fill(sessions, NOW)
        assert not fill(sessions, NOW)  # a second start adds nothing
        with sessions() as session:
            yield session
        transaction.rollback()


def test_every_sheet_can_be_poured_as_it_stands(scene):
    rows = scene.scalars(select(CastSheetRow)).all()
    assert len(rows) == 9
    for row in rows:
        plan = plan_of(Transaction(scene, row.workshop_id, NOW), row)
        assert all(f.severity is not Severity.STOP for f in sheet_findings(plan))


def test_logged_pours_stay_near_their_plans_and_lose_something(scene):
    pours = scene.scalars(select(Pour)).all()
    assert {pour.status for pour in pours} == {PourStatus.CAST, PourStatus.SPOILT}
    for pour in pours:
        compared = comparison_of(pour)
        assert compared.poured_kg == pytest.approx(compared.planned_kg, rel=0.02)
        if compared.stayed_share is not None:
            # What a plan says stays on lid and rim is in no cast.
            planned = compared.planned_cast_kg / compared.planned_kg
            assert 0.9 < compared.stayed_share / planned < 1.02
            assert compared.stayed_share < 1.0
        for coat in pour.coats:
            assert coat.weighed_at <= coat.mixed_at <= coat.poured_at <= coat.gelled_at <= NOW


def test_lots_were_drawn_by_the_pours_and_the_expired_one_was_not(scene):
    lots = {lot.label: lot for lot in scene.scalars(select(LotRow))}
    assert lots["Fast, shelf 2 left"].left_g < lots["Fast, shelf 2 left"].bought_g
    assert lots["Polyester, by the door"].left_g == lots["Polyester, by the door"].bought_g
