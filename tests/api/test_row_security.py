"""The walls that the database itself keeps: whatever a use case forgets, no foreign row is there.

Row-level security is PostgreSQL's own (its manual, chapter 5.9); what is tried here is that every
table has it and that each policy says what it should.
"""

import pytest
from sqlalchemy import func, select, text, update
from sqlalchemy.exc import ProgrammingError

from api.conftest import START
from api.test_access import backstage_of
from api.test_walls_between import CANARY, both, fill, other_id, rows_of
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import new_workshop
from mildhusk.store.base import Base
from mildhusk.store.database import stay_in
from mildhusk.store.tables import Piece

assert both, other_id  # fixtures
_OF_NOBODY = {"failed_sign_in"}
"""Whoever fails to sign in has no workshop yet; the role of a workshop may not even read it."""
FEWEST_TABLES = 15


@pytest.fixture
def filled(client, both, other_id):
    """A foreign workshop with rows in most tables, coats and draws of its pours among them."""
    fill(both[1])
    return other_id


def test_every_table_is_behind_the_walls(client):
    asked = text(
        "SELECT relname FROM pg_class JOIN pg_policy ON polrelid = pg_class.oid "
        "WHERE relrowsecurity AND polname = 'own_workshop'"
    )
    with backstage_of(client).sessions() as session:
        walled = set(session.scalars(asked))
    assert walled == set(Base.metadata.tables) - _OF_NOBODY


def test_a_workshop_is_alone_in_the_database(client, filled, workshop_id):
    sessions = backstage_of(client).sessions
    theirs = 0
    for table in Base.metadata.sorted_tables:
        if table.name in _OF_NOBODY:
            continue
        with sessions() as session:
            everything = session.scalar(select(func.count()).select_from(table))
        seen = 0
        for here in (workshop_id, filled):
            with sessions() as session:
                stay_in(session, here)
                own = session.scalar(select(func.count()).select_from(table))
                written = session.scalars(
                    select(func.to_jsonb(text(table.name))).select_from(table)
                )
                said = [str(row) for row in written]
            assert not any(CANARY in one for one in said) or here == filled, table.name
            seen += own
            theirs += here == filled and own > 0
        assert seen == everything, table.name
    assert theirs >= FEWEST_TABLES
    with sessions() as session:
        stay_in(session, workshop_id)
        with pytest.raises(ProgrammingError, match="permission denied"):
            session.execute(text("SELECT * FROM failed_sign_in"))


def test_what_forgets_to_ask_whose_it_is_changes_nothing_of_others(client, filled, workshop_id):
    sessions, before = backstage_of(client).sessions, rows_of(client, filled)
    for table in Base.metadata.sorted_tables:
        if table.name in _OF_NOBODY:
            continue
        column = next(iter(table.primary_key.columns))
        with sessions.begin() as session:
            stay_in(session, workshop_id)
            session.execute(update(table).values({column.name: column}))
            theirs = [row["id"] for row in before.get(table.name, ()) if "id" in row]
            if theirs:
                gone = session.execute(table.delete().where(table.c.id.in_(theirs)))
                assert gone.rowcount == 0, table.name
    assert rows_of(client, filled) == before


def test_a_row_is_neither_made_in_another_workshop_nor_moved_there(client, filled, workshop_id):
    sessions = backstage_of(client).sessions
    with sessions() as session:
        stay_in(session, workshop_id)
        with pytest.raises(ProgrammingError, match="row-level security"):
            new_workshop(session, START, "A third one")
    with sessions() as session:
        stay_in(session, filled)
        assert session.scalars(select(Piece)).all()
        with pytest.raises(ProgrammingError, match="row-level security"):
            session.execute(update(Piece).values(workshop_id=workshop_id))


def test_a_use_case_that_does_not_check_finds_nothing(client, filled, workshop_id):
    with backstage_of(client).sessions() as session:
        key = session.scalar(select(Piece.id).where(Piece.workshop_id == filled))
    with backstage_of(client).sessions.begin() as session:
        Transaction(session, workshop_id, START)
        assert session.get(Piece, key) is None
    with backstage_of(client).sessions.begin() as session:
        Transaction(session, filled, START)
        assert session.get(Piece, key) is not None
