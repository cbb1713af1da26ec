"""The coats of a cast sheet as they land in the mould, one after another."""

from dataclasses import dataclass, replace

from mildhusk.core.casting.plan import CastSheet, SheetCoat, rolled_coats
from mildhusk.core.casting.two_part import two_part_of
from mildhusk.core.coating.coats import STEP_S, Coated, CoatRun, Moment, add_coat
from mildhusk.core.coating.grid import coat_grid, even_mesh
from mildhusk.core.coating.liquid import liquid_of
from mildhusk.core.coating.motion import ROUGH_FROM_M
from mildhusk.core.coating.turning import HowTurned
from mildhusk.core.constants import MIXING_TIME_S
from mildhusk.core.cure.model import CureSetup
from mildhusk.core.geometry.mesh import Mesh
from mildhusk.core.progress import Tell, silent

_MESHING, _NEARLY = 0.1, 0.1
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


def coat_sheet(face: Mesh, sheet: CastSheet, how: HowTurned, tell: Tell = silent) -> Landed:
    """Return a cast as its coats land. A paste is spread by hand and is not simulated.

    With long edges it is a first look: the first coat of a charge stands for all of them.

    Parameters
    ----------
    face : Mesh
        Casting face. [m]
    sheet : CastSheet
    how : HowTurned
    tell : callable

    Returns
    -------
    Landed

    Raises
    ------
    CoatingError
        A cast of melted clay, a motion that pours it out, a face that cannot be meshed anew.
    """
    resin, poured = two_part_of(sheet).resin, rolled_coats(sheet)
    tell(0.0, "meshing the casting face")
    mould = Coated.bare(coat_grid(even_mesh(face, how.edge_m), capped=how.capped))
    at, wish, density = sheet.conditions, sheet.wish, density_of(sheet)
    charges = _charges(poured, how)
    area = float(mould.grid.area.sum())
    rough = how.edge_m >= ROUGH_FROM_M
    played = []
    for number, charge in enumerate(charges):
        # What stays in the cup does not come into the mould.
        in_mould = charge * (1.0 - wish.loss)
        like = next((n for n, one in enumerate(charges[:number]) if _as_heavy(one, charge)), None)
        if rough and like is not None:
            mould = mould.with_coat(_alike(mould.coats[like], in_mould))
            continue
        setup = CureSetup(
            charge / at.cups, at.room_k, at.mould_k, at.parts_k, in_mould / density / area,
            wish.catalyst,
        )  # fmt: skip
        liquid = liquid_of(resin, setup, MIXING_TIME_S, density)

        def told(share: float, said: str, number: int = number) -> None:
            done = (number + share) / len(charges)
            tell(_MESHING + (1.0 - _MESHING) * done, f"coat {number + 1} of {len(charges)}, {said}")

        film = Film(liquid.sets_after_s / FRAMES)
        mould = add_coat(
            mould, liquid, in_mould, how.motion, tell=told, watch=film.take,
            step_s=2.0 * STEP_S if rough else STEP_S,
        )  # fmt: skip
        played.append(tuple(film.moments))
    return Landed(mould, tuple(played))


def _charges(poured: list[SheetCoat], how: HowTurned) -> list[float]:
    """Return what is weighed for each coat. [kg]"""
    weighed = [coat.recipe.total_kg for coat in poured]
    if how.share is not None:
        return [how.share * weighed[0]]
    if how.coats is not None:
        each = sum(weighed) / (how.lead + how.coats - 1)
        return [how.lead * each, *[each] * (how.coats - 1)]
    return weighed


def _as_heavy(one_kg: float, other_kg: float) -> bool:
    return abs(one_kg - other_kg) <= _NEARLY * other_kg


def _alike(run: CoatRun, charge_kg: float) -> CoatRun:
    """Return another coat as the first one landed, with another charge."""
    more = charge_kg / run.charge_kg
    return replace(
        run,
        wall_m=run.wall_m * more,
        charge_kg=charge_kg,
        spilt_kg=run.spilt_kg * more,
        pool_kg=run.pool_kg * more,
    )
