"""Area, volume, curvature and openings of a meshed casting face."""

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from mildhusk.core.constants import AREA_BAND, LARGEST_PIECE_M, SMALLEST_PIECE_M
from mildhusk.core.errors import MeshFileError
from mildhusk.core.geometry.curve import VolumeCurve
from mildhusk.core.geometry.mesh import Floats, Integers, Mesh
from mildhusk.core.geometry.topology import bodies, by_edge

# An edge folded back by more than this is a knife edge, not a corner; its mitre would be endless.
_SHARPEST_FOLD = np.radians(150.0)


@dataclass(frozen=True, slots=True)
class Opening:
    """A hole in the face, closed by a flat lid for its area.

    Parameters
    ----------
    perimeter_m, area_m2 : float
    centre_m : tuple of 3 floats
    girth_m : float
        By a tape drawn tight round it; 0 where nobody taped it. [m]
    out : tuple of 3 floats
        Unit vector out of it; its plane is square to that. Nought where nobody looked.
    name : str
    """

    perimeter_m: float
    area_m2: float
    centre_m: tuple[float, float, float]
    girth_m: float = 0.0
    out: tuple[float, float, float] = (0.0, 0.0, 0.0)
    name: str = ""


@dataclass(frozen=True, slots=True)
class FaceMeasures:
    """What a casting face measures.

    Parameters
    ----------
    area_m2 : float
        Area of all faces.
    volume_m3 : float
        Enclosed volume, each opening closed flat.
    mean_curvature_m : float
        M of the shell volume: half the sum of edge length times turning angle. [m]
    total_curvature : float
        G of the shell volume: the sum of the angle defects of inner corners. [1]
    lowest_m, highest_m : tuple of 3 floats
        The box round the piece.
    faces : int
    openings : tuple of Opening
        Largest first.
    bodies : int
        Separate surfaces in the file.
    flat_faces, branching_edges, clashing_edges, folded_edges : int
        Faces without area; edges shared by more than two faces; by two that disagree about outside;
        by two folded onto each other.
    flipped : bool
        The file had inside and outside exchanged, which was put right.
    waste_m2 : float
        Part of the area that is cast and then cut away: skirt and cut-outs. [m^2]
    band : float
        What area and shell volume may be wrong by, as a share.
    curve : VolumeCurve or None
        V(t) by distances, when it was measured.
    """

    area_m2: float
    volume_m3: float
    mean_curvature_m: float
    total_curvature: float
    lowest_m: tuple[float, float, float]
    highest_m: tuple[float, float, float]
    faces: int
    openings: tuple[Opening, ...]
    bodies: int
    flat_faces: int
    branching_edges: int
    clashing_edges: int
    folded_edges: int
    flipped: bool
    waste_m2: float = 0.0
    band: float = AREA_BAND
    curve: VolumeCurve | None = None

    @property
    def waste_share(self) -> float:
        """Part of the cast that is cut away. [1]"""
        return self.waste_m2 / self.area_m2

    @property
    def watertight(self) -> bool:
        """Whether the face closes on itself without a hole or a branch."""
        return not self.openings and self.branching_edges == 0 and self.clashing_edges == 0

    @property
    def extents_m(self) -> tuple[float, float, float]:
        """Size of the box round the piece."""
        (x0, y0, z0), (x1, y1, z1) = self.lowest_m, self.highest_m
        return (x1 - x0, y1 - y0, z1 - z0)


@dataclass(frozen=True, slots=True, eq=False)
class _Edges:
    """Edges by the faces beside them; `start -> end` runs as in the first face."""

    start: Integers
    end: Integers
    first_face: Integers
    second_face: Integers
    border_start: Integers
    border_end: Integers
    loose_corners: Integers
    branching: int
    clashing: int


