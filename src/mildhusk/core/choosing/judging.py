"""What speaks for and against each candidate of a link, in sentences and points."""

from dataclasses import dataclass, field

from mildhusk.core.casting.wish import FIRST_WISH
from mildhusk.core.choosing.task import (
    FAST_S,
    HARDEST_TO_PEEL_SHORE_A,
    LONG_ON_A_MACHINE_S,
    SOFT_GLOVE_SHORE_A,
    SOFTEST_TO_SPIN_SHORE_A,
    Judge,
    Purpose,
    Task,
)
from mildhusk.core.constants import STRETCH_SAFETY, ZERO_CELSIUS_K
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.catalogue import AnyMaterial, CastingMaterial
from mildhusk.core.materials.compatibility import SPOILING, Verdict
from mildhusk.core.materials.kinds import MeltedClay, Release, Rubber, Sealer, ShellMaterial
from mildhusk.core.materials.traits import Trait


@dataclass(slots=True)
class Judging:
    """Collects reasons and points for one candidate."""

    key: str
    name: str
    points: float = 0.0
    excluded: bool = False
    reasons: list[str] = field(default_factory=list)

    def say(self, reason: str, points: float = 0.0) -> None:
        """Give a reason, and what it counts for or against."""
        self.reasons.append(reason)
        self.points += points

    def exclude(self, reason: str) -> None:
        """Rule it out, for a reason that comes first."""
        self.excluded = True
        self.reasons.insert(0, reason)

    def meet(self, mine: AnyMaterial, other: AnyMaterial, judge: Judge) -> None:
        """Judge against a neighbour; what is unknown is said to be so."""
        found = judge(mine, other)
        for rule in found.rules:
            if rule.severity is Verdict.FINE:
                self.say(rule.reason, 0.2)
            elif rule.severity in SPOILING:
                self.exclude(f"With {other.name.lower()}: {rule.reason} {rule.remedy}")
            else:
                self.say(f"{rule.reason} {rule.remedy}", -1.0)
        if found.verdict is Verdict.UNKNOWN:
            self.say(f"With {other.name.lower()}: nothing is known; make a dab test.", -0.3)


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


def judge_casting(task: Task, material: CastingMaterial) -> Judging:
    """Judge a resin or a melted clay by what the husk must do."""
    made = Judging(material.key, material.name)
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


def _judge_resin(task: Task, resin: CastingResin, made: Judging) -> None:
    # A square metre takes about this long to cover once by hand (assumed).
    covering = 60.0 + 300.0 * task.area_m2
    if resin.working_time_s < covering and not task.spun:
        made.say(
            f"Working time {resin.working_time_s:.0f} s against about {covering:.0f} s to mix and "
            f"cover {task.area_m2 * 1e4:.0f} cm²: several small charges, quick hands.",
            -1,
        )
    elif resin.working_time_s > 1800:
        made.say(f"It has to be rolled for {resin.gel_s / 60:.0f} min a coat.", -1)
    if task.spun and resin.working_time_s > LONG_ON_A_MACHINE_S:
        made.say("On a machine a coat of it turns for hours; a fast resin is done in minutes.", -2)
    elif task.spun and resin.working_time_s <= FAST_S:
        made.say("On a machine it lands in a few quick coats.", 2)
    if Trait.SHRINKS in resin.traits:
        worn = task.purpose is Purpose.WORN
        said = ", and what is worn has to keep its size" if worn else ""
        made.say(
            f"It shrinks visibly, by {resin.shrinkage * 100:.1f} %{said}.", -2 if worn else -0.5
        )


def _judge_clay(task: Task, clay: MeltedClay, made: Judging) -> None:
    pour, cool = clay.pour_k - ZERO_CELSIUS_K, clay.cool_k - ZERO_CELSIUS_K
    made.say(
        f"Poured at {pour:.0f} °C and rolled as it thickens, it is clay again below {cool:.0f} °C: "
        "to be worked on, not to be used."
    )
    if task.purpose is Purpose.SCULPTED:
        made.say("Whoever models in clay goes on in clay: it joins to more of itself.", 1)
    else:
        made.exclude(f"It stays soft: not for a husk that is {task.purpose}.")
    if task.painted:
        made.exclude("Paint never holds on oily clay.")


