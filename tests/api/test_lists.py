"""Lists: a page takes the same few statements and little to send, however many rows there are."""

from collections.abc import Iterator
from contextlib import contextmanager

import pytest
from sqlalchemy import event, text

from api.conftest import API

ROWS = 1_000
MOST_BYTES = 60_000


@pytest.fixture
def many(client, sheet):
    """A thousand cast sheets, copied in the database."""
    with client.application.extensions["mildhusk"].sessions.begin() as session:
        columns = [
            str(one)
            for one in session.scalars(
                text(
                    "SELECT column_name FROM information_schema.columns "
                    "WHERE table_name = 'cast_sheet' AND column_name NOT IN ('id', 'name')"
                )
            )
        ]
        listed = ", ".join(columns)
        session.execute(
            text(
                f"INSERT INTO cast_sheet (id, name, {listed}) "
                f"SELECT gen_random_uuid(), 'Copy ' || n, {listed} "
                "FROM cast_sheet, generate_series(1, :n) AS n"
            ),
            {"n": ROWS - 1},
        )


@contextmanager
def statements(engine) -> Iterator[list[str]]:
    said: list[str] = []

    def note(_connection, _cursor, statement, *_rest):
        # Those are of the tests alone, whose sessions share a transaction.
        if "SAVEPOINT" not in statement and "SET LOCAL ROLE" not in statement:
            said.append(statement)

    event.listen(engine, "before_cursor_execute", note)
    try:
        yield said
    finally:
        event.remove(engine, "before_cursor_execute", note)


def count(client, engine, path) -> int:
    client.get(f"{API}{path}")
    with statements(engine) as said:
        assert client.get(f"{API}{path}").status_code == 200
    return len(said)


def test_a_list_of_a_thousand_sheets_costs_what_one_of_one_costs(client, engine, sheet, request):
    before = count(client, engine, "/sheets")
    request.getfixturevalue("many")
    assert count(client, engine, "/sheets") == before <= 6
    page = client.get(f"{API}/sheets")
    assert page.json["total"] == ROWS
    assert len(page.json["sheets"]) == 50
    assert len(page.data) < MOST_BYTES
    # And no more is sent where a page is as long as it may be, than its rows take.
    assert len(client.get(f"{API}/sheets?limit=500").json["sheets"]) == 500


def test_a_sheet_is_planned_without_asking_for_one_thing_twice(client, engine, sheet):
    path = f"{API}/sheets/{sheet['id']}"
    client.get(path)
    with statements(engine) as said:
        assert client.get(path).status_code == 200
    whole = [one for one in said if one.startswith("SELECT workshop.")]
    assert len(whole) == 1
    assert len(said) <= 12


def test_pages_follow_each_other_without_gap_or_overlap_and_are_searched(client, many):
    seen = [
        one["id"]
        for offset in range(0, ROWS, 300)
        for one in client.get(f"{API}/sheets?limit=300&offset={offset}").json["sheets"]
    ]
    assert len(seen) == len(set(seen)) == ROWS
    found = client.get(f"{API}/sheets?search=copy%2077").json
    # Copy 77 and 770 to 779.
    assert found["total"] == 11
    assert client.get(f"{API}/sheets?search=%25").json["total"] == 0


def test_a_changed_material_is_seen_in_the_list(client, sheet, resin):
    before = client.get(f"{API}/sheets").json["sheets"][0]
    known = resin("pu-fast-rigid")
    values = {name: value for name, value in known["sheet"].items() if name != "origin"}
    body = {
        "name": known["name"],
        "sheet": {**values, "coat_wall_m": values["coat_wall_m"] / 2},
        "version": known["version"],
    }
    assert client.put(f"{API}/materials/{known['id']}", json=body).status_code == 200
    after = client.get(f"{API}/sheets").json["sheets"][0]
    plan = client.get(f"{API}/sheets/{sheet['id']}").json["plan"]
    assert after["coats"] == len(plan["coats"]) > before["coats"]
    assert after["total_charge_kg"] == plan["total_charge_kg"]
    # The workshop's equipment is in every plan, too.
    equipment = client.get(f"{API}/workshop").json["equipment"]
    cup = {"bottom_diameter_m": 0.03, "top_diameter_m": 0.04, "height_m": 0.04}
    client.put(f"{API}/workshop/equipment", json={**equipment, "cup": cup})
    again = client.get(f"{API}/sheets").json["sheets"][0]
    assert again["coats"] == len(client.get(f"{API}/sheets/{sheet['id']}").json["plan"]["coats"])
