"""No struck-out word of docs/words.md is said: not on the screen, nor by core and commands."""

import ast
import json
import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
# Between a tag or an expression and the next; in strings; in templates.
_TEXT = re.compile(
    r">([^<>{}]+)[<{]|(?<=\})([^<>{}=;()]+)[<{]|\"((?:[^\"\\\n]|\\.)*)\"|`((?:[^`\\]|\\.)*)`"
)
_COMMENT = re.compile(r"/\*.*?\*/|(?<![:\w\"'])//[^\n]*", re.DOTALL)


def struck_out():
    """Each struck-out phrase of the list, by what is said instead."""
    rows = re.findall(r"^\| (.+?) \| .+? \| (.+?) \|$", (ROOT / "docs/words.md").read_text(), re.M)
    return {
        phrase.strip(): said
        for said, phrases in rows[2:] if not said.startswith("-")
        for phrase in phrases.split(";")
    }  # fmt: skip


def said_on_screen(source):
    """The texts of a front-end file: between tags, in strings and templates."""
    for found in _TEXT.finditer(_COMMENT.sub("", source)):
        yield " ".join(next(one for one in found.groups() if one is not None).split())


def said_in_python(source):
    """The strings of a Python file but for its docstrings; formatted ones whole, a 7 for a value.

    Of two strings that are added the whole is said too, as the screen shows it.
    """
    tree = ast.parse(source)
    # A string that stands alone is a docstring, of whatever it follows.
    alone = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    for node in ast.walk(tree):
        if id(node) not in alone and (said := _said(node)) is not None:
            yield " ".join(said.split())


def _said(node):
    """What an expression says, a 7 for what is not known; None of what says nothing."""
    match node:
        case ast.Constant(value=str(text)):
            return text
        case ast.JoinedStr(values=parts):
            return "".join("7" if (said := _said(one)) is None else said for one in parts)
        case ast.BinOp(left=left, op=ast.Add(), right=right):
            both = _said(left), _said(right)
            return None if both == (None, None) else "".join(one or "7" for one in both)
    return None


def said_in_data(value):
    """The strings of a data file, whole."""
    if isinstance(value, str):
        yield " ".join(value.split())
    elif isinstance(value, dict):
        for one in value.values():
            yield from said_in_data(one)
    elif isinstance(value, list):
        for one in value:
            yield from said_in_data(one)


def offences(texts):
    """What is said of what is struck out."""
    told = list(texts)
    return [
        (phrase, text)
        for phrase in struck_out()
        for text in told
        if re.search(rf"(?<!\w){re.escape(phrase)}(?!\w)", text)
    ]


def test_a_struck_out_word_is_found_wherever_it_is_said():
    assert len(struck_out()) >= 30
    screen = 'const x = (\n <p className="a">\n  Keep this\n sheet {n} and\n beside others</p>);'
    assert {phrase for phrase, _ in offences(said_on_screen(screen))} == {
        "Keep this",
        "beside others",
    }
    assert offences(said_on_screen("say(`Take off the shelf`); // Fetching, in a comment"))
    assert not offences(said_on_screen("/* Fetching it */ const kept = 1;"))
    python = 'def f():\n    """Keep this."""\n    return f"{1} was taken over"'
    assert {phrase for phrase, _ in offences(said_in_python(python))} == {"taken over"}


@pytest.mark.parametrize(
    "composed",
    [
        'f"{name} is known " "to within {share:.1f} %"',
        '"A way of turning it is known to " + f"within {share}"',
        'f"{first} and {second}: Keep " f"this"',
    ],
)
def test_a_struck_out_word_is_found_in_what_is_put_together(composed):
    assert offences(said_in_python(f"said = {composed}"))


def test_a_struck_out_word_is_found_in_data():
    assert offences(said_in_data({"causes": [{"title": "it is known to within a gram"}]}))