def judge_rubber(
    task: Task, rubber: Rubber, resin: CastingMaterial | None, judge: Judge
) -> Judging:
    """Judge a rubber by stretch, spinning, what the master is made of, and what is cast in it.

    Parameters
    ----------
    task : Task
    rubber : Rubber
    resin : CastingMaterial or None
    judge : Judge

    Returns
    -------
    Judging
    """
    made = Judging(rubber.key, rubber.name)
    needed, allowed = task.needed_stretch, rubber.elongation / STRETCH_SAFETY
    numbers = (
        f"needed {needed * 100:.0f} %, allowed {allowed * 100:.0f} % "
        f"(elongation {rubber.elongation * 100:.0f} % by a safety of {STRETCH_SAFETY:g})"
    )
    if needed > allowed and not task.cut:
        made.exclude(f"It does not stretch over the widest girth: {numbers}.")
    elif needed > allowed:
        made.say(f"It does not stretch over the widest girth: {numbers}. The mould is cut.", -1)
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
    if rubber.hardness_shore_a > HARDEST_TO_PEEL_SHORE_A:
        made.say(f"Shore A {rubber.hardness_shore_a:.0f} hardly bends: made for blocks.", -1.5)
    made.say(
        f"It usually gives {rubber.life_casts} casts, tears at "
        f"{rubber.tear_n_m / 1000:.0f} kN/m, and shrinks {rubber.shrinkage * 100:.1f} %.",
        rubber.life_casts / 60.0 - 100.0 * rubber.shrinkage,
    )
    if task.master is not None:
        made.meet(rubber, task.master, judge)
    if resin is not None:
        made.meet(rubber, resin, judge)
    return made


def judge_moulds(task: Task, rubber: Rubber | None) -> tuple[Judging, ...]:
    """Both schools, each with what it costs."""
    glove, cut = Judging("glove", "One-piece glove"), Judging("cut", "Cut up the back")
    glove.say("No seam on the cast; it costs a longer peel and more stretch at every demould.", 1)
    cut.say("It opens without stretch; it costs a seam to dress on every cast, and a key line.")
    allowed = 0.0 if rubber is None else rubber.elongation / STRETCH_SAFETY
    if rubber is None or task.needed_stretch > allowed:
        glove.exclude("The rubber does not stretch over the widest girth: it has to be cut.")
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


def judge_shell(task: Task, shell: ShellMaterial) -> Judging:
    """Judge a shell by weight, work, price, and whether it bolts to a machine."""
    made = Judging(shell.key, shell.name)
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


NO_SEALER = "sealer-none"
_POROUS = {Trait.WATER_CLAY, Trait.DAMP, Trait.GYPSUM}


def judge_sealers(
    task: Task, sealers: tuple[Sealer, ...], rubber: Rubber | None, judge: Judge
) -> tuple[Judging, ...]:
    """Judge what stands between master and rubber: nothing, or a sealer of the shelf.

    Parameters
    ----------
    task : Task
    sealers : tuple of Sealer
    rubber : Rubber or None
    judge : Judge

    Returns
    -------
    tuple of Judging
    """
    porous = task.master is not None and bool(_POROUS & set(task.master.traits))
    none = Judging(NO_SEALER, "No sealer")
    if porous and task.master is not None:
        none.exclude(f"{task.master.name} is porous or damp: the rubber would lock into it.")
    else:
        none.say("Nothing is porous; the master keeps its detail and its gloss.", 1)
    made = [none]
    for sealer in sealers:
        one = Judging(sealer.key, sealer.name)
        if porous:
            one.say("It closes the pores; thin coats, so that no detail drowns.", 1)
        else:
            one.say("The master needs none: it only fills detail.", -1)
        if task.master is not None:
            one.meet(sealer, task.master, judge)
        if rubber is not None:
            one.meet(sealer, rubber, judge)
        one.say(
            f"It dries for {sealer.drying_s / 60:.0f} min before rubber goes on.",
            -sealer.drying_s / 14_400.0,
        )
        made.append(one)
    return tuple(made)


def judge_release(
    task: Task,
    release: Release,
    resin: CastingMaterial | None,
    rubber: Rubber | None,
    paint: AnyMaterial | None,
    judge: Judge,
) -> Judging:
    """Judge a release by resin, rubber and paint.

    Parameters
    ----------
    task : Task
    release : Release
    resin : CastingMaterial or None
    rubber : Rubber or None
    paint : AnyMaterial or None
        What stands for paint that is to come.
    judge : Judge

    Returns
    -------
    Judging
    """
    made = Judging(release.key, release.name)
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
