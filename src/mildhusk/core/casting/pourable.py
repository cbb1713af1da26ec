"""What is poured: a two-part resin or a melted clay, behind one interface."""

from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass
from functools import singledispatch
from typing import TYPE_CHECKING, ClassVar

from mildhusk.core.amounts import Term
from mildhusk.core.casting.coats import Layer
from mildhusk.core.casting.wish import CastWish
from mildhusk.core.cure.clock import CoatClock, Conditions
from mildhusk.core.cure.dose import Doses
from mildhusk.core.findings import Rule
from mildhusk.core.materials.casting_resin import RatioBasis
from mildhusk.core.materials.catalogue import CastingMaterial
from mildhusk.core.mixing.cup import Cup
from mildhusk.core.mixing.recipe import Premix, Recipe

if TYPE_CHECKING:
    from mildhusk.core.casting.plan import CastSheet


@dataclass(frozen=True, slots=True)
class PouredCoat:
    """A coat as far as its clock goes by it.

    Parameters
    ----------
    number : int
    reacts_kg : float
        What of the charge takes part in setting. [kg]
    film_m : float
        What it leaves. [m]
    clock : CoatClock
    """

    number: int
    reacts_kg: float
    film_m: float
    clock: CoatClock


Timer = Callable[[PouredCoat, str], dict[str, Term]]
"""From a coat and what is said behind the names of its times to those times as terms."""

TIMES = {
    "pour_by": "pour before",
    "roll_until": "roll until",
    "next_from": "next coat from",
    "next_until": "next coat until",
    "demould": "demould after the last coat",
}
"""The times of a coat that a sheet tells, and their names."""


class Pourable(ABC):
    """What is poured, as it is wished for."""

    material: CastingMaterial
    """As it stands on the shelf."""
    parts: ClassVar[tuple[str, ...]]
    """What is measured out, part by part."""
    whole: ClassVar[str] = "resin to mix"
    """All of it, in the words of the bench."""
    basis: RatioBasis
    rules: ClassVar[tuple[Rule["CastSheet"], ...]]
    """What findings it brings along."""

    @property
    @abstractmethod
    def coat_wall_m(self) -> float:
        """Wall that one coat by hand leaves. [m]"""

    @property
    @abstractmethod
    def density(self) -> Term:
        """Of what has set. [kg/m^3]"""

    @property
    @abstractmethod
    def liquid_kg_m3(self) -> float:
        """Density of what is poured. [kg/m^3]"""

    @property
    @abstractmethod
    def part_densities_kg_m3(self) -> tuple[float, float]:
        """Of A and of B; what has one part has it twice. [kg/m^3]"""

    @property
    @abstractmethod
    def smallest_kg(self) -> float:
        """Least charge that can be read to 1 %. [kg]"""

    @property
    def doses(self) -> Doses | None:
        """Doses of catalyst it takes; None where it takes none."""
        return None

    @abstractmethod
    def largest_kg(self, at: Conditions) -> float:
        """Return the largest charge that is mixed and spread in time. [kg]"""

    @abstractmethod
    def recipe(self, layer: Layer) -> Recipe:
        """Return what is measured out for a coat."""

    @abstractmethod
    def clock(self, layer: Layer, mixed: Recipe, at: Conditions) -> CoatClock:
        """Return the clock of a coat."""

    def premix(self, recipes: tuple[Recipe, ...]) -> Premix | None:
        """Return part B for the whole job; None where nothing is stirred into it."""
        return None

    def marks(self, cup: Cup, mixed: Recipe) -> dict[str, float | None]:
        """Return how high each part stands in a cup: heights by part, None above the brim. [m]"""
        return {"A": None, "A+B": None}

    @abstractmethod
    def stays_kg(self, volume_m3: float) -> float:
        """Return what of the parts, as the kit holds them, stays in a wall. [kg]"""

    @abstractmethod
    def timer(self, at: Conditions, largest: PouredCoat, band: float | None) -> Timer:
        """Return what tells the times of the coats of a sheet as amounts.

        `band` is half of that of the wish's factor on times, where pours taught it. [1]
        """


@singledispatch
def pourable_of(material: object, wish: CastWish) -> Pourable:
    """Return what is poured of a material, as it is wished for.

    Raises
    ------
    ConditionError
        A dose, a filler or a temperature that it cannot be poured with.
    """
    raise TypeError(f"Nothing pours {type(material).__name__}.")
