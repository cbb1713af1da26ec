"""The rubber round a piece: how much a wall of it takes, and the surface it ends in."""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import label
from skimage.measure import marching_cubes

from mildhusk.core.errors import MouldError
from mildhusk.core.geometry.curve import VolumeCurve
from mildhusk.core.geometry.cutting import split_along
from mildhusk.core.geometry.distance_field import MOST_CELLS, Reach, volume_curve
from mildhusk.core.geometry.measure import measure_face
from mildhusk.core.geometry.mesh import Floats, Mesh
from mildhusk.core.geometry.nearest import nearest_on, sample_surface
from mildhusk.core.geometry.openings import holes_closed, lids, rims
from mildhusk.core.geometry.topology import bodies
from mildhusk.core.mould.estimate import THICKEST_RUBBER_M, require_wall

_CELLS, _POINTS = 60_000, 125_000
_SURFACE_CELLS = 160_000
_FINEST_SURFACE_M, _COARSEST_SURFACE_M = 0.0015, 0.008


@dataclass(frozen=True, slots=True, eq=False)
class Standing:
    """A piece as it stands on its board: its largest opening, or its lowest place, below.

    Parameters
    ----------
    face : Mesh
        Casting face with its smaller holes closed, as a master's are before it is brushed. [m]
    lid : Mesh or None
        On its largest opening.
    up : (3,) float
        Unit vector away from the board; the rubber is peeled this way.
    board_m : float
        Height of the board along `up`. [m]
    """

    face: Mesh
    lid: Mesh | None
    up: Floats
    board_m: float

    @property
    def closed(self) -> Mesh:
        """The face with its opening closed."""
        if self.lid is None:
            return self.face
        size = len(self.face.vertices)
        return Mesh(
            np.r_[self.face.vertices, self.lid.vertices],
            np.r_[self.face.faces, self.lid.faces + size],
        )


def standing(face: Mesh) -> Standing:
    """Stand a casting face on its board.

    Raises
    ------
    MouldError
        A face without area.
    """
    if measure_face(face).area_m2 <= 0.0:
        raise MouldError("The piece has no face to put rubber on.", "piece_id")
    whole = holes_closed(face)
    openings = rims(whole)
    if not openings:
        up = np.array([0.0, 0.0, 1.0])
        return Standing(whole, None, up, float(whole.vertices[:, 2].min()))
    rim = openings[0]
    up = -rim.out
    ring = whole.vertices[rim.corners]
    return Standing(whole, lids(whole, openings[:1]), up, float((ring @ up).mean()))


def rubber_curve(piece: Standing) -> VolumeCurve:
    """Measure what a wall of rubber takes: the volume outside nearer than t to the face.

    Parameters
    ----------
    piece : Standing

    Returns
    -------
    VolumeCurve
        Up to the thickest rubber. Gaps that the rubber fills count once; below the board there is
        none.
    """
    cell = (float(np.prod(piece.face.extents)) / _CELLS) ** (1.0 / 3.0)

    def above_board(points: Floats) -> Floats:
        return np.asarray(np.clip(0.5 + (points @ piece.up - piece.board_m) / cell, 0.0, 1.0))

    lid = None if piece.lid is None else piece.lid.flipped()
    # A closed piece floats: nothing of its rubber is cut off by a board.
    reach = Reach(
        THICKEST_RUBBER_M,
        THICKEST_RUBBER_M,
        None if lid is None else above_board,
    )
    return volume_curve(piece.face.flipped(), lid, _CELLS, _POINTS, reach)


def rubber_surface(piece: Standing, wall_m: float) -> Mesh:
    """Return the outside of the rubber as a mesh, open where it stands on the board.

    Parameters
    ----------
    piece : Standing
    wall_m : float
        [m]

    Returns
    -------
    Mesh
        Outside outside. [m]

    Raises
    ------
    MouldError
        A wall out of range.

    Notes
    -----
    The level of the distance to the piece at the wall, by marching cubes: places narrower than two
    walls are filled, as a brush fills them.
    """
    require_wall(wall_m)
    closed = piece.closed
    box = np.maximum(closed.extents + 2.0 * wall_m, 0.01)
    cell = (float(np.prod(box)) / _SURFACE_CELLS) ** (1.0 / 3.0)
    cell = float(np.clip(cell, _FINEST_SURFACE_M, _COARSEST_SURFACE_M))
    cell = max(cell, float((np.prod(box) / MOST_CELLS) ** (1.0 / 3.0)))
    surface = sample_surface((closed,), cell, wall_m + 4.0 * cell)
    near = surface.depth <= wall_m + 3.5 * cell
    middle = surface.origin + (np.argwhere(near) + 0.5) * cell
    inside, _ = nearest_on(surface, middle)
    far_out = wall_m + 4.0 * cell
    field = np.full(near.shape, far_out)
    field[near] = -inside
    parts, _ = label(~near)
    # What is far from the face and does not reach the edge of the grid is inside it.
    edge = np.zeros_like(near)
    edge[[0, -1], :, :] = edge[:, [0, -1], :] = edge[:, :, [0, -1]] = True
    outer = np.unique(parts[edge & ~near])
    field[~near & ~np.isin(parts, outer)] = -far_out
    corners, faces, _, _ = marching_cubes(field, level=wall_m, spacing=(cell, cell, cell))
    vertices = np.asarray(corners, dtype=np.float64) + surface.origin + 0.5 * cell
    # Marching cubes winds its faces towards the higher value, which is outside here.
    made = Mesh(vertices, np.ascontiguousarray(faces[:, ::-1].astype(np.int64)))
    if measure_face(made).flipped:
        made = made.flipped()
    return _largest(_above_board(made, piece))


def _above_board(mesh: Mesh, piece: Standing) -> Mesh:
    if piece.lid is None:
        return mesh
    cut, _, above = split_along(mesh, mesh.vertices @ piece.up - piece.board_m)
    used, corner = np.unique(cut.faces[above], return_inverse=True)
    return Mesh(cut.vertices[used], corner.reshape(-1, 3))


def _largest(mesh: Mesh) -> Mesh:
    count, of = bodies(mesh)
    if count == 1:
        return mesh
    keep = of == np.bincount(of).argmax()
    used, corner = np.unique(mesh.faces[keep], return_inverse=True)
    return Mesh(mesh.vertices[used], corner.reshape(-1, 3))
