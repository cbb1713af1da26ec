"""The film that a wall takes along as it comes out of a pool."""

import numpy as np
from scipy.optimize import brentq

from mildhusk.core.constants import GRAVITY_M_S2, SURFACE_TENSION_N_M
from mildhusk.core.geometry.mesh import Floats

_LANDAU_LEVICH = 0.944
LOWEST_LOG, HIGHEST_LOG, PER_DECADE = -8.0, 6.0, 16
"""Decades of the capillary number that the table of `thickness_table` spans, and rows of each."""


def withdrawn_film(
    speed_m_s: float,
    viscosity_pa_s: float,
    density_kg_m3: float,
    tension_n_m: float = SURFACE_TENSION_N_M,
) -> float:
    """Return the film on an upright plate drawn steadily out of a bath. [m]

    Parameters
    ----------
    speed_m_s : float
        Of the plate. [m/s]
    viscosity_pa_s : float
        [Pa s]
    density_kg_m3 : float
        [kg/m^3]
    tension_n_m : float
        Surface tension. [N/m]

    Returns
    -------
    float
        [m]

    Notes
    -----
    h = T sqrt(mu U / (rho g)), where T(Ca) joins the limit of small capillary numbers Ca = mu U /
    sigma, T = 0.944 Ca^(1/6), to that of large ones, T = 1: T = 0.944 Ca^(1/6) (1 - T^2)^(2/3).
    Without inertia.

    References
    ----------
    L. Landau and B. Levich, Acta Physicochimica URSS 17 (1942) 42 (small Ca); B. V. Deryagin, ibid.
    20 (1945) 349 (large Ca); D. A. White and J. A. Tallmadge, Chem. Eng. Sci. 20 (1965) 33, DOI
    10.1016/0009-2509(65)80042-5 (joined). All from memory.
    """
    limit = np.sqrt(viscosity_pa_s * speed_m_s / (density_kg_m3 * GRAVITY_M_S2))
    return float(limit * relative_thickness(viscosity_pa_s * speed_m_s / tension_n_m))


def relative_thickness(capillary: float) -> float:
    """Return T, the film over Deryagin's, at a capillary number. [1]"""
    scale = _LANDAU_LEVICH * capillary ** (1.0 / 6.0)
    return float(brentq(lambda t: t - scale * (1.0 - t * t) ** (2.0 / 3.0), 0.0, 1.0, xtol=1e-12))


def thickness_table() -> Floats:
    """Return T at capillary numbers even in their logarithm, see `LOWEST_LOG`. (n,) [1]"""
    rows = round((HIGHEST_LOG - LOWEST_LOG) * PER_DECADE) + 1
    return np.array(
        [relative_thickness(10.0**log) for log in np.linspace(LOWEST_LOG, HIGHEST_LOG, rows)]
    )
