"""Which unit the numbers of a unitless file are in: a guess, and what each unit would mean."""

from enum import StrEnum

from mildhusk.core.geometry.mesh import Mesh


class LengthUnit(StrEnum):
    """The units a shape file may be in."""

    MILLIMETRE = "mm"
    CENTIMETRE = "cm"
    METRE = "m"
    INCH = "in"

    @property
    def metres(self) -> float:
        """One of this unit. [m]"""
        return _METRES[self]

    @property
    def plural(self) -> str:
        """Its name in words, of several."""
        return _PLURALS[self]


_PLURALS = {
    LengthUnit.MILLIMETRE: "millimetres",
    LengthUnit.CENTIMETRE: "centimetres",
    LengthUnit.METRE: "metres",
    LengthUnit.INCH: "inches",
}

# NIST SP 811 (2008), appendix B.8: 1 in = 2.54 E-02 m exactly; the others by prefix.
_METRES = {
    LengthUnit.MILLIMETRE: 1e-3,
    LengthUnit.CENTIMETRE: 1e-2,
    LengthUnit.METRE: 1.0,
    LengthUnit.INCH: 0.0254,
}

# Masks, helmets and busts (common practice, no source).
_LIKELY_LOW_M, _LIKELY_HIGH_M = 0.07, 0.9

# Millimetres come first because nearly every exporter writes them.
_ORDER = (LengthUnit.MILLIMETRE, LengthUnit.INCH, LengthUnit.CENTIMETRE, LengthUnit.METRE)


def guess_unit(mesh: Mesh) -> tuple[LengthUnit, bool]:
    """Guess the unit of a file from its size.

    Parameters
    ----------
    mesh : Mesh
        In the unit of the file.

    Returns
    -------
    unit : LengthUnit
        The first unit in which the piece would be as large as a mask, helmet or bust.
    sure : bool
        False when no unit or more than one does: ask.
    """
    largest = float(mesh.extents.max())
    fitting = [u for u in _ORDER if _LIKELY_LOW_M <= largest * u.metres <= _LIKELY_HIGH_M]
    if not fitting:
        return LengthUnit.MILLIMETRE, False
    return fitting[0], len(fitting) == 1
