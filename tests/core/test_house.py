"""Rules of the house: documented arguments are the real ones, every error has its place."""

import ast
import inspect
import pkgutil
import re
from importlib import import_module

import pytest

import mildhusk.core
from mildhusk.core import errors

MODULES = [
    import_module(found.name)
    for found in pkgutil.walk_packages(mildhusk.core.__path__, "mildhusk.core.")
]


def public_functions():
    for module in MODULES:
        for name, thing in vars(module).items():
            if (
                inspect.isfunction(thing)
                and thing.__module__ == module.__name__
                and not name.startswith("_")
            ):
                yield pytest.param(thing, id=f"{module.__name__}.{name}")


def documented_parameters(text: str) -> list[str]:
    found = re.search(r"Parameters\n-+\n(.*?)(?:\n\n[A-Z]\w+\n-+|\Z)", text, re.DOTALL)
    if not found:
        return []
    heads = re.findall(r"^\*?(\w[\w, ]*?)(?: :.*)?$", found[1], re.MULTILINE)
    return [name for head in heads for name in re.split(r",\s*", head)]


@pytest.mark.parametrize("function", list(public_functions()))
def test_documented_arguments_are_the_real_ones(function):
    documented = documented_parameters(inspect.getdoc(function) or "")
    if documented:
        assert documented == list(inspect.signature(function).parameters)


@pytest.mark.parametrize("function", list(public_functions()))
def test_several_arguments_and_what_comes_of_them_are_documented(function):
    """Three arguments or more: each is told, and what is returned; numbers with their unit."""
    signature = inspect.signature(function)
    if len(signature.parameters) < 3:
        return
    text = inspect.getdoc(function) or ""
    assert "\nParameters\n----------\n" in text
    if signature.return_annotation not in (None, "None"):
        assert "\nReturns\n-------\n" in text
    numbers = [
        name for name in signature.parameters
        if re.search(r"_(m|m2|m3|kg|s|k|kg_m3|pa_s)$", name)
    ]  # fmt: skip
    told = re.split(
        r"^\w[\w, *]*?(?: :.*)?$", text.partition("Parameters\n")[2], flags=re.MULTILINE
    )
    assert not numbers or any("[" in one for one in told), "the units are told in brackets"


def test_the_check_of_arguments_does_find_a_drift():
    text = (
        "Say it.\n\nParameters\n----------\na, b : float\n    Both.\nc\n\nReturns\n-------\nfloat"
    )
    assert documented_parameters(text) == ["a", "b", "c"]


def test_the_drawn_tree_names_every_error():
    classes = {
        name
        for name, thing in vars(errors).items()
        if inspect.isclass(thing) and issubclass(thing, Exception)
    }
    assert set(re.findall(r"\w+Error", errors.__doc__ or "")) - {"ValueError"} == classes


def test_no_core_module_reads_the_clock_or_draws_random_numbers():
    forbidden = {"time", "random", "datetime.now", "date.today"}
    for module in MODULES:
        tree = ast.parse(inspect.getsource(module))
        used = {ast.unparse(node.func) for node in ast.walk(tree) if isinstance(node, ast.Call)} | {
            alias.name
            for node in ast.walk(tree)
            if isinstance(node, ast.Import)
            for alias in node.names
        }
        assert not used & forbidden, module.__name__
