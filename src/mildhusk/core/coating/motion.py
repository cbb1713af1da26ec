"""Motions: the direction of up in the mould's own frame, at every moment."""

import json
import math
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from mildhusk.core.errors import CoatingError
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.geometry.sections import square_to

ROUGH_FROM_M = 0.01
"""A run on edges of this length or more is a first look. [m]"""
FASTEST_DEG_S = 360.0
BY_EYE = "by-eye"
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
    is_recorded : bool
        It was turned so, and is no plan.

    Raises
    ------
    CoatingError
        Of length nought, backwards in time, or with a jump.
    """

    name: str
    says: str
    tilts: tuple[Tilt, ...]
    by_hand: bool = False
    is_recorded: bool = False

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
    def is_by_eye(self) -> bool:
        """Whether hands turn it by what they see, and not as a pattern says."""
        return self.name == BY_EYE

    @property
    def needs_lid(self) -> bool:
        """Whether it turns a mould upside down, so that an open one is emptied."""
        return not self.by_hand

    @property
    def is_steady(self) -> bool:
        """Whether it is a machine's whose axes never change."""
        return self.name.startswith("machine:") and len(self.tilts) == 2

    @property
    def period_s(self) -> float:
        """Until it begins again. [s]"""
        return self.tilts[-1].t_s

    def at_pace(self, pace: float) -> "Motion":
        """Return the same motion so many times as fast."""
        return replace(self, tilts=tuple(replace(one, t_s=one.t_s / pace) for one in self.tilts))

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
        return up_of(out, tilt, azimuth)


def up_of(out: Floats, tilt: Floats, azimuth: Floats) -> Floats:
    """Return where up is, seen from a mould that is tilted.

    Parameters
    ----------
    out : (3,) float
        Out of its opening.
    tilt, azimuth : (n,) float
        As in `Tilt`. [rad]

    Returns
    -------
    (n, 3) float
        Unit vectors.
    """
    aside, across = square_to(out)
    side = np.cos(azimuth)[:, None] * aside + np.sin(azimuth)[:, None] * across
    # The side the mould is tilted to goes down, so up leans away from it.
    return np.asarray(np.cos(tilt)[:, None] * out - np.sin(tilt)[:, None] * side)


_FOREVER_S = 600.0


