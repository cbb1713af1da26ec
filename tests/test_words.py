"""No struck-out word of docs/words.md is said: not on the screen, nor by core and commands."""

import ast
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
    """The strings of a Python file but for its docstrings; of formatted ones the fixed parts."""
    tree = ast.parse(source)
    # A string that stands alone is a docstring, of whatever it follows.
    alone = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in alone:
            yield " ".join(node.value.split())


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
    assert [phrase for phrase, _ in offences(said_in_python(python))] == ["taken over"]


@pytest.mark.parametrize("folder", ["frontend/src", "src/mildhusk"])
def test_no_struck_out_word_is_said(folder):
    found = []
    for file in sorted((ROOT / folder).rglob("*.ts*" if "front" in folder else "*.py")):
        if file.name == "schema.d.ts" or ".test." in file.name or "migrations" in file.parts:
            continue
        read = said_on_screen if "front" in folder else said_in_python
        found += [(file.name, *one) for one in offences(read(file.read_text("utf-8")))]
    assert found == []
