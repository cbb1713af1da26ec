"""Visors and lenses: an edge of the husk and its overlap, unrolled from the sheet that fits."""

from dataclasses import dataclass
from math import isfinite

import numpy as np
import shapely
from scipy.optimize import minimize_scalar
from scipy.spatial import cKDTree

from mildhusk.core.amounts import Amount, Source
from mildhusk.core.checks import Bounds, check_bounds, within
from mildhusk.core.errors import PatternError
from mildhusk.core.findings import Finding, Severity
from mildhusk.core.geometry.mesh import Flags, Floats, Mesh
from mildhusk.core.patterns.edges import HuskEdge, edge_named, husk_edges, kept_face
from mildhusk.core.patterns.flat import (
    Drawn,
    Label,
    Layer,
    Pattern,
    PatternKind,
    PatternMark,
    curve,
    evenly,
    figure,
    flat_part,
    place,
    ring_length,
)
from mildhusk.core.patterns.sheet_goods import SHEET_GOODS, SheetGood
from mildhusk.core.patterns.unrolling import Bend, best_bend
from mildhusk.core.wording import Unit, sentence

STEP_M = 0.001
MARK_EVERY_M = 0.025
FITS_M = 0.0015
"""A gap so wide is pressed shut when the sheet is fixed (assumed). [m]"""
FURTHEST_M = 0.010
"""An edge that stands further off no one-way bend follows (assumed). [m]"""
_GENERATORS = 5


@dataclass(frozen=True, slots=True)
class VisorWish:
    """What is wanted of a visor or a lens.

    Parameters
    ----------
    edge : str or None
        Name of the edge; None takes the visor, else the longest opening.
    overlap_m : float
        Of the sheet on the husk. [m]
    thickness_m : float
        Of the sheet. [m]
    material : str
        A key of the sheet materials.
    """

    edge: str | None = None
    overlap_m: float = within(Bounds(0.0, 0.06, "The overlap", "mm", 1e3), 0.012)
    thickness_m: float = within(Bounds(0.0001, 0.01, "The thickness", "mm", 1e3), 0.0015)
    material: str = "polycarbonate"

    def __post_init__(self) -> None:
        check_bounds(self, PatternError)
        _ = self.good  # an unknown material is refused at once

    @property
    def good(self) -> SheetGood:
        """The sheet material.

        Raises
        ------
        PatternError
            An unknown one.
        """
        for one in SHEET_GOODS:
            if one.key == self.material:
                return one
        known = ", ".join(one.key for one in SHEET_GOODS)
        raise PatternError(f"'{self.material}' is no sheet; choose one of {known}.", "material")


@dataclass(frozen=True, slots=True, eq=False)
class UnrolledEdge:
    """An edge laid flat with the sheet that fits it.

    Parameters
    ----------
    edge : HuskEdge
    bend : Bend
    ring : (n, 3) float
        Points round the edge. [m]
    flat : (n, 2) float
        The same, flat. [m]
    gap_m : float
        The edge, and the face under the overlap, stand off the sheet by up to so much. [m]
    stretch : float
        By this share the flat edge is longer or shorter than on the piece. [1]
    """

    edge: HuskEdge
    bend: Bend
    ring: Floats
    flat: Floats
    gap_m: float
    stretch: float


def unroll_edge(kept: Mesh, edge: HuskEdge, overlap_m: float) -> UnrolledEdge:
    """Fit a sheet to an edge and the face round it, and lay the edge flat with it.

    Parameters
    ----------
    kept : Mesh
        The husk's face. [m]
    edge : HuskEdge
    overlap_m : float
        [m]

    Returns
    -------
    UnrolledEdge

    Raises
    ------
    PatternError
        No sheet that is bent one way follows it.
    """
    ring = evenly(edge.ring, STEP_M, closed=True)
    band = _band(kept, ring, overlap_m)
    points = np.r_[ring, band]
    bend = best_bend(points, edge.out)
    gap = float(np.abs(bend.gaps(points)).max())
    size = float(np.linalg.norm(np.ptp(ring, axis=0)))
    if gap > min(FURTHEST_M, 0.25 * size):
        raise PatternError(
            f"No sheet that is bent one way follows the edge of '{edge.name}': it would stand off "
            f"by {gap * 1e3:.0f} mm. Divide it where the face bends, or form it with heat.",
            "edge",
        )
    flat = bend.flat(ring)
    if not shapely.Polygon(flat).is_valid:
        raise PatternError(
            f"The edge of '{edge.name}' goes round the piece; it is no opening to close with a "
            "sheet.",
            "edge",
        )
    length, laid = ring_length(ring), ring_length(flat)
    return UnrolledEdge(edge, bend, ring, flat, gap, laid / length - 1.0)


