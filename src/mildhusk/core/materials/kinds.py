"""What stands on the shelf beside casting resins; each kind has the properties its use needs."""

from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum
from itertools import pairwise

from mildhusk.core.amounts import Origin
from mildhusk.core.checks import require_between
from mildhusk.core.errors import MaterialError
from mildhusk.core.materials.traits import Trait


@dataclass(frozen=True, slots=True, kw_only=True)
class Supply:
    """What every material has: a key, a name, its traits, where its values come from.

    Parameters
    ----------
    key, name : str
    origin : Origin
    traits : tuple of Trait
        What compatibility rules go by.
    hazards : tuple of str
        Cautions, one sentence each.
    """

    key: str
    name: str
    origin: Origin
    traits: tuple[Trait, ...]
    hazards: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if not self.key.strip() or not self.name.strip():
            raise MaterialError("A material needs a name; fill it in.", "name")

    def _between(self, field: str, low: float, high: float, words: str, unit: str = "") -> None:
        require_between(
            getattr(self, field),
            low,
            high,
            name=f"The {words}",
            field=field,
            error=MaterialError,
            shown_in=unit,
        )


class RubberCure(StrEnum):
    """How a mould rubber cures."""

    ADDITION = "addition"
    CONDENSATION = "condensation"


class RubberWay(StrEnum):
    """How a mould rubber is put on."""

    BRUSHED = "brushed"
    POURED = "poured"


@dataclass(frozen=True, slots=True, kw_only=True)
class Rubber(Supply):
    """A mould rubber.

    Parameters
    ----------
    cure : RubberCure
    ways : tuple of RubberWay
    parts_a, parts_b : float
        Mix ratio by weight. [1]
    density_kg_m3 : float
    viscosity_pa_s : float
        Of the fresh mix. [Pa s]
    hardness_shore_a : float
        Shore A, 0 to 100.
    elongation : float
        Stretch at break, 4.0 for 400 %. [1]
    tear_n_m : float
        Tear strength. [N/m]
    shrinkage : float
        Linear. [1]
    takes_thickener : bool
    life_casts : int
        Casts that a mould of it usually gives.
    pot_life_s, recoat_from_s, recoat_until_s, demould_s : float
        [s]
    """

    cure: RubberCure
    ways: tuple[RubberWay, ...]
    parts_a: float
    parts_b: float
    density_kg_m3: float
    viscosity_pa_s: float
    hardness_shore_a: float
    elongation: float
    tear_n_m: float
    shrinkage: float
    takes_thickener: bool
    life_casts: int
    pot_life_s: float
    recoat_from_s: float
    recoat_until_s: float
    demould_s: float

    def __post_init__(self) -> None:
        Supply.__post_init__(self)
        self._between("parts_a", 0.01, 1000, "part A of the ratio", "parts")
        self._between("parts_b", 0.01, 1000, "part B of the ratio", "parts")
        self._between("density_kg_m3", 800, 2000, "density", "kg/m³")
        self._between("viscosity_pa_s", 0.1, 1000, "mixed viscosity", "Pa s")
        self._between("hardness_shore_a", 0, 100, "hardness", "Shore A")
        self._between("elongation", 0.1, 15, "elongation at break")
        self._between("tear_n_m", 500, 100_000, "tear strength", "N/m")
        self._between("shrinkage", 0, 0.1, "linear shrinkage")
        self._between("life_casts", 1, 1000, "life in casts", "casts")
        self._between("pot_life_s", 30, 86_400, "pot life", "s")
        self._between("recoat_until_s", self.recoat_from_s, 1e6, "end of the recoat window", "s")
        self._between("demould_s", self.pot_life_s, 1e6, "demould time", "s")


@dataclass(frozen=True, slots=True, kw_only=True)
class ShellMaterial(Supply):
    """A material for the support shell.

    Parameters
    ----------
    wall_m : float
        Usual thickness of the shell. [m]
    density_kg_m3 : float
        As built. [kg/m^3]
    set_s : float
        Until the next part may be made. [s]
    hours_per_m2 : float
        Work. [h/m^2]
    bolts_on : bool
        Carries bolts, as a machine wants.
    price_per_m2 : float
        Of the material, in the workshop's currency.
    """

    wall_m: float
    density_kg_m3: float
    set_s: float
    hours_per_m2: float
    bolts_on: bool
    price_per_m2: float

    def __post_init__(self) -> None:
        Supply.__post_init__(self)
        self._between("wall_m", 0.001, 0.1, "wall of the shell", "m")
        self._between("density_kg_m3", 100, 3000, "density", "kg/m³")
        self._between("set_s", 60, 1e6, "setting time", "s")
        self._between("hours_per_m2", 0.1, 100, "work", "h/m²")
        self._between("price_per_m2", 0, 10_000, "price")

    @property
    def mass_per_m2(self) -> float:
        """Weight of a square metre of shell. [kg/m^2]"""
        return self.wall_m * self.density_kg_m3


