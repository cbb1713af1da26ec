"""Quantities as people type them, against the published factors."""

import pint
import pytest

from mildhusk.core.errors import QuantityError
from mildhusk.quantities import _EVERYDAY, read_quantity


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


@pytest.mark.parametrize(
    ("si_unit", "written"), [(si, unit) for si, units in _EVERYDAY.items() for unit in units]
)
def test_what_is_read_without_the_units_library_is_read_as_it_reads_it(si_unit, written):
    """General-purpose reference library: pint."""
    names = {"C": "degC", "°C": "degC", "cm2": "cm^2", "m2": "m^2", "%": "percent", "": ""}
    registry = pint.UnitRegistry(autoconvert_offset_to_baseunit=True)
    for number in (0.37, 12.0, -4.5):
        quantity = registry.Quantity(number, names.get(written, written))
        expected = quantity.to("dimensionless" if si_unit == "1" else si_unit).magnitude
        assert read(f"{number} {written}", si_unit, written) == pytest.approx(expected, rel=1e-12)
