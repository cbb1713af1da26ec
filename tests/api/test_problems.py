"""The API as a whole: errors have a status, the document is sound, tables are the models."""

import inspect

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext

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


def test_no_shape_of_two_modules_shares_its_name():
    """Two models of one name would overwrite each other in the document without a word."""
    from pydantic import BaseModel

    from mildhusk.api import (
        app,
        common,
        dabs,
        deciding,
        exchange,
        pieces,
        pours,
        sheets,
        shelf,
        stock,
    )

    named: dict[str, type] = {}
    for module in (app, common, dabs, deciding, exchange, pieces, pours, sheets, shelf, stock):
        for name, thing in vars(module).items():
            if inspect.isclass(thing) and issubclass(thing, BaseModel):
                assert named.setdefault(name, thing) is thing, name


def test_the_migrations_make_the_tables_of_the_models(engine):
    with engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"include_object": is_ours})
        assert compare_metadata(context, Base.metadata) == []


def test_every_table_belongs_to_a_workshop_or_to_a_row_that_does():
    for table in Base.metadata.tables.values():
        owners = {key.column.table.name for key in table.foreign_keys}
        assert "workshop_id" in table.columns or table.name == "workshop" or "pour" in owners


def test_answers_forbid_whatever_is_not_our_own(client):
    policy = client.get(f"{API}/workshop").headers["Content-Security-Policy"]
    assert "default-src 'self'" in policy
    assert "http" not in policy
