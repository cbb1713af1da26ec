"""How a mix cures and heats itself: rate, heat balance, the course of both in time."""

from dataclasses import dataclass

import numpy as np
from numba import njit

from mildhusk.core.checks import require_between
from mildhusk.core.errors import ConditionError
from mildhusk.core.geometry.mesh import Floats

GAS_CONSTANT = 8.314462618
"""Molar gas constant (CODATA 2018). [J/(mol K)]"""
CUP_SURFACE = 5.5
"""Surface of a cup of a volume V is about this times V^(2/3) (assumed)."""
CUP_U_W_M2_K = 9.0
"""Heat a cup gives to still air, by convection and radiation together (assumed)."""
FILM_U_W_M2_K = 30.0
"""Heat a film gives to the rubber behind and the air before it, in its first minutes (assumed)."""

_STEPS_A_SCALE = 500
_GROWTH = 1.0 / 150.0


@dataclass(frozen=True, slots=True)
class Kinetics:
    """Rate and heat of a resin.

    Parameters
    ----------
    rate_1_s : float
        k at the reference temperature. [1/s]
    reference_k : float
        [K]
    activation_j_mol : float
        [J/mol]
    c, b, m, n : float
        Of the rate (c + b a^m) (1 - a)^n. [1]
    heat_j_kg : float
        Heat of cure. [J/kg]
    heat_capacity_j_kg_k : float
        [J/(kg K)]

    References
    ----------
    M. R. Kamal and S. Sourour, Polymer Engineering and Science 13 (1973) 59-64,
    doi:10.1002/pen.760130110 (from memory).
    """

    rate_1_s: float
    reference_k: float
    activation_j_mol: float
    c: float
    b: float
    m: float
    n: float
    heat_j_kg: float
    heat_capacity_j_kg_k: float


@dataclass(frozen=True, slots=True)
class Surroundings:
    """Where a mix cures.

    Parameters
    ----------
    start_k, around_k : float
        Temperature of the mix at first contact, and round it. [K]
    cooling_1_s : float
        U A / (m cp): 0 keeps all heat. [1/s]
    """

    start_k: float
    around_k: float
    cooling_1_s: float


@dataclass(frozen=True, slots=True, eq=False)
class Course:
    """Cure in time.

    Parameters
    ----------
    t_s, degree, temperature_k : (n,) float
        [s], [1], [K]
    """

    t_s: Floats
    degree: Floats
    temperature_k: Floats

    @property
    def peak_k(self) -> float:
        """Highest temperature. [K]"""
        return float(self.temperature_k.max())

    def reaches(self, degree: float) -> float:
        """When a degree of cure is reached; infinite when it never is. [s]"""
        if self.degree[-1] < degree:
            return float("inf")
        return float(np.interp(degree, self.degree, self.t_s))


def in_cup(
    kinetics: Kinetics, mass_kg: float, density_kg_m3: float, start_k: float, room_k: float
) -> Surroundings:
    """Return the surroundings of a mass in a cup.

    Parameters
    ----------
    kinetics : Kinetics
    mass_kg : float
        [kg]
    density_kg_m3 : float
        [kg/m^3]
    start_k, room_k : float
        Of the mix when it is poured together, and of the air. [K]

    Returns
    -------
    Surroundings
    """
    require_between(
        mass_kg, 0.001, 20.0, name="The mass in the cup", field="grams", error=ConditionError,
        shown_in="g", scale=1e3,
    )  # fmt: skip
    surface = CUP_SURFACE * (mass_kg / density_kg_m3) ** (2.0 / 3.0)
    cooling = CUP_U_W_M2_K * surface / (mass_kg * kinetics.heat_capacity_j_kg_k)
    return Surroundings(start_k, room_k, cooling)