def machine(rpm_over: float, rpm_round: float, reverse_s: float | None = None) -> Motion:
    """Return the motion of a two-axis machine.

    Parameters
    ----------
    rpm_over : float
        Of the frame, about the level axis: it turns the mould upside down and on. [1/min]
    rpm_round : float
        Of the mould about its own axis in the frame. [1/min]
    reverse_s : float or None
        After so long both axes turn the other way, to and fro; steady where it is None. [s]

    Returns
    -------
    Motion
    """
    over, round_ = (2.0 * math.pi * rpm / 60.0 for rpm in (rpm_over, rpm_round))
    seconds = _FOREVER_S if reverse_s is None else reverse_s
    name = f"machine:{rpm_over:g},{rpm_round:g}"
    start, far = Tilt(0.0, 0.0, 0.0), Tilt(seconds, over * seconds, round_ * seconds)
    if reverse_s is None:
        return Motion(name, "Both axes steady.", (start, far))
    return Motion(
        f"{name},{reverse_s:g}",
        f"Both axes steady, the other way every {reverse_s:g} s.",
        (start, far, Tilt(2.0 * seconds, 0.0, 0.0)),
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
    """Four low sides and four high ones in turn, and once round upright in between."""
    steps = [(0.0, 0.0, 0.0)]
    for corner in range(8):
        t, tilt = 5.0 * corner, 75.0 if corner % 2 else 125.0
        steps += [(t + 3.0, tilt, 45.0 * corner), (t + 5.0, tilt, 45.0 * (corner + 1))]
    return (*steps, (44.0, 0.0, 405.0))


_SENSES = ((1.0, 1.0), (1.0, -1.0), (-1.0, 1.0), (-1.0, -1.0))


def motion_of_coat(motion: Motion, number: int) -> Motion:
    """Return how a coat is turned: on a machine each one another way round, which evens the wall.

    Parameters
    ----------
    motion : Motion
        Of the first coat.
    number : int
        Of the coat, from 1.

    Returns
    -------
    Motion
        By hand, and where the machine turns to and fro by itself, the same.
    """
    if not motion.is_steady:
        return motion
    over, round_ = _SENSES[(number - 1) % len(_SENSES)]
    end = motion.tilts[-1]
    turns = [turn / end.t_s * 30.0 / math.pi for turn in (over * end.tilt, round_ * end.azimuth)]
    return machine(*(round(one, 9) for one in turns))


MACHINE_TRIALS = (
    "machine:4,9.7", "machine:8,3.1", "machine:8,8.3", "machine:12,4.6", "machine:5,1.9",
    "machine:8,3.1,20", "machine:3,11", "machine:16,5.9",
)  # fmt: skip
"""Rates that are worth trying: slow and fast, never in step with each other, to and fro."""

MOTIONS: tuple[Motion, ...] = (
    _pattern(
        BY_EYE, "Rolled round while it is thin, then led to whatever is bare or thin, and taken "
        "back before it runs over the rim.", (0, 0, 0), (3, 75, 270), (7, 75, 630),
    ),
    _pattern(
        "rim-first-roll", "Tilted till the charge reaches the rim, round and round, slowly up.",
        (0, 0, 0), (4, 120, 0), (16, 120, 360), (26, 90, 720), (34, 50, 1000), (42, 0, 1240),
    ),
    _pattern(
        "eight-corners", "Tilted to eight sides in turn, low and high.", *_corners()
    ),
    _pattern(
        "slow-tumble", "End over end while it slowly turns; the opening has to be closed.",
        (0, 0, 0), (60, 1440, 500), by_hand=False,
    ),
    _pattern(
        "cradle", "Rocked from side to side in the arms, turned a little each time.",
        (0, 0, 0), (3, 130, 0), (8, -130, 35), (13, 130, 70), (18, -130, 105), (23, 130, 140),
        (28, -130, 175), (33, 130, 210), (38, -130, 245), (43, 130, 280), (48, -130, 315),
        (51, 0, 340),
    ),
    _pattern("still", "Left standing; to see what that does.", (0, 0, 0), (60, 0, 0)),
    machine(8.0, 3.1),
)  # fmt: skip
"""Motions by name; the machine's rates are those of a small one (common practice, no source)."""


def motion_named(name: str) -> Motion:
    """Return a motion by its name, or a machine by its rates: machine:8,3.1, machine:8,3.1,30."""
    if name.startswith("machine"):
        rates = name.partition(":")[2]
        if not rates:
            return MOTIONS[-1]
        try:
            over, round_, *reverse = (float(one) for one in rates.split(","))
            if len(reverse) > 1 or not all(math.isfinite(one) for one in (over, round_, *reverse)):
                raise ValueError
        except ValueError:
            raise CoatingError(
                f"The motion '{name}' is not machine:RPM,RPM or machine:RPM,RPM,SECONDS; write for "
                "instance machine:8,3.1, or machine:8,3.1,30 to turn the other way every 30 s.",
                "motion",
            ) from None
        return machine(over, round_, *reverse)
    for one in MOTIONS:
        if one.name == name:
            return one
    raise CoatingError(
        f"There is no motion '{name}'; take {', '.join(motion_names())}, or a file.", "motion"
    )


@dataclass(frozen=True, slots=True)
class MachineRates:
    """How a machine turns: turns a minute over and round, and after how long it turns back. [s]"""

    over_rpm: float
    round_rpm: float
    reverse_s: float | None


def machine_rates(name: str) -> MachineRates | None:
    """Return the rates of a motion that is a machine's and says them, by its name."""
    rates = name.partition(":")[2]
    if not rates:
        return None
    over, round_, *reverse = (float(one) for one in rates.split(","))
    return MachineRates(over, round_, reverse[0] if reverse else None)


@dataclass(frozen=True, slots=True)
class HandStep:
    """Where hands hold the mould at a moment of a pattern: how far over, and round. [s], [deg]"""

    t_s: float
    tilt_deg: float
    azimuth_deg: float


def hand_pattern(name: str) -> tuple[HandStep, ...]:
    """Return the steps of a pattern that hands follow by the clock; none of what is led by eye."""
    found = next((one for one in MOTIONS if one.name == name), None)
    if found is None or not found.by_hand or found.is_by_eye:
        return ()
    return tuple(
        HandStep(one.t_s, math.degrees(one.tilt), math.degrees(one.azimuth)) for one in found.tilts
    )


def motion_words(name: str) -> str:
    """Return the name of a motion as one says it."""
    if not name.startswith("machine:"):
        return name.replace("-", " ")
    over, round_, *reverse = name.partition(":")[2].split(",")
    words = f"machine, {over} and {round_} rpm"
    return f"{words}, to and fro every {reverse[0]} s" if reverse else words


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
    return replace(_pattern(name, "Recorded.", *steps, by_hand=False), is_recorded=True)
