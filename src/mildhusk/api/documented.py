"""The OpenAPI document, with what an address asks for, and what it may answer instead."""

from http import HTTPStatus
from typing import Any

from flask_openapi3 import OpenAPI

from mildhusk.api.access import right_for
from mildhusk.api.common import PREFIX

_ANY = (HTTPStatus.REQUEST_URI_TOO_LONG, HTTPStatus.MISDIRECTED_REQUEST,
        HTTPStatus.SERVICE_UNAVAILABLE, HTTPStatus.UNAUTHORIZED,
        HTTPStatus.FORBIDDEN)  # fmt: skip
_CHANGES = (HTTPStatus.BAD_REQUEST, HTTPStatus.NOT_FOUND, HTTPStatus.TOO_MANY_REQUESTS,
            HTTPStatus.CONFLICT, HTTPStatus.REQUEST_ENTITY_TOO_LARGE,
            HTTPStatus.UNSUPPORTED_MEDIA_TYPE, HTTPStatus.UNPROCESSABLE_ENTITY)  # fmt: skip
_OF_A_ROW = (HTTPStatus.NOT_FOUND, HTTPStatus.CONFLICT, HTTPStatus.UNPROCESSABLE_ENTITY)


class Documented(OpenAPI):
    """An application whose document names every status it answers with."""

    @property
    def api_doc(self) -> dict[str, Any]:
        """Return the document."""
        document: dict[str, Any] = _even_tuples(super().api_doc)
        components = document["components"]
        components["responses"] = {
            _name(status): {
                "description": status.phrase,
                "content": {
                    "application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}
                },
            }
            for status in sorted({*_ANY, *_CHANGES, *_OF_A_ROW})
        }
        for address, operations in document["paths"].items():
            for method, operation in operations.items():
                right = right_for(method.upper(), address.removeprefix(PREFIX))
                operation["x-right"] = right or "anybody"
                for status in _refusals(method, operation):
                    named = {"$ref": f"#/components/responses/{_name(status)}"}
                    operation["responses"][str(int(status))] = named
        return document


def _refusals(method: str, operation: dict[str, Any]) -> set[HTTPStatus]:
    several = set(_ANY)
    if method != "get":
        several |= set(_CHANGES)
    if operation.get("parameters"):
        several |= set(_OF_A_ROW)
    return several


def _name(status: HTTPStatus) -> str:
    return status.phrase.title().replace(" ", "").replace("-", "")


def _even_tuples(node: Any) -> Any:
    """Describe a tuple of like items as a list, which is what the generated client reads."""
    if isinstance(node, dict):
        items = node.get("prefixItems")
        if items and all(one == items[0] for one in items):
            node = {**{k: v for k, v in node.items() if k != "prefixItems"}, "items": items[0]}
        return {name: _even_tuples(one) for name, one in node.items()}
    return [_even_tuples(one) for one in node] if isinstance(node, list) else node
