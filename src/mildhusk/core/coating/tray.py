"""The practice tray: a coat that is rolled by whoever holds the mould, as it is held."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from numba import njit
from numpy.typing import NDArray

from mildhusk.core.coating.answer import LandedWall, landed_wall
from mildhusk.core.coating.coats import Coated
from mildhusk.core.coating.exercises import (
    LATE,
    MORE,
    RIM_WITHIN_S,
    Exercise,
    Frame,
    Judged,
    LostPlace,
    PatternTry,
    Practised,
)
from mildhusk.core.coating.flow import ALL_WET, SPILT
from mildhusk.core.coating.grid import coat_grid, even_mesh
from mildhusk.core.coating.landing import add_coat
from mildhusk.core.coating.liquid import Liquid, liquid_of
from mildhusk.core.coating.motion import MOTIONS, Motion, motion_named, motion_words
from mildhusk.core.coating.recorded import recorded_motion
from mildhusk.core.coating.rolling import POOL_S, Rolling, along_rim
from mildhusk.core.coating.turning import COARSEST_M, FINEST_M, Pour
from mildhusk.core.constants import MIXING_TIME_S, ZERO_CELSIUS_K
from mildhusk.core.cure.model import CureSetup, cure
from mildhusk.core.errors import CoatingError
from mildhusk.core.geometry.mesh import Floats, Mesh, face_frames
from mildhusk.core.geometry.sections import square_to
from mildhusk.core.materials.casting_resin import CastingResin

FACES = 4000
"""So many faces a tray has: it runs some hundred and fifty times faster than it is rolled."""
_ROOM_K = 22.0 + ZERO_CELSIUS_K
_LONGEST_S, _MOST_AHEAD_S = 3600.0, 60.0
"""Nobody practises for longer; one frame goes on by so much at most. [s]"""
_KEPT_EVERY_S = 0.5 * POOL_S
"""Of how it was held one moment in so long is kept, and written to the motion's file. [s]"""
_LOPSIDED = 0.8
"""By how much the sides of a lopsided first coat differ from its mean (assumed). [1]"""
_RIM_WET, _WET = 0.99, 0.99
_SPILLS, _THIN_GETS, _EVEN = 0.01, 1.2, 0.35
"""What counts as spilt, of the charge; how much more the thin side shall get than the thick one;
the least of the wall over its mean that is even for one coat by hand (assumed)."""
_NEVER = -1.0


@dataclass(frozen=True, slots=True, eq=False)
class TraySetup:
    """What is in the tray before it is rolled.

    Parameters
    ----------
    mesh : Mesh
        Casting face, meshed evenly. [m]
    solid_m : (m,) float
        What has set on each face before. [m]
    liquid : Liquid
    charge_kg, target_m : float
        What is poured, and the wall that it is meant to leave. [kg], [m]
    exercise : Exercise
    """

    mesh: Mesh
    solid_m: Floats
    liquid: Liquid
    charge_kg: float
    target_m: float
    exercise: Exercise

    @property
    def mould(self) -> Coated:
        """The mould as it is before the pour."""
        return replace(Coated.bare(coat_grid(self.mesh)), wall_m=self.solid_m)

    @property
    def pour(self) -> Pour:
        """Where the charge goes in."""
        return Pour.LOW_PLACE if self.exercise is Exercise.RIM_FIRST else Pour.RIM


def tray_setup(face: Mesh, resin: CastingResin, exercise: Exercise) -> TraySetup:
    """Return a tray: a mould of a piece and one usual coat of a resin at 22 °C.

    Parameters
    ----------
    face : Mesh
        Casting face of the piece. [m]
    resin : CastingResin
    exercise : Exercise

    Returns
    -------
    TraySetup

    Raises
    ------
    CoatingError
        A closed piece, or a face that cannot be meshed anew.
    """
    area_m2 = float(face_frames(face)[2].sum())
    edge_m = math.sqrt(area_m2 / FACES * 4.0 / math.sqrt(3.0))
    mesh = even_mesh(face, min(max(edge_m, FINEST_M), COARSEST_M))
    grid = coat_grid(mesh)
    if not grid.is_open:
        raise CoatingError("This piece is closed: there is no rim to watch while it is rolled.")
    target_m = resin.coat_wall_m
    charge_kg = target_m * float(grid.area.sum()) * resin.density_cured_kg_m3
    if exercise is Exercise.NO_SPILL:
        charge_kg *= MORE
    setup = CureSetup(charge_kg, _ROOM_K, _ROOM_K, _ROOM_K, target_m)
    poured_s = MIXING_TIME_S
    if exercise is Exercise.LATE_COAT:
        poured_s = max(poured_s, LATE * cure(resin, setup).gel_film_s)
    solid_m = np.zeros(len(grid.area))
    if exercise is Exercise.THIN_SIDE:
        solid_m = target_m * (1.0 - _LOPSIDED * _side(grid.centre, grid.out))
    return TraySetup(
        mesh, solid_m, liquid_of(resin, setup, poured_s), charge_kg, target_m, exercise
    )


