"""Where practitioners disagree: both ways side by side, with what each gains and costs."""

from dataclasses import dataclass

from mildhusk.core.casting.wish import FIRST_WISH
from mildhusk.core.choosing.judging import shell_effort
from mildhusk.core.choosing.task import Candidate, Link, Standing, Task
from mildhusk.core.materials.casting_resin import CastingResin, RatioBasis
from mildhusk.core.materials.catalogue import AnyMaterial
from mildhusk.core.materials.kinds import Release, Rubber, ShellMaterial
from mildhusk.core.materials.traits import Trait
from mildhusk.core.mixing.cup import MIXING_CUP, reading_error
from mildhusk.core.mixing.split import split_charge

_SCALE_STEP_KG = 1e-4
_CUP_MARK_M3 = 1e-6
# Looking at a liquid against a line on a cup (common practice, no source).
_MISREAD_M = 0.001
# A skin of two coats behind which foam rises to this much, as it is bought (assumed).
_FOAM_SKIN_M, _FOAM_M, _FOAM_KG_M3 = 0.0015, 0.015, 90.0
# Half a millimetre of gel coat, plies of 450 g/m2 that take two thirds of resin (common practice,
# no source).
_GEL_COAT_KG_M2, _PLIES, _GLASS_KG_M2, _GLASS_SHARE = 0.6, 2, 0.45, 0.33


@dataclass(frozen=True, slots=True)
class Way:
    """One way to do it."""

    name: str
    gains: tuple[str, ...]
    costs: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Disagreement:
    """A question practitioners answer differently, and the ways they answer it."""

    id: str
    question: str
    ways: tuple[Way, ...]


def disagreements(
    task: Task, shelf: tuple[AnyMaterial, ...], decided: dict[Link, tuple[Candidate, ...]]
) -> tuple[Disagreement, ...]:
    """Lay both ways of each disagreement side by side.

    Parameters
    ----------
    task : Task
    shelf : tuple of AnyMaterial
    decided : dict of Link to tuple of Candidate
        What the chain came to; a link without a taker leaves out what hangs on it.

    Returns
    -------
    tuple of Disagreement
    """
    taken = {c.key for link in decided.values() for c in link if c.verdict is Standing.TAKE}
    resin = next((m for m in shelf if isinstance(m, CastingResin) and m.key in taken), None)
    rubber = next((m for m in shelf if isinstance(m, Rubber) and m.key in taken), None)
    made = []
    if resin is not None:
        made = [_weigh_or_measure(task, resin), _wall_or_foam(task, resin)]
        made += _roll_or_laminate(task, resin, [m for m in shelf if isinstance(m, CastingResin)])
    made += [] if rubber is None else [_glove_or_cut(task, rubber)]
    made += _bandage_or_laminate(task, [m for m in shelf if isinstance(m, ShellMaterial)])
    if rubber is not None:
        made.append(_release_or_none(rubber, [m for m in shelf if isinstance(m, Release)]))
    return tuple(made)


def _weigh_or_measure(task: Task, resin: CastingResin) -> Disagreement:
    coat_kg = task.area_m2 * resin.coat_wall_m * resin.density_cured_kg_m3
    charge = split_charge(resin, coat_kg, _SCALE_STEP_KG, _CUP_MARK_M3)
    part_kg, part_m3 = min(charge.a_kg, charge.b_kg), min(charge.a_m3, charge.b_m3)
    by_weight = (
        f"One step of a scale that shows 0.1 g is {_SCALE_STEP_KG / part_kg * 100:.2f} % of the "
        f"smaller part ({part_kg * 1e3:.0f} g)."
    )
    off = reading_error(MIXING_CUP, part_m3, _MISREAD_M)
    by_volume = (
        f"The smaller part ({part_m3 * 1e6:.0f} ml) does not fit one cup."
        if off is None
        else f"Misreading the cup by 1 mm is {off * 100:.1f} % of the smaller part "
        f"({part_m3 * 1e6:.0f} ml)."
    )
    sheet = (
        "The data sheet gives the ratio by weight"
        if resin.ratio_basis is RatioBasis.WEIGHT
        else "The data sheet gives the ratio by volume"
    )
    against = "the other is worked out through the two densities and inherits their error."
    return Disagreement(
        "weigh-or-measure",
        "Weigh A and B, or measure them by volume?",
        (
            Way("Weigh", (by_weight,), ("A scale at the bench, and the cup tared for each part.",)),
            Way(
                "Measure by volume",
                ("No scale; two cups with a mark each.",),
                (by_volume, f"{sheet}: {against}"),
            ),
        ),
    )


