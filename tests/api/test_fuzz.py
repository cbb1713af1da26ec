"""A general API fuzzer over the OpenAPI document: with real keys, no answer it does not name."""

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import replace
from typing import Any
from uuid import UUID

import pytest
import schemathesis
from flask.testing import FlaskClient
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis.errors import InvalidArgument, Unsatisfiable
from schemathesis import GenerationMode, checks
from schemathesis.specs.openapi import checks as of_document
from sqlalchemy.orm import Session

from api.conftest import API
from mildhusk.store.tables import JobKind, JobStatus

CHECKS = [
    checks.not_a_server_error,
    of_document.status_code_conformance,
    of_document.content_type_conformance,
    of_document.response_schema_conformance,
]
CASES = 2
HEADERS = {"X-Mild-Husk": "page", "Accept-Encoding": "identity"}
# What ends a row ends the trial of its other addresses, so those come last; and once there is an
# owner, nobody else comes in.
ORDER = ("get", "put", "patch", "post", "delete")
LAST = (f"{API}/accounts/first",)


class QueueThatWaits:
    """Takes jobs that nobody does: here it counts what is answered at once."""

    def __init__(self) -> None:
        self._put = 0

    def put(self, session: Session, job_id: UUID, lock: str, kind: JobKind) -> int:
        self._put += 1
        return self._put

    def states(self, session: Session, numbers: Sequence[int]) -> dict[int, JobStatus]:
        return dict.fromkeys(numbers, JobStatus.WAITING)

    def cancel(self, session: Session, number: int) -> None:
        pass


def keys_of(client: FlaskClient, sheet: dict[str, Any], resin: Any) -> dict[str, str]:
    """A real key for the rows of each station."""
    pour = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    wall = f"{API}/sheets/{sheet['id']}/wall"
    asked = {"motion": "machine", "capped": True, "edge_m": 0.012}
    client.post(wall, json=asked)
    mould = {
        "name": "Of the dome",
        "piece_id": sheet["piece_id"],
        "rubber_id": resin("rubber-addition-firm")["id"],
        "shell_id": resin("shell-urethane-paste")["id"],
        "rubber_wall_m": 0.01,
        "life_casts": 40,
    }
    return {
        "pieces": sheet["piece_id"],
        "sheets": sheet["id"],
        "materials": sheet["material_id"],
        "pours": pour["id"],
        "walls": client.post(wall, json=asked).json["run"]["id"],
        "moulds": client.post(f"{API}/moulds", json=mould).json["id"],
    }


@pytest.fixture
def operations(client: FlaskClient) -> list[Any]:
    """Every address and method of the document."""
    schema = schemathesis.openapi.from_wsgi(f"{API}/openapi.json", client.application)
    found = [one.ok() for one in schema.get_all_operations()]
    return sorted(found, key=lambda one: (one.path in LAST, ORDER.index(one.method), one.path))


def test_no_request_is_our_fault_or_answered_with_what_the_document_does_not_name(
    client, sheet, resin, operations
):
    """Whatever a general fuzzer thinks of, at the keys of real rows."""
    keys = keys_of(client, sheet, resin)
    backstage = client.application.extensions["mildhusk"]
    client.application.extensions["mildhusk"] = replace(backstage, queue=QueueThatWaits())
    tried = dict.fromkeys(GenerationMode, 0)
    for operation in operations:
        station = operation.path.removeprefix(f"{API}/").split("/")[0]
        for mode in GenerationMode:
            tried[mode] += _tried(operation, mode, keys.get(station))
    assert tried[GenerationMode.POSITIVE] > 150
    assert tried[GenerationMode.NEGATIVE] > 100


def _tried(operation: Any, mode: GenerationMode, key: str | None) -> int:
    """Send what the fuzzer makes for an address; return how often."""
    count = 0

    @settings(max_examples=CASES, phases=[Phase.generate], database=None, deadline=None,
              suppress_health_check=list(HealthCheck))  # fmt: skip
    @given(case=operation.as_strategy(generation_mode=mode))
    def send(case: Any) -> None:
        nonlocal count
        count += 1
        if key and "id" in case.path_parameters:
            case.path_parameters["id"] = key
        case.call_and_validate(headers=HEADERS, checks=CHECKS)

    # Not everything can be wrong: where nothing can be, nothing is sent.
    with suppress(Unsatisfiable, InvalidArgument):
        send()
    return count
