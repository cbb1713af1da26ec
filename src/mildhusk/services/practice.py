"""Practice: a virtual mould in somebody's hands. It never touches stock or log.

What a try needs lies in the scratch folder: any process of the server goes on with it.
"""

from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING
from uuid import UUID, uuid4

import numpy as np

from mildhusk.core.coating.exercises import Exercise, Frame, PatternTry, Practised
from mildhusk.core.errors import InputError
from mildhusk.core.geometry.mesh import Floats, Mesh
from mildhusk.core.geometry.sections import square_to
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.services.errors import NotFoundError
from mildhusk.services.pieces import model_of_piece
from mildhusk.services.shelf import castable_of, find_material
from mildhusk.services.transaction import Transaction
from mildhusk.store.scratch import Arrays, Scratch

if TYPE_CHECKING:  # the flow is slow to load, and most requests need nothing of it
    from mildhusk.core.coating.tray import Tray, TraySetup

_SETUP, _STATE = "setup", "state-2"
"""What is kept of a try; a state of before its order of faces was kept has another name."""
_LIQUID = ("age_s", "pa_s", "depth_m", "rate_factor")


@dataclass(frozen=True, slots=True)
class Try:
    """A try that was begun.

    Parameters
    ----------
    key : UUID
    setup : TraySetup
    out, aside, across : (3,) float
        Out of the opening, and two ways square to it, seen from the mould.
    """

    key: UUID
    setup: "TraySetup"
    out: Floats
    aside: Floats
    across: Floats


@dataclass(frozen=True, slots=True)
class TrayQuestion:
    """What a try is made of, read before it is meshed; it holds no transaction."""

    face: Mesh
    resin: CastingResin
    exercise: Exercise


def tray_question(
    transaction: Transaction, piece_id: UUID, material_id: UUID, exercise: str
) -> TrayQuestion:
    """Read what a try with a piece and a resin is made of.

    Raises
    ------
    InputError
        No casting resin, or an exercise that is not known.
    """
    resin = castable_of(find_material(transaction, material_id))
    if not isinstance(resin, CastingResin):
        raise InputError("Only a casting resin can be practised with.", "material_id")
    if exercise not in list(Exercise):
        raise InputError(f"There is no exercise '{exercise}'.", "exercise")
    return TrayQuestion(model_of_piece(transaction, piece_id).face, resin, Exercise(exercise))


def begin(scratch: Scratch, asked: TrayQuestion) -> Try:
    """Begin a try."""
    from mildhusk.core.coating.tray import tray_setup

    setup = tray_setup(asked.face, asked.resin, asked.exercise)
    key = uuid4()
    scratch.tidy()
    scratch.write(key, _SETUP, _packed(setup))
    return find_try(scratch, key)


def find_try(scratch: Scratch, key: UUID) -> Try:
    """Return a try that was begun."""
    tray = _here(scratch, key)
    return Try(key, tray.setup, tray.out, *square_to(tray.out))


def roll(scratch: Scratch, key: UUID, at_s: Floats, ups: Floats) -> Frame:
    """Go on with a try, held as at some moments; returns what it looks like then.

    Parameters
    ----------
    scratch : Scratch
    key : UUID
    at_s : (n,) float
        Since the pour. [s]
    ups : (n, 3) float
        Where up is, seen from the mould.
    """
    with scratch.alone(key):
        tray = _tray(scratch, key)
        tray.roll(at_s, ups)
        scratch.write(key, _STATE, tray.kept())
        return tray.frame()


def roll_tilted(scratch: Scratch, key: UUID, at_s: Floats, tilt: Floats, side: Floats) -> Frame:
    """Go on with a try, tilted so far to a side at some moments. [s], [rad], [rad]"""
    from mildhusk.core.coating.motion import up_of

    return roll(scratch, key, at_s, up_of(find_try(scratch, key).out, tilt, side))


def roll_sensed(scratch: Scratch, key: UUID, at_s: Floats, ups: Floats) -> Frame:
    """Go on with a try by where a sensor tells up is; its third axis is out of the opening."""
    found = find_try(scratch, key)
    axes = np.stack([found.aside, found.across, found.out])
    return roll(scratch, key, at_s, ups @ axes)


def roll_oriented(
    scratch: Scratch, key: UUID, at_s: Floats, front_to_back: Floats, left_to_right: Floats
) -> Frame:
    """Go on with a try by how a tablet on it tells that it is held; its screen looks out. [rad]"""
    from mildhusk.core.coating.recorded import ups_of_orientation

    return roll_sensed(scratch, key, at_s, ups_of_orientation(front_to_back, left_to_right))


def finish(scratch: Scratch, key: UUID) -> Practised:
    """Return what came of a try as it is now."""
    with scratch.alone(key):
        return _tray(scratch, key).practised()


def motion_of(scratch: Scratch, key: UUID) -> str:
    """Return how a try was held, as a motion's file."""
    from mildhusk.core.coating.recorded import written_motion

    with scratch.alone(key):
        return written_motion(_tray(scratch, key).motion())


def patterns(scratch: Scratch, key: UUID) -> tuple[PatternTry, ...]:
    """Return what the shipped patterns make of the same coat."""
    from mildhusk.core.coating.tray import PATTERNS, pattern_try

    setup = find_try(scratch, key).setup
    return tuple(pattern_try(setup, name) for name in PATTERNS)


def _tray(scratch: Scratch, key: UUID) -> "Tray":
    """Return a try's tray as it was left; nobody else may be at it meanwhile."""
    tray = _here(scratch, key)
    state = scratch.read(key, _STATE)
    if state is not None:
        tray.resume(state)
    return tray


def _here(scratch: Scratch, key: UUID) -> "Tray":
    """Return a try's tray as this process has it: its setup holds, its state may be an old one."""
    from mildhusk.core.coating.tray import Tray

    kept = _setups(key)
    if not kept:
        packed = scratch.read(key, _SETUP)
        if packed is None:
            raise NotFoundError("This try is over; begin another.")
        kept.append(Tray(_unpacked(packed)))
    return kept[0]


@lru_cache(maxsize=8)
def _setups(_key: UUID) -> list["Tray"]:
    """Return where a process keeps the tray of a try; what it holds is read each time."""
    return []


def _packed(setup: "TraySetup") -> Arrays:
    liquid = setup.liquid
    return {
        "vertices": setup.mesh.vertices,
        "faces": np.asarray(setup.mesh.faces),
        "solid_m": setup.solid_m,
        **{name: getattr(liquid, name) for name in _LIQUID},
        "numbers": np.array([liquid.density_kg_m3, setup.charge_kg, setup.target_m]),
        "exercise": np.array(str(setup.exercise)),
    }


def _unpacked(kept: Arrays) -> "TraySetup":
    from mildhusk.core.coating.liquid import Liquid
    from mildhusk.core.coating.tray import TraySetup

    density, charge_kg, target_m = (float(one) for one in np.array(kept["numbers"], dtype=float))
    vertices, solid_m = (np.array(kept[name], dtype=np.float64) for name in ("vertices", "solid_m"))
    faces = np.array(kept["faces"], dtype=np.int64)
    liquid = Liquid(density, *(np.array(kept[name], dtype=np.float64) for name in _LIQUID))
    exercise = Exercise(str(kept["exercise"]))
    return TraySetup(Mesh(vertices, faces), solid_m, liquid, charge_kg, target_m, exercise)
