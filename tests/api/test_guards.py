"""What is refused before it is read, and hostile values at every field of every address."""

import json
from collections.abc import Iterator
from typing import Any
from uuid import uuid4

import pytest
from flask.testing import FlaskClient

from api.conftest import API, WISH, assert_problem


@pytest.fixture
def stranger(client: FlaskClient) -> FlaskClient:
    """A client that does not know our marker."""
    return client.application.test_client()


KINDS = [
    ("application/json", b"{}"),
    ("text/plain", b'{"name": "x"}'),
    ("application/x-www-form-urlencoded", b"name=x"),
    ("multipart/form-data; boundary=x", b"--x--\r\n"),
    (None, b""),
]


@pytest.mark.parametrize(("kind", "body"), KINDS)
@pytest.mark.parametrize("method", ["POST", "PUT", "PATCH", "DELETE"])
def test_a_change_without_our_marker_is_refused_whatever_its_body(stranger, method, kind, body):
    """A page elsewhere may send these without being asked (Fetch standard, simple requests)."""
    for path in ("/pieces", "/mesh-files", f"/sheets/{uuid4()}", f"/pours/{uuid4()}/steps/last"):
        answer = stranger.open(f"{API}{path}", method=method, data=body, content_type=kind)
        assert_problem(answer, 403, "page of this workshop")


@pytest.mark.parametrize(
    "headers",
    [
        {"Origin": "http://elsewhere.test"},
        {"Origin": "null"},
        {"Sec-Fetch-Site": "cross-site"},
        {"Sec-Fetch-Site": "same-site"},
    ],
)
def test_the_marker_does_not_help_a_page_elsewhere(client, headers):
    assert_problem(client.post(f"{API}/pieces", json={}, headers=headers), 403, "page of this")


@pytest.mark.parametrize("host", ["elsewhere.test", "127.0.0.1.elsewhere.test", "[bad", ""])
def test_a_name_that_was_pointed_here_is_not_answered(client, host):
    """DNS rebinding: the page's own name leads to this machine."""
    answer = client.get(f"{API}/pieces", headers={"Host": host})
    assert answer.status_code in (400, 421)


@pytest.mark.parametrize("host", ["127.0.0.1:8400", "localhost", "[::1]:8400"])
def test_the_machines_own_names_are_answered(client, host):
    assert client.get(f"{API}/pieces", headers={"Host": host}).status_code == 200


def test_what_is_larger_than_anything_here_is_refused(client):
    long = client.get(f"{API}/{'x' * 5000}")
    assert_problem(long, 414, "longer than any")
    large = client.post(f"{API}/sheets", json={"name": "x" * 1_200_000})
    assert_problem(large, 413, "More than 1 MB")
    deep = "[" * 5_000 + "]" * 5_000
    for content in (deep, '{"a": ' * 60 + "1" + "}" * 60):
        answer = client.post(f"{API}/sheets", data=content, content_type="application/json")
        assert answer.status_code == 422
        assert answer.json["detail"].endswith(".")


@pytest.mark.parametrize("bad", ["a\x00b", "\ud800", "\udfff tail"])
def test_text_that_is_none_is_refused_in_values_and_in_keys(client, bad):
    for body in ({"name": bad}, {bad: 1}, {"a": [{"b": bad}]}):
        sent = {"data": json.dumps(body), "content_type": "application/json"}
        assert_problem(client.post(f"{API}/pieces/clay", **sent), 422, "characters")
    query = client.get(f"{API}/pieces", query_string={"search": bad.encode("utf-8", "replace")})
    assert query.status_code < 500


@pytest.mark.parametrize("at", ["0001-01-01T00:00:00Z", "9999-12-31T23:59:59Z"])
def test_a_tick_at_the_ends_of_time_is_refused(client, sheet, at):
    pour = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    body = {"coat": 1, "step": "weigh", "parts": {"a": 0.05, "b": 0.045}, "at": at}
    answer = client.post(f"{API}/pours/{pour['id']}/steps", json=body)
    assert_problem(answer, 422, "", "at")


def test_what_a_pour_uses_is_not_deleted_under_it(client, sheet):
    pour = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    refused = client.delete(f"{API}/sheets/{sheet['id']}")
    assert refused.status_code == 409
    assert_problem(client.delete(f"{API}/materials/{sheet['material_id']}"), 409, sheet["name"])
    assert client.get(f"{API}/pours/{pour['id']}").status_code == 200


# --- hostile values everywhere ---

HOSTILE: list[Any] = [
    None, -1, 10**40, 1e-300, "x" * 5_000, "1e999", "\u202e\U0001f4a3", [[[]]], {"value": 1},
]  # fmt: skip


