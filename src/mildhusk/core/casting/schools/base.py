"""The interface of a school: how it divides, how fast it covers, what it adds, what it says."""

from abc import ABC, abstractmethod
from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING, ClassVar

from mildhusk.core.amounts import Term, derived
from mildhusk.core.casting.coats import CoatKind, Layer, Need
from mildhusk.core.casting.limits import POUR_S
from mildhusk.core.casting.wish import CastWish, CoatSchool
from mildhusk.core.equipment import Equipment
from mildhusk.core.findings import Finding
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.catalogue import CastingMaterial
from mildhusk.core.wording import Unit

if TYPE_CHECKING:
    from mildhusk.core.casting.plan import CastSheet


@dataclass(frozen=True, slots=True)
class FoamBacking:
    """Foam that fills what the skin leaves hollow.

    Parameters
    ----------
    hollow_m3 : float
    kg : float
        A and B of the foam together. [kg]
    expansion : float
        Its volume risen by its volume stirred. [1]
    """

    hollow_m3: float
    kg: float
    expansion: float


@dataclass(frozen=True, slots=True)
class Backed:
    """What goes behind the skin, with its weight as a term of the cast's."""

    foam: FoamBacking
    weight: Term


@dataclass(frozen=True, slots=True)
class SchoolWords:
    """A school as it is told: its key, its name, and when to take it."""

    key: CoatSchool
    name: str
    when: str


@dataclass(frozen=True, slots=True)
class Husk:
    """What a school has to say of weights: terms and what was divided.

    Parameters
    ----------
    on_wall : Term
        What sets on the even wall. [kg]
    needed : Term
        To mix for it, loss and all. [kg]
    loss : Term
        [1]
    mixed_kg : float
        All coats as they are weighed. [kg]
    layers : tuple of Layer
    wish : CastWish
    liquid_kg_m3 : float
        Density of the fresh mix. [kg/m^3]
    """

    on_wall: Term
    needed: Term
    loss: Term
    mixed_kg: float
    layers: tuple[Layer, ...]
    wish: CastWish
    liquid_kg_m3: float


class School(ABC):
    """A way of dividing what is poured into coats."""

    key: ClassVar[CoatSchool]
    name: ClassVar[str]
    when: ClassVar[str]
    pours: ClassVar[type[CastingMaterial]] = CastingResin
    """What it is a way of pouring."""
    mends_thin_places: ClassVar[bool] = False
    """Whether thin places are mended by hand, so that the rest need not be thicker."""
    explains_more_coats: ClassVar[bool] = False
    """Whether it takes more coats only where a limit asks for them."""

    @property
    def words(self) -> SchoolWords:
        """How it is told."""
        return SchoolWords(self.key, self.name, self.when)

    def takes(self, material: CastingMaterial) -> bool:
        """Whether it is a way of pouring a material."""
        return isinstance(material, self.pours)

    @property
    def plain_coat(self) -> CoatKind:
        """What a plain coat of it is."""
        return CoatKind.ROLLED

    def allowance(self, wish: CastWish) -> float:
        """Return what is added to the least wall because it comes out uneven, as a share."""
        return 0.0 if self.mends_thin_places else wish.allowance

    def carried_m(self, usual_m: float) -> float:
        """Return the wall that one coat leaves, where hands leave the usual one. [m]"""
        return usual_m

    def spread_s(self, area_m2: float, wish: CastWish, equipment: Equipment) -> float:
        """Return how long it takes from the pour until everything is covered once. [s]"""
        return POUR_S + area_m2 / (equipment.cover_m2_s * wish.hands)

    @abstractmethod
    def divide(self, need: Need) -> tuple[Layer, ...]:
        """Divide what is poured into coats that come to the need.

        A limit that even its own division breaks is the finding's to tell.
        """

    def to_mix(self, husk: Husk) -> Term:
        """Return what is to be mixed before it is rounded up to what can be read. [kg]"""
        return husk.needed

    def skin(self, husk: Husk) -> Term:
        """Return the weight of the husk without what backs it. [kg]"""
        return husk.on_wall

    def backing(self, holds: Term, volume: Term) -> Backed | None:
        """Return what fills the hollow behind the skin; None where it stays hollow.

        Parameters
        ----------
        holds : Term
            What the piece holds. [m^3]
        volume : Term
            Resin on the wall. [m^3]
        """
        return None

    def findings(self, sheet: "CastSheet") -> Iterator[Finding]:
        """Say what its own coats are, where the numbers alone do not."""
        return iter(())


def backed_weight(skin: Term, backed: Backed | None) -> Term:
    """Return the weight of the cast: the husk, and what backs it. [kg]"""
    if backed is None:
        return skin
    formula = f"{skin.amount.name} + {backed.weight.amount.name}"
    return derived(
        "", "husk and backing", Unit.MASS, formula, lambda a, b: a + b, skin, backed.weight
    )
