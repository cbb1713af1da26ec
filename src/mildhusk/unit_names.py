"""What people call units, by the SI unit they become.

Factors are exact by definition: BIPM SI brochure, 9th ed.; NIST SP 811 (2008), appendix B.8, for
inch, foot, pound, ounce and the US measures of volume (fluid ounce 29.573 53 ml, pint 473.1765 ml,
as printed; here by their definition of 231 cubic inches a gallon); the imperial gallon is
4.546 09 l (UK Units of Measurement Regulations 1995, from memory).
"""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class NamedUnit:
    """Times this, plus that."""

    factor: float
    offset: float = 0.0


def _named(*groups: tuple[float, str]) -> dict[str, NamedUnit]:
    return {
        name: NamedUnit(factor)
        for factor, names in groups
        for name in map(str.strip, names.split(","))
    }


_INCH = 0.0254
_US_GALLON, _UK_GALLON = 231.0 * _INCH**3, 4.54609e-3
_POUND = 0.45359237

UNITS: dict[str, dict[str, NamedUnit]] = {
    "m": _named(
        (1e-6, "µm, um, micron, microns, micrometre, micrometer"),
        (1e-3, "mm, millimetre, millimetres, millimeter, millimeters"),
        (1e-2, "cm, centimetre, centimetres, centimeter, centimeters"),
        (1.0, "m, metre, metres, meter, meters"),
        (_INCH, 'in, inch, inches, "'),
        (12 * _INCH, "ft, foot, feet, '"),
        (36 * _INCH, "yd, yard, yards"),
    ),
    "m^2": _named(
        (1e-6, "mm2, mm^2, sq mm"),
        (1e-4, "cm2, cm^2, sq cm, sqcm"),
        (1.0, "m2, m^2, sq m, sqm"),
        (_INCH**2, "in2, in^2, sq in, sqin, square inch, square inches"),
        ((12 * _INCH) ** 2, "ft2, ft^2, sq ft, sqft, square foot, square feet"),
    ),
    "m^3": _named(
        (1e-6, "ml, millilitre, millilitres, milliliter, milliliters, cc, cm3, cm^3, ccm"),
        (1e-5, "cl, centilitre, centilitres, centiliter, centiliters"),
        (1e-4, "dl, decilitre, decilitres, deciliter, deciliters"),
        (1e-3, "l, litre, litres, liter, liters, ltr, dm3, dm^3"),
        (1.0, "m3, m^3"),
        (1e-9, "mm3, mm^3"),
        (_INCH**3, "in3, in^3, cu in, cubic inch, cubic inches"),
        (_US_GALLON / 128, "fl oz, floz, fluid ounce, fluid ounces, us fl oz"),
        (_UK_GALLON / 160, "uk fl oz, imp fl oz, imperial fl oz"),
        (_US_GALLON / 8, "us pint, us pints, us pt"),
        (_UK_GALLON / 8, "uk pint, uk pints, uk pt, imperial pint, imperial pints, imp pint"),
        (_US_GALLON / 4, "us quart, us quarts, us qt"),
        (_UK_GALLON / 4, "uk quart, uk quarts, imperial quart, imperial quarts"),
        (_US_GALLON, "us gallon, us gallons, us gal"),
        (_UK_GALLON, "uk gallon, uk gallons, uk gal, imperial gallon, imperial gallons"),
        (_US_GALLON / 256, "tbsp, tablespoon, tablespoons"),
        (_US_GALLON / 768, "tsp, teaspoon, teaspoons"),
    ),
    "kg": _named(
        (1e-6, "mg, milligram, milligrams"),
        # In a kitchen and on a bench gr is a gram; nobody weighs resin in grains.
        (1e-3, "g, gr, gm, gms, gram, grams, gramme, grammes"),
        (1.0, "kg, kgs, kilo, kilos, kilogram, kilograms, kilogramme, kilogrammes"),
        (1e3, "t, tonne, tonnes"),
        (_POUND, "lb, lbs, pound, pounds"),
        (_POUND / 16, "oz, ounce, ounces"),
    ),
    "s": _named(
        (1.0, "s, sec, secs, second, seconds"),
        (60.0, "min, mins, minute, minutes"),
        (3600.0, "h, hr, hrs, hour, hours"),
        (86400.0, "d, day, days"),
    ),
    "K": {
        **{
            name: NamedUnit(1.0, 273.15)
            for name in (
                "c", "°c", "° c", "deg c", "degc", "degree c", "degrees c", "celsius",
                "deg celsius", "degrees celsius", "centigrade", "°", "deg", "degrees",
            )
        },
        **{
            name: NamedUnit(5.0 / 9.0, 273.15 - 32.0 * 5.0 / 9.0)
            for name in (
                "f", "°f", "° f", "deg f", "degf", "degree f", "degrees f", "fahrenheit",
                "degrees fahrenheit",
            )
        },
        **{name: NamedUnit(1.0) for name in ("k", "kelvin", "kelvins")},
    },
    "1": {
        **_named((1e-2, "%, percent, per cent, pct"), (1.0, "times")),
        "": NamedUnit(1.0),
    },
}  # fmt: skip
"""Names in lower case, by SI unit; what is not here is read by the units library."""

FINE_UNITS = frozenset(
    {"mg", "g", "gr", "gm", "gms", "gram", "grams", "gramme", "grammes", "ml", "mm", "µm", "cm2"}
    | {"cm^2", "cc", "mm2", "mm^2", "s", "sec"}
)
"""So small that nobody gives three decimals of them: a comma before three figures parts thousands.
"""

UNSURE_UNITS = {
    **dict.fromkeys(
        ("pint", "pints", "pt", "pts"),
        "a pint is 473 ml in the US and 568 ml in the UK; write US pint, UK pint or ml",
    ),
    **dict.fromkeys(
        ("quart", "quarts", "qt"),
        "a quart is 946 ml in the US and 1137 ml in the UK; write US quart, UK quart or l",
    ),
    **dict.fromkeys(
        ("gallon", "gallons", "gal"),
        "a gallon is 3.79 l in the US and 4.55 l in the UK; write US gallon, UK gallon or l",
    ),
    **dict.fromkeys(("cup", "cups"), "cups are 237, 240 or 250 ml; write ml"),
    **dict.fromkeys(
        ("mil", "mils"), "a mil is a thousandth of an inch, and others mean mm or ml; write those"
    ),
    **dict.fromkeys(("grain", "grains"), "a grain is 0.065 g; write grams, which the scale shows"),
    "m": "a capital M is no metre; write m or mm",
    "t": "T may be a tonne or a tablespoon; write kg or ml",
}
"""Names that are not the same everywhere, and what to write."""
