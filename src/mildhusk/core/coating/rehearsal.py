"""A small coat run at the start, so that compiled code is loaded before it is needed."""

import numpy as np
from trimesh import Trimesh
from trimesh.creation import icosphere

from mildhusk.core.coating.coats import Coated
from mildhusk.core.coating.exercises import Exercise
from mildhusk.core.coating.grid import coat_grid, even_mesh
from mildhusk.core.coating.landing import add_coat
from mildhusk.core.coating.liquid import Liquid, liquid_of
from mildhusk.core.coating.motion import ROUGH_FROM_M, machine, up_of
from mildhusk.core.coating.tray import Tray, TraySetup
from mildhusk.core.constants import MIXING_TIME_S, ZERO_CELSIUS_K
from mildhusk.core.cure.model import STANDARD_FILM_M, CureSetup
from mildhusk.core.geometry.mesh import Mesh
from mildhusk.core.materials.catalogue import shipped_resin

_RADIUS_M, _CHARGE_KG, _ROOM_K = 0.05, 0.03, 23.0 + ZERO_CELSIUS_K
_RESIN = "pu-fast-rigid"


def rehearse() -> Coated:
    """Return a ball with a coat in it, after the first moments of a tray."""
    ball = icosphere(subdivisions=3, radius=_RADIUS_M)
    setup = CureSetup(_CHARGE_KG, _ROOM_K, _ROOM_K, _ROOM_K)
    liquid = liquid_of(shipped_resin(_RESIN), setup, MIXING_TIME_S)
    _roll_a_tray(_even(ball.slice_plane(np.zeros(3), np.array([0.0, 0.0, -1.0]))), liquid)
    return add_coat(Coated.bare(coat_grid(_even(ball))), liquid, _CHARGE_KG, machine(8.0, 3.1))


def _even(shape: Trimesh) -> Mesh:
    mesh = Mesh(np.asarray(shape.vertices, dtype=np.float64), shape.faces.astype(np.int64))
    return even_mesh(mesh, ROUGH_FROM_M)


def _roll_a_tray(bowl: Mesh, liquid: Liquid) -> None:
    solid_m = np.zeros(len(bowl.faces))
    tray = Tray(TraySetup(bowl, solid_m, liquid, 0.5 * _CHARGE_KG, STANDARD_FILM_M, Exercise.FREE))
    moments = np.array([0.1, 0.2])
    tray.roll(moments, up_of(tray.out, np.full(2, 0.5), moments))
