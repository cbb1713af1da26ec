"""Small pictures of meshes, against the outlines and the light of solids."""

import math

import numpy as np
import pytest

from core.shapes import cone, sphere
from mildhusk.core.geometry.mesh import face_frames
from mildhusk.core.geometry.picture import FROM, shaded

SIZE = (320, 240)
GREY = 200.0


def grey(mesh):
    return np.full((len(mesh.faces), 3), GREY)


@pytest.mark.parametrize("size", [(320, 240), (90, 200)])
def test_a_ball_covers_its_disc(size):
    ball = sphere(0.07, 120)
    drawn = shaded(ball, grey(ball), size)
    assert drawn.shape == (size[1], size[0], 4)
    # A disc as wide as 94 % of the narrower side.
    disc = math.pi / 4.0 * (0.94 * min(size)) ** 2
    assert drawn[..., 3].sum() / 255.0 == pytest.approx(disc, rel=0.005)


def test_what_looks_to_the_light_is_the_brightest():
    ball = sphere(0.07, 200)
    drawn = shaded(ball, grey(ball), SIZE).astype(float)
    inside = drawn[..., 3] == 255.0
    row, column = np.unravel_index(np.argmax(np.where(inside, drawn[..., 0], 0.0)), inside.shape)
    # Where on the disc the ball's normal points to the main light, seen from where one stands.
    towards = FROM / np.linalg.norm(FROM)
    right = np.cross([0.0, 0.0, 1.0], towards)
    right /= np.linalg.norm(right)
    light = np.array([2.0, 3.0, 4.0]) / math.sqrt(29.0)
    radius = 0.47 * min(SIZE)
    assert column - 159.5 == pytest.approx(radius * float(light @ right), abs=16.0)
    assert 119.5 - row == pytest.approx(radius * float(light @ np.cross(towards, right)), abs=16.0)


def test_each_face_has_its_own_colour():
    """Red on its right, blue on its left, as it looks along x: seen from +x mostly red."""
    ball = sphere(0.07, 120)
    colours = grey(ball)
    red = face_frames(ball)[0][:, 0] > 0.0
    colours[red], colours[~red] = (220.0, 30.0, 30.0), (30.0, 30.0, 220.0)
    drawn = shaded(ball, colours, SIZE)[drawn_at(ball, colours)]
    reds = float((drawn[:, 0] > drawn[:, 2]).mean())
    # Of the disc the part on the side of x: half of it and half an ellipse.
    towards = FROM / np.linalg.norm(FROM)
    assert reds == pytest.approx(0.5 + 0.5 * towards[0], abs=0.01)


def drawn_at(mesh, colours):
    return shaded(mesh, colours, SIZE)[..., 3] == 255


def test_another_way_may_be_up():
    point = cone(0.05, 0.12)
    upright = shaded(point, grey(point), SIZE)[..., 3]
    hanging = shaded(point, grey(point), SIZE, np.array([0.0, 0.0, -1.0]))[..., 3]

    def wide(picture, row):
        return int((picture[row] > 127).sum())

    rows = [int(one) for one in np.quantile(np.flatnonzero(upright.any(axis=1)), [0.2, 0.8])]
    assert wide(upright, rows[0]) < 0.5 * wide(upright, rows[1])
    assert wide(hanging, rows[0]) > 2.0 * wide(hanging, rows[1])