def measure_face(mesh: Mesh) -> FaceMeasures:
    """Measure a casting face.

    Parameters
    ----------
    mesh : Mesh
        In metres.

    Returns
    -------
    FaceMeasures

    Raises
    ------
    MeshFileError
        The piece has no area, or a size that no cast has.

    Notes
    -----
    The turning angle of an edge is counted as its tangent rule asks for growth inwards: a convex
    edge loses a mitre, 2 tan(angle / 2), a hollow one gains an arc, angle. For a fine mesh of a
    smooth face both are the discrete Steiner formula; for a box or a cylinder with flat ends the
    mitre is the exact one. See docs/decisions/0001-mitred-edges.md.

    References
    ----------
    The Steiner formula for parallel bodies: J. Steiner, Ueber parallele Flaechen, 1840; its
    polyhedral form stands in the textbooks of integral geometry (from memory).
    """
    largest = float(mesh.extents.max())
    require_castable(largest)
    doubled, normals = _doubled_normals(mesh)
    lengths = np.linalg.norm(doubled, axis=1)
    area = 0.5 * float(lengths.sum())
    require_area(area, largest)
    edges = _edges(mesh)
    openings, lid_volume = _openings(mesh, edges)
    volume = _volume(mesh) + lid_volume
    sign = -1.0 if volume < 0.0 else 1.0
    turning, folded = _turning(mesh, edges, sign * normals, sign)
    return FaceMeasures(
        area_m2=area,
        volume_m3=abs(volume),
        mean_curvature_m=turning,
        total_curvature=_angle_defect(mesh, edges),
        lowest_m=_triple(mesh.vertices.min(axis=0)),
        highest_m=_triple(mesh.vertices.max(axis=0)),
        faces=len(mesh.faces),
        openings=openings,
        bodies=bodies(mesh)[0],
        flat_faces=int((lengths == 0.0).sum()),
        branching_edges=edges.branching,
        clashing_edges=edges.clashing,
        folded_edges=folded,
        flipped=volume < 0.0,
    )


def require_area(area_m2: float, largest_m: float) -> None:
    """Refuse a shape whose faces are all lines. [m^2], [m]"""
    if area_m2 <= 1e-9 * largest_m**2:
        raise MeshFileError("The shape has no area: all its faces are flattened to lines.")


def require_castable(largest_m: float) -> None:
    """Refuse a size that no cast has, which is a wrong unit as a rule. [m]"""
    if not SMALLEST_PIECE_M <= largest_m <= LARGEST_PIECE_M:
        raise MeshFileError(
            f"The piece would be {largest_m * 1e3:,.6g} mm across; {SMALLEST_PIECE_M * 1e3:g} mm "
            f"to {LARGEST_PIECE_M:g} m can be cast. Check the unit of the file.",
            "units",
        )


def _triple(values: Floats) -> tuple[float, float, float]:
    return (float(values[0]), float(values[1]), float(values[2]))


def _doubled_normals(mesh: Mesh) -> tuple[Floats, Floats]:
    """Return cross products, twice the area long, and unit normals (zero without area)."""
    a, b, c = (mesh.vertices[mesh.faces[:, k]] for k in range(3))
    doubled = np.cross(b - a, c - a)
    length = np.linalg.norm(doubled, axis=1, keepdims=True)
    return doubled, np.divide(doubled, length, out=np.zeros_like(doubled), where=length > 0.0)


def _edges(mesh: Mesh) -> _Edges:
    start = mesh.faces.ravel()
    end = np.roll(mesh.faces, -1, axis=1).ravel()
    order, opens, shared_by = by_edge(start, end, len(mesh.vertices))
    single, pair = order[opens[shared_by == 1]], opens[shared_by == 2]
    first, second = order[pair], order[pair + 1]
    agree = start[first] != start[second]
    # Corners at a border, a branch or a clash have no whole ring of faces and so no angle defect.
    incomplete = (shared_by != 2)[np.repeat(np.arange(len(opens)), shared_by)]
    loose = order[incomplete]
    clash = first[~agree]
    return _Edges(
        start=start[first[agree]],
        end=end[first[agree]],
        first_face=first[agree] // 3,
        second_face=second[agree] // 3,
        border_start=start[single],
        border_end=end[single],
        loose_corners=np.unique(np.r_[start[loose], end[loose], start[clash], end[clash]]),
        branching=int((shared_by > 2).sum()),
        clashing=int((~agree).sum()),
    )


