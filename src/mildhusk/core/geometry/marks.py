"""What a person says of a place on the face: no casting face, casting face, or cut away later."""

from dataclasses import replace

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from mildhusk.core.errors import MeshFileError
from mildhusk.core.geometry.cutting import finer_near, split_along
from mildhusk.core.geometry.face_kinds import FaceKind, Kinds
from mildhusk.core.geometry.mesh import Flags, Integers, Mesh, face_frames
from mildhusk.core.geometry.skin import Skin
from mildhusk.core.geometry.survey_options import FaceRole, Mark
from mildhusk.core.geometry.topology import neighbours

# The longest edge left inside a mark, as a share of its radius: its border is then round to 0.3 %.
_EDGE = 1.0 / 8.0
# A mark further from the face than this share of its radius marks nothing.
_TOUCHES = 1.0


def marked(
    mesh: Mesh, skin: Skin, kinds: Kinds, marks: tuple[Mark, ...]
) -> tuple[Mesh, Skin, Kinds]:
    """Apply marks to a repaired file whose skin was found.

    Parameters
    ----------
    mesh : Mesh
        [m]
    skin : Skin
    kinds : (m,) uint8
        What each face is, by `FaceKind`.
    marks : tuple of Mark
        The later one wins where two overlap.

    Returns
    -------
    mesh : Mesh
        The same surface, cut along the borders of the marks.
    skin : Skin
        Of its faces.
    kinds : (m,) uint8
        Of its faces; what is marked is in question no more.

    Raises
    ------
    MeshFileError
        A mark that touches no face, or marks that leave none.
    """
    kept = skin.kept
    for number, mark in enumerate(marks, start=1):
        mesh, parent, inside = _patch(mesh, mark, number)
        kept, kinds = kept[parent], kinds[parent]
        kept[inside] = mark.role is not FaceRole.LEFT_OUT
        is_cut = mark.role is FaceRole.CUT_AWAY
        kinds[inside] = FaceKind.CUT_AWAY if is_cut else FaceKind.CASTING
    if not kept.any():
        raise MeshFileError("The marks leave no casting face; take one of them back.", "marks")
    doubtful = kept & (kinds == FaceKind.IN_QUESTION)
    return mesh, replace(skin, kept=kept, doubtful=doubtful), kinds


def _patch(mesh: Mesh, mark: Mark, number: int) -> tuple[Mesh, Integers, Flags]:
    """Cut a mark's border, and return its faces: those within it, joined to its middle."""
    middle = np.array(mark.at_m)
    fine, parent = finer_near(mesh, middle, 1.2 * mark.radius_m, _EDGE * mark.radius_m)
    far = np.linalg.norm(fine.vertices - middle, axis=1) - mark.radius_m
    cut, of, outside = split_along(fine, far)
    centre, _, area = face_frames(cut)
    away = np.where(outside | (area == 0.0), np.inf, np.linalg.norm(centre - middle, axis=1))
    if not away.min() < _TOUCHES * mark.radius_m:
        raise MeshFileError(
            f"Mark {number} touches no face; put it on the piece, or take it back.", "marks"
        )
    label = _joined(cut, ~outside)
    return cut, parent[of], np.asarray(~outside & (label == label[int(away.argmin())]))


def _joined(mesh: Mesh, within: Flags) -> Integers:
    first, second, _ = neighbours(mesh)
    beside = within[first] & within[second]
    size = len(mesh.faces)
    ones = np.ones(int(beside.sum()), np.int8)
    graph = coo_array((ones, (first[beside], second[beside])), shape=(size, size))
    _, label = connected_components(graph, directed=False)
    return np.asarray(label)


def area_of(mesh: Mesh, faces: Flags) -> float:
    """Return the area of some faces. [m^2]"""
    _, _, area = face_frames(mesh)
    return float(area[faces].sum())
