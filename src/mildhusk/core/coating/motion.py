"""How a mould is turned: where up is, seen from the mould, at every moment."""

import json
import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from mildhusk.core.errors import CoatingError
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.geometry.sections import square_to

FASTEST_DEG_S = 360.0
_LONGEST_S = 100_000.0


@dataclass(frozen=True, slots=True)
class Tilt:
    """Where the mould is at a moment.

    Parameters
    ----------
    t_s : float
        [s]
    tilt : float
        Of the opening from upright: 0 up, pi upside down. [rad]
    azimuth : float
        Round the mould's own axis, the side that is lowest. [rad]
    """

    t_s: float
    tilt: float
    azimuth: float


@dataclass(frozen=True, slots=True)
class Motion:
    """A motion: tilts at moments, straight in between, and over again from the start.

    Parameters
    ----------
    name, says : str
    tilts : tuple of Tilt
        The first at 0.
    by_hand : bool
        Whoever turns it sees the rim, and tilts an open mould no further than it holds.

    Raises
    ------
    CoatingError
        Of length nought, backwards in time, or with a jump.
    """

    name: str
    says: str
    tilts: tuple[Tilt, ...]
    by_hand: bool = False

    def __post_init__(self) -> None:
        times = [one.t_s for one in self.tilts]
        if len(times) < 2 or not 0.0 < times[-1] <= _LONGEST_S:
            raise CoatingError(
                f"The motion '{self.name}' has no length; give at least two tilts, the last later "
                "than the first.",
                "motion",
            )
        if times[0] != 0.0 or any(b <= a for a, b in pairwise(times)):
            raise CoatingError(
                f"The motion '{self.name}' does not run forwards in time from 0 s.", "motion"
            )
        for before, after in pairwise(self.tilts):
            turned = max(abs(after.tilt - before.tilt), abs(after.azimuth - before.azimuth))
            if math.degrees(turned) > FASTEST_DEG_S * (after.t_s - before.t_s):
                raise CoatingError(
                    f"The motion '{self.name}' jumps at {before.t_s:g} s: "
                    f"{math.degrees(turned):.0f}° in {after.t_s - before.t_s:g} s; nobody turns a "
                    "mould faster than "
                    f"{FASTEST_DEG_S:.0f}° a second.",
                    "motion",
                )

    @property
    def period_s(self) -> float:
        """Until it begins again. [s]"""
        return self.tilts[-1].t_s

    def ups(self, out: Floats, t_s: Floats, limit: Floats | float | None = None) -> Floats:
        """Return where up is, seen from the mould.

        Parameters
        ----------
        out : (3,) float
            Out of its opening.
        t_s : (n,) float
            [s]
        limit : (n,) float, float or None
            How far it may be tilted. [rad]

        Returns
        -------
        (n, 3) float
            Unit vectors.
        """
        at = np.array([one.t_s for one in self.tilts])
        # Round after round the azimuth goes on, and does not spring back.
        rounds = np.floor(t_s / self.period_s)
        within = t_s - rounds * self.period_s
        azimuths = np.array([one.azimuth for one in self.tilts])
        tilts = np.array([one.tilt for one in self.tilts])
        azimuth = np.interp(within, at, azimuths) + rounds * (azimuths[-1] - azimuths[0])
        tilt = np.interp(within, at, tilts) + rounds * (tilts[-1] - tilts[0])
        if limit is not None:
            tilt = np.clip(tilt, -np.asarray(limit), limit)
        aside, across = square_to(out)
        side = np.cos(azimuth)[:, None] * aside + np.sin(azimuth)[:, None] * across
        # The side the mould is tilted to goes down, so up leans away from it.
        return np.asarray(np.cos(tilt)[:, None] * out - np.sin(tilt)[:, None] * side)


