"""The coats of a cast sheet as they land in the mould, one after another."""

from dataclasses import dataclass, replace

import numpy as np

from mildhusk.core.casting.plan import CastSheet, SheetCoat, rolled_coats
from mildhusk.core.casting.two_part import two_part_of
from mildhusk.core.coating.coats import Coated, CoatRun, Moment
from mildhusk.core.coating.grid import coat_grid, even_mesh
from mildhusk.core.coating.landing import add_coat
from mildhusk.core.coating.liquid import Liquid, liquid_of
from mildhusk.core.coating.motion import ROUGH_FROM_M, Motion, motion_of_coat
from mildhusk.core.coating.rolling import STEP_S
from mildhusk.core.coating.turning import HowTurned, Pour
from mildhusk.core.constants import MIXING_TIME_S
from mildhusk.core.cure.model import CureSetup
from mildhusk.core.geometry.mesh import Mesh
from mildhusk.core.progress import Tell, saying, side_by_side, silent, within

_NEARLY, _LOOKED_AT = 0.1, 3
"""Charges so near each other are alike [1]; so many coats are led by eye, the rest like them."""
FRAMES = 90
"""Moments of a coat that are kept to be played back."""


@dataclass(frozen=True, slots=True, eq=False)
class Landed:
    """A cast as its coats landed, and what each looked like on its way."""

    mould: Coated
    played: tuple[tuple[Moment, ...], ...]


class Film:
    """Keeps a moment of a coat every so often."""

    def __init__(self, every_s: float) -> None:
        self.moments: list[Moment] = []
        self._every_s, self._next_s = every_s, 0.0

    def take(self, moment: Moment) -> None:
        """Keep a moment, where the last one is long enough ago."""
        if moment.t_s >= self._next_s:
            self.moments.append(moment)
            self._next_s = moment.t_s + self._every_s


def density_of(sheet: CastSheet) -> float:
    """Return the density of what sets on the wall. [kg/m^3]"""
    return sheet.pourable.density.value


def bare_mould(face: Mesh, edge_m: float, *, capped: bool) -> Coated:
    """Return a mould before its first coat.

    Parameters
    ----------
    face : Mesh
        Casting face. [m]
    edge_m : float
        Of the faces computed on. [m]
    capped : bool
        A lid closes every opening.

    Returns
    -------
    Coated

    Raises
    ------
    CoatingError
        A face that cannot be meshed anew.
    """
    return Coated.bare(coat_grid(even_mesh(face, edge_m), capped=capped))


def coat_sheet(mould: Coated, sheet: CastSheet, how: HowTurned, tell: Tell = silent) -> Landed:
    """Return a cast as its coats land. A paste is spread by hand and is not simulated.

    On a machine each coat is turned another way round. Of coats of one charge that are turned
    alike the first stands for all; each is computed in a mould that those before it narrowed
    evenly, so that several are computed at once. Hands that watch lead each coat to what those
    before it left thin: three are computed one after another, and later ones are like the second
    and the third in turn.

    Parameters
    ----------
    mould : Coated
        Bare.
    sheet : CastSheet
    how : HowTurned
    tell : callable

    Returns
    -------
    Landed

    Raises
    ------
    CoatingError
        A cast of melted clay, a motion that pours it out.
    """
    charges = _charges(rolled_coats(sheet), how)
    if how.motion.is_by_eye:
        return _coats_by_eye(mould, sheet, how, charges, tell)
    motions = [motion_of_coat(how.motion, number) for number in range(1, len(charges) + 1)]
    first = [
        next(n for n in range(number + 1) if _alike(n, number, charges, motions))
        for number in range(len(charges))
    ]
    simulated = [number for number in range(len(charges)) if first[number] == number]
    pours = [_pour(mould, sheet, charges, number) for number in simulated]

    def land(at: int, told: Tell) -> tuple[CoatRun, tuple[Moment, ...]]:
        return _land(pours[at], motions[simulated[at]], how, told)

    words = f"simulating {len(charges)} coats"
    landed = dict(zip(simulated, side_by_side(land, len(simulated), words, tell), strict=True))
    for number, like in enumerate(first):
        run, _ = landed[like]
        share = charges[number] / charges[like]
        mould = mould.with_coat(run if number == like else _as_landed(run, share))
    played = tuple(landed[n][1] if n in landed else () for n in range(len(charges)))
    return Landed(mould, played)


