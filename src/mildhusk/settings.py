"""Settings of a start from one file (TOML), where neither words nor the environment say otherwise.

Settings that are kept in the environment are put there, so that every process below has them.
"""

import argparse
import difflib
import os
import tomllib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any


class SettingsError(RuntimeError):
    """A file of settings that cannot be used; the message says where and what to do."""


@dataclass(frozen=True, slots=True)
class Settings:
    """What a start is told by a file; as it is without one."""

    port: int = 8410
    data: Path = Path(".local/postgres")
    workers: int = field(default_factory=lambda: min(os.cpu_count() or 1, 4))
    environment: Mapping[str, str] = field(default_factory=dict)

    def take_effect(self) -> None:
        """Put into the environment what nobody has put there."""
        for name, value in self.environment.items():
            os.environ.setdefault(name, value)


def settings_of(words: Sequence[str]) -> Settings:
    """Return the settings of the file that the words of a command name, if they name one.

    Raises
    ------
    SettingsError
        There is no such file, or it says something that nobody knows.
    """
    parser = argparse.ArgumentParser(add_help=False, allow_abbrev=False)
    parser.add_argument("--settings", type=Path)
    path = parser.parse_known_args(words)[0].settings
    return Settings() if path is None else read_settings(path)


def read_settings(path: Path) -> Settings:
    """Return the settings of a file.

    Raises
    ------
    SettingsError
        There is no such file, or it says something that nobody knows.
    """
    try:
        told = tomllib.loads(path.read_text("utf-8"))
    except (OSError, UnicodeError) as error:
        why = getattr(error, "strerror", None) or "it is no text"
        raise SettingsError(f"{path} cannot be read: {why}.") from error
    except tomllib.TOMLDecodeError as error:
        raise SettingsError(f"{path} is no TOML: {error}.") from error
    words: dict[str, Any] = {}
    environment: dict[str, str] = {}
    for name, value in told.items():
        if name not in _KINDS:
            near = difflib.get_close_matches(name, _KINDS, 1)
            rather = f"did you mean '{near[0]}'?" if near else f"it knows {', '.join(_KINDS)}."
            raise SettingsError(f"{path} sets '{name}', which is no setting; {rather}")
        read, wanted, variable = _KINDS[name]
        found = read(value, path.parent)
        if found is None:
            raise SettingsError(f"{path} sets '{name}' to {value!r}; give {wanted}.")
        if variable:
            environment[variable] = str(found)
        else:
            words[name] = found
    return Settings(**words, environment=environment)


def _whole(least: int, most: int) -> Callable[[Any, Path], int | None]:
    def read(value: Any, _folder: Path) -> int | None:
        is_whole = isinstance(value, int) and not isinstance(value, bool)
        return value if is_whole and least <= value <= most else None

    return read


def _text(value: Any, _folder: Path) -> str | None:
    return value if isinstance(value, str) and value.strip() else None


def _place(value: Any, folder: Path) -> str | None:
    port = _whole(1, 65_535)(value, folder)
    return str(port) if port else _text(value, folder)


def _folder(value: Any, folder: Path) -> Path | None:
    """Return a folder, which stands beside the file unless it is written from the root on."""
    text = _text(value, folder)
    return None if text is None else (folder / text).absolute()


def _names(value: Any, folder: Path) -> str | None:
    those = value if isinstance(value, list) and value else [value]
    return ",".join(those) if all(_text(one, folder) for one in those) else None


_KINDS: dict[str, tuple[Callable[[Any, Path], Any], str, str]] = {
    "port": (_whole(0, 65_535), "a port, as 8410", ""),
    "data": (_folder, "a folder in quotes", ""),
    "workers": (_whole(1, 256), "how many, as 2", ""),
    "database_url": (_text, "the address of a database in quotes", "DATABASE_URL"),
    "hosts": (_names, 'names in quotes, as ["husk.example"]', "MILDHUSK_HOSTS"),
    "backup": (_folder, "a folder in quotes", "MILDHUSK_BACKUP"),
    "backup_key": (_text, "the public key that `husk-web key` printed", "MILDHUSK_BACKUP_KEY"),
    "metrics": (_place, "a port, or an address and a port in quotes", "MILDHUSK_METRICS"),
    "worker_gb": (_whole(1, 4096), "whole gigabytes, as 8", "MILDHUSK_WORKER_GB"),
}
"""What a file may set: how it is read, what it has to be, and the variable that keeps it."""
