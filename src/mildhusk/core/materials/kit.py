"""A kit on offer: what a material can be bought in."""

from dataclasses import dataclass
from decimal import Decimal

from mildhusk.core.errors import MaterialError


@dataclass(frozen=True, slots=True)
class Kit:
    """A kit on offer: A and B together, unopened shelf life."""

    name: str
    mass_kg: float
    price: Decimal
    shelf_life_days: int

    def __post_init__(self) -> None:
        if not 0.001 <= self.mass_kg <= 1000.0:
            raise MaterialError(f"A kit of {self.mass_kg:g} kg cannot be bought.", "mass_kg")
        if not self.price.is_finite() or self.price <= 0:
            raise MaterialError(f"The kit '{self.name}' has no price; give one.", "price")
        if self.shelf_life_days < 1:
            raise MaterialError(f"The kit '{self.name}' keeps no day.", "shelf_life_days")
