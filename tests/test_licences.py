"""What ships may be shipped: every package stands in the list, by a licence that allows it."""

import json
import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
LISTED = re.compile(r"^\| (?P<name>\S+) \| (?P<version>\S+) \| (?P<licence>.+) \|$", re.MULTILINE)
PINNED = re.compile(r"^([\w.-]+)==(\S+)", re.MULTILINE)
FREE = re.compile(
    r"^(MIT|BSD|0BSD|3-Clause BSD|Apache|ISC|PSF|Python|HPND|Zlib|CC0|Unlicense|OFL|SIL|Zope|ZPL"
    r"|Mozilla|MPL|LGPL|GNU Lesser)"
)
"""Each lets a program be passed on with it: the texts at opensource.org, from memory."""
FEWEST = 60


def listed() -> dict[tuple[str, str], str]:
    text = (ROOT / "docs/licences.md").read_text("utf-8")
    rows = {(one["name"], one["version"]): one["licence"] for one in LISTED.finditer(text)}
    return {key: licence for key, licence in rows.items() if key != ("package", "version")}


def is_free(licence: str) -> bool:
    """Of several one is chosen; what holds of all parts has to be free in each."""
    return any(
        all(FREE.match(part.strip("() ")) for part in re.split(r" AND ", choice))
        for choice in re.split(r" or | OR ", licence)
    )


def test_every_package_that_ships_is_listed_as_it_is_pinned():
    python = PINNED.findall((ROOT / "requirements/run.txt").read_text("utf-8"))
    lock = json.loads((ROOT / "frontend/package-lock.json").read_text("utf-8"))["packages"]
    front_end = [
        (path.rpartition("node_modules/")[2], one["version"])
        for path, one in lock.items()
        if path and not one.get("dev") and not one.get("devOptional")
    ]
    assert len(python) > FEWEST < len(front_end)
    assert {*python, *front_end} == listed().keys()


def test_every_licence_lets_it_be_passed_on():
    odd = {name: licence for (name, _), licence in listed().items() if not is_free(licence)}
    assert odd == {}


@pytest.mark.parametrize(
    ("licence", "free"),
    [
        ("MIT", True),
        ("BSD-3-Clause AND 0BSD AND MIT", True),
        ("MIT AND AGPL-3.0-only", False),
        ("GPL-2.0-or-later", False),
        ("GNU General Public License v2 or later (GPLv2+)", False),
        ("GPL-2.0-only OR MIT", True),
        ("not said", False),
        ("SSPL-1.0", False),
    ],
)
def test_what_is_not_free_is_seen(licence, free):
    assert is_free(licence) is free
