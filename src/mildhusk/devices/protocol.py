"""The line protocol of the workshop's devices; docs/devices.md tells it to whoever builds one.

A line is a word and fields, `weight g=93.2 steady=1 at=12.35`, in UTF-8, and ends with a newline.
Numbers are plain decimals; a field's name carries its unit.
"""

import math
import re
from dataclasses import dataclass
from enum import StrEnum

LONGEST_LINE = 400
"""A longer line is no line of this protocol. [characters]"""
_WORD = re.compile(r"[a-z][a-z0-9-]*")
_FIELD = re.compile(r"([a-z][a-z0-9_]*)=(\S+)")


class ProtocolError(ValueError):
    """A line that cannot be read; it is skipped, and counted."""


class DeviceKind(StrEnum):
    """What a device is."""

    SCALE = "scale"
    ROOM = "room"
    """A probe of the room's temperature and humidity."""
    MACHINE = "machine"
    """It turns moulds about two axes."""
    TURN = "turn"
    """A sensor on the mould that tells where up is."""


@dataclass(frozen=True, slots=True)
class Line:
    """A line as it was said.

    Parameters
    ----------
    word : str
    fields : dict of str to str
    """

    word: str
    fields: dict[str, str]

    def number(self, name: str) -> float:
        """Return a field that is a number.

        Raises
        ------
        ProtocolError
            It is missing, or no number.
        """
        try:
            value = float(self.fields[name])
        except (KeyError, ValueError) as error:
            raise ProtocolError(f"'{self.word}' needs the number {name}.") from error
        if not math.isfinite(value):
            raise ProtocolError(f"'{self.word}' needs the number {name}.")
        return value

    def number_or(self, name: str, without: float) -> float:
        """Return a field that is a number, or another number where it is not said."""
        return self.number(name) if name in self.fields else without

    def is_set(self, name: str) -> bool:
        """Whether a field says 1."""
        return self.fields.get(name) == "1"


def read_line(said: str) -> Line:
    """Read a line.

    Raises
    ------
    ProtocolError
        It is empty, too long, or not a word and fields.
    """
    words = said.split()
    if len(said) > LONGEST_LINE or not words or not _WORD.fullmatch(words[0]):
        raise ProtocolError(f"'{said[:40]}' is no word and fields.")
    fields = {}
    for field in words[1:]:
        found = _FIELD.fullmatch(field)
        if found is None:
            raise ProtocolError(f"'{field[:40]}' is no name=value.")
        fields[found[1]] = found[2]
    return Line(words[0], fields)


def line(word: str, **fields: float | str) -> str:
    """Return a line to send, without its end; numbers with the digits that they have."""
    said = [word]
    for name, value in fields.items():
        said.append(f"{name}={value if isinstance(value, str) else f'{value:.10g}'}")
    return " ".join(said)


@dataclass(frozen=True, slots=True)
class Hello:
    """How a device introduces itself.

    Parameters
    ----------
    kind : DeviceKind
    boot : str
        Another each time it is switched on: what it knew before is gone.
    step_kg, most_kg : float
        Of a scale: its last digit, and what it carries. [kg]
    lag_s : float
        How far what it shows is behind what is. [s]
    is_standin : bool
        It is simulated, and takes orders to fail.
    """

    kind: DeviceKind
    boot: str
    step_kg: float
    most_kg: float
    lag_s: float
    is_standin: bool

    @classmethod
    def of(cls, said: Line) -> "Hello":
        """Return what a `hello` says.

        Raises
        ------
        ProtocolError
            It does not say what it is.
        """
        kind = said.fields.get("kind", "")
        if kind not in list(DeviceKind):
            kinds = ", ".join(DeviceKind)
            raise ProtocolError(f"'hello' names no kind of device; there are {kinds}.")
        return cls(
            DeviceKind(kind),
            said.fields.get("boot", "0"),
            said.number_or("step_g", 0.1) / 1e3,
            said.number_or("max_g", math.inf) / 1e3,
            said.number_or("lag_s", 0.3),
            said.is_set("standin"),
        )


def weight_of(said: Line) -> float | None:
    """Return what a `weight` says, or None above what the scale carries. [kg]"""
    return None if said.is_set("over") else said.number("g") / 1e3
