"""What goes into a charge beside A and B: tint and filler in B, thickener, thinner, catalyst."""

import math
from dataclasses import dataclass, replace

from mildhusk.core.checks import require_between
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.casting_resin import CastingResin, RatioBasis
from mildhusk.core.mixing.split import Charge, require_weight, split_charge, up_to_step

MOST_PACKED = 0.64
"""Volume share of spheres packed at random (Scott and Kilgour, J. Phys. D 2 (1969) 863-866, from
memory)."""
INTRINSIC = 2.5
"""Intrinsic viscosity of spheres (Einstein 1906, corrected 1911)."""
METAL_POWDER_KG_M3 = 8700.0
"""A copper alloy's (handbook value, from memory). [kg/m^3]"""
_RANGES = (
    ("tint", 0.1, "The tint"),
    ("filler", 4.0, "The filler"),
    ("thickener", 0.1, "The thickener"),
    ("thinner", 0.3, "The thinner"),
)


@dataclass(frozen=True, slots=True)
class Extras:
    """What is mixed in, by weight, as shares of A and B together.

    Parameters
    ----------
    tint, filler : float
        Premixed in all of B for the whole job, so that every coat has the same colour. [1]
    thickener, thinner : float
        Added to the sum of A and B. [1]
    filler_density_kg_m3 : float
        [kg/m^3]

    Raises
    ------
    ConditionError
        A share out of range, a filler that packs no closer.
    """

    tint: float = 0.0
    filler: float = 0.0
    thickener: float = 0.0
    thinner: float = 0.0
    filler_density_kg_m3: float = METAL_POWDER_KG_M3

    def __post_init__(self) -> None:
        for field, most, name in _RANGES:
            require_between(
                getattr(self, field),
                0.0,
                most,
                name=name,
                field=field,
                error=ConditionError,
                shown_in="%",
                scale=100.0,
            )
        require_between(
            self.filler_density_kg_m3,
            50.0,
            20_000.0,
            name="The density of the filler",
            field="filler_density_kg_m3",
            error=ConditionError,
            shown_in="g/ml",
            scale=1e-3,
        )

    @property
    def in_b(self) -> float:
        """Share of A and B that is stirred into B beforehand. [1]"""
        return self.tint + self.filler

    @property
    def on_sum(self) -> float:
        """Share of A and B that is added when both are in the cup. [1]"""
        return self.thickener + self.thinner


NO_EXTRAS = Extras()


def filler_volume_share(resin_density_kg_m3: float, extras: Extras) -> float:
    """Return the share of the filled mix's volume that is filler. [1]"""
    filler = extras.filler / extras.filler_density_kg_m3
    return filler / (filler + 1.0 / resin_density_kg_m3)


def filled_density(resin_density_kg_m3: float, extras: Extras) -> float:
    """Return the density of a filled resin, by volumes; tint counts as resin. [kg/m^3]"""
    filler = extras.filler / extras.filler_density_kg_m3
    return (1.0 + extras.filler) / (1.0 / resin_density_kg_m3 + filler)


def thickened_by(volume_share: float, most: float = MOST_PACKED) -> float:
    """Return how many times a filler makes a liquid more viscous.

    Parameters
    ----------
    volume_share : float
        Of the filler in the mix. [1]
    most : float
        At which it is packed and flows no more. [1]

    Raises
    ------
    ConditionError
        A filler that is packed.

    References
    ----------
    I. M. Krieger and T. J. Dougherty, Transactions of the Society of Rheology 3 (1959) 137-152,
    doi:10.1122/1.548848 (from memory): (1 - phi / phi_m)^(-[eta] phi_m).
    """
    if not 0.0 <= volume_share < most:
        raise ConditionError(
            f"The filler would be {volume_share * 100:.0f} % of the mix's volume and packs at "
            f"{most * 100:.0f} %: it would not flow. Take less.",
            "filler",
        )
    return float((1.0 - volume_share / most) ** (-INTRINSIC * most))


@dataclass(frozen=True, slots=True)
class Recipe:
    """A charge as it is weighed.

    Parameters
    ----------
    neat : Charge
        A and B as the data sheet knows them.
    b_kg, b_m3 : float
        Part B with tint and filler in it, in whole steps. [kg], [m^3]
    thickener_kg, thinner_kg : float
        [kg]
    """

    neat: Charge
    b_kg: float
    b_m3: float
    thickener_kg: float
    thinner_kg: float

    @property
    def total_kg(self) -> float:
        """All that is weighed. [kg]"""
        return self.neat.a_kg + self.b_kg + self.thickener_kg + self.thinner_kg


