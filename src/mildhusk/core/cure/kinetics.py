"""How a mix cures and heats itself: rate, heat balance, the course of both in time."""

from dataclasses import dataclass

import numpy as np
from numba import njit

from mildhusk.core.cure.surroundings import Surroundings
from mildhusk.core.geometry.mesh import Floats

GAS_CONSTANT = 8.314462618
"""Molar gas constant (CODATA 2018). [J/(mol K)]"""
INHIBITOR_RATIO = 50.0
"""How much likelier a radical meets fresh inhibitor than resin (assumed). [1]"""

_STEPS_A_SCALE = 500
_GROWTH = 1.0 / 250.0
_MOST_STEPS = 400_000


@dataclass(frozen=True, slots=True)
class Kinetics:
    """Rate and heat of a resin: da/dt = k(T) g (c + a^m) (1 - a)^n.

    Parameters
    ----------
    rate_1_s : float
        k at the reference temperature. [1/s]
    reference_k : float
        [K]
    activation_j_mol : float
        Of k. [J/mol]
    c, m, n : float
        Uncatalysed share and the orders. [1]
    induction : float
        Reduced time in which the inhibitor is used up; 0 where there is none. While it lasts
        g = 1 / (1 + K z), with z what is left of it and K the `INHIBITOR_RATIO`; then g = 1. [1]
    heat_j_kg : float
        Heat of cure. [J/kg]
    heat_capacity_j_kg_k : float
        [J/(kg K)]

    References
    ----------
    M. R. Kamal and S. Sourour, Polymer Engineering and Science 13 (1973) 59-64,
    doi:10.1002/pen.760130110 (from memory). Radicals shared between inhibitor and monomer:
    G. Odian, Principles of Polymerization, 4th ed. (2004), section 3-7 (from memory).
    """

    rate_1_s: float
    reference_k: float
    activation_j_mol: float
    c: float
    m: float
    n: float
    induction: float
    heat_j_kg: float
    heat_capacity_j_kg_k: float

    def faster_at(self, temperature_k: float) -> float:
        """Return k there over k at the reference temperature. [1]"""
        cold = 1.0 / temperature_k - 1.0 / self.reference_k
        return float(np.exp(-self.activation_j_mol / GAS_CONSTANT * cold))


@dataclass(frozen=True, slots=True, eq=False)
class Course:
    """Cure in time.

    Parameters
    ----------
    t_s, reduced, degree, temperature_k : (n,) float
        [s], [1], [1], [K]. The reduced time is the integral of k: a degree of cure belongs to it
        at any course of temperatures, and it goes on where the degree has come near 1.
    """

    t_s: Floats
    reduced: Floats
    degree: Floats
    temperature_k: Floats

    @property
    def peak_k(self) -> float:
        """Highest temperature. [K]"""
        return float(self.temperature_k.max())

    def reaches(self, reduced: float) -> float:
        """When a reduced time is reached; infinite when it never is. [s]"""
        if self.reduced[-1] < reduced:
            return float("inf")
        return float(np.interp(reduced, self.reduced, self.t_s))


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
    cp dT/dt = H da/dt less what goes to the air and into the layers behind, whose temperatures are
    followed with it. The implicit midpoint rule for temperatures, which thin layers make stiff,
    and the midpoint rule for the cure. The step is a small share of the time the reaction takes at
    its fastest, grows with the time passed, and stays below what changes degree and temperature by
    little.
    """
    found = _follow(
        kinetics.rate_1_s,
        kinetics.reference_k,
        kinetics.activation_j_mol / GAS_CONSTANT,
        kinetics.c,
        kinetics.m,
        kinetics.n,
        kinetics.induction,
        INHIBITOR_RATIO,
        kinetics.heat_j_kg / kinetics.heat_capacity_j_kg_k,
        around.start_k,
        around.around_k,
        around.capacity,
        around.conductance,
        around.to_air,
        around.behind,
        until_s,
    )
    return Course(*found)


@njit(cache=True)
def _rates(z, a, T, k0, T0, EoR, c, m, n, induction, ratio):  # type: ignore[no-untyped-def]
    a = min(max(a, 0.0), 1.0)
    k = k0 * np.exp(-EoR * (1.0 / T - 1.0 / T0))
    g = 1.0
    if z < induction:
        g = 1.0 / (1.0 + ratio * (1.0 - z / induction))
    return k, k * g * (c + a**m) * (1.0 - a) ** n


@njit(cache=True)
def _half_step(  # type: ignore[no-untyped-def]
    half, source, T, Tenv, C, G, to_air, behind, upper, right, out
):
    """Solve (C / half + conductances) out = C / half T + sources: three diagonals, by Thomas."""
    last = len(C) - 1
    for j in range(last + 1):
        left_g = G[j - 1] if j > 0 else to_air
        right_g = G[j] if j < last else behind
        diagonal = C[j] / half + left_g + right_g
        value = C[j] / half * T[j]
        if j == 0:
            value += C[0] * source + to_air * Tenv
        else:
            diagonal -= left_g * upper[j - 1]
            value += left_g * right[j - 1]
        if j == last:
            value += behind * Tenv
        upper[j] = right_g / diagonal if j < last else 0.0
        right[j] = value / diagonal
    out[last] = right[last]
    for j in range(last - 1, -1, -1):
        out[j] = right[j] + upper[j] * out[j + 1]


@njit(cache=True)
def _follow(  # type: ignore[no-untyped-def]
    k0, T0, EoR, c, m, n, induction, ratio, rise, start, Tenv, C, G, to_air, behind, until
):
    size = _MOST_STEPS
    t, z, a, T = np.empty(size), np.empty(size), np.empty(size), np.empty(size)
    t[0], z[0], a[0], T[0] = 0.0, 0.0, 0.0, start
    now, middle = np.full(len(C), Tenv), np.empty(len(C))
    upper, right = np.empty(len(C)), np.empty(len(C))
    now[0] = start
    first = 1.0 / (_STEPS_A_SCALE * k0 * (c + 1.0))
    at = 0
    while t[at] < until and at < size - 1:
        k, da = _rates(z[at], a[at], now[0], k0, T0, EoR, c, m, n, induction, ratio)
        next_to = now[1] if len(C) > 1 else Tenv
        dT = rise * da - to_air / C[0] * (now[0] - Tenv)
        if len(G) > 0:
            dT -= G[0] / C[0] * (now[0] - next_to)
        step = _GROWTH * t[at] + first
        step = min(step, 0.005 / max(da, 1e-12), 0.4 / max(abs(dT), 1e-12))
        step = min(step, until - t[at])
        half = 0.5 * step
        _half_step(half, rise * da, now, Tenv, C, G, to_air, behind, upper, right, middle)
        k, da = _rates(
            z[at] + half * k, a[at] + half * da, middle[0], k0, T0, EoR, c, m, n, induction, ratio
        )
        _half_step(half, rise * da, now, Tenv, C, G, to_air, behind, upper, right, middle)
        for j in range(len(C)):
            now[j] = 2.0 * middle[j] - now[j]
        t[at + 1] = t[at] + step
        z[at + 1] = z[at] + step * k
        a[at + 1] = min(a[at] + step * da, 1.0)
        T[at + 1] = now[0]
        at += 1
    return t[: at + 1], z[: at + 1], a[: at + 1], T[: at + 1]
