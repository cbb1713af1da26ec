"""Two workshops on one server: whatever one asks, it neither sees nor moves a row of the other."""

import io
import random
from collections.abc import Callable, Iterator
from contextlib import suppress
from functools import partial
from typing import Any
from uuid import UUID

import pytest
import schemathesis
from flask.testing import FlaskClient
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis.errors import InvalidArgument, Unsatisfiable
from schemathesis import GenerationMode
from sqlalchemy import func, select, text

from api.conftest import API, START, WISH, surveyed
from api.test_access import MAKERS, OWNERS, accept, backstage_of, browser
from core.shapes import half_sphere, stl_bytes
from mildhusk.services.accounts import invite
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import new_workshop
from mildhusk.store.access_tables import Role
from mildhusk.store.base import Base

CANARY = "Kanarienvogel"
"""In every name, note and place of the other workshop."""
FEWEST_ROWS, FEWEST_SENT = 12, 350
Rows = dict[str, list[dict[str, Any]]]


@pytest.fixture
def other_id(client: FlaskClient) -> UUID:
    with backstage_of(client).sessions.begin() as session:
        return new_workshop(session, START, CANARY)


@pytest.fixture
def both(client: FlaskClient, other_id: UUID) -> tuple[FlaskClient, FlaskClient]:
    """The owners of two workshops, signed in."""
    mine = browser(client)
    first = mine.post(f"{API}/accounts/first", json={"name": "Ilse", "password": OWNERS})
    assert first.status_code == 200, first.text
    with backstage_of(client).sessions.begin() as session:
        secret = invite(Transaction(session, other_id, START), Role.OWNER).secret
    theirs = accept(client, secret, name=f"{CANARY} Uta", password=MAKERS)
    return mine, theirs


def made(answer: Any) -> dict[str, Any]:
    assert answer.status_code in (200, 201), answer.text
    return dict(answer.json)


def fill(at: FlaskClient, word: str = CANARY) -> None:
    """A row of nearly every kind, each named after a word."""
    content = stl_bytes(half_sphere(0.07, 9).scaled(1e3))
    sent = at.post(f"{API}/mesh-files", data={"file": (io.BytesIO(content), f"{word}.stl")})
    sha256 = sent.json["sha256"]
    asked = {"name": f"{word} dome", "mesh_sha256": sha256, "units": "mm"}
    piece = surveyed(at, at.post(f"{API}/pieces", json=asked))["id"]
    shelf = {one["key"]: one["id"] for one in at.get(f"{API}/materials").json["materials"]}
    rest = at.get(f"{API}/supplies?limit=500").json["supplies"]
    shelf |= {one["key"]: one["id"] for one in rest}
    resin, rubber = shelf["pu-fast-rigid"], shelf["rubber-addition-firm"]
    wish = {"name": f"{word} sheet", "piece_id": piece, "material_id": resin, "wish": WISH}
    sheet = made(at.post(f"{API}/sheets", json=wish))["id"]
    mould = made(at.post(f"{API}/moulds", json={
        "name": f"{word} mould", "piece_id": piece, "rubber_id": rubber,
        "shell_id": shelf["shell-urethane-paste"], "rubber_wall_m": 0.01, "life_casts": 40,
    }))["id"]  # fmt: skip
    made(at.post(f"{API}/moulds/{mould}/events", json={"kind": "tear", "note": word}))
    made(at.post(f"{API}/lots", json={
        "material_id": resin, "label": f"{word} lot", "bought_kg": 2.0,
        "expires_on": "2027-01-01",
    }))  # fmt: skip
    dab = {"first_id": rubber, "second_id": resin, "note": word}
    made(at.post(f"{API}/dab-tests", json=dab))
    pour = made(at.post(f"{API}/pours", json={"sheet_id": sheet}))["id"]
    made(at.put(f"{API}/pours/{pour}/note", json={"note": word}))
    step = {"coat": 1, "step": "weigh", "parts": {"a": 0.05, "b": 0.045}}
    made(at.post(f"{API}/pours/{pour}/steps", json=step))
    people = [{
        "name": f"{word} Jo", "zone": "UTC", "skills": [], "days_off": [], "extra": [],
        "hours": [{"weekday": 0, "opens_h": 8.0, "closes_h": 16.0, "evening_h": 0.0}],
    }]  # fmt: skip
    made(at.put(f"{API}/days/people", json={"people": people}))
    made(at.post(f"{API}/runs", json={
        "name": f"{word} run", "sheet_id": sheet, "mould_ids": [mould], "wanted": 3,
        "due_on": "2026-09-01",
    }))  # fmt: skip
    made(at.post(f"{API}/days/calendar", json={}))
    made(at.post(f"{API}/invitations", json={"role": "guest", "name": word}))
    made(at.delete(f"{API}/sheets/{made(at.post(f'{API}/sheets', json=wish))['id']}"))


def owned_tables() -> Iterator[Any]:
    yield from (one for one in Base.metadata.sorted_tables if "workshop_id" in one.columns)


def rows_of(client: FlaskClient, workshop_id: UUID) -> Rows:
    """Every row of a workshop, as the database writes it down; of its workshop too."""
    kept: Rows = {}
    with backstage_of(client).sessions() as session:
        for table in owned_tables():
            written = select(func.to_jsonb(text(table.name))).select_from(table)
            mine = written.where(table.c.workshop_id == workshop_id)
            kept[table.name] = sorted(session.scalars(mine), key=str)
        own = text("SELECT to_jsonb(workshop) FROM workshop WHERE id = :id")
        kept["workshop"] = list(session.scalars(own, {"id": workshop_id}))
    # When they were last seen is theirs to move.
    for one in kept["signed_in"]:
        one["seen_at"] = None
    return kept


