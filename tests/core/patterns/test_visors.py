"""Visors and stencils: what bends one way unrolls without error, what does not says by how much."""

import numpy as np
import pytest
import shapely

from core import shapes
from mildhusk.core.errors import PatternError
from mildhusk.core.geometry.mesh import Mesh
from mildhusk.core.patterns.edges import husk_edges
from mildhusk.core.patterns.flat import Layer, outline_of
from mildhusk.core.patterns.trim import TrimWish, trim
from mildhusk.core.patterns.unrolling import best_bend
from mildhusk.core.patterns.visor import VisorWish, mirror_gap, visor


def windowed(surface, columns=120, rows=90, window=(0.3, 0.7, 0.35, 0.65)) -> Mesh:
    """A patch of a surface over the unit square with a window in it."""
    u, v = np.meshgrid(np.linspace(0, 1, columns + 1), np.linspace(0, 1, rows + 1), indexing="ij")
    points = surface(u.ravel(), v.ravel())
    at = np.arange((columns + 1) * (rows + 1)).reshape(columns + 1, rows + 1)
    a, b, c, d = at[:-1, :-1], at[1:, :-1], at[1:, 1:], at[:-1, 1:]
    quads = np.stack([a, b, c, d], axis=-1).reshape(-1, 4)
    mid_u = (u[:-1, :-1] + u[1:, 1:]).ravel() / 2
    mid_v = (v[:-1, :-1] + v[1:, 1:]).ravel() / 2
    low_u, high_u, low_v, high_v = window
    open_ = (mid_u > low_u) & (mid_u < high_u) & (mid_v > low_v) & (mid_v < high_v)
    quads = quads[~open_]
    faces = np.r_[quads[:, :3], quads[:, [0, 2, 3]]]
    return Mesh(points, faces)


def turned(points: np.ndarray) -> np.ndarray:
    """Anywhere, at any angle: nothing may depend on how a piece lies."""
    q, _ = np.linalg.qr(np.array([[0.3, 1.0, 0.2], [0.9, -0.1, 0.4], [0.1, 0.2, 1.3]]))
    return points @ q.T + (0.4, -0.2, 0.7)


def on_cylinder(u, v):
    angle = 2.4 * (u - 0.5)
    return turned(np.c_[0.12 * np.cos(angle), 0.12 * np.sin(angle), 0.2 * v])


def on_cone(u, v):
    angle, slant = 2.4 * (u - 0.5), 0.2 + 0.2 * v
    lean = np.radians(25.0)
    radius = slant * np.sin(lean)
    return turned(np.c_[radius * np.cos(angle), radius * np.sin(angle), slant * np.cos(lean)])


def flat(u, v):
    return turned(np.c_[0.3 * u, 0.2 * v, np.zeros(len(u))])


def none_cut(face: Mesh) -> np.ndarray:
    return np.zeros(len(face.faces), dtype=bool)


def made(surface, wish=None, **how):
    face = windowed(surface, **how)
    return visor(face, none_cut(face), wish or VisorWish(overlap_m=0.0))


def figures(pattern):
    return {one.key: one.value for one in pattern.figures}


def opening_of(pattern) -> shapely.Polygon:
    """The edge of the opening, as it is marked on the sheet: the longest line of its layer."""
    marked = [one.points_m for one in pattern.parts[0].lines if one.layer is Layer.MARK]
    return shapely.Polygon(max(marked, key=lambda line: shapely.LineString(line).length))


def test_a_visor_on_a_cylinder_unrolls_without_error():
    pattern = made(on_cylinder)
    found = figures(pattern)
    # Exact: a window of an angle and a height is a rectangle of arc by height.
    wide, high = 0.12 * 2.4 * 0.4, 0.2 * (58 - 32) / 90.0
    assert found["gap"] < 1e-5
    assert abs(found["stretch"]) < 2e-4
    assert found["radius"] == pytest.approx(0.12, rel=1e-3)
    rows = np.round(np.array([0.35, 0.65]) * 90)
    high = 0.2 * (rows[1] - rows[0]) / 90.0
    opening = opening_of(pattern)
    box = opening.minimum_rotated_rectangle
    x, y = box.exterior.coords.xy
    sides = sorted(np.hypot(np.diff(x), np.diff(y)))
    assert sides[-1] == pytest.approx(wide, rel=2e-3)
    assert sides[0] == pytest.approx(high, abs=0.2 / 90)
    assert opening.area == pytest.approx(box.area, rel=2e-3)
    assert found["mirror"] < 5e-4


