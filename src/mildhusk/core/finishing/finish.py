"""The finish of a husk: which steps, in which order, each with its clock and its cautions."""

import json
import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cache
from importlib.resources import files
from typing import Any

from mildhusk.core.constants import ZERO_CELSIUS_K
from mildhusk.core.cure.data_sheet import post_cure_s
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.catalogue import shipped_material
from mildhusk.core.materials.cautions import Operation, cautions_for
from mildhusk.core.materials.compatibility import Verdict, shipped_judge
from mildhusk.core.materials.kinds import Release
from mildhusk.core.materials.traits import Trait

_CRACKS_UNDER_S = 1200.0
"""A resin that may be taken out sooner cracks under cutters (assumed). [s]"""
_POST_CURE_K = ZERO_CELSIUS_K + 50.0
"""As warm as a cast stands to be cured through sooner (common practice). [K]"""
_MOST_OWN = 20
_MINUTE = 60.0


class Paint(StrEnum):
    """What goes on the husk."""

    NONE = "none"
    WATER = "water-based"
    SOLVENT = "solvent-based"


_NEEDED_CURE = {Paint.NONE: 0.0, Paint.WATER: 0.5, Paint.SOLVENT: 1.0}
"""Of its full cure before primer goes on (assumed). [1]"""
_BOND_CURE = 0.5
"""Of its full cure before something is bonded to it (assumed). [1]"""
_FLASH_OFF = {Paint.WATER: 45.0, Paint.SOLVENT: 30.0}
_RECOAT: dict[Paint, tuple[float, float | None]] = {
    Paint.WATER: (60.0, None),
    Paint.SOLVENT: (15.0, 60.0),
}
"""Minutes until the next coat of paint, and until it is too late for it without sanding (assumed;
the tin says so)."""
_DRY = {Paint.NONE: 0.0, Paint.WATER: 12 * 60.0, Paint.SOLVENT: 24 * 60.0}
"""Minutes until painted husks are handled (assumed; the tin says so)."""


@dataclass(frozen=True, slots=True)
class OwnStep:
    """A step that a maker adds: after which step, how long hands and waiting take. [s]"""

    title: str
    hands_s: float
    after: str
    wait_s: float = 0.0


@dataclass(frozen=True, slots=True)
class FinishWish:
    """What becomes of a husk.

    Parameters
    ----------
    paint : Paint
    worn, visor, straps, padding, polished, skirt, post_cured : bool
        It is worn on a head; has a visor, straps, padding to be fitted; a metal face to be
        polished; a skirt that is waste; it is cured through in the warm.
    cut_outs : int
        Openings to cut: eyes, mouth, visor.
    dropped : frozenset of str
        Steps that the maker does not want.
    own : tuple of OwnStep

    Raises
    ------
    ConditionError
        More openings or steps than there can be, a step that takes nothing.
    """

    paint: Paint = Paint.WATER
    worn: bool = False
    visor: bool = False
    straps: bool = False
    padding: bool = False
    polished: bool = False
    skirt: bool = False
    post_cured: bool = False
    cut_outs: int = 0
    dropped: frozenset[str] = frozenset()
    own: tuple[OwnStep, ...] = ()

    def __post_init__(self) -> None:
        if not 0 <= self.cut_outs <= 50:
            raise ConditionError("A husk has 0 to 50 openings to cut out.", "cut_outs")
        if len(self.own) > _MOST_OWN:
            raise ConditionError(f"Add up to {_MOST_OWN} steps of your own.", "own")
        for one in self.own:
            if not 0.0 < one.hands_s <= 86_400.0 or not 0.0 <= one.wait_s <= 60 * 86_400.0:
                raise ConditionError(
                    f"'{one.title}' needs hands for a minute to a day, and a wait of up to 60 "
                    "days.",
                    "own",
                )


@dataclass(frozen=True, slots=True)
class Husk:
    """What is finished: of which resin, released with what, how large, when it is cured through.

    Parameters
    ----------
    resin : CastingResin
    release : Release or None
        None where the mould had none.
    area_m2 : float
        [m^2]
    demould_s, full_cure_s : float
        From the first contact of its last coat. [s]
    """

    resin: CastingResin
    release: Release | None
    area_m2: float
    demould_s: float
    full_cure_s: float


