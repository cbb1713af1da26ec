"""Requests at random, as four roles, a tablet and a stranger, with a second workshop beside theirs.

No answer is a fault of ours, none goes beyond what its role may do, none tells a word of the other
workshop or moves one of its rows. `make requests` sends 100,000 of them; REQUESTS says how many.
"""

import itertools
import os
import random
from collections import Counter
from contextlib import suppress
from dataclasses import replace
from http import HTTPStatus
from types import SimpleNamespace
from typing import Any
from uuid import UUID

import pytest
import schemathesis
from flask.testing import FlaskClient
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import seed as seeded
from hypothesis.errors import InvalidArgument, Unsatisfiable
from schemathesis import GenerationMode

from api.conftest import API
from api.test_access import MAKERS, accept, browser, invited, may
from api.test_fuzz import HEADERS, QueueThatWaits
from api.test_walls_between import (
    BODIES,
    CANARY,
    STATIONS,
    both,  # noqa: F401 - a fixture
    fill,
    keys_of,
    other_id,  # noqa: F401 - a fixture
    rows_of,
)

REQUESTS, BATCH = int(os.environ.get("REQUESTS", "500")), 2_000
THEIRS, MADE_UP = 0.25, 0.4
"""Shares of the keys that are of the other workshop, and of those or of none at all."""
SELDOM = {f"GET {API}/archive.zip": 0.05}
"""A whole file of everything is not asked for by each."""
NOT_OURS = (f"{API}/accounts/{{id}}", f"{API}/signed-in/{{id}}", f"{API}/invitations/{{id}}")
"""At our own keys they would end the roles that ask."""


class Crowd:
    """Everybody who asks, and what they ask for."""

    def __init__(self, client: FlaskClient, people: dict[str, FlaskClient], dice: random.Random,
                 ours: dict[str, list[str]], theirs: dict[str, list[str]]) -> None:  # fmt: skip
        self.client, self.dice, self.ours, self.theirs = client, dice, ours, theirs
        self.cookies = {
            role: {one.key: one.value for one in at._cookies.values()}
            for role, at in people.items()
        }
        self.secrets = {key for those in theirs.values() for key in those}
        self.answered: Counter[tuple[str, int]] = Counter()
        self.wrong: list[tuple[object, ...]] = []

    def key(self, table: str, *, not_ours: bool = False) -> str | None:
        """A key for a row of a table; None leaves what was made up."""
        share = self.dice.random()
        if share < THEIRS or not_ours:
            return self.dice.choice(self.theirs.get(table) or sorted(self.secrets))
        ours = self.ours.get(table)
        return self.dice.choice(ours) if share > MADE_UP and ours else None

    def with_keys(self, value: Any) -> Any:
        """A body that names rows that are there, ours or theirs."""
        if isinstance(value, list):
            return [self.with_keys(one) for one in value]
        if not isinstance(value, dict):
            return value
        told = {name: self.with_keys(one) for name, one in value.items()}
        for name, table in BODIES.items():
            key = self.key(table) if told.get(name) is not None else None
            if key:
                told[name] = [key] if isinstance(told[name], list) else key
        return told

    def ask(self, case: Any, operation: str, right: str) -> None:
        """Send one request as somebody, and look at what is answered."""
        if self.dice.random() > SELDOM.get(operation, 1.0):
            return
        role = self.dice.choice(list(self.cookies))
        if right in ("POST /sign-out", "POST /sign-in", "POST /invitations/accept"):
            role = "stranger"
        method, path = operation.split(" ")
        table = STATIONS.get(path.removeprefix(f"{API}/").split("/")[0], "")
        for name in {"id", "sha256"} & set(case.path_parameters):
            not_ours = path in NOT_OURS and method != "GET"
            key = self.key("mesh_file" if name == "sha256" else table, not_ours=not_ours)
            case.path_parameters[name] = key or case.path_parameters[name]
        if isinstance(case.body, dict):
            case.body = self.with_keys(case.body)
        answer = case.call(headers=HEADERS, cookies=self.cookies[role])
        status, said = answer.status_code, answer.content.decode("utf-8", "replace")
        is_wrong = (
            status >= HTTPStatus.INTERNAL_SERVER_ERROR
            or CANARY in said
            or (status < HTTPStatus.BAD_REQUEST and any(key in said for key in self.secrets))
            # With which words is for tests/api/test_access.py: what cannot be read comes first.
            or (status < HTTPStatus.BAD_REQUEST and not may(role, right))
        )
        if is_wrong:
            self.wrong.append((role, method, case.formatted_path, case.body, status, said[:300]))
        self.answered[role, status] += 1