def _turning(mesh: Mesh, edges: _Edges, normals: Floats, sign: float) -> tuple[float, int]:
    """Return M [m] and the number of edges folded too far to count."""
    along = mesh.vertices[edges.end] - mesh.vertices[edges.start]
    length = np.linalg.norm(along, axis=1)
    n1, n2 = normals[edges.first_face], normals[edges.second_face]
    real = (length > 0.0) & n1.any(axis=1) & n2.any(axis=1)
    along, length, n1, n2 = along[real], length[real], n1[real], n2[real]
    sine = sign * np.einsum("ij,ij->i", np.cross(n1, n2), along) / length
    angle = np.arctan2(sine, np.einsum("ij,ij->i", n1, n2))
    folded = np.abs(angle) > _SHARPEST_FOLD
    bent = np.where(angle > 0.0, 2.0 * np.tan(np.where(folded, 0.0, angle) / 2.0), angle)
    return 0.5 * float((length * np.where(folded, 0.0, bent)).sum()), int(folded.sum())


def _angle_defect(mesh: Mesh, edges: _Edges) -> float:
    corners = mesh.vertices[mesh.faces]
    total = np.zeros(len(mesh.vertices))
    for k in range(3):
        u = corners[:, (k + 1) % 3] - corners[:, k]
        v = corners[:, (k + 2) % 3] - corners[:, k]
        cross = np.linalg.norm(np.cross(u, v), axis=1)
        angle = np.arctan2(cross, np.einsum("ij,ij->i", u, v))
        total += np.bincount(mesh.faces[:, k], weights=angle, minlength=len(total))
    inner = total > 0.0
    inner[edges.loose_corners] = False
    return float((2.0 * np.pi - total[inner]).sum())


def _volume(mesh: Mesh) -> float:
    centred = mesh.vertices - mesh.vertices.mean(axis=0)
    a, b, c = (centred[mesh.faces[:, k]] for k in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum()) / 6.0


def _openings(mesh: Mesh, edges: _Edges) -> tuple[tuple[Opening, ...], float]:
    """Return the openings and the volume that flat lids on them add."""
    if len(edges.border_start) == 0:
        return (), 0.0
    corners, index = np.unique(np.r_[edges.border_start, edges.border_end], return_inverse=True)
    start, end = np.split(index, 2)
    size = len(corners)
    graph = coo_array((np.ones(len(start)), (start, end)), shape=(size, size))
    count, label = connected_components(graph, directed=False)
    p = mesh.vertices[edges.border_start] - mesh.vertices.mean(axis=0)
    q = mesh.vertices[edges.border_end] - mesh.vertices.mean(axis=0)
    loop = label[start]
    length = np.linalg.norm(q - p, axis=1)
    perimeter = np.bincount(loop, weights=length, minlength=count)
    middle = 0.5 * (p + q)
    centre = _by_loop(middle * length[:, None], loop, count) / perimeter[:, None]
    # The border runs with its faces, so a lid on it runs the other way.
    lid = _by_loop(np.cross(q, p), loop, count) / 2.0
    fan = np.einsum("ij,ij->i", centre[loop], np.cross(q, p)) / 6.0
    shift = mesh.vertices.mean(axis=0)
    found = [
        Opening(float(perimeter[k]), float(np.linalg.norm(lid[k])), _triple(centre[k] + shift))
        for k in range(count)
    ]
    return tuple(sorted(found, key=lambda o: -o.perimeter_m)), float(fan.sum())


def _by_loop(values: Floats, loop: Integers, count: int) -> Floats:
    return np.stack(
        [np.bincount(loop, weights=values[:, axis], minlength=count) for axis in range(3)], axis=1
    )
