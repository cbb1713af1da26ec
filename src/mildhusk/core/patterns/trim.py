"""Trimming: stencils that lie on the husk along its edges, and a front view at true size."""

from dataclasses import dataclass

import numpy as np
import shapely
from scipy.spatial import cKDTree

from mildhusk.core.amounts import Amount
from mildhusk.core.checks import Bounds, check_bounds, within
from mildhusk.core.errors import PatternError
from mildhusk.core.findings import Finding, Severity
from mildhusk.core.geometry.mesh import Flags, Floats, Mesh, face_frames
from mildhusk.core.geometry.sections import outline_along, square_to
from mildhusk.core.mould.outside import standing
from mildhusk.core.patterns.edges import HuskEdge, husk_edges, kept_face
from mildhusk.core.patterns.flat import (
    Drawn,
    Label,
    Layer,
    Pattern,
    PatternKind,
    PatternMark,
    PatternPart,
    curve,
    evenly,
    figure,
    flat_part,
    place,
    polygons,
    ring_length,
    solid,
)
from mildhusk.core.patterns.skirt import band_parts, seen_from_outside
from mildhusk.core.patterns.visor import FITS_M, edge_marks, flattening_figures, unroll_edge
from mildhusk.core.wording import Unit, sentence

_STEP_M = 0.001
_CROSS_M = 0.008


@dataclass(frozen=True, slots=True)
class TrimWish:
    """What is wanted of stencils.

    Parameters
    ----------
    width_m : float
        Of the paper beside an edge. [m]
    front_view : bool
        With the view from the front at true size.
    """

    width_m: float = within(Bounds(0.01, 0.1, "The width of a stencil", "mm", 1e3), 0.03)
    front_view: bool = True

    def __post_init__(self) -> None:
        check_bounds(self, PatternError)


def trim(face: Mesh, cut_away: Flags, wish: TrimWish) -> Pattern:
    """Draw stencils for all edges of a husk.

    Parameters
    ----------
    face : Mesh
        Casting face. [m]
    cut_away : (m,) bool
        Faces that become waste.
    wish : TrimWish

    Returns
    -------
    Pattern

    Raises
    ------
    PatternError
        A piece without an edge.

    Notes
    -----
    A window's stencil lies on the cylinder or cone that fits best; where none does, and along the
    rim, it is a strip that follows the face exactly and is taped round.
    """
    edges = husk_edges(face, cut_away)
    if not edges:
        raise PatternError(
            "A closed piece has no edge to trim. Mark what is cut away on the piece's page.",
            "piece",
        )
    kept = kept_face(face, cut_away)
    parts: list[PatternPart] = []
    figures: list[Amount] = []
    findings: list[Finding] = []
    for edge in edges:
        made = None if edge.is_main else _window(kept, edge, wish.width_m, findings)
        if made is None:
            ring = evenly(edge.ring, _STEP_M, closed=True)
            onto, outward = _onto_face(kept, ring, edge.out)
            if seen_from_outside(ring, onto, outward) is not ring:
                ring, onto = ring[::-1], onto[::-1]
            parts += band_parts(f"{edge.name}, strip", ring, ring + wish.width_m * onto)
        else:
            parts.append(made[0])
            figures += made[1]
    if wish.front_view:
        parts.append(_front(face, edges))
    length = sum(ring_length(one.ring) for one in edges)
    lead = figure("edges", "Edges to trim", length, Unit.LENGTH, "all of them together")
    return Pattern(
        PatternKind.TRIM,
        tuple(parts),
        (lead, *figures),
        findings=tuple(findings),
        curves_m=tuple(curve(np.r_[one.ring, one.ring[:1]]) for one in edges),
        cautions=(
            "Dust of resin harms lungs, and a cutter grabs: wear a mask and eye protection, hold "
            "the husk down, and read the tool's own manual.",
        ),
    )