class _Answers:
    """A request that is answered so, whoever sends it."""

    def __init__(self, status: int, said: str) -> None:
        self.answer = SimpleNamespace(status_code=status, content=said.encode())
        self.path_parameters: dict[str, str] = {}
        self.body, self.formatted_path = None, f"{API}/pieces"

    def call(self, **_sent: object) -> SimpleNamespace:
        return self.answer


@pytest.mark.parametrize(
    ("role", "right", "status", "said", "wrong"),
    [
        ("owner", "GET /pieces", 200, "a mask", False),
        ("owner", "GET /pieces", 500, "", True),
        ("owner", "GET /pieces", 200, f"a mask of {CANARY}", True),
        ("owner", "GET /pieces", 404, f"no mask of {CANARY}", True),
        ("owner", "GET /pieces", 200, "a piece 5eed-1", True),
        # Whoever asks for a key is told that it is not there.
        ("owner", "GET /pieces", 404, "no piece 5eed-1", False),
        ("guest", "POST /pieces", 201, "", True),
        ("guest", "POST /pieces", 403, "", False),
        ("stranger", "GET /pieces", 200, "", True),
    ],
)
def test_what_goes_beyond_its_walls_or_its_role_is_seen(role, right, status, said, wrong):
    """As if a wall were down: what looks at the answers is no stub."""
    asks = {role: SimpleNamespace(_cookies={})}
    crowd = Crowd(None, asks, random.Random(1), {}, {"piece": ["5eed-1"]})
    crowd.ask(_Answers(status, said), right.replace(" /", f" {API}/"), right)
    assert bool(crowd.wrong) is wrong
    assert crowd.answered == {(role, status): 1}


@pytest.mark.parametrize("seed", range(-(-REQUESTS // BATCH)))
def test_whoever_asks_for_whatever_gets_an_answer_and_nothing_of_others(
    request: pytest.FixtureRequest, client: FlaskClient, workshop_id: UUID, seed: int
):
    mine, theirs = request.getfixturevalue("both")
    there: UUID = request.getfixturevalue("other_id")
    fill(theirs)
    fill(mine, "Amsel")
    people = {"stranger": browser(client), "owner": mine}
    for role in ("maker", "apprentice", "guest"):
        secret = invited(mine, role=role)
        people[role] = accept(client, secret, name=f"A {role}", password=MAKERS)
    people["tablet"] = accept(client, invited(mine, role="tablet", name="By the sink"))
    at = client.application.extensions["mildhusk"]
    client.application.extensions["mildhusk"] = replace(at, queue=QueueThatWaits())
    before = rows_of(client, there)
    crowd = Crowd(
        client, people, random.Random(seed), keys_of(rows_of(client, workshop_id)), keys_of(before)
    )
    schema = schemathesis.openapi.from_dict(client.application.api_doc)
    schema.app = client.application
    operations = [one.ok() for one in schema.get_all_operations()]
    crowd.dice.shuffle(operations)
    batch = min(BATCH, REQUESTS)
    each = max(1, round(batch / len(operations) / len(GenerationMode)))
    for turn in itertools.count():
        for operation, mode in itertools.product(operations, GenerationMode):
            if crowd.answered.total() < batch:
                _send(crowd, operation, mode, each, seed + BATCH * turn)
        if crowd.answered.total() >= batch:
            break
    assert crowd.wrong[:5] == []
    # They came in, and not all they asked was nonsense.
    for role in ("owner", "maker", "apprentice", "guest", "tablet"):
        assert sum(n for (who, status), n in crowd.answered.items() if who == role and status < 300)
    assert rows_of(client, there) == before
    print(f"seed {seed}: {crowd.answered.total()} requests, {dict(sorted(crowd.answered.items()))}")


def _send(crowd: Crowd, operation: Any, mode: GenerationMode, each: int, seed: int) -> None:
    """Send what the fuzzer makes for an address, each time as somebody."""
    name = f"{operation.method.upper()} {operation.path}"
    right = f"{operation.method.upper()} {operation.path.removeprefix(API)}"

    @seeded(seed)
    @settings(max_examples=each, phases=[Phase.generate], database=None, deadline=None,
              derandomize=False, suppress_health_check=list(HealthCheck))  # fmt: skip
    @given(case=operation.as_strategy(generation_mode=mode))
    def send(case: Any) -> None:
        crowd.ask(case, name, right)

    # Where nothing can be wrong, nothing is sent.
    with suppress(Unsatisfiable, InvalidArgument):
        send()
