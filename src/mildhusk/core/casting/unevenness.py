"""How far a rolled wall is from even, and what of a charge does not come to it."""

import json
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cache
from importlib.resources import files

from mildhusk.core.casting.wish import USUAL, CastWish
from mildhusk.core.coating.motion import BY_EYE, Motion, motion_named
from mildhusk.core.coating.turning import LeastWall, Pour
from mildhusk.core.constants import GRAVITY_M_S2
from mildhusk.core.equipment import Equipment
from mildhusk.core.errors import ConditionError
from mildhusk.core.geometry.measure import FaceMeasures
from mildhusk.core.geometry.wall_volume import ShellCurve, inner_area
from mildhusk.core.materials.casting_resin import CastingResin

THINNEST_SHARE, THINNEST_BY_HAND = 0.5, 0.65
"""No more is poured to thicken thin places than for these: what is still thin then is named, and a
paste mends it for less. By hand the more runs into the puddles (assumed). [1]"""
_SHALLOW = 0.35
"""A piece whose openings are more than this share of its face is shallow (assumed). [1]"""
_MACHINE = "machine"
_DETAIL_WALL_M, _HARDLY_OPEN = 0.006, 0.02


class StandsOn(StrEnum):
    """What a plan stands on."""

    EVEN = "even"
    """Nothing is said of how it is turned: an even wall, but for the allowance."""
    ESTIMATE = "estimate"
    """Formulas fitted to many simulated casts."""
    FIRST_LOOK = "first-look"
    """A rough simulation of this cast."""
    SETTLED = "settled"
    """A simulation of just these coats."""

    @classmethod
    def weakest(cls, several: Sequence["StandsOn"]) -> "StandsOn":
        """Return what the least sure of several plans stands on."""
        return min(several, key=list(cls).index)


@dataclass(frozen=True, slots=True)
class Unevenness:
    """How far a rolled wall is from even, and what of a charge does not come to it.

    Parameters
    ----------
    thin_share : float
        The wall that is counted as least, over the even wall of the same resin. [1]
    lid_share : float
        Of what comes into the mould, what stays on a lid. [1]
    spilt_share : float
        Of it, what runs over the rim. [1]
    band : float
        What the resin for a least wall may be off by, as a share. [1]
    stands_on : StandsOn
    coats : int or None
        Of so many equal ones it was found; None where any number will do.
    """

    thin_share: float
    lid_share: float
    spilt_share: float
    band: float
    stands_on: StandsOn
    coats: int | None = None

    @property
    def astray_share(self) -> float:
        """Of what comes into the mould, what does not come to the wall. [1]"""
        return self.lid_share + self.spilt_share


def usual_turning(face: FaceMeasures, equipment: Equipment) -> tuple[str, bool]:
    """Return how a piece is usually turned: the motion's name, and whether with a lid.

    A shallow open piece by hand, everything else on a machine where there is one, with a lid where
    the piece is open (common practice, no source).
    """
    opened_m2 = sum(one.area_m2 for one in face.openings)
    if opened_m2 > _SHALLOW * face.area_m2 or not equipment.has_machine:
        return BY_EYE, False
    return _MACHINE, bool(face.openings)


def with_turning(wish: CastWish, face: FaceMeasures, equipment: Equipment) -> CastWish:
    """Return a wish with what is usual for the piece put in where it asks for that.

    Parameters
    ----------
    wish : CastWish
    face : FaceMeasures
    equipment : Equipment

    Returns
    -------
    CastWish

    Raises
    ------
    ConditionError
        An open mould that is turned upside down.
    """
    if wish.motion is None:
        return wish
    if wish.motion == USUAL:
        motion, lid = usual_turning(face, equipment)
        wish = replace(wish, motion=motion, lid=lid)
    if face.openings and not wish.lid and motion_named(str(wish.motion)).needs_lid:
        raise ConditionError(
            "So turned, an open mould is upside down and everything runs out: put a lid on, or "
            "turn it by hand.",
            "lid",
        )
    # What is closed is poured at its low place, whatever was said.
    return replace(wish, pour=Pour.RIM) if wish.lid or not face.openings else wish


def estimated_unevenness(
    face: FaceMeasures, resin: CastingResin, motion: Motion, least: LeastWall, *, lid: bool
) -> Unevenness:
    """Estimate how uneven a cast comes out, from its shape, its resin and how it is turned.

    Parameters
    ----------
    face : FaceMeasures
    resin : CastingResin
    motion : Motion
    least : LeastWall
    lid : bool

    Returns
    -------
    Unevenness

    Notes
    -----
    Linear in the features of `features_of`; fitted by `scripts/fit_unevenness.py` to simulated
    casts, its band from shapes that the fit had not seen.
    """
    way = "by-hand" if motion.by_hand else "machine"
    model = _model()[way]
    features = features_of(face, resin)
    thin = math.exp(min(_linear(model["thin"][least], features), 0.0))
    lid_share = math.exp(_linear(model["lid"], features)) if lid and face.openings else 0.0
    return Unevenness(
        thin_share=max(thin, thinnest_share(motion)),
        lid_share=min(lid_share, 0.5),
        spilt_share=model["spilt"] if face.openings and not lid else 0.0,
        band=model["band"][least],
        stands_on=StandsOn.ESTIMATE,
    )


def thinnest_share(motion: Motion) -> float:
    """Return for how thin a place more is poured, beside the even wall of the same resin. [1]"""
    return THINNEST_BY_HAND if motion.by_hand else THINNEST_SHARE


def features_of(face: FaceMeasures, resin: CastingResin) -> tuple[float, ...]:
    """Return what an estimate goes by, all without dimension.

    Parameters
    ----------
    face : FaceMeasures
    resin : CastingResin

    Returns
    -------
    tuple of float
        One; how far a coat's film runs until it gels, over the size of the piece, as a logarithm
        and its square; openings over face, as a logarithm; how much of the face is left inside a
        wall of 6 mm; how near the piece is to a ball. [1]
    """
    size_m = math.sqrt(face.area_m2 / (4.0 * math.pi))
    weight = resin.density_cured_kg_m3 * GRAVITY_M_S2
    run_m = weight * resin.coat_wall_m**2 / (3.0 * resin.viscosity_pa_s) * resin.gel_s
    opened_m2 = sum(one.area_m2 for one in face.openings)
    ball_m2 = math.pi ** (1.0 / 3.0) * (6.0 * face.volume_m3) ** (2.0 / 3.0)
    inner_m2 = inner_area(ShellCurve.of(face), _DETAIL_WALL_M)
    runs = math.log(run_m / size_m)
    return (
        1.0,
        runs,
        runs**2,
        math.log(_HARDLY_OPEN + opened_m2 / face.area_m2),
        inner_m2 / face.area_m2,
        ball_m2 / (face.area_m2 + opened_m2),
    )


def _linear(weights: Sequence[float], features: Sequence[float]) -> float:
    return sum(weight * one for weight, one in zip(weights, features, strict=True))


@cache
def _model() -> dict[str, dict]:  # type: ignore[type-arg]
    text = files("mildhusk.core.casting").joinpath("unevenness.json").read_text("utf-8")
    return json.loads(text)  # type: ignore[no-any-return]