@dataclass(frozen=True, slots=True)
class FinishStep:
    """One step of a finish.

    Parameters
    ----------
    id, title, tools, why, note : str
    hands_s : float
        [s]
    from_s, until_s : float
        It begins so long after the end of the step before; `until_s` is None where no window
        closes. [s]
    place : str
        That it takes up; empty for the bench.
    not_before_s : float
        From the first contact of the last coat: the cure it waits for. [s]
    interruptible : bool
    cautions : tuple of str
        Beside the step.
    stands_s : float
        So long it stands in its place afterwards, by itself; the next step waits for that. [s]
    stands_k : float or None
        How warm. [K]
    """

    id: str
    title: str
    tools: str
    why: str
    note: str
    hands_s: float
    from_s: float
    until_s: float | None
    place: str
    not_before_s: float
    interruptible: bool
    cautions: tuple[str, ...]
    stands_s: float = 0.0
    stands_k: float | None = None


@cache
def _shipped() -> tuple[dict[str, Any], ...]:
    kept = json.loads(files(__package__).joinpath("finish.json").read_text("utf-8"))
    return tuple(kept["steps"])


def finish_of(husk: Husk, wish: FinishWish) -> tuple[FinishStep, ...]:
    """Return the steps of a finish.

    Parameters
    ----------
    husk : Husk
    wish : FinishWish

    Returns
    -------
    tuple of FinishStep
        In their order; what is not needed is left out, what the maker adds stands after its step.

    Raises
    ------
    ConditionError
        An own step after one that is not in the finish.
    """
    flags = _flags(husk, wish)
    steps, wait_s = [], 0.0
    for one in _shipped():
        if not set(one.get("when", ())) <= flags or set(one.get("unless", ())) & flags:
            continue
        if one["id"] in wish.dropped:
            continue
        steps.append(_step(one, husk, wish, flags, wait_s))
        wait_s = one.get("wait_min", 0.0) * _MINUTE
        if one.get("post_cure"):
            wait_s = post_cure_s(husk.resin, _POST_CURE_K)
            steps[-1] = replace(steps[-1], stands_s=wait_s, stands_k=_POST_CURE_K)
        for number, own in enumerate(wish.own, start=1):
            if own.after == one["id"]:
                steps.append(_own(own, number, wait_s))
                wait_s = own.wait_s
    known = {one.id for one in steps}
    for own in wish.own:
        if own.after not in known:
            raise ConditionError(
                f"'{own.title}' is to follow '{own.after}', which is no step of this finish.", "own"
            )
    return tuple(steps)


def _flags(husk: Husk, wish: FinishWish) -> set[str]:
    traits = set(husk.resin.traits)
    bonded = wish.visor or wish.straps or wish.padding
    told = {
        "released": husk.release is not None and husk.release.washes_off_with != "nothing",
        "painted": wish.paint is not Paint.NONE,
        "coated": wish.paint is not Paint.NONE or bonded,
        "bonded": bonded,
        "cut-outs": wish.cut_outs > 0,
        "cracks": Trait.BRITTLE in traits or husk.resin.demould_s < _CRACKS_UNDER_S,
        "soft": Trait.SOFT in traits,
        "epoxy": Trait.EPOXY in traits,
        "polyester": Trait.POLYESTER in traits,
        **{key: getattr(wish, key) for key in
           ("worn", "visor", "straps", "padding", "polished", "skirt")},
        "post-cured": _is_post_cured(wish),
    }  # fmt: skip
    return {key for key, holds in told.items() if holds}