def recipe(
    resin: CastingResin,
    wanted_kg: float,
    extras: Extras,
    steps: tuple[float, float],
    basis: RatioBasis | None = None,
) -> Recipe:
    """Work out a charge with what is mixed into it.

    Parameters
    ----------
    resin : CastingResin
    wanted_kg : float
        Least weight of everything together. [kg]
    extras : Extras
    steps : tuple of 2 floats
        Last digit of the scale [kg] and finest mark of the cup [m^3].
    basis : RatioBasis or None
        How it is measured out; None as the data sheet says.

    Returns
    -------
    Recipe
        The neat parts keep the data sheet's ratio; B is weighed with its share of the premix.
    """
    scale, mark = steps
    neat = split_charge(resin, wanted_kg / (1.0 + extras.in_b + extras.on_sum), scale, mark, basis)
    both = neat.total_kg
    if extras.in_b == 0.0:
        b_kg, b_m3 = neat.b_kg, neat.b_m3
    else:
        filler_m3 = extras.filler * both / extras.filler_density_kg_m3
        b_m3 = neat.b_m3 + extras.tint * both / resin.density_b_kg_m3 + filler_m3
        b_kg = neat.b_kg + extras.in_b * both
        density = b_kg / b_m3
        if neat.basis is RatioBasis.WEIGHT:
            b_kg = up_to_step(b_kg, scale)
            b_m3 = b_kg / density
        else:
            b_m3 = up_to_step(b_m3, mark)
            b_kg = b_m3 * density
    return Recipe(
        neat,
        b_kg,
        b_m3,
        thickener_kg=_to_step(extras.thickener * both, scale),
        thinner_kg=_to_step(extras.thinner * both, scale),
    )


def after_overshoot(made: Recipe, poured_a_kg: float, scale_step_kg: float) -> Recipe:
    """Grow a charge to what was poured of A: nothing is taken out, everything else follows.

    Parameters
    ----------
    made : Recipe
    poured_a_kg : float
        In the cup already; what was meant stands where it is less. [kg]
    scale_step_kg : float
        Last digit of the scale. [kg]

    Returns
    -------
    Recipe
        B, thickener and thinner in their shares of the larger charge.

    Raises
    ------
    ConditionError
        A weight that nobody pours.
    """
    require_weight(poured_a_kg, "Part A that was poured", "poured")
    growth = max(1.0, poured_a_kg / made.neat.a_kg)
    neat = replace(
        made.neat,
        a_kg=made.neat.a_kg * growth,
        b_kg=made.neat.b_kg * growth,
        a_m3=made.neat.a_m3 * growth,
        b_m3=made.neat.b_m3 * growth,
    )
    # What is measured by volume is read off the cup, and its weight is no scale's.
    by_weight = neat.basis is RatioBasis.WEIGHT
    b_kg = _to_step(made.b_kg * growth, scale_step_kg) if by_weight else made.b_kg * growth
    return Recipe(
        neat,
        b_kg,
        b_kg * made.b_m3 / made.b_kg,
        _to_step(made.thickener_kg * growth, scale_step_kg),
        _to_step(made.thinner_kg * growth, scale_step_kg),
    )


def b_in_drops(resin: CastingResin, a_kg: float, extras: Extras, drop_kg: float) -> int:
    """Return how many drops of part B an amount of A takes, by its share and no scale's step.

    Parameters
    ----------
    resin : CastingResin
    a_kg : float
        [kg]
    extras : Extras
        What is stirred into B.
    drop_kg : float
        Weight of one. [kg]

    Returns
    -------
    int
    """
    share = resin.weight_share_b
    both = a_kg / (1.0 - share)
    return drops((share + extras.in_b) * both, drop_kg)


@dataclass(frozen=True, slots=True)
class Premix:
    """Part B for the whole job, stirred once.

    Parameters
    ----------
    b_kg, tint_kg, filler_kg : float
        They sum to what the coats take of it. [kg]
    parts_b : float
        Parts of the premix to the sheet's parts of A, by weight. [1]
    """

    b_kg: float
    tint_kg: float
    filler_kg: float
    parts_b: float

    @property
    def total_kg(self) -> float:
        """All of it. [kg]"""
        return self.b_kg + self.tint_kg + self.filler_kg


def premix(
    resin: CastingResin, recipes: tuple[Recipe, ...], extras: Extras, scale_step_kg: float
) -> Premix | None:
    """Return how B is premixed for all coats of a job; None where nothing goes into it.

    Parameters
    ----------
    resin : CastingResin
    recipes : tuple of Recipe
        Of all coats.
    extras : Extras
    scale_step_kg : float
        Last digit of the scale. [kg]

    Returns
    -------
    Premix or None
    """
    if extras.in_b == 0.0 or not recipes:
        return None
    whole = math.fsum(one.b_kg for one in recipes)
    neat_share = resin.weight_share_b
    # Of all that is stirred together, B is its share of the mix.
    b_kg = _to_step(whole * neat_share / (neat_share + extras.in_b), scale_step_kg)
    tint_kg = _to_step((whole - b_kg) * extras.tint / extras.in_b, scale_step_kg)
    filler_kg = whole - b_kg - tint_kg if extras.filler else 0.0
    if not extras.filler:
        tint_kg = whole - b_kg
    parts_a = resin.parts_a
    neat_b = parts_a * neat_share / (1.0 - neat_share)
    return Premix(b_kg, tint_kg, filler_kg, neat_b * (neat_share + extras.in_b) / neat_share)


def drops(kg: float, drop_kg: float) -> int:
    """Return how many drops a weight is, by the weight of one; at least one.

    Raises
    ------
    ConditionError
        A drop out of range.
    """
    require_between(
        drop_kg, 5e-6, 2e-4, name="A drop", field="drop_kg", error=ConditionError,
        shown_in="mg", scale=1e6,
    )  # fmt: skip
    return max(1, round(kg / drop_kg))


def _to_step(value: float, step: float) -> float:
    return round(value / step) * step
