"""Kept JSON: facts with a version, one decoder a kind, upgraded when they are read."""

from collections.abc import Callable
from typing import Any, Generic, TypeVar

from pydantic import TypeAdapter, ValidationError
from pydantic_core import to_jsonable_python

from mildhusk.core.errors import InputError

T = TypeVar("T")
Json = dict[str, Any]
Upgrade = Callable[[Json], Json]
_VERSION = "version"


class Kept(Generic[T]):
    """How values of a kind are kept in a JSON column.

    Parameters
    ----------
    kind : type
        A frozen dataclass of the core.
    upgrades : callable
        From one version to the next, the oldest first. What an earlier release kept without a
        version is of version 1; a field that a kind gained with a default needs none.
    """

    def __init__(self, kind: type[T], *upgrades: Upgrade) -> None:
        self._adapter = TypeAdapter(kind)
        self._upgrades = upgrades

    def write(self, value: T) -> Json:
        """Return what is kept of a value: its facts, and the version they are written in."""
        kept: Json = facts(value)
        return {_VERSION: len(self._upgrades) + 1, **kept}

    def read(self, kept: Json) -> T:
        """Return a kept value.

        Raises
        ------
        InputError
            What is kept is no such value any more; the core's own sentence says why.
        """
        values = dict(kept)
        version = int(values.pop(_VERSION, 1))
        for upgrade in self._upgrades[version - 1 :]:
            values = upgrade(values)
        try:
            return self._adapter.validate_python(values)
        except ValidationError as error:
            raise own_error(error) or error from error


def own_error(error: ValidationError) -> InputError | None:
    """Return the core's own error inside one of validation, where there is one."""
    for one in error.errors():
        inner = one.get("ctx", {}).get("error")
        if isinstance(inner, InputError):
            return inner
    return None


def facts(value: Any) -> Any:
    """Return a value as plain JSON; money as text, so that no cent is lost."""
    return to_jsonable_python(value)
