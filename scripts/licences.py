"""Writes docs/licences.md: what ships with the application, by which licence each says it is.

Python packages by what each tells of itself where it is installed, the front end's by the lock
file.
Nothing is judged here; `tests/test_licences.py` says which licences nobody has looked at yet.
"""

import json
import re
from importlib import metadata
from pathlib import Path

ROOT = Path(__file__).parents[1]
_PINNED = re.compile(r"^([\w.-]+)==(\S+)", re.MULTILINE)
_LONGEST = 40
_UNSAID = "not said"
_BY_ITS_TEXT = {
    "Permission is hereby granted, free of charge": "MIT",
    "Redistribution and use in source and binary forms": "BSD",
}


def main() -> None:
    """Write the list."""
    lines = [
        "# What ships, and under which licence",
        "",
        "As each package tells it; written by `make lock`. The typeface of printed cards is the",
        "front end's, with its licence beside it.",
    ]
    for title, rows in (("Python", _python()), ("Front end", _front_end())):
        lines += ["", f"## {title}", "", "| package | version | licence |", "|---|---|---|"]
        lines += [f"| {' | '.join(row)} |" for row in rows]
    (ROOT / "docs/licences.md").write_text("\n".join(lines) + "\n", "utf-8")


def _python() -> list[tuple[str, str, str]]:
    pinned = _PINNED.findall((ROOT / "requirements/run.txt").read_text("utf-8"))
    return sorted((name, version, _licence_of(name)) for name, version in pinned)


def _licence_of(name: str) -> str:
    """Return the licence expression, else what it is classified as, else its field if short."""
    told = metadata.metadata(name)
    classified = [
        one.rpartition(" :: ")[2]
        for one in told.get_all("Classifier") or []
        if one.startswith("License :: ")
    ]
    field = (told.get("License") or "").strip()
    short = field if len(field) <= _LONGEST and "\n" not in field else ""
    known = told.get("License-Expression") or " or ".join(classified) or short
    return known or _read(field or _packed(name))


def _packed(name: str) -> str:
    """Return the text of a licence that lies beside what a package tells of itself."""
    files = metadata.files(name) or []
    return next((one.read_text() for one in files if one.name.startswith("LICENSE")), "")


def _read(text: str) -> str:
    """Return what a licence is by the words it begins with."""
    plain = " ".join(text.split())
    return next((name for words, name in _BY_ITS_TEXT.items() if words in plain), _UNSAID)


def _kept(path: str) -> str:
    """Return the text of a licence that lies in a package of the front end."""
    return next((one.read_text("utf-8") for one in (ROOT / "frontend" / path).glob("LICENSE*")), "")


def _front_end() -> list[tuple[str, str, str]]:
    lock = json.loads((ROOT / "frontend/package-lock.json").read_text("utf-8"))
    return sorted(
        (
            path.rpartition("node_modules/")[2],
            one["version"],
            one.get("license") or _read(_kept(path)),
        )
        for path, one in lock["packages"].items()
        if path and not one.get("dev") and not one.get("devOptional")
    )


if __name__ == "__main__":
    main()