@pytest.mark.parametrize("folder", ["frontend/src", "src/mildhusk"])
def test_no_struck_out_word_is_said(folder):
    found = []
    for file in sorted((ROOT / folder).rglob("*.ts*" if "front" in folder else "*.py")):
        if file.name == "schema.d.ts" or ".test." in file.name or "migrations" in file.parts:
            continue
        read = said_on_screen if "front" in folder else said_in_python
        found += [(file.name, *one) for one in offences(read(file.read_text("utf-8")))]
    assert found == []


def test_no_struck_out_word_stands_in_data():
    """Causes, cautions, exercises, what materials are: sentences that are kept as data."""
    files = sorted((ROOT / "src/mildhusk").rglob("*.json"))
    assert len(files) >= 10
    told = [text for one in files for text in said_in_data(json.loads(one.read_text("utf-8")))]
    assert len(told) > 500
    assert offences(told) == []


# A value, or a 7 for one, and what follows it after a plain space.
_COUNTED = re.compile(r"(?<![\w.])[\d.,]*\d (m?Pa s|[^\W\d_]*[a-zA-Z%°²³]+(?:/\w+[²³]?)?)")
# In SI and in what makers use beside it; SI brochure, 9th edition, tables 1, 4, 7 and 8.
_UNITS = frozenset({
    "mm", "cm", "m", "km", "µm", "cm²", "m²", "in²", "ml", "l", "g", "kg", "oz", "lb", "g/ml",
    "kg/m³", "g/m²", "s", "min", "h", "d", "°C", "°F", "K", "%", "rpm", "Pa", "kPa", "N", "kN",
    "kN/m", "kJ/mol", "J", "W", "kW", "V", "Hz", "degrees", "Pa s", "mPa s",
})  # fmt: skip


def test_the_screen_binds_every_unit_that_a_sentence_of_the_core_counts_in():
    """Law: no line parts a number from its unit (common practice, no source)."""
    bound = re.search(
        r"const UNITS =\n(.*?);", (ROOT / "frontend/src/shared/format.ts").read_text(), re.DOTALL
    )
    known = "".join(re.findall(r'"([^"]*)"', bound[1])).replace("\\u00a0", " ")
    told = set()
    for folder in ("core", "services"):
        for file in sorted((ROOT / "src/mildhusk" / folder).rglob("*.py")):
            for text in said_in_python(file.read_text("utf-8")):
                told |= {found[1] for found in _COUNTED.finditer(text)} & _UNITS
    assert {"mm", "g", "°C", "%", "kN/m", "Pa s"} <= told
    assert {one for one in told if not re.fullmatch(known, one)} == set()


# A figure or what stands for one, a plain space, a unit; what goes on in figures is a remainder.
_PARTED = re.compile(
    r"[\d}](?:\{\" \"\}| )(?:mm|cm²?|m²|ml|g|kg|s|min|h|°[CF]|%|rpm)(?![\w/(]| [\d(]| \{?\w+\))"
)


@pytest.mark.parametrize(
    ("said", "is_parted"),
    [
        ("<b>{share} % of it</b>", True),
        ('{ label: "Lose contact for 5 s" }', True),
        ("`${rates.reverse_s} s`", True),
        ("95&nbsp;% of the face", False),
        ('"95\\u00a0% of the face"', False),
        ("const turns = ((azimuth % 360) + 360) % 360", False),
        ("buttons.at(to % buttons.length)", False),
    ],
)
def test_a_number_that_a_line_may_part_from_its_unit_is_found(said, is_parted):
    assert bool(_PARTED.search(said)) == is_parted


def test_no_number_of_the_screen_is_written_apart_from_its_unit():
    found = {}
    for file in sorted((ROOT / "frontend/src").rglob("*.ts*")):
        if "test" not in file.name and file.name != "schema.ts":
            for line in _COMMENT.sub("", file.read_text("utf-8")).splitlines():
                if _PARTED.search(line):
                    found.setdefault(file.name, []).append(line.strip())
    assert found == {}