def _side(centre: Floats, out: Floats) -> Floats:
    """Return how far each face lies to one side of the mould, -1 to 1. (m,)"""
    along = (centre - centre.mean(axis=0)) @ square_to(out)[0]
    return np.asarray(along / np.abs(along).max())


@njit(cache=True)
def _thinned(path, now_s):  # type: ignore[no-untyped-def]
    """Return how it was held with less of what is over; what is still to come stays. (k, 4)"""
    kept = np.ones(len(path), np.bool_)
    for at in range(len(path) - 1):
        over, after = path[at, 0] // _KEPT_EVERY_S, path[at + 1, 0] // _KEPT_EVERY_S
        kept[at] = path[at, 0] >= now_s or path[at + 1, 0] >= now_s or over != after
    return path[kept]


@njit(cache=True)
def _held_at(path, stands):  # type: ignore[no-untyped-def]
    """Return where up was at rising moments [s], between the rows of a path. (n, 3)"""
    ups = np.empty((len(stands), 3))
    after = 0
    for at in range(len(stands)):
        while after < len(path) and path[after, 0] <= stands[at]:
            after += 1
        last, next_ = max(after - 1, 0), min(after, len(path) - 1)
        lasts = path[next_, 0] - path[last, 0]
        share = (stands[at] - path[last, 0]) / lasts if lasts > 0.0 else 0.0
        length = 0.0
        for k in range(3):
            ups[at, k] = path[last, k + 1] + share * (path[next_, k + 1] - path[last, k + 1])
            length += ups[at, k] ** 2
        ups[at] /= max(np.sqrt(length), 1e-9)
    return ups


@njit(cache=True)
def _note_thin(fell_s, liquid_m, target_m, now_s):  # type: ignore[no-untyped-def]
    """Note when the film fell under a target; infinite while it is thick enough. [s]"""
    for f in range(len(liquid_m)):
        if liquid_m[f] >= target_m:
            fell_s[f] = np.inf
        elif fell_s[f] == np.inf:
            fell_s[f] = now_s


