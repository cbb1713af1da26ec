"""The API as a whole: errors have a status, the document is sound, tables are the models."""

import inspect
import pkgutil
from collections.abc import Iterator
from dataclasses import is_dataclass
from enum import Enum
from importlib import import_module
from typing import Any, get_args, get_type_hints

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from pydantic import BaseModel

import mildhusk.api
from api.conftest import API, assert_problem
from mildhusk.api.problems import status_of
from mildhusk.core import errors as core_errors
from mildhusk.core.errors import HuskError
from mildhusk.services import errors as service_errors
from mildhusk.store.base import Base
from mildhusk.store.database import is_ours

ERRORS = [
    thing
    for module in (core_errors, service_errors)
    for thing in vars(module).values()
    if inspect.isclass(thing) and issubclass(thing, HuskError) and thing is not HuskError
]


@pytest.mark.parametrize("kind", ERRORS)
def test_every_error_has_a_status_of_a_refusal(kind):
    status = status_of(kind.__new__(kind))
    assert status is not None
    assert 400 <= status < 500


@pytest.mark.parametrize(
    ("method", "address", "status", "said"),
    [
        ("get", f"{API}/nothing", 404, "nothing at this address"),
        ("get", f"{API}/pieces/not-a-key", 404, "nothing at this address"),
        ("get", f"{API}/pieces/{'0' * 8}-0000-4000-8000-{'0' * 12}", 404, "no such piece"),
        ("delete", f"{API}/pieces", 405, "does not take"),
        ("post", f"{API}/pours", 422, "not readable JSON"),
    ],
)
def test_wrong_addresses_answer_with_problem_json_too(client, method, address, status, said):
    kind = {"data": "{", "content_type": "application/json"} if method == "post" else {}
    assert_problem(getattr(client, method)(address, **kind), status, said)


def test_the_openapi_document_names_every_shape_once(client):
    document = client.get(f"{API}/openapi.json").json
    assert document["openapi"].startswith("3.1")
    titles = [shape["title"] for shape in document["components"]["schemas"].values()]
    assert len(titles) == len(set(titles))
    for address, methods in document["paths"].items():
        assert address.startswith(API)
        assert all("summary" in operation for operation in methods.values())


def test_no_two_types_of_one_name_are_told():
    """Two types of one name would overwrite each other in the document without a word."""
    named: dict[str, type] = {}
    for told in told_types():
        for kind in types_within(told):
            assert named.setdefault(kind.__name__, kind) is kind, kind.__name__
    assert len(named) > 100


def told_types() -> Iterator[type]:
    """The models of the addresses: what they take and what they answer."""
    for module in pkgutil.iter_modules(mildhusk.api.__path__, "mildhusk.api."):
        for thing in vars(import_module(module.name)).values():
            if inspect.isclass(thing) and issubclass(thing, BaseModel) and thing is not BaseModel:
                yield thing


def types_within(told: Any, seen: set[Any] | None = None) -> Iterator[type]:
    """The models, data classes and enumerations a type is made of, itself among them."""
    seen = set() if seen is None else seen
    if told in seen:
        return
    seen.add(told)
    for argument in get_args(told):
        yield from types_within(argument, seen) if not isinstance(argument, str) else ()
    if not inspect.isclass(told):
        return
    if issubclass(told, BaseModel):
        yield told
        for field in told.model_fields.values():
            yield from types_within(field.annotation, seen)
    elif is_dataclass(told):
        yield told
        for hint in get_type_hints(told).values():
            yield from types_within(hint, seen)
    elif issubclass(told, Enum) and told.__module__.startswith("mildhusk"):
        yield told


def test_the_migrations_make_the_tables_of_the_models(engine):
    with engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"include_object": is_ours})
        assert compare_metadata(context, Base.metadata) == []


def test_every_table_belongs_to_a_workshop_or_to_a_row_that_does():
    # Whoever fails to sign in has no workshop yet.
    of_none = {"workshop", "failed_sign_in"}
    for table in Base.metadata.tables.values():
        owners = {key.column.table.name for key in table.foreign_keys}
        is_owned = "workshop_id" in table.columns or not owners.isdisjoint({"pour", "account"})
        assert is_owned or table.name in of_none, table.name


def test_answers_forbid_whatever_is_not_our_own(client):
    policy = client.get(f"{API}/workshop").headers["Content-Security-Policy"]
    assert "default-src 'self'" in policy
    assert "http" not in policy
    assert "unsafe" not in policy