def _step(
    kept: Mapping[str, Any], husk: Husk, wish: FinishWish, flags: set[str], wait_s: float
) -> FinishStep:
    minutes = kept["minutes"] + kept.get("each_m2", 0.0) * husk.area_m2
    minutes += kept.get("each_cut_out", 0.0) * wish.cut_outs
    until_s: float | None = None
    if kept.get("after_flash_off"):
        wait_s = _FLASH_OFF[wish.paint] * _MINUTE
    elif kept.get("recoat"):
        from_min, until_min = _RECOAT[wish.paint]
        wait_s = from_min * _MINUTE
        until_s = None if until_min is None else until_min * _MINUTE
    elif kept.get("dry_before") and "painted" in flags:
        # Counted from the step before, which is at least as late as the last paint.
        wait_s = max(wait_s, _DRY[wish.paint] * _MINUTE if kept["id"] in _first_dry(flags) else 0.0)
    title = kept["title"]
    if kept["id"] == "wash" and husk.release is not None:
        title = f"Wash the release off: {husk.release.washes_off_with}"
    cure = 0.0
    if kept.get("needs_cure") and not _is_post_cured(wish):
        cure = _NEEDED_CURE[wish.paint] if kept["id"] == "primer" else _BOND_CURE
    return FinishStep(
        kept["id"],
        title,
        kept["tools"],
        kept.get("why", ""),
        " ".join(text for flag, text in kept.get("notes", {}).items() if flag in flags),
        minutes * _MINUTE,
        wait_s,
        until_s,
        kept.get("place", ""),
        max(husk.demould_s, cure * husk.full_cure_s),
        bool(kept.get("interruptible", False)),
        _cautions(Operation(kept["operation"]), husk),
    )


def _is_post_cured(wish: FinishWish) -> bool:
    return wish.post_cured and "post-cure" not in wish.dropped


def _first_dry(flags: set[str]) -> Sequence[str]:
    """Return which step is the first after paint that wants it dry."""
    if "bonded" in flags:
        return ("scuff",)
    return ("try-on",)


def _cautions(operation: Operation, husk: Husk) -> tuple[str, ...]:
    told = cautions_for((operation,), (husk.resin,))
    return tuple(sentence for one in told for sentence in one.sentences)


def _own(own: OwnStep, number: int, wait_s: float) -> FinishStep:
    return FinishStep(
        f"own-{number}", own.title, "", "", "", own.hands_s, wait_s, None, "", 0.0, True, ()
    )


@dataclass(frozen=True, slots=True)
class Block:
    """Why paint may not go on yet; `wait_s` until it may by waiting alone, else None. [s]"""

    id: str
    text: str
    wait_s: float | None = None


def paint_blocks(
    husk: Husk,
    paint: Paint,
    *,
    cured_s: float,
    washed: bool,
    scuffed: bool,
    post_cured: bool = False,
) -> tuple[Block, ...]:
    """Return what stands between a husk and its primer.

    Parameters
    ----------
    husk : Husk
    paint : Paint
    cured_s : float
        Since the first contact of its last coat. [s]
    washed, scuffed, post_cured : bool
        The release is off it; it has tooth; it was cured through in the warm.

    Returns
    -------
    tuple of Block
        Empty where paint may go on. Rules of the shelf speak for release and resin.
    """
    if paint is Paint.NONE:
        return ()
    cured_s = math.inf if post_cured else cured_s
    return tuple(_blocks(husk, paint, cured_s, washed=washed, scuffed=scuffed))


def _blocks(
    husk: Husk, paint: Paint, cured_s: float, *, washed: bool, scuffed: bool
) -> Iterator[Block]:
    to_come = shipped_material("paint-to-come")
    for key, material in (("release-spoils", husk.release), ("resin-spoils", husk.resin)):
        told = None if material is None else shipped_judge(material, to_come)
        if told is not None and told.verdict is Verdict.SPOILS_THE_FINISH:
            yield Block(key, f"{told.rules[0].reason} {told.rules[0].remedy}".strip())
    if husk.release is not None and husk.release.washes_off_with != "nothing" and not washed:
        yield Block(
            "not-washed", f"Wash the release off first, with {husk.release.washes_off_with}."
        )
    if not scuffed:
        yield Block("no-tooth", "Sand it to 320 first: primer wants tooth.")
    wait_s = _NEEDED_CURE[paint] * husk.full_cure_s - cured_s
    if wait_s > 0.0:
        yield Block(
            "not-cured",
            f"Wait {_in_words(wait_s)}: it is not cured enough for {paint.value} primer.",
            wait_s,
        )


def _in_words(seconds: float) -> str:
    minutes = math.ceil(seconds / 60.0)
    if minutes < 90:
        return f"{minutes} min"
    hours = math.ceil(minutes / 60.0)
    return f"{hours} h" if hours < 48 else f"{math.ceil(hours / 24.0)} days"