def machine(rpm_over: float, rpm_round: float, seconds: float = 600.0) -> Motion:
    """Return the motion of a two-axis machine.

    Parameters
    ----------
    rpm_over : float
        Of the frame, about the level axis: it turns the mould upside down and on. [1/min]
    rpm_round : float
        Of the mould about its own axis in the frame. [1/min]
    seconds : float
        Until it begins again. [s]
    """
    over, round_ = (2.0 * math.pi * rpm / 60.0 for rpm in (rpm_over, rpm_round))
    return Motion(
        f"machine {rpm_over:g} and {rpm_round:g} rpm",
        "Both axes steady.",
        (Tilt(0.0, 0.0, 0.0), Tilt(seconds, over * seconds, round_ * seconds)),
    )


def _pattern(
    name: str, says: str, *steps: tuple[float, float, float], by_hand: bool = True
) -> Motion:
    """Return a motion of (seconds, tilt, azimuth) in degrees."""
    return Motion(
        name,
        says,
        tuple(Tilt(t, math.radians(tilt), math.radians(az)) for t, tilt, az in steps),
        by_hand=by_hand,
    )


def _corners() -> tuple[tuple[float, float, float], ...]:
    steps = [(0.0, 0.0, 0.0), (3.0, 100.0, 0.0)]
    for corner in range(1, 9):
        t = 3.0 + 6.0 * (corner - 1)
        steps += [(t + 3.0, 100.0, 45.0 * (corner - 1)), (t + 6.0, 100.0, 45.0 * corner)]
    return (*steps, (54.0, 0.0, 360.0))


MOTIONS: tuple[Motion, ...] = (
    _pattern(
        "rim-first-roll", "Tilted till the charge reaches the rim, round and round, slowly up.",
        (0, 0, 0), (5, 110, 0), (35, 110, 720), (46, 45, 1080), (54, 10, 1260), (60, 0, 1440),
    ),
    _pattern(
        "eight-corners", "Tilted to eight sides one after another, a breath at each.", *_corners()
    ),
    _pattern(
        "slow-tumble", "End over end while it slowly turns; the opening has to be closed.",
        (0, 0, 0), (60, 1440, 500), by_hand=False,
    ),
    _pattern(
        "cradle", "Rocked from side to side in the arms, turned a little each time.",
        (0, 0, 0), (3, 95, 0), (9, -95, 40), (15, 95, 80), (21, -95, 120), (27, 95, 160),
        (33, -95, 200), (39, 95, 240), (45, -95, 280), (51, 95, 320), (57, -95, 350), (60, 0, 360),
    ),
    _pattern("still", "Left standing; to see what that does.", (0, 0, 0), (60, 0, 0)),
    machine(8.0, 3.1),
)  # fmt: skip
"""Motions by name; the machine's rates are those of a small one (common practice, no source)."""


def motion_named(name: str) -> Motion:
    """Return a motion by its name, or a machine by its rates, for instance machine:8,3.1."""
    if name.startswith("machine"):
        rates = name.partition(":")[2]
        if not rates:
            return MOTIONS[-1]
        try:
            over, round_ = (float(one) for one in rates.split(","))
        except ValueError:
            raise CoatingError(
                f"The motion '{name}' is not machine:RPM,RPM; write for instance machine:8,3.1.",
                "motion",
            ) from None
        return machine(over, round_)
    for one in MOTIONS:
        if one.name == name:
            return one
    raise CoatingError(
        f"There is no motion '{name}'; take {', '.join(motion_names())}, or a file.", "motion"
    )


def motion_names() -> tuple[str, ...]:
    """Return the names of the motions that ship."""
    return (*(one.name for one in MOTIONS[:-1]), "machine")


def read_motion(text: str, name: str) -> Motion:
    """Read a recorded motion: a JSON list of {t_s, tilt_deg, azimuth_deg}.

    Raises
    ------
    CoatingError
        Not such a list, or a motion of no length or with a jump.
    """
    try:
        steps = [
            (float(one["t_s"]), float(one["tilt_deg"]), float(one["azimuth_deg"]))
            for one in json.loads(text)
        ]
        if not all(math.isfinite(value) for step in steps for value in step):
            raise ValueError
    except (ValueError, TypeError, KeyError):
        raise CoatingError(
            f"'{name}' is no motion; write a JSON list of t_s, tilt_deg and azimuth_deg.", "motion"
        ) from None
    return _pattern(name, "Recorded.", *steps, by_hand=False)
