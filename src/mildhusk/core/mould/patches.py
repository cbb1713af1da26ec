"""Soft places of a mould: ears, noses, lips brushed in a softer rubber of their own."""

from dataclasses import dataclass

import numpy as np

from mildhusk.core.checks import require_between
from mildhusk.core.constants import STRETCH_SAFETY
from mildhusk.core.errors import MouldError
from mildhusk.core.geometry.mesh import Floats, Mesh, face_frames
from mildhusk.core.geometry.nearest import nearest_on, sample_surface
from mildhusk.core.materials.kinds import Rubber
from mildhusk.core.mould.brushing import grams_up
from mildhusk.core.mould.outside import Standing

MOST_PATCHES = 8
_SMALLEST_M, _LARGEST_M = 0.003, 0.25
_POINTS_A_SIDE = 72


@dataclass(frozen=True, slots=True)
class PatchPlace:
    """Where a soft place is.

    Parameters
    ----------
    at_m : tuple of 3 floats
        Its middle, on the piece. [m]
    radius_m : float
        It covers the face so near to its middle. [m]

    Raises
    ------
    MouldError
        A radius out of range.
    """

    at_m: tuple[float, float, float]
    radius_m: float

    def __post_init__(self) -> None:
        require_between(
            self.radius_m,
            _SMALLEST_M,
            _LARGEST_M,
            name="The radius of a soft place",
            field="patches",
            error=MouldError,
            shown_in="mm",
            scale=1e3,
        )


@dataclass(frozen=True, slots=True)
class PatchSize:
    """What a soft place covers of the face, and takes of the wall. [m^2], [m^3]"""

    area_m2: float
    volume_m3: float


@dataclass(frozen=True, slots=True)
class SoftPatch:
    """A soft place that is wanted: its name, where it is, its rubber."""

    name: str
    place: PatchPlace
    rubber: Rubber


@dataclass(frozen=True, slots=True)
class PatchPlan:
    """A soft place planned.

    Parameters
    ----------
    patch : SoftPatch
    size : PatchSize
    a_kg, b_kg : float
        To weigh, in whole grams. [kg]
    allowed : float
        Stretch its rubber bears at every demould. [1]
    """

    patch: SoftPatch
    size: PatchSize
    a_kg: float
    b_kg: float
    allowed: float

    @property
    def kg(self) -> float:
        """Of A and B. [kg]"""
        return round(self.a_kg + self.b_kg, 6)


def size_patches(
    piece: Standing, wall_m: float, places: tuple[PatchPlace, ...]
) -> tuple[PatchSize, ...]:
    """Measure soft places: the rubber whose nearest place on the face lies within each.

    Parameters
    ----------
    piece : Standing
    wall_m : float
        [m]
    places : tuple of PatchPlace

    Returns
    -------
    tuple of PatchSize

    Raises
    ------
    MouldError
        A place that the piece does not come near to, too many of them.

    Notes
    -----
    By points on an even grid round the place, each counted by its nearest place on the face: so two
    patches beside each other share no rubber, and the gap behind an ear is filled once.
    """
    if len(places) > MOST_PATCHES:
        raise MouldError(f"A mould has at most {MOST_PATCHES} soft places.", "patches")
    return tuple(_size(piece, wall_m, place) for place in places)


def _size(piece: Standing, wall_m: float, place: PatchPlace) -> PatchSize:
    middle, _, areas = face_frames(piece.face)
    at = np.array(place.at_m)
    covered = float(areas[np.linalg.norm(middle - at, axis=1) <= place.radius_m].sum())
    if covered <= 0.0:
        raise MouldError(
            "A soft place covers no face of the piece; press it on the piece, or make it wider.",
            "patches",
        )
    half = place.radius_m + wall_m
    edge = 2.0 * half / _POINTS_A_SIDE
    round_it = _faces_near(piece.face, at, half)
    surface = sample_surface((round_it,), max(2.0 * edge, 0.001), half)
    along = (np.arange(_POINTS_A_SIDE) + 0.5) * edge - half
    grid = np.stack(np.meshgrid(along, along, along, indexing="ij"), axis=-1).reshape(-1, 3) + at
    inside_grid = np.all(
        (grid >= surface.origin)
        & (grid < surface.origin + np.array(surface.depth.shape) * surface.cell_m),
        axis=1,
    )
    points = grid[inside_grid & (np.linalg.norm(grid - at, axis=1) <= half)]
    distance, nearest = nearest_on(surface, points)
    foot = surface.points[nearest]
    counted = np.clip(0.5 - distance / edge, 0.0, 1.0) * np.clip(
        0.5 + (wall_m + distance) / edge, 0.0, 1.0
    )
    counted = np.where(np.linalg.norm(foot - at, axis=1) <= place.radius_m, counted, 0.0)
    counted = counted * _above_board(piece, points)
    return PatchSize(covered, float(counted.sum()) * edge**3)


def _faces_near(face: Mesh, at: Floats, within: float) -> Mesh:
    """Return the faces on which the nearest place to any point within a distance of `at` lies."""
    far = np.linalg.norm(face.vertices - at, axis=1)[face.faces]
    corners = face.vertices[face.faces]
    longest = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).max(axis=1)
    # From such a point the nearest face is no further off than the corner nearest to `at`.
    reach = 2.0 * within + float(far.min())
    return Mesh(face.vertices, face.faces[far.min(axis=1) <= reach + longest])


def _above_board(piece: Standing, points: Floats) -> Floats:
    if piece.lid is None:
        return np.ones(len(points))
    return np.asarray((points @ piece.up >= piece.board_m).astype(np.float64))


def plan_patch(patch: SoftPatch, size: PatchSize, loss: float) -> PatchPlan:
    """Plan a soft place.

    Parameters
    ----------
    patch : SoftPatch
    size : PatchSize
    loss : float
        What stays on board, brush and cup, of what is mixed. [1]

    Returns
    -------
    PatchPlan
    """
    rubber = patch.rubber
    mixed = size.volume_m3 * rubber.density_kg_m3 / (1.0 - loss)
    a_kg = grams_up(mixed * rubber.parts_a / (rubber.parts_a + rubber.parts_b))
    b_kg = round(round(a_kg * rubber.parts_b / rubber.parts_a, 3), 6)
    return PatchPlan(patch, size, a_kg, b_kg, rubber.elongation / STRETCH_SAFETY)
