"""Deciding backwards: from what the husk must do to resin, rubber, mould, shell and release."""

from collections.abc import Iterable
from dataclasses import replace
from itertools import combinations

from mildhusk.core.choosing.judging import Judging, judge_moulds
from mildhusk.core.choosing.task import Candidate, Judge, Link, Standing, Task
from mildhusk.core.choosing.whole import Offered, best_whole
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.catalogue import AnyMaterial
from mildhusk.core.materials.compatibility import HARMFUL


def decide(
    task: Task,
    shelf: tuple[AnyMaterial, ...],
    judge: Judge,
    taken: dict[Link, str] | None = None,
) -> dict[Link, tuple[Candidate, ...]]:
    """Rank the candidates of every link, and take the chain that does best as a whole.

    Parameters
    ----------
    task : Task
    shelf : tuple of AnyMaterial
    judge : Judge
        Says how two materials get on, by the rules and the dab tests there are.
    taken : dict of Link to str, optional
        Keys that were chosen instead of the first; the links after are judged with them.

    Returns
    -------
    dict of Link to tuple of Candidate
        Best first, the excluded last. Those that are taken form the best whole chain that holds no
        harmful pair; where something better stands before one, the rest of the chain forbids it.

    Raises
    ------
    ConditionError
        A taken key that is no candidate of its link.
    """
    chosen = dict(taken or {})
    offered = Offered.of(task, shelf, judge)
    found = best_whole(offered, chosen)
    if not task.cut and (not found or chosen.get(Link.MOULD) == "cut"):
        # A cut mould opens without stretch, and frees every rubber from it.
        return decide(replace(task, cut=True), shelf, judge, taken)
    # What was chosen stands; the rest is taken so that the whole does best.
    whole = {**found, **chosen}
    decided: dict[Link, tuple[Candidate, ...]] = {}

    def settle(link: Link, judged: Iterable[Judging]) -> str | None:
        decided[link] = _ranked(link, judged, whole.get(link))
        return next((c.key for c in decided[link] if c.verdict is Standing.TAKE), None)

    cast_key = settle(Link.CASTING, map(offered.casting, offered.castables))
    resin = next((one for one in offered.castables if one.key == cast_key), None)
    rubber_key = settle(Link.RUBBER, (offered.rubber(one, resin) for one in offered.rubbers))
    rubber = next((one for one in offered.rubbers if one.key == rubber_key), None)
    settle(Link.MOULD, judge_moulds(task, rubber))
    settle(Link.SHELL, map(offered.shell, offered.shells))
    settle(Link.RELEASE, (offered.release(one, resin, rubber) for one in offered.releases))
    settle(Link.SEALER, offered.sealing(rubber))
    return decided


def is_whole(
    links: dict[Link, tuple[Candidate, ...]], shelf: tuple[AnyMaterial, ...], judge: Judge
) -> bool:
    """Say whether every link has something that is taken, and no two of those harm.

    Parameters
    ----------
    links : dict of Link to tuple of Candidate
    shelf : tuple of AnyMaterial
    judge : Judge

    Returns
    -------
    bool
    """
    by_key = {one.key: one for one in shelf}
    taken = [
        next((one for one in candidates if one.verdict is Standing.TAKE), None)
        for candidates in links.values()
    ]
    materials = [by_key[one.key] for one in taken if one is not None and one.key in by_key]
    harmless = all(
        judge(one, other).verdict not in HARMFUL for one, other in combinations(materials, 2)
    )
    return harmless and None not in taken


def given_up(task: Task, shelf: tuple[AnyMaterial, ...], judge: Judge) -> tuple[str, ...]:
    """Say which wish to give up where no chain keeps all of them; empty where one does.

    Parameters
    ----------
    task : Task
    shelf : tuple of AnyMaterial
    judge : Judge

    Returns
    -------
    tuple of str
        Sentences: each names a wish without which there is a whole chain.
    """
    task = replace(task, cut=True)
    if best_whole(Offered.of(task, shelf, judge), {}):
        return ()
    without = (
        ("Leave it unpainted", replace(task, painted=False)),
        ("Turn it by hand instead of spinning it", replace(task, spun=False)),
        ("Make the master of something else, or seal it", replace(task, master=None)),
        ("Leave it unpainted and turn it by hand", replace(task, painted=False, spun=False)),
    )
    found = tuple(
        f"{words}: then everything fits together."
        for words, less in without
        if less != task and best_whole(Offered.of(less, shelf, judge), {})
    )
    return found or ("Nothing on the shelf does it: put another resin, rubber or release there.",)


_PASSED_OVER = "It does better alone; with it the rest of the chain does worse."


def _ranked(link: Link, judged: Iterable[Judging], chosen: str | None) -> tuple[Candidate, ...]:
    ranked = sorted(judged, key=lambda one: (one.excluded, -one.points, one.key))
    if chosen is not None and chosen not in {one.key for one in ranked}:
        known = ", ".join(one.key for one in ranked)
        raise ConditionError(f"'{chosen}' is no {link}; there are: {known}.", str(link))
    first = chosen or next((one.key for one in ranked if not one.excluded), None)

    def standing(one: Judging) -> Standing:
        if one.key == first:
            return Standing.TAKE
        return Standing.EXCLUDED if one.excluded else Standing.POSSIBLE

    keys = [one.key for one in ranked if not one.excluded]
    passed_over = keys[: keys.index(first)] if chosen is None and first in keys else []
    nearest = next((one.name for one in ranked if not one.excluded), None)
    return tuple(
        Candidate(
            key=one.key,
            name=one.name,
            verdict=standing(one),
            reasons=(
                *one.reasons,
                *([f"Nearest alternative: {nearest}."] if one.excluded and nearest else []),
                *([_PASSED_OVER] if one.key in passed_over else []),
            ),
            points=round(one.points, 2),
        )
        for one in ranked
    )
