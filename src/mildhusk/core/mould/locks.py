"""Where a rigid shell would lock on its rubber, and the split that locks least."""

from dataclasses import dataclass

import numpy as np
from numba import njit

from mildhusk.core.checks import require_between
from mildhusk.core.errors import MouldError
from mildhusk.core.geometry.mesh import Flags, Floats, Integers, Mesh, face_frames, middle_of
from mildhusk.core.geometry.rays import Caster
from mildhusk.core.geometry.sections import section, square_to

STEP = np.radians(1.0)
"""Angles between the splits that are tried."""
TOLERANCE = np.sin(np.radians(1.0))
"""A face that leans back by less than this does not lock: rubber and shell give way so far."""
MOST_PARTS = 4

# Rays start this share of the piece off their face; less is the roughness of the mesh.
_OFF = 1.5e-3
_MOST_LOOKED_AT = 40
_RAYS_ACROSS = 90
_MOST_LAYERS = 8


@dataclass(frozen=True, slots=True, eq=False)
class Split:
    """A shell in parts: where it is split and where it locks all the same.

    Parameters
    ----------
    parts : int
        1 is a hood lifted off upwards; more are pulled off sideways.
    angle : float
        Pull of the first part, round the axis. [rad]
    locked : (m,) bool
        Faces of the rubber's outside that hold it.
    locked_m2 : float
    filler_m3 : float
        What filled there would free it.
    pulls : (parts, 3) float
        Unit vectors.
    lines : (n, 2, 3) float
        The part lines on the rubber, as straight pieces. [m]
    """

    parts: int
    angle: float
    locked: Flags
    locked_m2: float
    filler_m3: float
    pulls: Floats
    lines: Floats


def best_split(rubber: Mesh, up: Floats, parts: int) -> Split:
    """Find the split of a shell that locks least, of all angles in steps of a degree.

    Parameters
    ----------
    rubber : Mesh
        Outside of the rubber, outside outside. [m]
    up : (3,) float
        Unit vector away from the board; part lines run along it.
    parts : int
        1 to 4.

    Returns
    -------
    Split

    Raises
    ------
    MouldError
        Another number of parts.

    Notes
    -----
    A part is pulled straight off. It locks where a face leans back against its pull, and where the
    way out runs into other rubber, by a ray. The leaning faces of every angle are summed first;
    that is the least an angle can lock, so rays are only cast for angles that may still win.
    """
    require_between(
        parts, 1, MOST_PARTS, name="The number of shell parts", field="parts", error=MouldError
    )
    if parts == 1:
        return _hood(rubber, up)
    frame = _Frame.of(rubber, up)
    turn = 2.0 * np.pi / parts
    angles = np.arange(0.0, turn - 1e-9, STEP)
    least = _leaning(frame.azimuth, frame.across, frame.area, angles, turn, TOLERANCE)
    best_angle, best_locked, best_area = 0.0, np.zeros(0, dtype=bool), np.inf
    for at in np.argsort(least, kind="stable")[:_MOST_LOOKED_AT]:
        if least[at] >= best_area:
            break
        locked = _locked(frame, angles[at], turn)
        area = float(frame.area[locked].sum())
        if area < best_area:
            best_angle, best_locked, best_area = float(angles[at]), locked, area
    turned = np.asarray(best_angle + turn * np.arange(parts), dtype=np.float64)
    pulls = frame.directions(turned)
    filler = sum(
        _filler(frame, pull, best_angle + turn * k, turn / 2.0) for k, pull in enumerate(pulls)
    )
    borders = np.asarray(best_angle + turn * (np.arange(parts) + 0.5), dtype=np.float64)
    lines = np.concatenate([_line(frame, direction) for direction in frame.directions(borders)])
    return Split(parts, best_angle, best_locked, best_area, float(filler), pulls, lines)


def _hood(rubber: Mesh, up: Floats) -> Split:
    frame = _Frame.of(rubber, up)
    leans = frame.normal @ up < -TOLERANCE
    locked = leans | _blocked(frame, np.broadcast_to(up, frame.normal.shape), ~leans)
    return Split(
        1,
        0.0,
        locked,
        float(frame.area[locked].sum()),
        _filler(frame, up, None, np.pi),
        up[None, :],
        np.zeros((0, 2, 3)),
    )


@dataclass(frozen=True, slots=True, eq=False)
class _Frame:
    """The faces of a rubber's outside seen along an upright axis through its middle."""

    mesh: Mesh
    caster: Caster
    axis: Floats
    square: Floats
    middle: Floats
    centre: Floats
    normal: Floats
    area: Floats
    azimuth: Floats
    across: Floats

    @classmethod
    def of(cls, mesh: Mesh, up: Floats) -> "_Frame":
        centre, normal, area = face_frames(mesh)
        square = square_to(up)
        middle = middle_of(mesh)
        flat = (centre - middle) @ square.T
        return cls(
            mesh=mesh,
            caster=Caster(mesh),
            axis=up,
            square=square,
            middle=middle,
            centre=centre,
            normal=normal,
            area=area,
            azimuth=np.arctan2(flat[:, 1], flat[:, 0]),
            across=np.ascontiguousarray(normal @ square.T),
        )

    def directions(self, angles: Floats) -> Floats:
        """Return unit vectors at angles round the axis, (n, 3)."""
        return np.asarray(np.c_[np.cos(angles), np.sin(angles)] @ self.square)


