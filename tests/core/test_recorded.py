"""How a mould was turned, from a sensor's readings."""

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from core.shapes import half_sphere
from mildhusk.core.coating.coats import Coated
from mildhusk.core.coating.grid import coat_grid, even_mesh
from mildhusk.core.coating.landing import add_coat
from mildhusk.core.coating.liquid import Liquid
from mildhusk.core.coating.motion import MOTIONS, machine, motion_named, read_motion
from mildhusk.core.coating.recorded import (
    recorded_motion,
    ups_of_orientation,
    written_motion,
)
from mildhusk.core.errors import CoatingError

OUT = np.array([0.0, 0.0, 1.0])
TURNED = [*MOTIONS, machine(8.0, -3.1), machine(3.0, 11.0), machine(8.0, 3.1, 20.0)]


def _readings(motion, lasts_s=90.0, every_s=0.05, noise=0.0, seed=1):
    at = np.arange(0.0, lasts_s, every_s)
    ups = motion.ups(OUT, at) + np.random.default_rng(seed).normal(0.0, noise, (len(at), 3))
    return at, ups / np.linalg.norm(ups, axis=1)[:, None]


def _apart_deg(one, other, at):
    cosine = (one.ups(OUT, at) * other.ups(OUT, at)).sum(axis=1)
    return np.degrees(np.arccos(np.clip(cosine, -1.0, 1.0)))


@pytest.mark.parametrize("motion", TURNED, ids=lambda one: one.name)
@pytest.mark.parametrize("noise", [0.0, 0.003])
def test_a_motion_is_found_again_from_its_readings(motion, noise):
    """Law: whatever way round, over the top and back; corners are a fifth of a second round."""
    at, ups = _readings(motion, noise=noise)
    found = recorded_motion("found", at, ups, OUT)
    apart = _apart_deg(found, motion, np.arange(0.2, 89.0, 0.037))
    assert np.percentile(apart, 95) < 4.0
    assert apart.max() < 13.0


@pytest.mark.parametrize("seed", range(40))
def test_a_machine_of_any_rates_is_found_again(seed):
    """Law: what passes close by upright goes round fast there, and is no jump."""
    rates = np.random.default_rng(seed).uniform(-15.0, 15.0, 2)
    motion = machine(*rates)
    at, ups = _readings(motion, lasts_s=295.0, every_s=0.1, noise=0.004, seed=seed)
    found = recorded_motion("found", at, ups, OUT)
    apart = _apart_deg(found, motion, np.arange(0.2, 294.0, 0.037))
    assert np.percentile(apart, 99) < 4.0
    assert apart.max() < 20.0


def test_a_sensor_that_was_knocked_loose_is_told():
    at, ups = _readings(motion_named("cradle"))
    ups[900:] = ups[900:] * [-1.0, -1.0, -1.0]
    with pytest.raises(CoatingError, match="nobody turns a mould faster"):
        recorded_motion("loose", at, ups, OUT)


@pytest.mark.parametrize("name", ["rim-first-roll", "cradle", "machine"])
def test_the_file_of_a_recording_is_the_same_motion_to_the_last_bit(name):
    at, ups = _readings(motion_named(name), noise=0.003)
    recorded = recorded_motion("recorded", at, ups, OUT)
    filed = read_motion(written_motion(recorded), "filed")
    moments = np.linspace(0.0, 89.0, 3001)
    assert np.array_equal(filed.ups(OUT, moments), recorded.ups(OUT, moments))


def test_the_wall_of_a_recording_is_that_of_its_file_to_the_last_bit():
    at, ups = _readings(motion_named("rim-first-roll"), noise=0.003)
    recorded = recorded_motion("recorded", at, ups, OUT)
    filed = read_motion(written_motion(recorded), "filed")
    mould = Coated.bare(coat_grid(even_mesh(half_sphere(0.05, 30), 0.008), capped=True))
    ages_s, viscosities = np.array([0.0, 40.0, 40.1]), np.array([0.2, 8.0, np.inf])
    liquid = Liquid.alike(1000.0, ages_s, viscosities)
    walls = [add_coat(mould, liquid, 0.02, motion).coats[-1].wall_m for motion in (recorded, filed)]
    assert np.array_equal(*walls)
    other = add_coat(mould, liquid, 0.02, motion_named("eight-corners")).coats[-1].wall_m
    assert not np.array_equal(walls[0], other)


def test_too_little_or_too_fast_is_no_motion():
    at, ups = _readings(motion_named("cradle"), lasts_s=0.15)
    with pytest.raises(CoatingError, match="too few readings"):
        recorded_motion("short", at, ups, OUT)
    with pytest.raises(CoatingError, match="too few readings"):
        recorded_motion("none", np.zeros(0), np.zeros((0, 3)), OUT)
    spun = np.array([[np.sin(a), 0.0, np.cos(a)] for a in np.arange(40) * 2.0])
    with pytest.raises(CoatingError, match="faster than the sensor"):
        recorded_motion("spun", np.arange(40) * 0.05, spun, OUT)


@pytest.mark.parametrize(
    ("beta", "gamma", "up"),
    [
        (0.0, 0.0, [0.0, 0.0, 1.0]),
        # W3C Device Orientation and Motion, section 4.1: standing on its lower edge, beta is 90.
        (90.0, 0.0, [0.0, 1.0, 0.0]),
        # On its left edge, gamma is -90 for the right one up.
        (0.0, -90.0, [1.0, 0.0, 0.0]),
        (180.0, 0.0, [0.0, 0.0, -1.0]),
        (-30.0, 40.0, [-0.556670, -0.5, 0.663414]),
    ],
)
def test_a_tablet_tells_where_up_is(beta, gamma, up):
    found = ups_of_orientation(np.radians([beta]), np.radians([gamma]))
    assert found[0] == pytest.approx(up, abs=1e-6)


def test_where_up_is_agrees_with_a_general_library_whatever_the_compass_says():
    rng = np.random.default_rng(3)
    angles = rng.uniform([-180.0, -180.0, -90.0], [180.0, 180.0, 90.0], (50, 3))
    turned = Rotation.from_euler("ZXY", angles, degrees=True)
    up = turned.inv().apply([0.0, 0.0, 1.0])
    found = ups_of_orientation(np.radians(angles[:, 1]), np.radians(angles[:, 2]))
    assert found == pytest.approx(up, abs=1e-9)