def keys_of(rows: Rows) -> dict[str, list[str]]:
    """The keys by which they could be asked for, by table."""
    return {
        table: [str(row["id"]) for row in those if "id" in row]
        for table, those in rows.items()
        if table != "material"
    }


def assert_silent(answer: Any, keys: set[str], what: str) -> None:
    said = answer.get_data().decode("utf-8", "replace")
    assert CANARY not in said, (what, answer.status_code, said[:300])
    told = [key for key in keys if key in said]
    # A refusal may say the address again, and no more.
    assert not told or answer.status_code >= 400, (what, answer.status_code, told)
    assert answer.status_code < 500, (what, said)


def test_nothing_of_another_workshop_is_read(client, both, other_id):
    mine, theirs = both
    fill(theirs)
    rows = rows_of(client, other_id)
    keys = keys_of(rows)
    assert sum(map(bool, rows.values())) >= FEWEST_ROWS, {k: len(v) for k, v in rows.items()}
    every = {key for those in keys.values() for key in those}
    document = client.application.api_doc
    answered = []
    for address, methods in document["paths"].items():
        if "get" not in methods or "{secret}" in address or address.endswith("/archive.zip"):
            continue
        asked = [address] if "{" not in address else [
            address.replace("{id}", key).replace("{coat}", "1").replace("{sha256}", key)
            .replace("{key}", key).replace("{kind}", "resin")
            for key in (*sorted(every), *(row["sha256"] for row in rows["mesh_file"]))
        ]  # fmt: skip
        for path in asked:
            answer = mine.get(path)
            assert_silent(answer, every - {path.split("/")[4]} if "{" in address else every, path)
            if "{id}" in address and answer.status_code not in (404, 422):
                answered.append((path, answer.status_code, answer.text[:80]))
    assert answered == []
    # And the file of all that is mine holds nothing of theirs.
    archive = mine.get(f"{API}/archive.zip").data
    assert CANARY.encode() not in archive
    # Whereas they read it themselves.
    assert CANARY in theirs.get(f"{API}/sheets").text
    assert theirs.get(f"{API}/pieces/{keys['piece'][0]}").status_code == 200


STATIONS = {
    "pieces": "piece", "sheets": "cast_sheet", "moulds": "mould", "pours": "pour",
    "runs": "cast_run", "dab-tests": "dab_test", "lots": "lot", "jobs": "job",
    "accounts": "account", "invitations": "invitation", "signed-in": "signed_in",
    "deleted": "deleted_thing", "materials": "material", "supplies": "material",
}  # fmt: skip
BODIES = {
    "piece_id": "piece", "sheet_id": "cast_sheet", "mould_id": "mould", "mould_ids": "mould",
    "material_id": "material", "rubber_id": "material", "shell_id": "material",
    "first_id": "material", "second_id": "material", "account_id": "account", "run_id": "cast_run",
}  # fmt: skip


def test_nothing_of_another_workshop_is_changed(client, both, other_id):
    """Every address that changes something, at the keys of their rows, by what a fuzzer sends."""
    mine, theirs = both
    fill(theirs)
    before = rows_of(client, other_id)
    keys = {table: [str(one["id"]) for one in those if "id" in one]
            for table, those in before.items()}  # fmt: skip
    theirs_all = {key for table, those in keys.items() if table != "material" for key in those}
    chosen = random.Random(7)

    def put_theirs_in(value: Any) -> Any:
        if isinstance(value, list):
            return [put_theirs_in(one) for one in value]
        if not isinstance(value, dict):
            return value
        told = {name: put_theirs_in(one) for name, one in value.items()}
        for name, table in BODIES.items():
            if told.get(name) is not None and keys[table]:
                key = chosen.choice(keys[table])
                told[name] = [key] if isinstance(told[name], list) else key
        return told

    def send(case: Any, table: str) -> None:
        if "id" in case.path_parameters:
            those = keys.get(table) or sorted(theirs_all)
            case.path_parameters["id"] = chosen.choice(those)
        body = put_theirs_in(case.body) if isinstance(case.body, dict) else None
        answer = mine.open(case.formatted_path, method=case.method, json=body or {})
        assert_silent(answer, theirs_all, f"{case.method} {case.formatted_path}")
        sent.append(answer.status_code)

    schema = schemathesis.openapi.from_dict(client.application.api_doc)
    sent: list[int] = []
    for operation in sorted(
        (one.ok() for one in schema.get_all_operations()), key=lambda one: (one.method, one.path)
    ):
        below = operation.path.removeprefix(API)
        # Those sign somebody in or out, and this is about rows.
        if operation.method == "get" or below.startswith(("/sign-", "/invitations/a", "/access")):
            continue
        send_some(operation, partial(send, table=STATIONS.get(below.split("/")[1], "")))
    assert len(sent) >= FEWEST_SENT
    # Some were answered: what is worked out of nobody's rows, or adds to one's own.
    assert sum(status < 300 for status in sent) > 10
    assert rows_of(client, other_id) == before


def send_some(operation: Any, send: Callable[[Any], None]) -> None:
    """Send what a fuzzer makes of what an address takes, a few times."""

    @settings(max_examples=4, phases=[Phase.generate], database=None, deadline=None,
              suppress_health_check=list(HealthCheck))  # fmt: skip
    @given(case=operation.as_strategy(generation_mode=GenerationMode.POSITIVE))
    def some(case: Any) -> None:
        send(case)

    # Where nothing can be made, nothing is sent.
    with suppress(Unsatisfiable, InvalidArgument):
        some()