def in_film(
    kinetics: Kinetics, thickness_m: float, density_kg_m3: float, start_k: float, mould_k: float
) -> Surroundings:
    """Return the surroundings of a film on a mould, or of a puddle as deep.

    Parameters
    ----------
    kinetics : Kinetics
    thickness_m : float
        [m]
    density_kg_m3 : float
        [kg/m^3]
    start_k, mould_k : float
        Of the mix when it reaches the mould, and of the mould. [K]

    Returns
    -------
    Surroundings
    """
    require_between(
        thickness_m, 0.00005, 0.2, name="The film", field="film", error=ConditionError,
        shown_in="mm", scale=1e3,
    )  # fmt: skip
    per_area = density_kg_m3 * thickness_m * kinetics.heat_capacity_j_kg_k
    return Surroundings(start_k, mould_k, FILM_U_W_M2_K / per_area)


def course_of(kinetics: Kinetics, around: Surroundings, until_s: float) -> Course:
    """Follow cure and temperature in time.

    Parameters
    ----------
    kinetics : Kinetics
    around : Surroundings
    until_s : float
        [s]

    Returns
    -------
    Course

    Notes
    -----
    da/dt = k(T) (c + b a^m) (1 - a)^n and cp dT/dt = H da/dt - (U A / m) (T - T_around), by the
    classical Runge-Kutta method. The step is a small share of the time the reaction takes at its
    fastest, grows with the time passed, and stays below what cooling allows.
    """
    t, a, temperature = _follow(
        kinetics.rate_1_s,
        kinetics.reference_k,
        kinetics.activation_j_mol / GAS_CONSTANT,
        kinetics.c,
        kinetics.b,
        kinetics.m,
        kinetics.n,
        kinetics.heat_j_kg / kinetics.heat_capacity_j_kg_k,
        around.start_k,
        around.around_k,
        around.cooling_1_s,
        until_s,
        _STEPS_A_SCALE,
        _GROWTH,
    )
    return Course(t, a, temperature)


@njit(cache=True)
def _rates(a, T, k0, T0, EoR, c, b, m, n, rise, Tenv, cooling):  # type: ignore[no-untyped-def]
    a = min(max(a, 0.0), 1.0)
    k = k0 * np.exp(-EoR * (1.0 / T - 1.0 / T0))
    da = k * (c + b * a**m) * (1.0 - a) ** n
    return da, rise * da - cooling * (T - Tenv)


@njit(cache=True)
def _follow(  # type: ignore[no-untyped-def]
    k0, T0, EoR, c, b, m, n, rise, start, Tenv, cooling, until, steps, growth
):
    size = 400_000
    t, a, T = np.empty(size), np.empty(size), np.empty(size)
    t[0], a[0], T[0] = 0.0, 0.0, start
    at = 0
    while t[at] < until and at < size - 1:
        da, dT = _rates(a[at], T[at], k0, T0, EoR, c, b, m, n, rise, Tenv, cooling)
        # No step changes the degree by more than a share, nor the temperature by more than 0.2 K.
        step = growth * t[at] + 1.0 / (steps * k0 * (c + b))
        step = min(step, 0.004 / max(da, 1e-12), 0.2 / max(abs(dT), 1e-12))
        if cooling > 0.0:
            step = min(step, 1.0 / cooling)
        step = min(step, until - t[at])
        a2, T2 = a[at] + 0.5 * step * da, T[at] + 0.5 * step * dT
        da2, dT2 = _rates(a2, T2, k0, T0, EoR, c, b, m, n, rise, Tenv, cooling)
        a3, T3 = a[at] + 0.5 * step * da2, T[at] + 0.5 * step * dT2
        da3, dT3 = _rates(a3, T3, k0, T0, EoR, c, b, m, n, rise, Tenv, cooling)
        a4, T4 = a[at] + step * da3, T[at] + step * dT3
        da4, dT4 = _rates(a4, T4, k0, T0, EoR, c, b, m, n, rise, Tenv, cooling)
        t[at + 1] = t[at] + step
        a[at + 1] = min(a[at] + step / 6.0 * (da + 2.0 * da2 + 2.0 * da3 + da4), 1.0)
        T[at + 1] = T[at] + step / 6.0 * (dT + 2.0 * dT2 + 2.0 * dT3 + dT4)
        at += 1
    return t[: at + 1], a[: at + 1], T[: at + 1]
