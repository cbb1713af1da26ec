"""Quantities as people type them, against the published factors."""

import pint
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mildhusk.core.errors import QuantityError
from mildhusk.core.wording import Quantity, Unit, in_metric
from mildhusk.quantities import read_quantity
from mildhusk.unit_names import FINE_UNITS, UNITS, UNSURE_UNITS


def read(text, si_unit, assumed):
    return read_quantity(text, si_unit, assumed, name="The value", field="value")


@pytest.mark.parametrize(
    ("text", "si_unit", "assumed", "value"),
    [
        # NIST SP 811 (2008), appendix B.8: inch 2.54 E-02 m; pound 4.535 923 7 E-01 kg;
        # ounce 2.834 952 E-02 kg; t/K = (t/F + 459.67)/1.8; t/K = t/C + 273.15.
        ("1in", "m", "mm", 0.0254),
        ('1"', "m", "mm", 0.0254),
        ("1 lb", "kg", "g", 0.45359237),
        ("1oz", "kg", "g", 0.02834952),
        ("21C", "K", "C", 294.15),
        ("21 °C", "K", "C", 294.15),
        ("70F", "K", "C", 294.261),
        ("294.15K", "K", "C", 294.15),
        ("3mm", "m", "mm", 0.003),
        ("3", "m", "mm", 0.003),
        ("0,3 cm", "m", "mm", 0.003),
        ("5%", "dimensionless", "%", 0.05),
        ("5", "dimensionless", "%", 0.05),
        ("-3mm", "m", "mm", -0.003),
        ("1e3 mm", "m", "mm", 1.0),
    ],
)
def test_what_people_write_is_read_by_the_published_factors(text, si_unit, assumed, value):
    assert read(text, si_unit, assumed) == pytest.approx(value, rel=1e-6)


@pytest.mark.parametrize(
    "text", ["", "mm", "three", "3kg", "3 quux", "3 mm mm!", "nan", "inf mm", "1e999mm", "--3mm"]
)
def test_what_cannot_be_read_is_said_with_the_field(text):
    with pytest.raises(QuantityError) as caught:
        read(text, "m", "mm")
    assert caught.value.field == "value"
    assert str(caught.value).startswith("The value")


REGISTRY = pint.UnitRegistry(autoconvert_offset_to_baseunit=True)
# How the reference library calls what it does not know by our name.
_BY_REFERENCE = {
    "c": "degC", "f": "degF", "k": "kelvin", "%": "percent", "": "", '"': "inch", "'": "foot",
    "gr": "gram", "gm": "gram", "gms": "gram", "kilo": "kilogram", "kilos": "kilogram",
    "kgs": "kilogram", "cc": "cm^3", "ccm": "cm^3", "sqcm": "cm^2", "sqm": "m^2", "sqin": "in^2",
    "sqft": "ft^2", "ltr": "liter", "floz": "US_fluid_ounce", "sec": "second", "secs": "second",
    "mins": "minute", "hrs": "hour", "pct": "percent", "per cent": "percent", "lbs": "pound",
    "t": "metric_ton", "tonne": "metric_ton", "tonnes": "metric_ton", "h": "hour", "d": "day",
    "times": "", "um": "micrometer", "micron": "micrometer", "microns": "micrometer",
    "celsius": "degC", "centigrade": "degC", "fahrenheit": "degF", "kelvins": "kelvin",
    "gramme": "gram", "grammes": "gram", "kilogramme": "kilogram", "kilogrammes": "kilogram",
    "cl": "centiliter", "dl": "deciliter",
}  # fmt: skip


def reference(name: str) -> str:
    """What pint calls a unit."""
    if name in _BY_REFERENCE:
        return _BY_REFERENCE[name]
    if name.startswith(("us ", "uk ", "imp ", "imperial ")):
        country, _, measure = name.partition(" ")
        measures = {
            "pt": "pint", "pints": "pint", "pint": "pint", "qt": "quart", "quart": "quart",
            "quarts": "quart", "gal": "gallon", "gallon": "gallon", "gallons": "gallon",
            "fl oz": "fluid_ounce",
        }  # fmt: skip
        us = "US_" if measures[measure] in ("pint", "fluid_ounce") else ""
        return f"{us if country == 'us' else 'imperial_'}{measures[measure]}"
    if name.startswith(("deg", "°")):
        return "degF" if name.rstrip().endswith(("f", "fahrenheit")) else "degC"
    if name in ("fl oz", "fluid ounce", "fluid ounces"):
        return "US_fluid_ounce"
    for words, power in (("square ", 2), ("sq ", 2), ("cubic ", 3), ("cu ", 3)):
        if name.startswith(words):
            singular = {"inches": "inch", "feet": "foot"}
            side = name.removeprefix(words)
            return f"{singular.get(side, side)}^{power}"
    if name[-1:] in "23" and "^" not in name:
        return f"{name[:-1]}^{name[-1]}"
    return name


NAMED = [(si, name) for si, names in UNITS.items() for name in names]