def _wall_or_foam(task: Task, resin: CastingResin) -> Disagreement:
    density = resin.density_cured_kg_m3
    wall_kg = task.area_m2 * FIRST_WISH.wall_m * density
    skin_kg = task.area_m2 * _FOAM_SKIN_M * density
    foam_kg = task.area_m2 * _FOAM_M * _FOAM_KG_M3
    feet = ("The foam heats as it rises and pushes: a shell round the mould, small pours.",)
    grips = Trait.FOAMS_ON in resin.traits
    return Disagreement(
        "wall-or-foam",
        "A wall of resin, or a thin skin backed with rigid foam?",
        (
            Way(
                "Wall",
                (f"Hollow to be worn; about {wall_kg * 1e3:.0f} g at "
                 f"{FIRST_WISH.wall_m * 1e3:g} mm.",),
                ("More coats, more resin.",),
            ),
            Way(
                "Foam",
                (f"About {(skin_kg + foam_kg) * 1e3:.0f} g: a skin of {_FOAM_SKIN_M * 1e3:g} mm "
                 f"and {_FOAM_M * 1e3:g} mm of foam; it does not ring hollow.",),
                (*feet, "Foam grips this resin." if grips else
                 "Foam is not known to grip this resin: key the skin, or make a dab test."),
            ),
        ),
    )  # fmt: skip


def _roll_or_laminate(
    task: Task, resin: CastingResin, resins: list[CastingResin]
) -> list[Disagreement]:
    laminating = [one for one in resins if {Trait.POLYESTER, Trait.EPOXY} & set(one.traits)]
    if not laminating:
        return []
    best = min(laminating, key=lambda one: one.price_per_kg)
    rolled_kg = task.area_m2 * FIRST_WISH.wall_m * resin.density_cured_kg_m3
    laid_kg = task.area_m2 * (_GEL_COAT_KG_M2 + _PLIES * _GLASS_KG_M2 / _GLASS_SHARE)
    return [
        Disagreement(
            "roll-or-laminate",
            "Roll the resin, or brush a gel coat and lay glass behind it?",
            (
                Way(
                    "Roll",
                    ("No fibres to cut and wet, inside as smooth as it runs.",),
                    (f"About {rolled_kg * 1e3:.0f} g at {FIRST_WISH.wall_m * 1e3:g} mm.",),
                ),
                Way(
                    "Gel coat and laminate",
                    (f"About {laid_kg * 1e3:.0f} g with {_PLIES} plies of glass, stiff and tough; "
                     "the wall is even, nothing runs.",),
                    (f"In {best.name.lower()}: every ply rolled free of air by hand, deep "
                     "undercuts hardly reached.", *best.hazards[:1],
                     "Fibres and laminate edges are needle-sharp; their dust harms the lungs."),
                ),
            ),
        )
    ]  # fmt: skip


def _glove_or_cut(task: Task, rubber: Rubber) -> Disagreement:
    share = task.needed_stretch / rubber.elongation
    return Disagreement(
        "glove-or-cut",
        "A one-piece glove, or cut up the back?",
        (
            Way(
                "Glove",
                ("No seam to dress on any cast.",),
                (
                    f"Every demould stretches the opening by {task.needed_stretch * 100:.0f} %, "
                    f"{share * 100:.0f} % of what the rubber bears at all.",
                ),
            ),
            Way(
                "Cut",
                ("It opens without stretch, and a stiff rubber lives longer.",),
                ("A seam to sand on every cast, and a cut that must be seated each time.",),
            ),
        ),
    )


def _bandage_or_laminate(task: Task, shells: list[ShellMaterial]) -> list[Disagreement]:
    bandages = [one for one in shells if Trait.GYPSUM in one.traits]
    laminates = [one for one in shells if Trait.GYPSUM not in one.traits]
    if not bandages or not laminates:
        return []
    ways = []
    for name, kind, gains in (
        ("Bandage", bandages, "Sets in minutes, forgives, little to buy."),
        ("Laminate", laminates, "Light, bolts together, keeps for years."),
    ):
        best = min(kind, key=lambda one: one.price_per_m2)
        effort = shell_effort(task, best)
        numbers = (
            f"{best.name}: about {effort.kg:.1f} kg, {effort.hours:.1f} h and {effort.price:.2f} "
            "for material."
        )
        ways.append(Way(name, (gains,), (numbers, *best.hazards[:1])))
    return [Disagreement("bandage-or-laminate", "A bandage shell, or a laminate?", tuple(ways))]


def _release_or_none(rubber: Rubber, releases: list[Release]) -> Disagreement:
    drying = min((one.drying_s for one in releases if one.traits and one.drying_s), default=0.0)
    return Disagreement(
        "release-or-none",
        "Release the mould, or cast into bare rubber?",
        (
            Way(
                "Release",
                (f"The rubber lives longer than its usual {rubber.life_casts} casts.",),
                (
                    f"At least {drying / 60:.0f} min of drying before every cast, and every cast "
                    "has to be washed before paint.",
                ),
            ),
            Way(
                "None",
                ("Nothing between rubber and resin: the finest surface, and paint holds.",),
                ("The rubber wears from the first cast on; talc helps, release comes later.",),
            ),
        ),
    )
