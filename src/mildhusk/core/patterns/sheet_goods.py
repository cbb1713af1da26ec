"""What sheets bear that are bent cold: for visors and lenses."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class SheetGood:
    """A sheet material: how sharply it bends cold, as a multiple of its thickness."""

    key: str
    name: str
    least_radius: float


SHEET_GOODS = (
    SheetGood("polycarbonate", "polycarbonate", 100.0),
    SheetGood("petg", "PET-G", 150.0),
    SheetGood("acrylic", "acrylic", 200.0),
    SheetGood("card", "card or paper", 20.0),
)
"""Radii of cold bending (common practice, no source): the maker's sheet stands above them."""