@dataclass(frozen=True, slots=True, kw_only=True)
class Release(Supply):
    """A release or separator.

    Parameters
    ----------
    paintable : bool
        Paint holds on a cast that was released with it.
    washes_off_with : str
    drying_s : float
        Before anything may go on it. [s]
    works_on : tuple of Trait
        Casting materials it releases.
    """

    paintable: bool
    washes_off_with: str
    drying_s: float
    works_on: tuple[Trait, ...]

    def __post_init__(self) -> None:
        Supply.__post_init__(self)
        self._between("drying_s", 0, 86_400, "drying time", "s")


@dataclass(frozen=True, slots=True, kw_only=True)
class Sealer(Supply):
    """A sealer for porous masters. `drying_s`: before rubber may go on it. [s]"""

    drying_s: float

    def __post_init__(self) -> None:
        Supply.__post_init__(self)
        self._between("drying_s", 0, 604_800, "drying time", "s")


class AdditiveRole(StrEnum):
    """What an additive is for."""

    THICKENER = "thickener"
    TINT = "tint"
    FILLER = "filler"
    METAL_POWDER = "metal-powder"
    ACCELERATOR = "accelerator"
    THINNER = "thinner"
    CATALYST = "catalyst"


@dataclass(frozen=True, slots=True, kw_only=True)
class Additive(Supply):
    """Something stirred in. `dose_low`, `dose_high`: as a share of the mix by weight. [1]"""

    role: AdditiveRole
    dose_low: float
    dose_high: float

    def __post_init__(self) -> None:
        Supply.__post_init__(self)
        self._between("dose_low", 0, 10, "least dose")
        self._between("dose_high", self.dose_low, 10, "largest dose")


@dataclass(frozen=True, slots=True, kw_only=True)
class Clay(Supply):
    """A modelling clay. `softens_k`: where it gets soft, water clay never does. [K]"""

    softens_k: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class MeltedClay(Supply):
    """A clay that is melted, rolled as it thickens, and sets by cooling: one part, nothing cures.

    Parameters
    ----------
    density_kg_m3 : float
        [kg/m^3]
    heat_capacity_j_kg_k : float
        [J/(kg K)]
    melt_k, pour_k, thick_k, set_k, cool_k : float
        Out of the pot; cool enough to pour and roll; it runs no more; it bears the next film
        without melting; it keeps its shape out of the mould. [K]
    coat_wall_m : float
        Wall that one pour leaves when it is rolled as it thickens. [m]
    shrinkage : float
        Linear, as a share. [1]
    kit_mass_kg : float
        [kg]
    kit_price : Decimal
        In the workshop's currency.
    """

    density_kg_m3: float
    heat_capacity_j_kg_k: float
    melt_k: float
    pour_k: float
    thick_k: float
    set_k: float
    cool_k: float
    coat_wall_m: float
    shrinkage: float
    kit_mass_kg: float
    kit_price: Decimal

    def __post_init__(self) -> None:
        Supply.__post_init__(self)
        self._between("density_kg_m3", 500, 4000, "density", "kg/m³")
        self._between("heat_capacity_j_kg_k", 500, 5000, "heat capacity", "J/(kg K)")
        self._between("coat_wall_m", 0.0005, 0.02, "wall of one coat", "m")
        self._between("shrinkage", 0, 0.1, "shrinkage")
        self._between("kit_mass_kg", 0.05, 1000, "kit weight", "kg")
        if not self.kit_price.is_finite() or not 0 < self.kit_price < 1_000_000:
            raise MaterialError("The kit price must be above 0 and below 1,000,000.", "kit_price")
        names = ("melt_k", "pour_k", "thick_k", "set_k", "cool_k")
        self._between("melt_k", 310, 450, "temperature out of the pot", "K")
        self._between("cool_k", 280, 400, "temperature at which it keeps its shape", "K")
        for warmer, cooler in pairwise(names):
            if not getattr(self, warmer) > getattr(self, cooler):
                raise MaterialError(
                    "The clay cools from melting to pouring, thick, set and cool: "
                    f"{cooler.removesuffix('_k')} cannot be as warm as "
                    f"{warmer.removesuffix('_k')}.",
                    cooler,
                )

    @property
    def price_per_kg(self) -> Decimal:
        """Price, unrounded."""
        return self.kit_price / Decimal(repr(self.kit_mass_kg))


@dataclass(frozen=True, slots=True, kw_only=True)
class Consumable(Supply):
    """Something used up by the piece.

    Parameters
    ----------
    price : float
        For one, in the workshop's currency.
    per_coat, per_cast, per_mould : float
        How many are used up in mixing a coat, making a cast, building a mould.
    """

    price: float
    per_coat: float
    per_cast: float
    per_mould: float

    def __post_init__(self) -> None:
        Supply.__post_init__(self)
        self._between("price", 0, 10_000, "price")
        for field in ("per_coat", "per_cast", "per_mould"):
            self._between(field, 0, 1000, f"number used {field.replace('_', ' ')}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Circumstance(Supply):
    """No material but a surface or a situation that rules speak of: fresh paint, a damp room."""
