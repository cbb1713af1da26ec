"""A small coat run at the start, so that compiled code is loaded before it is needed."""

import numpy as np
from trimesh.creation import icosphere

from mildhusk.core.coating.coats import Coated
from mildhusk.core.coating.grid import coat_grid, even_mesh
from mildhusk.core.coating.landing import add_coat
from mildhusk.core.coating.liquid import liquid_of
from mildhusk.core.coating.motion import ROUGH_FROM_M, machine
from mildhusk.core.constants import MIXING_TIME_S, ZERO_CELSIUS_K
from mildhusk.core.cure.model import CureSetup
from mildhusk.core.geometry.mesh import Mesh
from mildhusk.core.materials.catalogue import shipped_resin

_RADIUS_M, _CHARGE_KG, _ROOM_K = 0.05, 0.03, 23.0 + ZERO_CELSIUS_K
_RESIN = "pu-fast-rigid"


def rehearse() -> Coated:
    """Return a ball with a coat in it."""
    ball = icosphere(subdivisions=3, radius=_RADIUS_M)
    mesh = Mesh(np.asarray(ball.vertices, dtype=np.float64), ball.faces.astype(np.int64))
    grid = coat_grid(even_mesh(mesh, ROUGH_FROM_M))
    setup = CureSetup(_CHARGE_KG, _ROOM_K, _ROOM_K, _ROOM_K)
    liquid = liquid_of(shipped_resin(_RESIN), setup, MIXING_TIME_S)
    return add_coat(Coated.bare(grid), liquid, _CHARGE_KG, machine(8.0, 3.1))
