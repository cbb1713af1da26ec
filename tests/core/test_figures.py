"""Every figure of a sheet follows from its own terms, for every school, extra and material."""

import ast
import math
import operator
import re
from dataclasses import replace
from itertools import product

import pytest

from core.plans import FACE, WISH
from core.shapes import half_sphere, sphere
from mildhusk.core.amounts import Amount, Source, derived, given
from mildhusk.core.casting.plan import CastSheet, plan_cast
from mildhusk.core.casting.schools import SCHOOLS
from mildhusk.core.cure.clock import Conditions, coat_clock
from mildhusk.core.cure.data_sheet import retimed
from mildhusk.core.errors import InputError
from mildhusk.core.geometry.curve import VolumeCurve
from mildhusk.core.geometry.measure import measure_face
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.catalogue import shipped_casting_materials
from mildhusk.core.wording import Unit

EXTRAS = {
    "plain": {},
    "tinted": {"tint": 0.02},
    "filled": {"filler": 0.4, "filler_density_kg_m3": 2600.0},
    "thickened and thinned": {"thickener": 0.01, "thinner": 0.05},
    "learned, warm, two hands": {
        "time_factor": 1.2, "room_temperature_k": 299.0, "mould_temperature_k": 295.0, "hands": 2,
    },
    "by volume, uneven, lossy": {"measure": "volume", "allowance": 0.15, "loss": 0.12},
}  # fmt: skip

WITH_WASTE = replace(FACE, waste_m2=0.1 * FACE.area_m2)
_OPERATORS = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
}
_FUNCTIONS = {"max": max, "min": min}


def evaluate(formula: str, terms: tuple[Amount, ...]) -> float:
    """Work a formula out as it is written, by a reader of its own: Python's grammar."""
    text = formula.replace("×", "*").replace("÷", "/").replace("−", "-")
    values = {}
    # The longest name first: "loss" stands in "loss of it" too.
    for at, term in enumerate(sorted(terms, key=lambda one: -len(one.name))):
        symbol = f"_{chr(97 + at // 26)}{chr(97 + at % 26)}_"
        text = re.sub(rf"(?<![\w]){re.escape(term.name)}(?![\w])", symbol, text)
        values[symbol] = term.value
    return _worked_out(ast.parse(text, mode="eval").body, values)


def _worked_out(node: ast.expr, values: dict[str, float]) -> float:
    match node:
        case ast.BinOp(left, kind, right):
            return _OPERATORS[type(kind)](_worked_out(left, values), _worked_out(right, values))
        case ast.UnaryOp(ast.USub(), one):
            return -_worked_out(one, values)
        case ast.Name(name):
            return values[name]
        case ast.Constant(number):
            return float(number)
        case ast.Call(ast.Name("round"), [number, ast.Constant(step)]):
            return round(_worked_out(number, values) / step) * step
        case ast.Call(ast.Name(name), several):
            return _FUNCTIONS[name](_worked_out(one, values) for one in several)
    raise AssertionError(ast.dump(node))


def every(amounts):
    """Amounts, their terms, and the terms of those."""
    for amount in amounts:
        yield amount
        yield from every(amount.terms)


def _is_tie(amount: Amount) -> bool:
    inner = amount.formula.removeprefix("round(").removesuffix(", 0.01)")
    cents = evaluate(inner, amount.terms) * 100.0
    return abs(cents % 1.0 - 0.5) < 1e-6


def plans():
    for material, school, (name, extra) in product(
        shipped_casting_materials(), SCHOOLS.values(), EXTRAS.items()
    ):
        if school.takes(material):
            yield pytest.param(material, school, extra, id=f"{material.key}-{school.key}-{name}")


def _planned(material, school, extra) -> CastSheet:
    wish = replace(WISH, wall_m=0.004, school=school.key, **extra)
    try:
        return plan_cast(WITH_WASTE, material, wish)
    except InputError as error:
        # Nothing is mixed into clay, and no dose into what takes none.
        pytest.skip(str(error))