def test_a_visor_on_a_cone_unrolls_without_error():
    pattern = made(on_cone)
    found = figures(pattern)
    assert found["gap"] < 2e-5
    assert abs(found["stretch"]) < 3e-4
    opening = opening_of(pattern)
    # Exact: a sector between two slants, of the angle by the sine of the cone's.
    low, high = (0.2 + 0.2 * k / 90.0 for k in (32, 58))
    turn = 2.4 * 0.4 * np.sin(np.radians(25.0))
    edges = [turn / 2.0 * (b * b - a * a) for a, b in ((low, high), (low + 0.2 / 90, high))]
    assert min(edges) * 0.99 < opening.area < max(edges) * 1.04
    points = shapely.get_coordinates(opening.exterior)
    # A cone's window is no rectangle: its long edges are arcs, bent by the sector.
    hull = opening.convex_hull
    assert hull.area > 1.01 * opening.area
    assert len(points) > 50


@pytest.mark.parametrize("surface", [on_cylinder, on_cone, flat], ids=["cylinder", "cone", "flat"])
def test_a_visor_is_drawn_as_it_is_seen_from_outside(surface):
    face = windowed(surface)
    edge = husk_edges(face, none_cut(face))[1]
    (part,) = visor(face, none_cut(face), VisorWish(overlap_m=0.0)).parts
    places = np.array([one.place_m for one in part.marks])
    off, after = places - places.mean(axis=0), np.roll(places, -1, axis=0) - places.mean(axis=0)
    solid = (np.cross(off, after) @ edge.out).sum()
    # The marks go round the same way flat and on the piece.
    drawn = shapely.LinearRing([one.at_m for one in part.marks])
    assert drawn.is_ccw == (solid > 0.0)


def test_a_flat_window_stays_flat():
    pattern = made(flat, VisorWish(overlap_m=0.01))
    found = figures(pattern)
    assert "flat" in found
    assert found["gap"] < 1e-9
    assert found["stretch"] == pytest.approx(0.0, abs=1e-9)


@pytest.mark.parametrize(("polar_deg", "overlap"), [(20.0, 0.01), (25.0, 0.006)])
def test_the_error_of_a_lens_on_a_ball_is_what_geometry_leaves(polar_deg, overlap):
    # Exact, to second order: round a round window of radius a the ball falls off by the sagitta;
    # a sheet over the band from a to a + w cannot lie nearer than half of what it falls there.
    radius = 0.15
    polar = np.radians(polar_deg)

    def on_ball(u, v):
        theta = polar + (np.radians(60.0) - polar) * v
        angle = 2.0 * np.pi * u
        return turned(
            radius
            * np.c_[np.sin(theta) * np.cos(angle), np.sin(theta) * np.sin(angle), np.cos(theta)]
        )

    n = 240
    face = windowed(on_ball, n, 120, window=(2.0, 3.0, 2.0, 3.0))
    # The patch closes on itself where its angle has gone round.
    joined = shapes.joined(_library(face))
    pattern = visor(joined, none_cut(joined), VisorWish(overlap_m=overlap))
    found = figures(pattern)
    wide = overlap / radius
    fall = radius * (np.cos(polar) - np.cos(polar + wide))
    # A flat sheet could do no better; the best cone, with its tip far off, a little.
    assert 0.25 * fall < found["gap"] < 0.75 * fall


def _library(mesh: Mesh):
    import trimesh

    return trimesh.Trimesh(np.round(mesh.vertices, 9), mesh.faces, process=False)


def test_the_sheet_that_fits_is_the_one_an_independent_search_finds():
    # Laws: another solver, another way to write the cylinder, the same distance.
    from scipy.optimize import differential_evolution

    rng = np.random.default_rng(3)
    angle, height = rng.uniform(-0.8, 0.8, 400), rng.uniform(-0.05, 0.05, 400)
    # A barrel: no cylinder lies on it.
    radius = 0.12 - 2.0 * height**2
    points = np.c_[radius * np.cos(angle), radius * np.sin(angle), height]
    bend = best_bend(points, np.array([1.0, 0.0, 0.0]))
    ours = np.sqrt((bend.gaps(points) ** 2).mean())

    def apart(values):
        x, y, r, lean, tip = values
        axis = np.array([lean, tip, 1.0])
        axis /= np.linalg.norm(axis)
        off = points - (x, y, 0.0)
        away = np.linalg.norm(off - np.outer(off @ axis, axis), axis=1)
        return np.sqrt(((away - r) ** 2).mean())

    bounds = [(-0.05, 0.05), (-0.05, 0.05), (0.05, 0.2), (-0.2, 0.2), (-0.2, 0.2)]
    other = differential_evolution(apart, bounds, seed=1, tol=1e-12, maxiter=400)
    assert ours <= other.fun * 1.001


