"""What the data sheet of a casting resin says, checked as a whole."""

from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum
from itertools import pairwise

from mildhusk.core.amounts import Origin
from mildhusk.core.checks import require_between
from mildhusk.core.constants import ZERO_CELSIUS_K
from mildhusk.core.errors import MaterialError
from mildhusk.core.materials.traits import Trait


class RatioBasis(StrEnum):
    """How the two parts are measured out."""

    WEIGHT = "weight"
    VOLUME = "volume"


@dataclass(frozen=True, slots=True)
class CastingResin:
    """Data sheet of a two-part casting resin. Times run from the first contact of A and B.

    Parameters
    ----------
    key, name, material_class : str
        Identifier, name and class in the maker's words.
    origin : Origin
        Where the values come from.
    ratio_basis : RatioBasis
        Whether `parts_a` and `parts_b` are measured by weight or by volume.
    parts_a, parts_b : float
        Mix ratio, for instance 100 and 90. [1]
    density_a_kg_m3, density_b_kg_m3, density_cured_kg_m3 : float
        Densities. [kg/m^3]
    viscosity_pa_s : float
        Of the fresh mix. [Pa s]
    working_time_s, gel_s : float
        Until it can no longer be worked, and until it stops flowing, of the standard mass. [s]
    standard_mass_kg, standard_temperature_k : float
        Mass in the cup and temperature that the times hold for. [kg], [K]
    tack_from_s, tack_until_s : float
        The tack window. [s]
    demould_s, full_cure_s : float
        When it may leave the mould, and when it has its full strength. [s]
    coat_wall_m : float
        Wall that one coat leaves when it is rolled until it gels. [m]
    hardness : str
        With its scale, for instance "Shore D 70".
    shrinkage : float
        Linear, as a share. [1]
    hazards : tuple of str
        Cautions for the bench, one sentence each.
    traits : tuple of Trait
        What compatibility rules and the chain go by.
    kit_mass_kg : float
        Parts A and B together. [kg]
    kit_price : Decimal
        In the workshop's currency.
    peak_exotherm_k : float or None
        Highest temperature of the standard mass in its cup, where the sheet gives one. [K]

    Raises
    ------
    MaterialError
        A value out of range, or times in an impossible order.
    """

    key: str
    name: str
    material_class: str
    origin: Origin
    ratio_basis: RatioBasis
    parts_a: float
    parts_b: float
    density_a_kg_m3: float
    density_b_kg_m3: float
    density_cured_kg_m3: float
    viscosity_pa_s: float
    working_time_s: float
    gel_s: float
    standard_mass_kg: float
    standard_temperature_k: float
    tack_from_s: float
    tack_until_s: float
    demould_s: float
    full_cure_s: float
    coat_wall_m: float
    hardness: str
    shrinkage: float
    hazards: tuple[str, ...]
    traits: tuple[Trait, ...]
    kit_mass_kg: float
    kit_price: Decimal
    peak_exotherm_k: float | None = None

    def __post_init__(self) -> None:
        for field in ("key", "name", "material_class", "hardness"):
            if not getattr(self, field).strip():
                raise MaterialError(f"The {_WORDS[field]} is empty; fill it in.", field)
        for field, (low, high, unit, scale, offset) in _RANGES.items():
            require_between(
                getattr(self, field),
                low,
                high,
                name=f"The {_WORDS[field]}",
                field=field,
                error=MaterialError,
                shown_in=unit,
                scale=scale,
                offset=offset,
            )
        if not self.kit_price.is_finite() or not 0 < self.kit_price < 1_000_000:
            raise MaterialError("The kit price must be above 0 and below 1,000,000.", "kit_price")
        if (peak := self.peak_exotherm_k) is not None:
            standard = self.standard_temperature_k
            require_between(
                peak,
                standard + 1.0,
                ZERO_CELSIUS_K + 300.0,
                name=f"The {_WORDS['peak_exotherm_k']}",
                field="peak_exotherm_k",
                error=MaterialError,
                shown_in="°C",
                offset=-ZERO_CELSIUS_K,
            )
        self._check_order()

    def _check_order(self) -> None:
        order = ("working_time_s", "gel_s", "tack_from_s", "tack_until_s")
        for earlier, later in [*pairwise(order), ("gel_s", "demould_s")]:
            self._require_not_before(earlier, later)
        self._require_not_before("demould_s", "full_cure_s")
        if self.tack_from_s == self.tack_until_s:
            raise MaterialError("The tack window has no length; give a later end.", "tack_until_s")

    def _require_not_before(self, earlier: str, later: str) -> None:
        first, second = getattr(self, earlier), getattr(self, later)
        if second < first:
            raise MaterialError(
                f"The {_WORDS[later]} ({second:g} s) cannot be before the {_WORDS[earlier]} "
                f"({first:g} s); check the data sheet.",
                later,
            )

    @property
    def weight_share_b(self) -> float:
        """Share of part B in the weight of the mix. [1]"""
        a, b = self.parts_a, self.parts_b
        if self.ratio_basis is RatioBasis.VOLUME:
            a, b = a * self.density_a_kg_m3, b * self.density_b_kg_m3
        return b / (a + b)

    @property
    def price_per_kg(self) -> Decimal:
        """Price of the mixed resin, unrounded."""
        return self.kit_price / Decimal(repr(self.kit_mass_kg))