@pytest.mark.parametrize(("material", "school", "extra"), list(plans()))
def test_every_figure_follows_from_its_own_terms(material, school, extra):
    sheet = _planned(material, school, extra)
    for amount in every(sheet.figures):
        assert amount.low <= amount.value <= amount.high, amount.name
        names = [term.name for term in amount.terms]
        assert len(names) == len(set(names)), amount.name
        if amount.formula:
            # What lies half way between two steps may be rounded to either.
            tie = 0.01 if amount.formula.startswith("round(") and _is_tie(amount) else 1e-12
            assert evaluate(amount.formula, amount.terms) == pytest.approx(
                amount.value, rel=1e-9, abs=tie
            ), f"{amount.name} = {amount.formula}"
        elif amount.terms:
            # A model says in a sentence what it is.
            assert amount.words.endswith("."), amount.name
            assert amount.source is Source.COMPUTED


@pytest.mark.parametrize(("material", "school", "extra"), list(plans()))
def test_what_stands_on_the_sheet_is_what_its_figures_say(material, school, extra):
    sheet = _planned(material, school, extra)
    told = {key: sheet.figure(key).value for key in (
        "shell_volume", "planned_wall", "coats", "total_charge", "charge", "resin", "cast_weight",
        "trimmed_weight", "cost", "hands_on", "out_after", "demould",
    )}  # fmt: skip
    coats = sheet.coats
    assert told["coats"] == len(coats)
    assert told["shell_volume"] == sheet.shell_volume_m3
    assert told["planned_wall"] == pytest.approx(sheet.planned_wall_m)
    # Counted up anew, coat by coat.
    charges = [coat.charge_kg for coat in coats]
    assert told["total_charge"] == sheet.total_charge_kg == pytest.approx(math.fsum(charges))
    parts = [
        math.fsum((c.parts_kg.A, c.parts_kg.B, c.added_kg.thickener, c.added_kg.thinner,
                   c.added_kg.powder))
        for c in coats
    ]  # fmt: skip
    assert charges == pytest.approx(parts)
    heaviest = max(coats, key=lambda c: c.charge_kg - c.added_kg.powder)
    assert told["charge"] == pytest.approx(heaviest.charge_kg)
    assert told["resin"] == pytest.approx(math.fsum(c.recipe.neat.total_kg for c in coats))
    assert (
        told["hands_on"]
        == sheet.hands_on_s
        == pytest.approx(math.fsum(c.roll_until_s for c in coats))
    )
    assert sheet.out_after_s == pytest.approx(coats[-1].starts_s + coats[-1].clock.demould_s)
    assert told["out_after"] == sheet.out_after_s
    assert told["cast_weight"] == sheet.cast_kg
    assert told["trimmed_weight"] == sheet.trimmed_kg < sheet.cast_kg
    assert told["cost"] == pytest.approx(float(sheet.cost))
    low, high = sheet.total_charge_band_kg
    assert low <= sheet.total_charge_kg <= high
    # A charge that was fixed beforehand is weighed as it is; all others hang on the wall.
    assert (low < high) != (school.key == "fixed")
    assert sheet.limits.at(coats[0].binding_limit) == pytest.approx(
        sheet.figure(f"limit:{coats[0].binding_limit}").value
    )


@pytest.mark.parametrize(("material", "school", "extra"), list(plans()))
def test_weights_are_those_of_the_wall_and_what_is_added(material, school, extra):
    """Closed form, worked out from the data sheet and the volume alone."""
    sheet = _planned(material, school, extra)
    wish, filler = sheet.wish, extra.get("filler", 0.0)
    neat = getattr(material, "density_cured_kg_m3", None) or material.density_kg_m3
    density = (1.0 + filler) / (1.0 / neat + filler / wish.filler_density_kg_m3)
    on_wall = density * sheet.shell_volume_m3
    stays = 1.0 - wish.loss
    added = {
        "paste": sum(c.layer.wanted_kg for c in sheet.coats if c.kind == "paste") * stays,
        "powder": sheet.coats[0].added_kg.powder,
        "foam": 1.1 * 120.0 * (WITH_WASTE.volume_m3 - sheet.shell_volume_m3),
    }.get(str(school.key), 0.0)
    expected = on_wall + added
    if school.key == "fixed":
        expected = max(expected, sheet.total_charge_kg * stays)
    assert sheet.cast_kg == pytest.approx(expected)
    foam = added if school.key == "foam" else 0.0
    assert sheet.trimmed_kg == pytest.approx(0.9 * (expected - foam) + foam)


