"""A wall as a chain of flat panels: what lies where on it, flat and in space."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely
from shapely.affinity import translate

from mildhusk.core.geometry.mesh import Floats, Mesh
from mildhusk.core.geometry.sections import section
from mildhusk.core.patterns.flat import along, solid

_FAR_M = 10.0


@dataclass(frozen=True, slots=True, eq=False)
class Chain:
    """The surface of a wall: flat panels, each hinged on the last along a line that points outward.

    Laid flat its two coordinates are the way outward and the way up along the panels.

    Parameters
    ----------
    origin : (3,) float
        On the axis, on the board. [m]
    outward, aside, up : (3,) float
        Unit vectors: along the hinges, off the plane of the part line, and away from the board.
    corners : (n, 2) float
        Where the panels meet, with both ends: aside and up. The first and the last panel go on
        beyond them. [m]
    half : bool
        Only what is outward of the axis.
    on_board : bool
        Nothing is below the origin.
    """

    origin: Floats
    outward: Floats
    aside: Floats
    up: Floats
    corners: Floats
    half: bool
    on_board: bool

    @property
    def hinges(self) -> Floats:
        """How far up the flat wall its hinges lie, (n - 2,). [m]"""
        return along(self.corners)[1:-1]

    @property
    def turns(self) -> Floats:
        """By how much each panel turns against the last, (n - 2,). [rad]"""
        ways = np.diff(self.corners, axis=0)
        leans = np.arctan2(ways[:, 0], ways[:, 1])
        return np.asarray(np.diff(leans))

    def places(self, flat: Floats) -> Floats:
        """Return points of the flat wall in space, (n, 3). [m]"""
        begins = along(self.corners)
        panel = np.clip(np.searchsorted(begins, flat[:, 1]) - 1, 0, len(begins) - 2)
        ways = np.diff(self.corners, axis=0)
        ways /= np.linalg.norm(ways, axis=1)[:, None]
        aside, up = (self.corners[panel] + (flat[:, 1] - begins[panel])[:, None] * ways[panel]).T[
            :, :, None
        ]
        return np.asarray(
            self.origin + flat[:, :1] * self.outward + aside * self.aside + up * self.up
        )

    def panels(self, low: float, high: float) -> list[shapely.Polygon]:
        """Return the panels of the flat wall between two heights of it, the lowest first."""
        ends = [low, *self.hinges, high]
        return [shapely.box(-_FAR_M, a, _FAR_M, b) for a, b in pairwise(ends)]

    def region(self, rubber: Mesh) -> shapely.Geometry:
        """Return what the rubber and the piece in it fill of the flat wall."""
        begins = along(self.corners)
        ways = np.diff(self.corners, axis=0)
        filled = []
        for panel, strip in enumerate(self.panels(-_FAR_M, _FAR_M)):
            way = ways[panel] / np.linalg.norm(ways[panel])
            upward = way[0] * self.aside + way[1] * self.up
            at = self.origin + self.corners[panel] @ np.array([self.aside, self.up])
            shape = translate(_filled(rubber, at, self.outward, upward), 0.0, begins[panel])
            # Neighbours overlap by a hair, so that nothing is left open between them.
            filled.append(shape.intersection(strip.buffer(1e-7)))
        return solid(shapely.union_all(filled))

    def with_hinges(self, flat: Floats) -> Floats:
        """Return the points of a line on the flat wall, and those where it crosses a hinge."""
        made = [flat[:1]]
        for before, after in pairwise(flat):
            low, high = sorted((before[1], after[1]))
            crossed = self.hinges[(self.hinges > low) & (self.hinges < high)]
            shares = np.sort((crossed - before[1]) / (after[1] - before[1]))
            made += [before + shares[:, None] * (after - before), after[None]]
        return np.concatenate(made)


def _filled(rubber: Mesh, origin: Floats, outward: Floats, upward: Floats) -> shapely.Geometry:
    """Return what is within the rubber in a plane, from a place on it."""
    normal = np.cross(outward, upward)
    pieces = section(rubber, normal, float(origin @ normal)) - origin
    if len(pieces) == 0:
        return shapely.Polygon()
    flat = np.stack([pieces @ outward, pieces @ upward], axis=-1)
    lines = [one for one in shapely.linestrings(np.round(flat, 9)) if one.length > 0.0]
    # What is open stands on the board: its two ends are joined by it.
    joined = shapely.get_parts(shapely.line_merge(shapely.multilinestrings(lines)))
    closed = [shapely.Polygon(one.coords) for one in joined if len(one.coords) > 2]
    return solid(shapely.union_all([one.buffer(0.0) for one in closed]))