class Tray:
    """A tray in somebody's hands, advanced by how it is held."""

    def __init__(self, setup: TraySetup) -> None:
        self.setup = setup
        self._rolling = Rolling(
            setup.mould, setup.liquid, setup.charge_kg, motion_named("still"), pour=setup.pour
        )
        self._grid = self._rolling.mould.grid
        self._rim = along_rim(self._grid)
        self._held = np.concatenate([[0.0], self._grid.out])[None]
        """Rows of a moment and where up was then. (n, 4)"""
        self._fell_s = np.full(len(self._grid.area), _NEVER)
        """When the film on a face fell under the target; infinite while it is thick enough."""
        self._rim_wet_s = _NEVER
        self._note()

    def roll(self, at_s: Floats, ups: Floats) -> None:
        """Go on to the last of some moments, held as at each.

        Parameters
        ----------
        at_s : (n,) float
            Rising, later than what was rolled before. [s]
        ups : (n, 3) float
            Where up is, seen from the mould.

        Raises
        ------
        CoatingError
            Moments that do not rise or go on too far, or a direction that is none.
        """
        now_s = float(self._held[-1, 0])
        if len(at_s) == 0 or at_s[0] <= now_s or np.any(at_s[1:] <= at_s[:-1]):
            raise CoatingError("The moments do not rise from where the tray is now.", "samples")
        if at_s[-1] > min(now_s + _MOST_AHEAD_S, _LONGEST_S):
            raise CoatingError(
                f"The tray goes on by {_MOST_AHEAD_S:.0f} s at once at most.", "samples"
            )
        length = np.sqrt((ups * ups).sum(axis=1))
        if np.any(length < 0.5):
            raise CoatingError("A direction of up has no length.", "samples")
        # What lies further back is thinned already, and rolled.
        over = int(np.searchsorted(self._held[:, 0], self._rolling.now_s - _KEPT_EVERY_S))
        over = max(over - 1, 0)
        path = np.empty((len(self._held) - over + len(at_s), 4))
        path[: -len(at_s)] = self._held[over:]
        path[-len(at_s) :, 0], path[-len(at_s) :, 1:] = at_s, ups / length[:, None]
        self._rolling.follow(partial(_held_at, path), float(at_s[-1]))
        self._held = np.concatenate([self._held[:over], _thinned(path, self._rolling.now_s)])
        self._note()

    def _note(self) -> None:
        """Note where the film has become thin, and when the rim was wet."""
        now_s = self._rolling.now_s
        _note_thin(self._fell_s, self._rolling.liquid_m, self.setup.target_m, now_s)
        if self._rim_wet_s < 0.0 and self._share(self._rim) >= _RIM_WET:
            self._rim_wet_s = now_s

    def _share(self, faces: NDArray[np.bool_]) -> float:
        """Return of how much of some faces' area it is true that they were ever wet. [1]"""
        area = self._grid.area[faces]
        return float(area[self._rolling.state.wet[faces]].sum() / area.sum())

    @property
    def out(self) -> Floats:
        """Out of the mould's opening, (3,)."""
        return self._grid.out

    def frame(self) -> Frame:
        """Return what it looks like now."""
        rolling, density = self._rolling, self.setup.liquid.density_kg_m3
        fluidity = float(self.setup.liquid.fluidity(np.array([rolling.now_s]))[0])
        pools = rolling.pools
        return Frame(
            t_s=min(float(self._held[-1, 0]), rolling.sets_s),
            gels_at_s=self.setup.liquid.gels_at_s,
            up=self._held[-1, 1:],
            liquid_m=rolling.liquid_m,
            spilt_kg=float(rolling.state.tally[SPILT]) * density,
            pool_kg=float(pools.volume[: pools.used[0]].sum()) * density,
            wet=self._share(~self._grid.lid),
            rim_wet=self._share(self._rim),
            pa_s=1.0 / fluidity if fluidity > 0.0 else None,
            has_set=rolling.has_set,
        )

    def kept(self) -> dict[str, NDArray[np.generic]]:
        """Return all that another tray of the same setup needs to go on."""
        return {
            **{f"rolling_{at}": one for at, one in enumerate(self._rolling.lasting)},
            "held": self._held,
            "fell_s": self._fell_s,
            "moments": np.array([self._rolling.now_s, self._rim_wet_s]),
            "up": self._rolling.up,
        }  # fmt: skip

    def resume(self, kept: Mapping[str, NDArray[np.generic]]) -> None:
        """Go on from what another tray of the same setup kept."""
        for at, one in enumerate(self._rolling.lasting):
            one[...] = kept[f"rolling_{at}"]
        self._held = np.array(kept["held"], dtype=np.float64)
        self._fell_s = np.array(kept["fell_s"], dtype=np.float64)
        now_s, rim_wet_s = (float(one) for one in np.array(kept["moments"], dtype=np.float64))
        self._rolling.stand_at(now_s, np.array(kept["up"], dtype=np.float64))
        self._rim_wet_s = rim_wet_s

    def motion(self) -> Motion:
        """Return how it was held as a motion that a coat can be simulated by.

        Raises
        ------
        CoatingError
            It was not rolled yet.
        """
        at_s, ups, out = self._held[:, 0], self._held[:, 1:], self._grid.out
        try:
            return recorded_motion("practice", at_s, ups, out, _KEPT_EVERY_S)
        except CoatingError:
            # A pointer may flick faster than hands turn a mould: told as a sensor would tell it.
            return recorded_motion("practice", at_s, ups, out)

    def practised(self) -> "Practised":
        """Return what came of it: what is liquid still sets where it is."""
        first_wet_s = float(self._rolling.state.tally[ALL_WET])
        mould = self._rolling.landed()
        return practised(
            self.setup, mould, self._fell_s, self._rim_wet_s if self._rim_wet_s >= 0.0 else None,
            first_wet_s if first_wet_s >= 0.0 else None,
        )  # fmt: skip


