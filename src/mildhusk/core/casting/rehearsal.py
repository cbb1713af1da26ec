"""Plans made at the start, so that what is slow the first time is done before it is needed."""

import numpy as np
from trimesh.creation import icosphere

from mildhusk.core.casting.findings import Known, with_findings
from mildhusk.core.casting.plan import plan_cast
from mildhusk.core.casting.schools import SCHOOLS
from mildhusk.core.casting.wish import CastWish
from mildhusk.core.constants import ZERO_CELSIUS_K
from mildhusk.core.geometry.measure import measure_face
from mildhusk.core.geometry.mesh import Mesh
from mildhusk.core.materials.catalogue import shipped_casting_materials

_RADIUS_M, _WALL_M, _ROOM_K = 0.1, 0.003, 23.0 + ZERO_CELSIUS_K


def rehearse() -> int:
    """Plan a ball in every shipped material by every school; return how many plans that were."""
    ball = icosphere(subdivisions=3, radius=_RADIUS_M)
    face = measure_face(Mesh(np.asarray(ball.vertices, dtype=np.float64), ball.faces))
    materials = shipped_casting_materials()
    known = Known(lambda: materials)
    wishes = [CastWish(wall_m=_WALL_M, room_temperature_k=_ROOM_K, school=key) for key in SCHOOLS]
    plans = [
        with_findings(plan_cast(face, material, wish), known)
        for material in materials
        for wish in wishes
        if SCHOOLS[wish.school].takes(material)
    ]
    return len(plans)