def test_a_visor_across_the_comb_is_refused():
    def with_comb(u, v):
        # A ridge 30 mm high along the middle of a dome.
        angle = 2.4 * (u - 0.5)
        radius = 0.12 + 0.03 * np.maximum(0.0, 1.0 - np.abs(u - 0.5) / 0.05)
        return turned(np.c_[radius * np.cos(angle), radius * np.sin(angle), 0.2 * v])

    with pytest.raises(PatternError, match="would stand off by"):
        made(with_comb, VisorWish(overlap_m=0.02))


def test_a_sheet_too_thick_for_its_bend_is_stopped():
    thin, thick = (
        made(on_cylinder, VisorWish(overlap_m=0.01, thickness_m=t)) for t in (0.001, 0.003)
    )
    assert not [one for one in thin.findings if one.id == "visor-radius"]
    (found,) = [one for one in thick.findings if one.id == "visor-radius"]
    # Common practice, no source: polycarbonate bends cold to a hundred times its thickness.
    assert "300.0 mm" in found.text
    assert "120" in found.text


def test_the_overlap_goes_all_round():
    bare, wide = (made(on_cylinder, VisorWish(overlap_m=o)) for o in (0.0, 0.012))
    grown = np.subtract(wide.parts[0].size_m, bare.parts[0].size_m)
    assert grown == pytest.approx([0.024, 0.024], abs=3e-4)


def test_halves_that_differ_are_told():
    even = shapely.Polygon([(0, 0), (0.1, 0), (0.1, 0.04), (0, 0.04)])
    assert mirror_gap(even) < 1e-4
    # A rectangle with one corner drawn out by 10 mm: no fold closes all of that.
    skew = shapely.Polygon([(0, 0), (0.11, -0.004), (0.1, 0.04), (0, 0.04)])
    assert 0.003 < mirror_gap(skew) < 0.012


def test_what_is_cut_away_is_an_edge_too():
    face = windowed(on_cylinder, window=(2.0, 3.0, 2.0, 3.0))
    centre = face.vertices[face.faces].mean(axis=1)
    middle = on_cylinder(np.array([0.5]), np.array([0.5]))[0]
    away = np.linalg.norm(centre - middle, axis=1) < 0.03
    edges = husk_edges(face, away)
    assert [one.is_main for one in edges] == [True, False]
    # Exact: it goes round a circle of 30 mm, along the teeth of the mesh.
    ring = edges[1].ring
    after = np.roll(ring, -1, axis=0)
    area = np.linalg.norm(np.cross(ring - middle, after - middle).sum(axis=0)) / 2.0
    assert area == pytest.approx(np.pi * 0.03**2, rel=0.08)
    pattern = visor(face, away, VisorWish())
    assert pattern.parts


def test_stencils_lie_on_every_edge_and_know_their_places():
    face = windowed(on_cylinder)
    pattern = trim(face, none_cut(face), TrimWish(0.025))
    names = [one.name for one in pattern.parts]
    assert any(name.startswith("rim, strip") for name in names)
    assert "front view" in names
    window = next(
        one for one in pattern.parts if one.name not in names[0:1] and "strip" not in one.name
    )
    cuts = [one for one in window.lines if one.layer is Layer.CUT]
    assert len(cuts) == 2
    # The inner cut is the edge: as long flat as on the piece.
    inner = min(shapely.Polygon(one.points_m).exterior.length for one in cuts)
    edge = husk_edges(face, none_cut(face))[1]
    length = np.linalg.norm(np.roll(edge.ring, -1, axis=0) - edge.ring, axis=1).sum()
    assert inner == pytest.approx(length, rel=2e-3)
    for mark in window.marks:
        assert np.linalg.norm(edge.ring - np.array(mark.place_m), axis=1).min() < 2e-3
        assert outline_of(window).distance(shapely.Point(mark.at_m)) < 1e-4


def test_an_edge_that_is_not_there_is_refused_with_those_that_are():
    face = windowed(on_cylinder)
    with pytest.raises(PatternError, match="no edge 'nose'; it has: rim"):
        visor(face, none_cut(face), VisorWish("nose"))
    whole = windowed(on_cylinder, window=(2.0, 3.0, 2.0, 3.0))
    with pytest.raises(PatternError, match="no opening but its rim"):
        visor(whole, none_cut(whole), VisorWish())
    with pytest.raises(PatternError, match="no sheet; choose one of"):
        VisorWish(material="oak")
    closed = shapes.sphere(0.1, 40)
    with pytest.raises(PatternError, match="no edge to trim"):
        trim(closed, none_cut(closed), TrimWish())
    with pytest.raises(PatternError, match="All of the piece"):
        trim(closed, ~none_cut(closed), TrimWish())