def visor(face: Mesh, cut_away: Flags, wish: VisorWish) -> Pattern:
    """Unroll a visor or a lens.

    Parameters
    ----------
    face : Mesh
        Casting face. [m]
    cut_away : (m,) bool
        Faces that become waste.
    wish : VisorWish

    Returns
    -------
    Pattern

    Raises
    ------
    PatternError
        No such edge, or one that no sheet follows.
    """
    good = wish.good
    edges = husk_edges(face, cut_away)
    edge = edge_named(edges, wish.edge)
    found = unroll_edge(kept_face(face, cut_away), edge, wish.overlap_m)
    opening = shapely.Polygon(found.flat)
    outline = opening.buffer(wish.overlap_m, quad_segs=32)
    lines = [(Layer.MARK, shapely.LineString(np.r_[found.flat, found.flat[:1]]))]
    smallest = found.bend.least_radius(found.ring)
    if isfinite(smallest):
        lines += [(Layer.BEND, one) for one in _generators(found.bend, outline)]
    drawn = edge_marks(found)
    at = outline.representative_point()
    part = flat_part(
        edge.name, outline,
        Drawn(
            (*lines, *drawn.lines), (), (*drawn.labels, Label((at.x, at.y), edge.name)), drawn.marks
        ),
    )  # fmt: skip
    skew = mirror_gap(opening)
    return Pattern(
        PatternKind.VISOR,
        (part,),
        (
            figure("radius", "Bend radius", smallest, Unit.LENGTH, "the tightest place")
            if isfinite(smallest)
            else figure("flat", "Curvature", 0.0, Unit.COUNT, "the sheet stays flat"),
            *flattening_figures(found),
            figure("mirror", "Its halves differ by", skew, Unit.LENGTH, "laid on each other"),
            figure("overlap", "Overlap", wish.overlap_m, Unit.LENGTH, source=Source.WISHED),
            figure("material", "Material", part.area_m2, Unit.AREA),
        ),
        findings=tuple(_findings(found, wish, good, smallest, skew)),
        curves_m=(curve(np.r_[found.ring, found.ring[:1]]),),
        cautions=(
            "A visor of a costume protects nobody's eyes. Sheet that is cut or bent cold can "
            "shatter: wear eye protection and follow the maker's data sheet.",
        ),
        edges=tuple(one.name for one in edges if not one.is_main),
    )  # fmt: skip


def flattening_figures(found: UnrolledEdge) -> tuple[Amount, ...]:
    """Return what flattening an edge costs."""
    shape = "a cone" if found.bend.is_cone else "a cylinder or a flat sheet"
    return (
        figure("gap", "Largest gap to the face", found.gap_m, Unit.LENGTH, f"from {shape}"),
        figure(
            "stretch", "Flat edge differs by", abs(found.stretch), Unit.SHARE,
            "longer than on the piece" if found.stretch > 0.0 else "shorter than on the piece",
        ),
    )  # fmt: skip


def edge_marks(found: UnrolledEdge) -> Drawn:
    """Return numbered marks round an unrolled edge, in the frame of its flat points."""
    length = ring_length(found.ring)
    count = max(round(length / MARK_EVERY_M), 4)
    at = np.round(np.arange(count) * len(found.ring) / count).astype(int)
    inner = shapely.Polygon(found.flat).centroid
    lines, labels, marks = [], [], []
    for number, here in enumerate(at, start=1):
        spot = found.flat[here]
        into = np.array([inner.x, inner.y]) - spot
        into /= max(float(np.hypot(*into)), 1e-12)
        lines.append((Layer.MARK, shapely.LineString([spot, spot + 0.004 * into])))
        label = spot + 0.009 * into
        labels.append(Label((float(label[0]), float(label[1])), str(number)))
        flat = (float(spot[0]), float(spot[1]))
        marks.append(PatternMark(f"mark {number}", flat, place(found.ring[here])))
    return Drawn(tuple(lines), (), tuple(labels), tuple(marks))