def _window(
    kept: Mesh, edge: HuskEdge, width_m: float, findings: list[Finding]
) -> tuple[PatternPart, tuple[Amount, ...]] | None:
    try:
        found = unroll_edge(kept, edge, width_m)
    except PatternError:
        return None
    opening = shapely.Polygon(found.flat)
    paper = opening.buffer(width_m, quad_segs=32).difference(opening)
    if not isinstance(paper, shapely.Polygon):
        return None
    drawn = edge_marks(found)
    at = opening.representative_point()
    label = Label((at.x, at.y), edge.name)
    part = flat_part(edge.name, paper, Drawn(drawn.lines, (), (*drawn.labels, label), drawn.marks))
    if found.gap_m > FITS_M:
        findings.append(
            Finding(
                "stencil-gap",
                Severity.NOTE,
                sentence(
                    f"The stencil of {edge.name} stands off by up to {{gap}}: press it down at its "
                    "numbers and draw along its edge from there.",
                    gap=(found.gap_m, Unit.LENGTH),
                ),
            )
        )
    return part, flattening_figures(found)[:1]


def _onto_face(kept: Mesh, ring: Floats, out: Floats) -> tuple[Floats, Floats]:
    """Return directions from an edge onto the face, square to it, and off the face, (n, 3) each."""
    centre, normal, _ = face_frames(kept)
    corners = kept.vertices[kept.faces]
    middles = np.concatenate([centre, corners.reshape(-1, 3)])
    normals = np.concatenate([normal, np.repeat(normal, 3, axis=0)])
    _, near = cKDTree(middles).query(ring, k=6)
    square = normals[near].sum(axis=1)
    span = 6
    way = np.roll(ring, -span, axis=0) - np.roll(ring, span, axis=0)
    onto = np.cross(square, way)
    onto /= np.maximum(np.linalg.norm(onto, axis=1), 1e-12)[:, None]
    # Into the piece: against the way out of the opening.
    if (onto @ out).mean() > 0.0:
        onto = -onto
    smooth = sum(np.roll(onto, k, axis=0) for k in range(-span, span + 1))
    smooth /= np.maximum(np.linalg.norm(smooth, axis=1), 1e-12)[:, None]
    return np.asarray(smooth), np.asarray(square)


def _front(face: Mesh, edges: tuple[HuskEdge, ...]) -> PatternPart:
    """Return the piece from the front at true size: outline, edges, crosses at its extremes."""
    holes = [one for one in edges if not one.is_main]
    piece = standing(face)
    view = sum((one.out for one in holes), np.zeros(3)) if holes else edges[0].out
    view = view - (view @ piece.up) * piece.up if holes else view
    if np.linalg.norm(view) < 1e-6:
        view = square_to(piece.up)[0]
    view = view / np.linalg.norm(view)
    # Upright on the paper as the piece stands.
    upward = piece.up if holes else square_to(view)[1]
    across = np.array([np.cross(upward, view), upward])
    turn = across @ square_to(view).T
    seen = shapely.transform(outline_along(piece.closed, view), lambda points: points @ turn.T)
    outline = polygons(solid(seen))[0]
    lines, labels = [], []
    for one in edges:
        flat = one.ring @ across.T
        lines.append((Layer.MARK, shapely.LineString(np.r_[flat, flat[:1]])))
        middle = flat.mean(axis=0)
        labels.append(Label((float(middle[0]), float(middle[1])), one.name))
    marks = []
    flat = face.vertices @ across.T
    for name, way in (("top", (0.0, 1.0)), ("bottom", (0.0, -1.0)), ("one side", (1.0, 0.0)),
                      ("other side", (-1.0, 0.0))):  # fmt: skip
        corner = int((flat @ way).argmax())
        x, y = (float(v) for v in flat[corner])
        marks.append(PatternMark(name, (x, y), place(face.vertices[corner])))
        half = _CROSS_M / 2.0
        lines.append((Layer.MARK, shapely.LineString([(x - half, y), (x + half, y)])))
        lines.append((Layer.MARK, shapely.LineString([(x, y - half), (x, y + half)])))
    name = "front view" if holes else "seen from the opening"
    return flat_part(name, outline, Drawn(tuple(lines), (), tuple(labels), tuple(marks)))