@njit(cache=True)
def _leaning(azimuth, across, area, angles, turn, tolerance):  # type: ignore[no-untyped-def]
    """Sum for each angle the area of the faces that lean back against their part's pull."""
    sums = np.zeros(len(angles))
    for at in range(len(angles)):
        for face in range(len(area)):
            part = np.round((azimuth[face] - angles[at]) / turn)
            pull = angles[at] + part * turn
            along = across[face, 0] * np.cos(pull) + across[face, 1] * np.sin(pull)
            if along < -tolerance:
                sums[at] += area[face]
    return sums


def locked_area(rubber: Mesh, up: Floats, part: Integers, pulls: Floats) -> float:
    """Return how much of a rubber's outside locks the parts of a shell that it falls to.

    Parameters
    ----------
    rubber : Mesh
        Outside of the rubber, outside outside. [m]
    up : (3,) float
        Away from the board.
    part : (m,) int
        Of each face.
    pulls : (parts, 3) float
        Unit vectors.

    Returns
    -------
    float
        [m^2]
    """
    frame = _Frame.of(rubber, up)
    return float(frame.area[_locked_along(frame, pulls[part])].sum())


def _locked(frame: _Frame, angle: float, turn: float) -> Flags:
    part = np.round((frame.azimuth - angle) / turn)
    return _locked_along(frame, frame.directions(angle + part * turn))


def _locked_along(frame: _Frame, pulls: Floats) -> Flags:
    """Return which faces lock when each is pulled its own way."""
    leans = np.einsum("ij,ij->i", frame.normal, pulls) < -TOLERANCE
    return np.asarray(leans | _blocked(frame, pulls, ~leans))


def _blocked(frame: _Frame, pulls: Floats, asked: Flags) -> Flags:
    """Return which faces have other rubber in the way out."""
    off = _OFF * float(frame.mesh.extents.max())
    blocked = np.zeros(len(frame.area), dtype=bool)
    start = frame.centre[asked] + off * frame.normal[asked]
    blocked[asked] = frame.caster.blocked(start, np.ascontiguousarray(pulls[asked]))
    return blocked


def _filler(frame: _Frame, pull: Floats, angle: float | None, half_turn: float) -> float:
    """Volume between rubber and rubber along a pull, on the part's own side. [m^3]

    Lines against the pull, on a grid across it: what of a line is empty behind the first rubber it
    meets, and belongs to the part, has to be filled.
    """
    across = square_to(pull)
    seen = frame.mesh.vertices @ across.T
    low, high = seen.min(axis=0), seen.max(axis=0)
    step = float((high - low).max()) / _RAYS_ACROSS
    u, v = (np.arange(low[k] + 0.5 * step, high[k], step) for k in range(2))
    grid = np.stack(np.meshgrid(u, v, indexing="ij"), axis=-1).reshape(-1, 2)
    top = float((frame.mesh.vertices @ pull).max())
    beyond = top + step
    lowest = (frame.mesh.vertices @ pull).min() if angle is None else frame.middle @ pull
    ground = beyond - float(lowest)
    at = grid @ across + beyond * pull
    into = np.broadcast_to(-pull, at.shape)
    tiny = 1e-4 * float(frame.mesh.extents.max())
    travelled, going = np.zeros(len(at)), np.arange(len(at))
    left = np.full(len(at), np.nan)
    empty = 0.0
    for _ in range(2 * _MOST_LAYERS):
        start = at[going] - travelled[going, None] * pull
        face, far = frame.caster.hits(start, np.ascontiguousarray(into[going]))
        hit = face >= 0
        entering = frame.normal[np.maximum(face, 0)] @ pull > 0.0
        began = left[going]
        # From where rubber was left to where it is met again: a gap of this line.
        gap = hit & entering & ~np.isnan(began)
        ends = travelled[going] + far
        empty += _within(frame, at, going[gap], began[gap], ends[gap], pull, angle, half_turn)
        # What is left and never met again is open to the middle of the piece, or to the board.
        last = ~hit & ~np.isnan(began)
        down_to = np.full(int(last.sum()), ground)
        empty += _within(frame, at, going[last], began[last], down_to, pull, angle, half_turn)
        left[going[hit]] = np.where(entering[hit], np.nan, ends[hit])
        travelled[going[hit]] = ends[hit] + tiny
        going = going[hit]
        if len(going) == 0:
            break
    return empty * step * step


def _within(
    frame: _Frame,
    at: Floats,
    lines: Floats,
    begins: Floats,
    ends: Floats,
    pull: Floats,
    angle: float | None,
    half_turn: float,
) -> float:
    """Length of pieces of lines that belong to the part. [m]"""
    length = np.maximum(ends - begins, 0.0)
    if angle is None or len(length) == 0:
        return float(length.sum())
    # By their middle, and never past the axis.
    middle = at[lines] - ((begins + ends) / 2.0)[:, None] * pull
    flat = (middle - frame.middle) @ frame.square.T
    away = np.arctan2(flat[:, 1], flat[:, 0]) - angle
    own = np.abs((away + np.pi) % (2.0 * np.pi) - np.pi) <= half_turn
    return float(length[own].sum())


def _line(frame: _Frame, direction: Floats) -> Floats:
    """Return where a half plane from the axis cuts the rubber, as straight pieces."""
    square = np.cross(frame.axis, direction)
    pieces = section(frame.mesh, square, float(frame.middle @ square))
    ours = ((pieces.mean(axis=1) - frame.middle) @ direction) >= 0.0
    return np.asarray(pieces[ours])