def _coats_by_eye(
    mould: Coated, sheet: CastSheet, how: HowTurned, charges: list[float], tell: Tell
) -> Landed:
    looked_at = min(len(charges), 1 if how.edge_m >= ROUGH_FROM_M else _LOOKED_AT)
    landed = []
    for number in range(looked_at):
        told = saying(
            f"coat {number + 1}", within(tell, number / looked_at, (number + 1) / looked_at)
        )
        pour = replace(_pour(mould, sheet, charges, number), mould=mould)
        landed.append(_land(pour, how.motion, how, told))
        mould = mould.with_coat(landed[-1][0])
    for number in range(looked_at, len(charges)):
        like = 0 if looked_at == 1 else 1 + (number - 1) % (looked_at - 1)
        mould = mould.with_coat(_as_landed(landed[like][0], charges[number] / charges[like]))
    played = [moments for _, moments in landed]
    return Landed(mould, (*played, *[()] * (len(charges) - looked_at)))


def _land(
    pour: "_Pour", motion: Motion, how: HowTurned, tell: Tell
) -> tuple[CoatRun, tuple[Moment, ...]]:
    film = Film(pour.liquid.sets_after_s / FRAMES)
    step_s = 2.0 * STEP_S if how.edge_m >= ROUGH_FROM_M else STEP_S
    made = add_coat(
        pour.mould, pour.liquid, pour.in_mould_kg, motion, tell=tell, watch=film.take,
        step_s=step_s, pour=pour.into,
    )  # fmt: skip
    return made.coats[-1], tuple(film.moments)


@dataclass(frozen=True, slots=True, eq=False)
class _Pour:
    """One coat as it is poured: the mould it comes into, its liquid, what of it comes in, where."""

    mould: Coated
    liquid: Liquid
    in_mould_kg: float
    into: Pour


def _pour(mould: Coated, sheet: CastSheet, charges: list[float], number: int) -> _Pour:
    at, wish, density = sheet.conditions, sheet.wish, density_of(sheet)
    area = float(mould.grid.area.sum())
    # What stays in the cup does not come into the mould.
    in_mould = charges[number] * (1.0 - wish.loss)
    before_m = sum(charges[:number]) * (1.0 - wish.loss) / density / area
    setup = CureSetup(
        charges[number] / at.cups, at.room_k, at.mould_k, at.parts_k, in_mould / density / area,
        wish.catalyst,
    )  # fmt: skip
    liquid = liquid_of(two_part_of(sheet).resin, setup, MIXING_TIME_S, density)
    narrowed = replace(mould, wall_m=np.full(len(mould.grid.area), before_m))
    return _Pour(narrowed, liquid, in_mould, wish.pour)


def _alike(one: int, other: int, charges: list[float], motions: list[Motion]) -> bool:
    """Whether two coats land alike."""
    near = abs(charges[one] - charges[other]) <= _NEARLY * charges[other]
    return near and motions[one] == motions[other]


def _as_landed(run: CoatRun, share: float) -> CoatRun:
    """Return another coat as one that landed, so many times as heavy."""
    return replace(
        run,
        wall_m=run.wall_m * share,
        charge_kg=run.charge_kg * share,
        spilt_kg=run.spilt_kg * share,
        pool_kg=run.pool_kg * share,
    )


def _charges(poured: list[SheetCoat], how: HowTurned) -> list[float]:
    """Return what is weighed for each coat. [kg]"""
    weighed = [coat.recipe.total_kg for coat in poured]
    if how.share is not None:
        return [how.share * weighed[0]]
    if how.coats is not None:
        each = sum(weighed) / (how.lead + how.coats - 1)
        return [how.lead * each, *[each] * (how.coats - 1)]
    return weighed
