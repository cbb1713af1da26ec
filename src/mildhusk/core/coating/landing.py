"""How a charge lands: poured, turned and set."""

from concurrent.futures import ThreadPoolExecutor

import numpy as np

from mildhusk.core.coating.by_eye import ByEye
from mildhusk.core.coating.coats import Coated, Watch
from mildhusk.core.coating.flow import SPILT, clock_of, dry, ground_of, run_coat, workspace_for
from mildhusk.core.coating.grid import CoatGrid
from mildhusk.core.coating.liquid import Liquid
from mildhusk.core.coating.motion import Motion
from mildhusk.core.coating.pools import no_pools
from mildhusk.core.coating.rolling import STEP_S, Rolling, surface_of
from mildhusk.core.coating.turning import Pour
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.progress import Tell, silent


def add_coat(
    mould: Coated,
    liquid: Liquid,
    charge_kg: float,
    motion: Motion,
    *,
    pour: Pour = Pour.RIM,
    step_s: float = STEP_S,
    tell: Tell = silent,
    watch: Watch | None = None,
) -> Coated:
    """Pour a charge, turn the mould until it has set, and return what is in it then.

    Parameters
    ----------
    mould : Coated
    liquid : Liquid
    charge_kg : float
        [kg]
    motion : Motion
    pour : Pour
        Where an open mould is poured; one with a lid at its low place.
    step_s : float
        Between two places of the mould. [s]
    tell : callable
        Is told the progress of this coat.
    watch : callable or None
        Is shown the coat once a second, in a long one more seldom.

    Returns
    -------
    Coated

    Raises
    ------
    CoatingError
        A charge that is nothing or more than fits, a motion that pours it out.

    Notes
    -----
    The pool is level at every moment and gives the faces that leave it the film that their speed
    draws out (see `withdrawal`); on the wall a film runs down by its weight against its viscosity
    (lubrication, finite volumes of the second order with van Leer's limiter). What is rolled has
    one age; a pool left standing ages faster. Levelling by surface tension and inertia are left
    out.

    References
    ----------
    H. Jeffreys, Proc. Cambridge Phil. Soc. 26 (1930) 204 (draining; from memory).
    """
    rolling = Rolling(mould, liquid, charge_kg, motion, step_s, pour)
    with ThreadPoolExecutor() as pool:
        turned = ByEye(rolling, pool) if motion.is_by_eye else rolling
        while not rolling.has_set:
            turned.go_on()
            if watch is not None:
                watch(rolling.moment())
            tell(rolling.now_s / rolling.sets_s, f"{rolling.now_s:.0f} s of {rolling.sets_s:.0f} s")
    return rolling.landed()


def run_film(
    grid: CoatGrid, film_m: Floats, liquid: Liquid, ups: Floats, step_s: float = STEP_S
) -> tuple[Floats, float]:
    """Let a film that is there already run on a turning face, without a pool.

    Parameters
    ----------
    grid : CoatGrid
    film_m : (m,) float
        [m]
    liquid : Liquid
    ups : (n, 3) float
        Where up is at each step.
    step_s : float
        [s]

    Returns
    -------
    film : (m,) float
        Afterwards. [m]
    dripped_m3 : float
        Over open rims. [m^3]
    """
    surface = surface_of(grid, np.zeros(len(grid.area)))
    state = dry(len(grid.area))
    state.film[:] = film_m
    run_coat(
        surface, state, no_pools(len(grid.area)), ground_of(surface), workspace_for(len(grid.area)),
        ups[:, None], 0.0, step_s, clock_of(liquid),
        np.full(len(ups), np.inf), liquid.density_kg_m3,
    )  # fmt: skip
    return state.film, float(state.tally[SPILT])