def test_no_hostile_value_at_any_field_of_any_address_is_our_fault(client, sheet, resin):
    """Every field that the document names is given every hostile value; none makes a 5xx."""
    document = client.get(f"{API}/openapi.json").json
    keys = {
        "pieces": sheet["piece_id"],
        "sheets": sheet["id"],
        "materials": resin("pu-fast-rigid")["id"],
        "pours": client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json["id"],
    }
    tried = 0
    for path, methods in sorted(document["paths"].items()):
        station = path.removeprefix(f"{API}/").split("/")[0]
        address = path.replace("{id}", keys.get(station, str(uuid4()))).replace("{number}", "1")
        address = address.replace("{sha256}", "0" * 64)
        for method, operation in methods.items():
            # What ends a row ends the trial with it; those have tests of their own.
            if method == "delete":
                continue
            for said in _requests(document, operation):
                answer = client.open(address, method=method.upper(), **said)
                tried += 1
                assert answer.status_code < 500, (method, address, said, answer.text)
                if answer.status_code >= 400:
                    assert answer.content_type == "application/problem+json", (address, said)
                    assert answer.json["detail"], (address, said)
    assert tried > 800


def _requests(document: dict[str, Any], operation: dict[str, Any]) -> Iterator[dict[str, Any]]:
    for parameter in operation.get("parameters", []):
        if parameter["in"] == "query":
            for value in ("", "-1", "x" * 1_500, "10" * 30):
                yield {"query_string": {parameter["name"]: value}}
    content = operation.get("requestBody", {}).get("content", {})
    if "application/json" not in content:
        return
    usual = _example(document, content["application/json"]["schema"])
    yield {"json": usual}
    for place in _places(usual):
        for value in HOSTILE:
            yield {"json": _with(usual, place, value)}


def _example(document: dict[str, Any], schema: dict[str, Any]) -> Any:
    """A value that a schema allows, every optional part of it left in."""
    if "$ref" in schema:
        return _example(document, document["components"]["schemas"][schema["$ref"].split("/")[-1]])
    if "const" in schema or "enum" in schema:
        return schema.get("const", schema.get("enum", [None])[0])
    for several in ("anyOf", "oneOf", "allOf"):
        if several in schema:
            return _example(document, schema[several][0])
    if schema.get("type") == "object":
        return {name: _example(document, one) for name, one in schema.get("properties", {}).items()}
    if schema.get("type") == "array":
        return [_example(document, schema.get("items", {"type": "number"}))]
    plain = {"string": "some", "integer": 2, "number": 0.01, "boolean": False, "null": None}
    return str(uuid4()) if schema.get("format") == "uuid" else plain.get(schema.get("type", ""), 1)


def _places(value: Any, before: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    within = value.items() if isinstance(value, dict) else enumerate(value)
    for name, one in within:
        yield (*before, name)
        if isinstance(one, dict | list) and len(before) < 2:
            yield from _places(one, (*before, name))


def _with(value: Any, place: tuple[Any, ...], new: Any) -> Any:
    made = json.loads(json.dumps(value))
    within = made
    for name in place[:-1]:
        within = within[name]
    within[place[-1]] = new
    return made


def test_a_wish_at_the_ends_of_what_is_allowed_is_planned_or_refused(client, sheet):
    """Bounds of the core meet: none of them together is beyond the arithmetic."""
    for wall in (1e-5, 0.0005, 0.02):
        for room in (278.15, 318.15):
            for step in (1e-5, 0.1):
                wish = {**WISH, "wall_m": wall, "room_temperature_k": room, "scale_step_kg": step}
                body = {key: sheet[key] for key in ("piece_id", "material_id")}
                answer = client.post(f"{API}/sheets/preview", json={**body, "wish": wish})
                assert answer.status_code in (200, 422), answer.text


def test_no_answer_is_kept_for_whoever_sits_there_next(client, sheet):
    """OWASP ASVS 4.0.3, 8.2.1; what may stay is large and for this browser alone (RFC 9111)."""
    for path in (
        "workshop",
        "sheets",
        f"sheets/{sheet['id']}",
        "pours",
        "access",
        "accounts",
        "no",
    ):
        assert client.get(f"{API}/{path}").headers["Cache-Control"] == "no-store", path
    refused = client.post(f"{API}/sheets", json={})
    assert (refused.status_code, refused.headers["Cache-Control"]) == (422, "no-store")
    piece = client.get(f"{API}/pieces").json["pieces"][0]["id"]
    model = client.get(f"{API}/pieces/{piece}/model.glb")
    assert "ETag" in model.headers
    assert model.headers["Cache-Control"] == "private, no-cache"