@pytest.mark.parametrize(("si_unit", "name"), NAMED)
def test_every_name_of_a_unit_is_read_as_the_units_library_reads_it(si_unit, name):
    """General-purpose reference library: pint. Some 200 names, as they stand and in capitals."""
    wanted = "dimensionless" if si_unit == "1" else si_unit
    for number in (0.37, 12.0, 450.0):
        expected = REGISTRY.Quantity(number, reference(name)).to(wanted).magnitude
        for written in (f"{number} {name}", f"{number}{name}", f"{number} {name.upper()}"):
            if name in ("m", "t") and written.endswith(("M", "T")):
                continue  # they are asked about
            assert read(written, si_unit, "") == pytest.approx(expected, rel=1e-9), written


@pytest.mark.parametrize("name", UNSURE_UNITS)
def test_what_is_not_the_same_everywhere_is_refused_with_what_to_write(name):
    written = name.upper() if name in ("m", "t") else name
    with pytest.raises(QuantityError, match="write"):
        read(f"2 {written}", "m" if name in ("m", "mil", "mils") else "m^3", "ml")


@pytest.mark.parametrize(
    ("text", "grams"),
    [
        ("40,000g", 40_000.0), ("1,420.0 g", 1_420.0), ("1.420,5 g", 1_420.5), ("0,300 kg", 300.0),
        ("2,5 g", 2.5), ("1 420.0 g", 1_420.0), ("1'500 g", 1_500.0),
        ("1,234,567.8 g", 1_234_567.8),
        ("1.234.567 g", 1_234_567.0), ("1,500", 1_500.0), ("12,75", 12.75), ("1.500 g", 1.5),
        ("1½ lb", 680.388555), ("1 1/2 lb", 680.388555), ("1-1/2 lb", 680.388555),
        ("¼ lb", 113.3980925), ("1 lb 4 oz", 566.99046), ("3 kg 200 g", 3_200.0),
        ("1e3 g", 1_000.0), (".5 kg", 500.0), ("1,50 kg", 1_500.0), ("240 gr", 240.0),
        ("−3 g", -3.0),
    ],
)  # fmt: skip
def test_thousands_decimals_and_fractions_are_told_apart(text, grams):
    assert read(text, "kg", "g") * 1e3 == pytest.approx(grams, rel=1e-7)


@pytest.mark.parametrize(
    ("text", "readings"),
    [("1,500 kg", ("1500 kg", "1.5 kg")), ("2,250 l", ("2250 l", "2.25 l"))],
)
def test_a_number_that_can_be_read_in_two_ways_is_refused_with_both(text, readings):
    with pytest.raises(QuantityError) as refused:
        read(text, "kg" if "kg" in text else "m^3", "kg")
    assert all(reading in str(refused.value) for reading in readings)


@pytest.mark.parametrize(
    "text",
    ["1,2,3 g", "1.2.3 g", "12,34,56 g", "1,23.4 g", "3 g 2 kg", "3 g 4", "3 4 5", "1/0 g",
     "3 g -2 mg",
     "1:30", "g 3", "3 kg?", "3..5 g", "1/2/3 g", "0x10 g", "3 m"],
)  # fmt: skip
def test_what_means_nothing_certain_is_never_guessed(text):
    with pytest.raises(QuantityError):
        read(text, "kg", "g")


@given(
    st.floats(1e-3, 9e6).map(lambda value: float(f"{value:.6g}")),
    st.sampled_from([(si, name) for si, name in NAMED if name and si != "K"]),
    st.sampled_from(["plain", "comma", "grouped", "blank", "apostrophe", "european"]),
)
def test_a_number_written_in_any_way_is_right_or_refused(value, named, way):
    """Property, against pint: never off by a factor."""
    si_unit, name = named
    english = f"{value:,.3f}"
    written = {
        "plain": f"{value:.3f}",
        "comma": f"{value:.2f}".replace(".", ","),
        "grouped": english,
        "blank": english.replace(",", "\u202f"),
        "apostrophe": english.replace(",", "’"),
        "european": english.translate(str.maketrans(",.", ".,")),
    }[way]
    meant = round(value, 2 if way == "comma" else 3)
    wanted = "dimensionless" if si_unit == "1" else si_unit
    expected = REGISTRY.Quantity(meant, reference(name)).to(wanted).magnitude
    # Three decimals behind a comma, and nothing else: thousands of what is small, else asked about.
    unsure = way == "european" and 1.0 <= meant < 1000.0
    if unsure and name not in FINE_UNITS:
        with pytest.raises(QuantityError, match="can be read as"):
            read(f"{written} {name}", si_unit, "")
        return
    factor = 1000.0 if unsure else 1.0
    assert read(f"{written} {name}", si_unit, "") == pytest.approx(expected * factor, rel=1e-9)


@given(
    st.floats(0.0, 2e4),
    st.sampled_from(
        [
            (Unit.LENGTH, "m", 1e-3, 0.05), (Unit.AREA, "m^2", 1e-4, 0.5),
            (Unit.VOLUME, "m^3", 1e-6, 0.5), (Unit.MASS, "kg", 1e-3, 0.05),
            (Unit.TIME, "s", 1.0, 30.0), (Unit.DENSITY, "kg/m^3", 10.0, 0.5),
        ]
    ),
)  # fmt: skip
def test_what_is_printed_can_be_read_back(amount, kind):
    """Law: to half of the last figure that is printed."""
    unit, si_unit, scale, half = kind
    value = amount * scale
    printed = in_metric(Quantity(value, unit))
    assert read(printed, si_unit, "") == pytest.approx(value, abs=half * scale * 1.001)