_WORDS = {
    "key": "key",
    "name": "name",
    "material_class": "class",
    "hardness": "hardness",
    "parts_a": "part A of the ratio",
    "parts_b": "part B of the ratio",
    "density_a_kg_m3": "density of part A",
    "density_b_kg_m3": "density of part B",
    "density_cured_kg_m3": "density of the cured resin",
    "viscosity_pa_s": "mixed viscosity",
    "working_time_s": "working time",
    "gel_s": "gel time",
    "standard_mass_kg": "mass the working time holds for",
    "standard_temperature_k": "temperature the working time holds for",
    "tack_from_s": "start of the tack window",
    "tack_until_s": "end of the tack window",
    "demould_s": "demould time",
    "full_cure_s": "full cure",
    "coat_wall_m": "wall of one coat",
    "shrinkage": "linear shrinkage",
    "kit_mass_kg": "kit weight",
    "peak_exotherm_k": "peak exotherm",
}

_PLAIN = (1.0, 0.0)
_MONTH_S = 31 * 86_400.0
_DENSITY = (200.0, 12_000.0, "kg/m³", *_PLAIN)
_TIME = (10.0, _MONTH_S, "s", *_PLAIN)

# field: lowest, highest, unit of the sentence, scale and offset to it
_RANGES: dict[str, tuple[float, float, str, float, float]] = {
    "parts_a": (0.01, 1000.0, "parts", *_PLAIN),
    "parts_b": (0.01, 1000.0, "parts", *_PLAIN),
    "density_a_kg_m3": _DENSITY,
    "density_b_kg_m3": _DENSITY,
    "density_cured_kg_m3": _DENSITY,
    "viscosity_pa_s": (0.0005, 1000.0, "Pa s", *_PLAIN),
    "working_time_s": _TIME,
    "gel_s": _TIME,
    "standard_mass_kg": (0.001, 20.0, "g", 1e3, 0.0),
    "standard_temperature_k": (ZERO_CELSIUS_K, ZERO_CELSIUS_K + 60, "°C", 1.0, -ZERO_CELSIUS_K),
    "tack_from_s": _TIME,
    "tack_until_s": _TIME,
    "demould_s": _TIME,
    "full_cure_s": _TIME,
    "coat_wall_m": (0.0002, 0.02, "mm", 1e3, 0.0),
    "shrinkage": (0.0, 0.1, "%", 100.0, 0.0),
    "kit_mass_kg": (0.05, 1000.0, "kg", *_PLAIN),
}
