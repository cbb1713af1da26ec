"""The coats of a cast sheet as they land in the mould, one after another."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from mildhusk.core.casting.charges import Charge, CoatingSetup
from mildhusk.core.casting.plan import CastSheet, SheetCoat, rolled_coats
from mildhusk.core.casting.two_part import two_part_of
from mildhusk.core.coating.coats import Coated, CoatRun, Moment
from mildhusk.core.coating.grid import coat_grid, even_mesh
from mildhusk.core.coating.landing import add_coat
from mildhusk.core.coating.liquid import liquid_of
from mildhusk.core.coating.motion import ROUGH_FROM_M, motion_of_coat
from mildhusk.core.coating.rolling import STEP_S
from mildhusk.core.coating.turning import HowTurned
from mildhusk.core.cure.model import CureSetup
from mildhusk.core.geometry.mesh import Mesh
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.progress import Tell, saying, side_by_side, silent, within

_NEARLY, _SOON_S, _AS_WARM_K = 0.1, 10.0, 0.5
"""Charges so near each other are alike. [1], [s], [K]"""
_LOOKED_AT = 3
"""So many coats are led by eye, the rest like them."""
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

    On a machine each coat is turned another way round.

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
    resin = two_part_of(sheet).resin
    charges = [
        Charge(weighed_kg, motion_of_coat(how.motion, number), sheet.conditions.room_k)
        for number, weighed_kg in enumerate(_charges(rolled_coats(sheet), how), 1)
    ]
    return land_charges(mould, resin, CoatingSetup.of(sheet), charges, how.edge_m, tell)


def land_charges(
    mould: Coated,
    resin: CastingResin,
    setup: CoatingSetup,
    charges: Sequence[Charge],
    edge_m: float,
    tell: Tell = silent,
) -> Landed:
    """Return a cast as its charges land one on another.

    Of coats of one charge that are turned alike the first stands for all; each is computed in a
    mould that those before it narrowed evenly, so that several are computed at once. Hands that
    watch lead each coat to what those before it left thin: three are computed one after another,
    and later ones are like the second and the third in turn.

    Parameters
    ----------
    mould : Coated
        Bare.
    resin : CastingResin
        Its times as they were planned with.
    setup : CoatingSetup
    charges : sequence of Charge
    edge_m : float
        Of the faces computed on. [m]
    tell : callable

    Returns
    -------
    Landed

    Raises
    ------
    CoatingError
        A motion that pours it out.
    """
    several = _Several(mould, resin, setup, tuple(charges), edge_m)
    if any(one.motion.is_by_eye for one in charges):
        return _one_after_another(several, tell)
    first = [
        next(n for n in range(number + 1) if _alike(charges[n], charges[number]))
        for number in range(len(charges))
    ]
    simulated = [number for number in range(len(charges)) if first[number] == number]

    def land(at: int, told: Tell) -> tuple[CoatRun, tuple[Moment, ...]]:
        return several.land(simulated[at], several.narrowed(simulated[at]), told)

    words = f"simulating {len(charges)} coats"
    landed = dict(zip(simulated, side_by_side(land, len(simulated), words, tell), strict=True))
    for number, like in enumerate(first):
        run, _ = landed[like]
        share = charges[number].weighed_kg / charges[like].weighed_kg
        mould = mould.with_coat(run if number == like else _as_landed(run, share))
    played = tuple(landed[n][1] if n in landed else () for n in range(len(charges)))
    return Landed(as_even_as(mould, setup.evenness), played)


def _one_after_another(several: "_Several", tell: Tell) -> Landed:
    charges, mould = several.charges, several.bare
    looked_at = len(charges)
    if all(one.motion.is_by_eye for one in charges):
        looked_at = min(looked_at, 1 if several.edge_m >= ROUGH_FROM_M else _LOOKED_AT)
    landed = []
    for number in range(looked_at):
        told = saying(
            f"coat {number + 1}", within(tell, number / looked_at, (number + 1) / looked_at)
        )
        landed.append(several.land(number, mould, told))
        mould = mould.with_coat(landed[-1][0])
    for number in range(looked_at, len(charges)):
        like = 0 if looked_at == 1 else 1 + (number - 1) % (looked_at - 1)
        share = charges[number].weighed_kg / charges[like].weighed_kg
        mould = mould.with_coat(_as_landed(landed[like][0], share))
    played = [moments for _, moments in landed]
    mould = as_even_as(mould, several.setup.evenness)
    return Landed(mould, (*played, *[()] * (len(charges) - looked_at)))


def as_even_as(mould: Coated, evenness: float) -> Coated:
    """Return a cast whose wall is so many times as uneven, of as much resin.

    Parameters
    ----------
    mould : Coated
    evenness : float
        On the logarithm of each face's wall over the mean. [1]

    Returns
    -------
    Coated
        Every coat of a face by the same factor; what is dry stays dry, and the lid as it is.
    """
    if evenness == 1.0:
        return mould
    grid, wall_m = mould.grid, mould.wall_m
    cast = ~grid.lid & (wall_m > 0.0)
    kept_m3 = float((wall_m * grid.area)[cast].sum())
    mean_m = kept_m3 / float(grid.area[~grid.lid].sum())
    share = np.ones(len(wall_m))
    share[cast] = (wall_m[cast] / mean_m) ** (evenness - 1.0)
    share[cast] *= kept_m3 / float((wall_m * share * grid.area)[cast].sum())
    coats = tuple(replace(run, wall_m=run.wall_m * share) for run in mould.coats)
    return replace(mould, wall_m=wall_m * share, coats=coats)


@dataclass(frozen=True, slots=True, eq=False)
class _Several:
    """The charges of a cast, and the mould that they come into."""

    bare: Coated
    resin: CastingResin
    setup: CoatingSetup
    charges: tuple[Charge, ...]
    edge_m: float

    def narrowed(self, number: int) -> Coated:
        """Return the mould as the charges before one narrow it evenly."""
        faces = np.full(len(self.bare.grid.area), self._before_m(number))
        return replace(self.bare, wall_m=faces)

    def land(self, number: int, mould: Coated, tell: Tell) -> tuple[CoatRun, tuple[Moment, ...]]:
        """Return one coat as it lands in a mould, and moments of it."""
        charge, setup = self.charges[number], self.setup
        # What stays in the cup does not come into the mould; on more face it lies thinner.
        in_mould_kg = charge.weighed_kg * (1.0 - setup.loss) / setup.area_factor
        cure = CureSetup(
            charge.weighed_kg / setup.cups, charge.room_k, setup.mould_k, setup.parts_k,
            in_mould_kg / setup.density_kg_m3 / self._area_m2, setup.catalyst,
        )  # fmt: skip
        liquid = liquid_of(self.resin, cure, charge.poured_s, setup.density_kg_m3)
        film = Film(liquid.sets_after_s / FRAMES)
        step_s = 2.0 * STEP_S if self.edge_m >= ROUGH_FROM_M else STEP_S
        made = add_coat(
            mould, liquid, in_mould_kg, charge.motion, tell=tell, watch=film.take,
            step_s=step_s, pour=setup.into,
        )  # fmt: skip
        return made.coats[-1], tuple(film.moments)

    @property
    def _area_m2(self) -> float:
        return float(self.bare.grid.area.sum())

    def _before_m(self, number: int) -> float:
        weighed_kg = sum(one.weighed_kg for one in self.charges[:number])
        kept = weighed_kg * (1.0 - self.setup.loss) / self.setup.area_factor
        return kept / self.setup.density_kg_m3 / self._area_m2


def _alike(one: Charge, other: Charge) -> bool:
    """Whether two coats land alike."""
    near = abs(one.weighed_kg - other.weighed_kg) <= _NEARLY * other.weighed_kg
    soon = abs(one.poured_s - other.poured_s) <= _SOON_S
    warm = abs(one.room_k - other.room_k) <= _AS_WARM_K
    return near and soon and warm and one.motion == other.motion


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