def practised(
    setup: TraySetup,
    mould: Coated,
    fell_s: Floats,
    rim_wet_s: float | None,
    all_wet_s: float | None,
) -> Practised:
    """Judge a coat that was rolled.

    Parameters
    ----------
    setup : TraySetup
    mould : Coated
        With the coat in it.
    fell_s : (m,) float
        When the film fell under the target; below nought where it never reached it. [s]
    rim_wet_s, all_wet_s : float or None
        [s]

    Returns
    -------
    Practised
    """
    run = mould.coats[-1]
    alone = replace(mould, wall_m=run.wall_m)
    wall = landed_wall(alone, setup.liquid.density_kg_m3, setup.target_m)
    lost = []
    for place in wall.thin_places:
        at = int(np.argmin(np.linalg.norm(mould.grid.centre - np.array(place.at_m), axis=1)))
        when = float(fell_s[at])
        lost.append(LostPlace(place, when if 0.0 <= when < np.inf else None))
    evenness = wall.p05_m / wall.mean_m if wall.mean_m > 0.0 else 0.0
    return Practised(
        wall, tuple(lost), _judged(setup, mould, wall, evenness, rim_wet_s), evenness, rim_wet_s,
        all_wet_s,
    )  # fmt: skip


def _judged(
    setup: TraySetup, mould: Coated, wall: LandedWall, evenness: float, rim_wet_s: float | None
) -> tuple[Judged, ...]:
    wet = 1.0 - wall.never_wet
    reached = Judged(
        wet >= _WET, f"{100 * wet:.1f} % of the face was wet; {100 * _WET:.0f} % are wanted."
    )
    spilt = Judged(
        wall.spilt_kg <= _SPILLS * setup.charge_kg,
        f"{wall.spilt_kg * 1e3:.1f} g of {setup.charge_kg * 1e3:.1f} g went over the rim.",
    )
    even = Judged(
        evenness >= _EVEN,
        f"95 % of the face has {100 * evenness:.0f} % of the mean wall at least; "
        f"{100 * _EVEN:.0f} % are wanted.",
    )
    if setup.exercise is Exercise.RIM_FIRST:
        in_time = rim_wet_s is not None and rim_wet_s <= RIM_WITHIN_S
        said = (
            "The rim was never wet all round."
            if rim_wet_s is None
            else f"The rim was wet all round after {rim_wet_s:.0f} s; "
            f"{RIM_WITHIN_S:.0f} s are wanted."
        )
        return (Judged(in_time, said), spilt)
    if setup.exercise is Exercise.NO_SPILL:
        return (spilt, reached)
    if setup.exercise is Exercise.THIN_SIDE:
        grid, added = mould.grid, mould.coats[-1].wall_m
        thin = _side(grid.centre, grid.out) > 0.0
        means = [float(np.average(added[one], weights=grid.area[one])) for one in (thin, ~thin)]
        return (
            Judged(
                means[0] >= _THIN_GETS * means[1],
                f"The thin side got {means[0] * 1e3:.2f} mm, the thick side "
                f"{means[1] * 1e3:.2f} mm; {_THIN_GETS:g} times as much is wanted.",
            ),
            spilt,
        )
    if setup.exercise is Exercise.LATE_COAT:
        return (reached, spilt)
    return (reached, spilt, even)


def pattern_try(setup: TraySetup, name: str) -> PatternTry:
    """Return what a pattern by its name makes of a tray's coat.

    Parameters
    ----------
    setup : TraySetup
    name : str

    Returns
    -------
    PatternTry
    """
    try:
        mould = add_coat(
            setup.mould, setup.liquid, setup.charge_kg, motion_named(name), pour=setup.pour
        )
    except CoatingError as error:
        return PatternTry(name, motion_words(name), None, str(error))
    never = np.full(len(setup.solid_m), _NEVER)
    run = mould.coats[-1]
    return PatternTry(name, motion_words(name), practised(setup, mould, never, None, run.all_wet_s))


PATTERNS = tuple(
    one.name for one in MOTIONS if one.by_hand and not one.is_by_eye and one.name != "still"
)
"""Patterns by hand that a try is shown beside."""