def mirror_gap(shape: shapely.Polygon) -> float:
    """Return how far the halves of a shape lie apart, folded on the line they fit best. [m]

    Notes
    -----
    The line runs through the middle of the shape; its direction is sought. The distance is the
    largest between the outline and its mirror image (Hausdorff's).
    """
    points = shapely.get_coordinates(shapely.segmentize(shape.exterior, 0.002))
    centre = shapely.get_coordinates(shape.centroid)[0]

    def apart(angle: float) -> float:
        way = np.array([np.cos(angle), np.sin(angle)])
        off = points - centre
        folded = 2.0 * np.outer(off @ way, way) - off + centre
        tree, other = cKDTree(points), cKDTree(folded)
        return float(max(tree.query(folded)[0].max(), other.query(points)[0].max()))

    angles = np.arange(0.0, np.pi, np.radians(3.0))
    best = angles[int(np.argmin([apart(one) for one in angles]))]
    wide = np.radians(3.0)
    found = minimize_scalar(
        apart, bounds=(best - wide, best + wide), method="bounded", options={"xatol": 1e-4}
    )
    return float(min(found.fun, apart(best)))


def _findings(
    found: UnrolledEdge, wish: VisorWish, good: SheetGood, smallest: float, skew: float
) -> list[Finding]:
    made = []
    if found.gap_m > FITS_M:
        made.append(
            Finding(
                "visor-gap",
                Severity.WARNING,
                sentence(
                    "The face bends two ways there: the sheet stands off by up to {gap}. Widen the "
                    "overlap and fill the gap, or form the sheet with heat.",
                    gap=(found.gap_m, Unit.LENGTH),
                ),
            )
        )
    limit = good.least_radius * wish.thickness_m
    if smallest < limit:
        made.append(
            Finding(
                "visor-radius",
                Severity.STOP,
                sentence(
                    f"It is bent to {{radius}}; {good.name} of {{thick}} bears {{limit}} cold. "
                    "Take a thinner sheet, another material, or form it with heat.",
                    radius=(smallest, Unit.LENGTH),
                    thick=(wish.thickness_m, Unit.LENGTH),
                    limit=(limit, Unit.LENGTH),
                ),
            )
        )
    if skew > FITS_M:
        made.append(
            Finding(
                "visor-mirror",
                Severity.NOTE,
                sentence(
                    "Its halves differ by {skew}: do not cut it folded, and mark which side is "
                    "outside.",
                    skew=(skew, Unit.LENGTH),
                ),
            )
        )
    return made


def _generators(bend: Bend, outline: shapely.Polygon) -> list[shapely.LineString]:
    """Return lines along which the sheet stays straight, as far as it reaches."""
    low_x, low_y, high_x, high_y = outline.bounds
    made = []
    for x in np.linspace(low_x, high_x, _GENERATORS + 2)[1:-1]:
        if bend.is_cone:
            tip = (0.0, -_tip_height(bend))
            way = np.array([x, 0.0]) - tip
            ends = [tip, tuple(tip + 50.0 * way)]
        else:
            ends = [(x, low_y - 1.0), (x, high_y + 1.0)]
        cut = outline.intersection(shapely.LineString(ends))
        made += [one for one in shapely.get_parts(cut) if one.length > 0.0]
    return made


def _tip_height(bend: Bend) -> float:
    cosine, sine = 1.0 / np.hypot(1.0, bend.slope), bend.slope / np.hypot(1.0, bend.slope)
    return float(cosine / (bend.curvature * bend.slope) + sine / bend.curvature)


def _band(kept: Mesh, ring: Floats, overlap_m: float) -> Floats:
    """Return places on the face within the overlap of an edge."""
    corners = kept.vertices[kept.faces]
    dense = np.concatenate(
        [kept.vertices[np.unique(kept.faces)], corners.mean(axis=1),
         (corners + np.roll(corners, -1, axis=1)).reshape(-1, 3) / 2.0]
    )  # fmt: skip
    far, _ = cKDTree(ring).query(dense, distance_upper_bound=max(overlap_m, 1e-4))
    return np.asarray(dense[np.isfinite(far)])
