"""Levelling by surface tension, which the simulator leaves out: a reference calculation beside it.

S. E. Orchard, Appl. Sci. Res. A 11 (1962) 451: a ripple of length L on a thin film h decays as
exp(-t / tau), tau = 3 mu L^4 / (16 pi^4 sigma h^3) (from memory).
"""

import numpy as np
from scipy.sparse import coo_array, csr_array, diags_array, eye_array
from scipy.sparse.linalg import spsolve

from mildhusk.core.coating.grid import NO_FACE, CoatGrid
from mildhusk.core.constants import GRAVITY_M_S2, SURFACE_TENSION_N_M
from mildhusk.core.geometry.mesh import Floats

STEPS = 40


def levelled(grid: CoatGrid, film_m: Floats, fluidity_s: float) -> Floats:
    """A film that levels on a face: dh/dt = -div(h^3 / (3 mu) grad(sigma div(grad(h)))).

    `fluidity_s` is 1 / viscosity, summed over time [1/Pa]. Finite volumes; backward Euler.
    """
    film = film_m.copy()
    pressure = _differences(grid, np.ones(len(film)))
    step = fluidity_s / STEPS * SURFACE_TENSION_N_M / 3.0
    for _ in range(STEPS):
        flow = _differences(grid, film**3)
        film = spsolve((eye_array(len(film)) + step * flow @ pressure).tocsc(), film)
    return np.asarray(film)


def left_when_it_stands(film_m: float, density: float, run_m: float) -> float:
    """1 / viscosity summed over the time in which a film has only so far to run. [1/Pa]"""
    return 3.0 * run_m / (density * GRAVITY_M_S2 * film_m**2)


def _differences(grid: CoatGrid, weight: Floats) -> csr_array:
    """div(weight grad()) over the faces; nothing runs over a rim."""
    face, edge = np.nonzero(grid.neighbour != NO_FACE)
    other = grid.neighbour[face, edge]
    way = grid.centre[other] - grid.centre[face]
    apart = np.linalg.norm(way, axis=1)
    between = 0.5 * (weight[face] + weight[other]) * grid.edge_m[face, edge] / apart
    faces = len(grid.area)
    matrix = coo_array((between, (face, other)), shape=(faces, faces)).tocsr()
    matrix = matrix - diags_array(np.asarray(matrix.sum(axis=1)).ravel())
    return diags_array(1.0 / grid.area) @ matrix
