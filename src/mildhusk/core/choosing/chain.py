"""Deciding backwards: from what the husk must do to resin, rubber, mould, shell and release."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from enum import StrEnum

from mildhusk.core.casting.wish import FIRST_WISH
from mildhusk.core.checks import require_between
from mildhusk.core.constants import STRETCH_SAFETY, ZERO_CELSIUS_K
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.catalogue import AnyMaterial, CastingMaterial
from mildhusk.core.materials.compatibility import SPOILING, PairVerdict, Verdict
from mildhusk.core.materials.kinds import (
    Circumstance,
    MeltedClay,
    Release,
    Rubber,
    ShellMaterial,
)
from mildhusk.core.materials.traits import Trait

Judge = Callable[[AnyMaterial, AnyMaterial], PairVerdict]
"""Says how two materials get on."""


SOFTEST_TO_SPIN_SHORE_A = 20.0
"""Softer moulds cave in when they are spun (common practice, no source; usual is about 25)."""

SOFT_GLOVE_SHORE_A = 15.0
"""Up to here a still glove peels easily (common practice, no source)."""


class Purpose(StrEnum):
    """What the husk must do."""

    SHOWN = "shown"
    WORN = "worn"
    DROPPED = "dropped"
    SHATTERED = "shattered"
    SCULPTED = "sculpted"
    HUNG = "hung"
    FOAM_BACKED = "foam-backed"
    METAL_FACED = "metal-faced"


class Link(StrEnum):
    """The links of the chain, in the order in which they are decided."""

    CASTING = "casting"
    RUBBER = "rubber"
    MOULD = "mould"
    SHELL = "shell"
    RELEASE = "release"


class Standing(StrEnum):
    """Where a candidate stands."""

    TAKE = "take"
    POSSIBLE = "possible"
    EXCLUDED = "excluded"


@dataclass(frozen=True, slots=True)
class Task:
    """What is asked of the chain.

    Parameters
    ----------
    purpose : Purpose
    opening_girth_m, widest_girth_m : float
        Girth of the opening, and the widest girth behind it. [m]
    painted, spun : bool
        The cast is painted; the mould is spun on a machine.
    area_m2 : float
        Casting face. [m^2]
    master : AnyMaterial or None
        What the master is made of, when it is known.
    """

    purpose: Purpose
    opening_girth_m: float
    widest_girth_m: float
    painted: bool
    spun: bool
    area_m2: float = 0.15
    master: AnyMaterial | None = None

    def __post_init__(self) -> None:
        for name, value in (
            ("opening_girth_m", self.opening_girth_m),
            ("widest_girth_m", self.widest_girth_m),
        ):
            require_between(
                value,
                0.01,
                10.0,
                name=f"The {name[:-2].replace('_', ' ')}",
                field=name,
                error=ConditionError,
                shown_in="mm",
                scale=1e3,
            )
        require_between(
            self.area_m2,
            1e-4,
            20.0,
            name="The casting face",
            field="area_m2",
            error=ConditionError,
            shown_in="cm²",
            scale=1e4,
        )

    @property
    def needed_stretch(self) -> float:
        """Stretch of the opening for the widest girth to pass, 0.7 for 70 %. [1]"""
        return max(0.0, self.widest_girth_m / self.opening_girth_m - 1.0)


@dataclass(frozen=True, slots=True)
class Candidate:
    """A candidate of a link: where it stands, why, and how well it does (more is better)."""

    key: str
    name: str
    verdict: Standing
    reasons: tuple[str, ...]
    points: float


@dataclass(slots=True)
class _Judging:
    """Collects reasons and points for one candidate."""

    key: str
    name: str
    points: float = 0.0
    excluded: bool = False
    reasons: list[str] = field(default_factory=list)

    def say(self, reason: str, points: float = 0.0) -> None:
        self.reasons.append(reason)
        self.points += points

    def exclude(self, reason: str) -> None:
        self.excluded = True
        self.reasons.insert(0, reason)

    def meet(
        self,
        mine: AnyMaterial,
        other: AnyMaterial,
        judge: Judge,
        *,
        can_be_sealed: bool = False,
    ) -> None:
        """Judge against a neighbour; what is unknown is said to be so.

        A master can be sealed and tried with a dab: what it spoils is warned of, not excluded.
        """
        found = judge(mine, other)
        for rule in found.rules:
            if rule.severity is Verdict.FINE:
                self.say(rule.reason, 0.2)
            elif rule.severity in SPOILING and can_be_sealed:
                self.say(f"Beware of {other.name.lower()}: {rule.reason} {rule.remedy}", -3.0)
            elif rule.severity in SPOILING:
                self.exclude(f"With {other.name.lower()}: {rule.reason} {rule.remedy}")
            else:
                self.say(f"{rule.reason} {rule.remedy}", -1.0)
        if found.verdict is Verdict.UNKNOWN:
            self.say(f"With {other.name.lower()}: nothing is known; make a dab test.", -0.3)


def decide(
    task: Task,
    shelf: tuple[AnyMaterial, ...],
    judge: Judge,
    taken: dict[Link, str] | None = None,
) -> dict[Link, tuple[Candidate, ...]]:
    """Rank the candidates of every link, each in the light of those before it.

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
        Best first, the excluded last. The first that is not excluded (or the one taken) is `TAKE`.

    Raises
    ------
    ConditionError
        A taken key that is no candidate of its link.
    """
    chosen = taken or {}
    castables = [one for one in shelf if isinstance(one, CastingMaterial)]
    rubbers = [one for one in shelf if isinstance(one, Rubber)]
    decided: dict[Link, tuple[Candidate, ...]] = {}

    def settle(link: Link, judged: Iterable[_Judging]) -> str | None:
        decided[link] = _ranked(link, judged, chosen.get(link))
        return next((c.key for c in decided[link] if c.verdict is Standing.TAKE), None)

    cast_key = settle(Link.CASTING, (_judge_casting(task, one) for one in castables))
    resin = next((one for one in castables if one.key == cast_key), None)
    rubber_key = settle(Link.RUBBER, (_judge_rubber(task, one, resin, judge) for one in rubbers))
    rubber = next((one for one in rubbers if one.key == rubber_key), None)
    settle(Link.MOULD, _judge_moulds(task, rubber))
    settle(Link.SHELL, (_judge_shell(task, one) for one in shelf if isinstance(one, ShellMaterial)))
    paint = next(
        (o for o in shelf if isinstance(o, Circumstance) and Trait.PAINT_TO_COME in o.traits), None
    )
    settle(
        Link.RELEASE,
        (
            _judge_release(task, one, resin, rubber, paint, judge)
            for one in shelf
            if isinstance(one, Release)
        ),
    )
    return decided


def _ranked(link: Link, judged: Iterable[_Judging], chosen: str | None) -> tuple[Candidate, ...]:
    ranked = sorted(judged, key=lambda one: (one.excluded, -one.points, one.key))
    if chosen is not None and chosen not in {one.key for one in ranked}:
        known = ", ".join(one.key for one in ranked)
        raise ConditionError(f"'{chosen}' is no {link}; there are: {known}.", str(link))
    first = chosen or next((one.key for one in ranked if not one.excluded), None)

    def standing(one: _Judging) -> Standing:
        if one.key == first:
            return Standing.TAKE
        return Standing.EXCLUDED if one.excluded else Standing.POSSIBLE

    nearest = next((one.name for one in ranked if not one.excluded), None)
    return tuple(
        Candidate(
            key=one.key,
            name=one.name,
            verdict=standing(one),
            reasons=(
                *one.reasons,
                *([f"Nearest alternative: {nearest}."] if one.excluded and nearest else []),
            ),
            points=round(one.points, 2),
        )
        for one in ranked
    )


_WANTED: dict[Purpose, tuple[tuple[Trait, ...], tuple[Trait, ...]]] = {
    # purpose: traits that serve it, traits that rule a resin out
    Purpose.SHOWN: ((Trait.TINTABLE, Trait.CARVABLE), ()),
    Purpose.WORN: ((Trait.TOUGH, Trait.LIGHT, Trait.TINTABLE), (Trait.BRITTLE, Trait.GYPSUM)),
    Purpose.DROPPED: ((Trait.TOUGH, Trait.SOFT), (Trait.BRITTLE, Trait.GYPSUM)),
    Purpose.SHATTERED: ((Trait.BRITTLE,), (Trait.TOUGH, Trait.SOFT, Trait.LIGHT)),
    Purpose.SCULPTED: ((Trait.CARVABLE,), (Trait.SOFT,)),
    Purpose.HUNG: ((Trait.LIGHT, Trait.CARVABLE), ()),
    Purpose.FOAM_BACKED: ((Trait.FOAMS_ON,), (Trait.SOFT,)),
    Purpose.METAL_FACED: ((Trait.TAKES_METAL,), (Trait.SOFT,)),
}


def _judge_casting(task: Task, material: CastingMaterial) -> _Judging:
    made = _Judging(material.key, material.name)
    serves, ruled_out = _WANTED[task.purpose]
    for trait in serves:
        if trait in material.traits:
            made.say(f"It is {trait.replace('-', ' ')}, as a husk that is {task.purpose} wants.", 2)
    for trait in ruled_out:
        if trait in material.traits:
            made.exclude(f"It is {trait.replace('-', ' ')}: not for a husk that is {task.purpose}.")
    if not made.reasons:
        made.say(f"Nothing in it is made for a husk that is {task.purpose}.", -1)
    if isinstance(material, CastingResin):
        _judge_resin(task, material, made)
        density = material.density_cured_kg_m3
    else:
        _judge_clay(task, material, made)
        density = material.density_kg_m3
    per_litre = float(material.price_per_kg) * density / 1000.0
    made.say(
        f"A litre of wall costs {per_litre:.2f} and weighs {density / 1000.0:.2f} kg.",
        -per_litre / 20.0,
    )
    # Area by wall: near enough to choose by, the sheet counts it truly.
    litres = task.area_m2 * FIRST_WISH.wall_m * 1000.0
    made.say(
        f"A cast with a wall of {FIRST_WISH.wall_m * 1e3:g} mm takes material for about "
        f"{per_litre * litres:.2f} and weighs about {density / 1000.0 * litres:.2f} kg."
    )
    if material.hazards:
        made.say(material.hazards[0])
    return made


def _judge_resin(task: Task, resin: CastingResin, made: _Judging) -> None:
    # A square metre takes about this long to cover once by hand (assumed).
    covering = 60.0 + 300.0 * task.area_m2
    if resin.working_time_s < covering:
        made.say(
            f"Working time {resin.working_time_s:.0f} s against about {covering:.0f} s to mix and "
            f"cover {task.area_m2 * 1e4:.0f} cm²: several small charges, quick hands.",
            -1,
        )
    elif resin.working_time_s > 1800:
        made.say(f"It has to be rolled for {resin.gel_s / 60:.0f} min a coat.", -1)
    if Trait.SHRINKS in resin.traits:
        made.say(f"It shrinks visibly, by {resin.shrinkage * 100:.1f} %.", -0.5)


def _judge_clay(task: Task, clay: MeltedClay, made: _Judging) -> None:
    pour, cool = clay.pour_k - ZERO_CELSIUS_K, clay.cool_k - ZERO_CELSIUS_K
    made.say(
        f"Poured at {pour:.0f} °C and rolled as it thickens, it is clay again below {cool:.0f} °C: "
        "to be worked on, not to be used."
    )
    if task.purpose is not Purpose.SCULPTED:
        made.exclude(f"It stays soft: not for a husk that is {task.purpose}.")
    if task.painted:
        made.exclude("Paint never holds on oily clay.")


def _judge_rubber(
    task: Task, rubber: Rubber, resin: CastingMaterial | None, judge: Judge
) -> _Judging:
    made = _Judging(rubber.key, rubber.name)
    needed, allowed = task.needed_stretch, rubber.elongation / STRETCH_SAFETY
    numbers = (
        f"needed {needed * 100:.0f} %, allowed {allowed * 100:.0f} % "
        f"(elongation {rubber.elongation * 100:.0f} % by a safety of {STRETCH_SAFETY:g})"
    )
    if needed > allowed:
        made.exclude(f"It does not stretch over the widest girth: {numbers}.")
    else:
        made.say(f"It stretches enough: {numbers}.", min(2.0, allowed - needed))
    if task.spun and rubber.hardness_shore_a < SOFTEST_TO_SPIN_SHORE_A:
        made.exclude(
            f"Shore A {rubber.hardness_shore_a:.0f} caves in when it is spun; about 25 holds."
        )
    elif task.spun:
        made.say(f"Shore A {rubber.hardness_shore_a:.0f} holds its shape when it is spun.", 1)
    elif rubber.hardness_shore_a <= SOFT_GLOVE_SHORE_A:
        made.say(f"Shore A {rubber.hardness_shore_a:.0f} peels easily as a glove.", 1)
    made.say(
        f"It usually gives {rubber.life_casts} casts, tears at "
        f"{rubber.tear_n_m / 1000:.0f} kN/m, and shrinks {rubber.shrinkage * 100:.1f} %.",
        rubber.life_casts / 60.0 - 100.0 * rubber.shrinkage,
    )
    if task.master is not None:
        made.meet(rubber, task.master, judge, can_be_sealed=True)
    if resin is not None:
        made.meet(rubber, resin, judge)
    return made


def _judge_moulds(task: Task, rubber: Rubber | None) -> tuple[_Judging, ...]:
    """Both schools, each with what it costs."""
    glove, cut = _Judging("glove", "One-piece glove"), _Judging("cut", "Cut up the back")
    glove.say("No seam on the cast; it costs a longer peel and more stretch at every demould.", 1)
    cut.say("It opens without stretch; it costs a seam to dress on every cast, and a key line.")
    if rubber is None:
        glove.exclude("No rubber stretches over the widest girth: it has to be cut.")
    else:
        share = task.needed_stretch * STRETCH_SAFETY / rubber.elongation
        glove.say(f"The peel takes {share * 100:.0f} % of what the rubber allows.", 1.0 - share)
        if share > 0.7:
            cut.say("The glove would be near its limit: a cut saves the mould.", 1)
    return (glove, cut)


@dataclass(frozen=True, slots=True)
class ShellEffort:
    """What a shell takes: weight, work, price of the material."""

    kg: float
    hours: float
    price: float


def shell_effort(task: Task, shell: ShellMaterial) -> ShellEffort:
    """Estimate a support shell from the casting face alone."""
    # The shell stands outside the rubber: somewhat larger than the casting face (assumed).
    area = task.area_m2 * 1.3
    return ShellEffort(
        shell.mass_per_m2 * area, shell.hours_per_m2 * area, shell.price_per_m2 * area
    )


def _judge_shell(task: Task, shell: ShellMaterial) -> _Judging:
    made = _Judging(shell.key, shell.name)
    effort = shell_effort(task, shell)
    made.say(
        f"About {effort.kg:.1f} kg, {effort.hours:.1f} h of work, {effort.price:.2f} for "
        f"material; part after part sets in {shell.set_s / 60:.0f} min.",
        -effort.kg / 2.0 - effort.hours / 2.0 - effort.price / 40.0,
    )
    if task.spun and not shell.bolts_on:
        made.exclude("It carries no bolts, and a machine wants them.")
    elif task.spun:
        made.say("It bolts to the machine.", 1)
    if shell.hazards:
        made.say(shell.hazards[0], -0.3 * len(shell.hazards))
    return made


def _judge_release(
    task: Task,
    release: Release,
    resin: CastingMaterial | None,
    rubber: Rubber | None,
    paint: AnyMaterial | None,
    judge: Judge,
) -> _Judging:
    made = _Judging(release.key, release.name)
    if task.painted and not release.paintable:
        made.exclude("Paint never holds on a cast that was released with it.")
    if resin is not None:
        if set(release.works_on) & set(resin.traits):
            made.say(f"It releases {resin.name.lower()}.", 1)
        else:
            made.exclude(f"It is not made to release {resin.name.lower()}.")
        if release.traits:
            made.meet(release, resin, judge)
    if not release.traits and rubber is not None:
        made.say(
            "A good rubber needs none for its first run; it costs life of the mould later.", 0.5
        )
    if task.painted and paint is not None and release.traits:
        made.meet(release, paint, judge)
    if release.drying_s:
        made.say(
            f"It dries for {release.drying_s / 60:.0f} min, then washes off with "
            f"{release.washes_off_with}.",
            -release.drying_s / 7200.0,
        )
    return made