@pytest.mark.parametrize("extra", list(EXTRAS.values()), ids=list(EXTRAS))
def test_times_are_those_of_the_cure_of_their_terms(extra):
    """The cure, asked with what the terms say, gives the time that is told."""
    material = next(m for m in shipped_casting_materials() if m.key == "pu-medium-rigid")
    assert isinstance(material, CastingResin)
    sheet = plan_cast(FACE, material, replace(WISH, **extra))
    for key in ("roll_until", "next_from", "next_until", "demould"):
        figure = sheet.figure(key)
        terms = {term.name: term.value for term in figure.terms}
        at = Conditions(
            terms["room"], terms["mould"], terms["A and B"], cups=sheet.wish.hands,
            spread_s=sheet.conditions.spread_s,
        )  # fmt: skip
        resin = retimed(material, sheet.wish.time_factor)
        charge_kg = sheet.heaviest.recipe.neat.total_kg
        clock = coat_clock(resin, at, charge_kg, terms["film of the coat"])
        assert figure.value == pytest.approx(getattr(clock, f"{key}_s"))
        sheet_says = {"roll_until": "gel_s", "next_from": "tack_from_s"}.get(
            key, {"next_until": "tack_until_s", "demould": "demould_s"}.get(key)
        )
        assert terms["data sheet's time"] == pytest.approx(getattr(resin, sheet_says))


def test_a_measured_curve_is_read_between_its_rows():
    """Closed form: a curve of V = 3 t + 40 t^2 in rows, read as its chord."""
    walls = tuple(0.0005 * n for n in range(31))
    curve = VolumeCurve(walls, tuple(0.06 * t + 0.4 * t * t for t in walls), 0.004, 0.001)
    face = replace(FACE, curve=curve, band=0.004)
    sheet = plan_cast(face, shipped_casting_materials()[0], replace(WISH, wall_m=0.00315))
    low, high = 0.003, 0.0035
    v = [0.06 * t + 0.4 * t * t for t in (low, high)]
    expected = v[0] + (v[1] - v[0]) * (0.00315 - low) / (high - low)
    figure = sheet.figure("shell_volume")
    assert figure.value == pytest.approx(expected)
    assert figure.high / figure.value == pytest.approx(1.004)
    assert sheet.shell_volume_m3 == pytest.approx(expected)


def test_the_band_of_a_product_is_the_root_of_the_squares():
    """JCGM 100:2008, 5.1.6: relative uncertainties of a product add in squares."""
    side = given("side", 2.0, Unit.LENGTH, Source.MEASURED, 0.06)
    height = given("height", 5.0, Unit.LENGTH, Source.MEASURED, 0.2)
    area = derived("", "area", Unit.AREA, "side × height", lambda a, b: a * b, side, height)
    assert area.amount.high - area.value == pytest.approx(10.0 * math.hypot(0.03, 0.04))


def test_what_shares_an_input_is_correlated():
    """JCGM 100:2008, 5.2: a difference of one quantity with itself is exact; a sum is twice it."""
    side = given("side", 2.0, Unit.LENGTH, Source.MEASURED, 0.06)
    twice = derived("", "twice", Unit.LENGTH, "side + side", lambda a: a + a, side)
    none = derived("", "none", Unit.LENGTH, "side − side", lambda a: a - a, side)
    assert twice.amount.high - twice.value == pytest.approx(0.12)
    assert none.amount.high == none.amount.low == 0.0


@pytest.mark.parametrize(
    ("formula", "value"),
    [
        ("wall × (1 + more)", 3.3),
        ("max(wall, more) − wall ÷ 2", 1.5),
        ("round(wall × more, 0.5)", 0.5),
    ],
)
def test_the_reader_of_formulas_can_tell_a_wrong_one(formula, value):
    terms = tuple(
        given(name, number, Unit.COUNT, Source.WISHED).amount
        for name, number in (("wall", 3.0), ("more", 0.1))
    )
    assert evaluate(formula, terms) == pytest.approx(value)
    assert evaluate("wall + more", terms) != pytest.approx(value)


def test_a_closed_and_an_open_piece_are_told_alike():
    """Steiner's formula is the formula told, also of a sphere: V = 4/3 pi (R^3 - (R - t)^3)."""
    for face, share in ((sphere(0.1, 60), 1.0), (half_sphere(0.1, 60), 0.5)):
        sheet = plan_cast(measure_face(face), shipped_casting_materials()[0], WISH)
        exact = share * 4.0 / 3.0 * math.pi * (0.1**3 - 0.097**3)
        assert sheet.figure("shell_volume").value == pytest.approx(exact, rel=5e-3)
