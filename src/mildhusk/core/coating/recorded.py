"""How a mould was really turned, from the readings of a sensor on it."""

import json
import math
from dataclasses import replace

import numpy as np

from mildhusk.core.coating.motion import FASTEST_DEG_S, Motion, Tilt
from mildhusk.core.errors import CoatingError
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.geometry.sections import square_to

EVERY_S = 0.2
"""Readings of a sensor are averaged over so long, which takes most of their noise. [s]"""
_FIGURES = 3
"""After the point, of what is written. [1]"""
_ROUND_IS_FREE = math.radians(12.0)
"""So near to upright, or to upside down, it hardly matters which side is lowest. [rad]"""
_CAUGHT_UP = math.radians(20.0)
"""By so much a direction may be off for a moment after it was near to upright. [rad]"""
_LEAST_UP = 0.5
"""A shorter mean of unit vectors points nowhere: it was turned faster than it was read. [1]"""


def recorded_motion(
    name: str, at_s: Floats, ups: Floats, out: Floats, every_s: float = EVERY_S
) -> Motion:
    """Return the motion that readings of a turn sensor describe.

    Parameters
    ----------
    name : str
    at_s : (n,) float
        When each was taken, from the pour on, rising. [s]
    ups : (n, 3) float
        Where up was, seen from the mould; unit vectors.
    out : (3,) float
        Out of the mould's opening, seen from the mould.
    every_s : float
        Readings are averaged over so long. [s]

    Returns
    -------
    Motion
        From 0 to the last reading; before the first it is held as then.

    Raises
    ------
    CoatingError
        Too few readings, or readings that no mould can have been turned by.

    Notes
    -----
    A direction of up has many tilts and azimuths: over by t one way is over by -t the other way,
    and once round is where it was. The one is taken that goes on most nearly as before. It is
    rounded as it is written, so that the file is the same motion.
    """
    moments, mean = _averaged(at_s, ups, every_s)
    if len(moments) < 2:
        raise CoatingError("There are too few readings of how it was turned.", "motion")
    aside, across = square_to(out)
    tilts = np.arccos(np.clip(mean @ out, -1.0, 1.0))
    # Up leans away from the side that is lowest.
    azimuths = np.arctan2(-(mean @ across), -(mean @ aside))
    path = [(float(tilts[0]), float(azimuths[0]))]
    for number in range(1, len(moments)):
        before = path[-2] if number > 1 else path[-1]
        took_s = float(moments[number] - moments[number - 1])
        path.append(
            _nearest(before, path[-1], float(tilts[number]), float(azimuths[number]), took_s)
        )
    steps = [
        Tilt(round(float(at), _FIGURES), *(math.radians(_written(one)) for one in held))
        for at, held in zip(moments, path, strict=True)
    ]
    if steps[0].t_s > 0.0:
        steps.insert(0, replace(steps[0], t_s=0.0))
    return Motion(name, "Recorded by a sensor on the mould.", tuple(steps), is_recorded=True)


def ups_of_orientation(front_to_back: Floats, left_to_right: Floats) -> Floats:
    """Return where up is, seen from a tablet that tells its own orientation.

    Parameters
    ----------
    front_to_back : (n,) float
        Rotation about its axis to the right ("beta"). [rad]
    left_to_right : (n,) float
        Rotation about its axis to the top ("gamma"). [rad]

    Returns
    -------
    (n, 3) float
        Unit vectors along its axes to the right, to the top, and out of the screen.

    Notes
    -----
    W3C Device Orientation and Motion, section 4.1: intrinsic rotations by alpha about z, beta about
    x, gamma about y; of what follows the third row is up, and alpha leaves it alone.
    """
    return np.column_stack(
        [
            -np.cos(front_to_back) * np.sin(left_to_right),
            np.sin(front_to_back),
            np.cos(front_to_back) * np.cos(left_to_right),
        ]
    )


def written_motion(motion: Motion) -> str:
    """Return a motion as the file that `read_motion` reads."""
    return json.dumps(
        [
            {
                "t_s": one.t_s,
                "tilt_deg": _written(one.tilt),
                "azimuth_deg": _written(one.azimuth),
            }
            for one in motion.tilts
        ]
    )


def _written(angle: float) -> float:
    """Return an angle as it is written. [deg]"""
    return round(math.degrees(angle), _FIGURES)


def _averaged(at_s: Floats, ups: Floats, every_s: float) -> tuple[Floats, Floats]:
    """Return the mean moment and the mean direction of readings that lie close together."""
    if len(at_s) == 0:
        return at_s, ups
    group = np.floor(at_s / every_s).astype(int)
    _, first, counts = np.unique(group, return_index=True, return_counts=True)
    moments = np.add.reduceat(at_s, first) / counts
    mean = np.add.reduceat(ups, first, axis=0) / counts[:, None]
    length = np.linalg.norm(mean, axis=1)
    if length.min() < _LEAST_UP:
        raise CoatingError("It was turned faster than the sensor was read.", "motion")
    return moments, mean / length[:, None]


def _nearest(
    before: tuple[float, float],
    last: tuple[float, float],
    tilt: float,
    azimuth: float,
    took_s: float,
) -> tuple[float, float]:
    """Return the tilt and azimuth of a direction that go on most nearly as before. [rad]"""
    whole = 2.0 * math.pi
    expected = (2.0 * last[0] - before[0], 2.0 * last[1] - before[1])
    # Where up is nearly along the opening, any azimuth is as good.
    matters = max(math.sin(tilt), 0.05)
    found = []
    for over, side in ((tilt, azimuth), (-tilt, azimuth + math.pi)):
        over += whole * round((expected[0] - over) / whole)
        side += whole * round((expected[1] - side) / whole)
        found.append((abs(over - expected[0]) + matters * abs(side - expected[1]), over, side))
    _, over, side = min(found)
    most = 0.98 * math.radians(FASTEST_DEG_S) * took_s
    too_far = abs(side - last[1]) - most
    # What is left over is caught up with in the readings that follow.
    if math.sin(tilt) < math.sin(_ROUND_IS_FREE) or math.sin(tilt) * too_far < _CAUGHT_UP:
        side = last[1] + max(-most, min(most, side - last[1]))
    return over, side
