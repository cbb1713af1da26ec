"""What to know of a planned mould before the first brush stroke."""

from collections.abc import Iterator

from mildhusk.core.findings import Finding, Rule, Severity, findings_of
from mildhusk.core.mould.plan import MouldPlan
from mildhusk.core.mould.shells import FILLER_DENSITY_KG_M3
from mildhusk.core.mould.study import MouldWay
from mildhusk.core.wording import Unit, sentence

# Filler is told when it is more than this of the rubber.
_TELLS_FILLER = 0.03
# A blanket rolled between sticks agrees with the face so well (assumed).
_CLAY_AGREES = 0.08


def mould_findings(plan: MouldPlan) -> tuple[Finding, ...]:
    """Return the findings of a mould, the gravest first."""
    return findings_of(_RULES, plan)


def _peels(plan: MouldPlan) -> Iterator[Finding]:
    if not plan.study.peel.lets_go and plan.wish.way is not MouldWay.BLOCK:
        yield Finding(
            "cut",
            Severity.WARNING,
            sentence(
                "The glove needs {needed} of stretch and the rubber allows {allowed}: cut it "
                "{cut} up from the rim, wavy outside and straight near the face.",
                needed=(plan.study.peel.needed, Unit.SHARE),
                allowed=(plan.study.peel.allowed, Unit.SHARE),
                cut=(plan.study.peel.cut_m, Unit.LENGTH),
            ),
        )


def _locks(plan: MouldPlan) -> Iterator[Finding]:
    needs_shell = plan.wish.way is not MouldWay.BLOCK
    filler_kg = plan.split.filler_m3 * FILLER_DENSITY_KG_M3
    if needs_shell and filler_kg > _TELLS_FILLER * plan.rubber_kg:
        yield Finding(
            "filler",
            Severity.WARNING,
            sentence(
                "{locked} of the rubber would lock the shell; {filler} of thickened rubber or "
                "clay in the hollows frees it.",
                locked=(plan.split.locked_m2, Unit.AREA),
                filler=(plan.split.filler_m3, Unit.VOLUME),
            ),
        )


def _fills(plan: MouldPlan) -> Iterator[Finding]:
    for place in plan.study.filled[:3]:
        yield Finding(
            "filled-gap",
            Severity.NOTE,
            sentence(
                "A gap of {width} is narrower than two walls: the rubber fills it, {volume}.",
                width=(place.width_m, Unit.LENGTH),
                volume=(place.volume_m3, Unit.VOLUME),
            ),
        )


def _sags(plan: MouldPlan) -> Iterator[Finding]:
    for coat in plan.coats:
        if coat.thickness_m > coat.sag_m * (1.0 + 1e-6):
            yield Finding(
                "sags",
                Severity.WARNING,
                sentence(
                    "Coat {number} of {thick} sags: the steepest place holds {holds}.",
                    number=(coat.number, Unit.COUNT),
                    thick=(coat.thickness_m, Unit.LENGTH),
                    holds=(coat.sag_m, Unit.LENGTH),
                ),
            )


def _fits_the_cup(plan: MouldPlan) -> Iterator[Finding]:
    batches = max((coat.batches for coat in plan.coats), default=1)
    if batches > 1:
        yield Finding(
            "batches",
            Severity.NOTE,
            sentence(
                "Brushing a coat takes longer than the pot life of {pot}: mix it in {count} cups.",
                pot=(plan.wish.rubber.pot_life_s, Unit.TIME),
                count=(batches, Unit.COUNT),
            ),
        )


def _runs_in_time(plan: MouldPlan) -> Iterator[Finding]:
    if plan.blanket is not None and not plan.blanket.in_time:
        yield Finding(
            "slow-fill",
            Severity.WARNING,
            sentence(
                "Filling takes {fill} and the pot life is {pot}: use two tubes, or thinner rubber.",
                fill=(plan.blanket.fill_s, Unit.TIME),
                pot=(plan.wish.rubber.pot_life_s, Unit.TIME),
            ),
        )


def _is_lifted(plan: MouldPlan) -> Iterator[Finding]:
    if not plan.lift.alone:
        yield Finding(
            "lift",
            Severity.WARNING,
            sentence(
                "It weighs {weight}; one person should lift {limit} of this size at most "
                "(revised NIOSH lifting equation). Lift it with two, by its handles.",
                weight=(plan.lift.weight_kg, Unit.MASS),
                limit=(plan.lift.limit_kg, Unit.MASS),
            ),
        )


def _is_turned(plan: MouldPlan) -> Iterator[Finding]:
    if not plan.hanging.carried:
        yield Finding(
            "machine",
            Severity.WARNING,
            sentence(
                "The machine carries {limit}, this weighs {weight}: turn it by hand, or take a "
                "lighter shell.",
                limit=(plan.hanging.limit_kg, Unit.MASS),
                weight=(plan.hanging.weight_kg, Unit.MASS),
            ),
        )


def _keeps_windows(plan: MouldPlan) -> Iterator[Finding]:
    late = [step for step in plan.steps if step.late]
    if late:
        yield Finding(
            "late",
            Severity.WARNING,
            sentence(
                "{count} steps fall after their window closes, the first is a coat of rubber: "
                "begin earlier in the day, or scuff and brush on a thin new print coat.",
                count=(float(len(late)), Unit.COUNT),
            ),
        )


def _saves_rubber(plan: MouldPlan) -> Iterator[Finding]:
    if plan.wish.way is MouldWay.BLOCK and plan.study.block.saved_m3 > 0.0:
        yield Finding(
            "outline",
            Severity.NOTE,
            sentence(
                "A box that follows the outline saves {saved} of rubber against a straight one.",
                saved=(plan.study.block.saved_m3 * plan.wish.rubber.density_kg_m3, Unit.MASS),
            ),
        )


def _soft_places_help(plan: MouldPlan) -> Iterator[Finding]:
    for one in plan.patches:
        soft, main = one.patch.rubber, plan.wish.rubber
        if soft.cure is not main.cure:
            yield Finding(
                "soft-place-bond",
                Severity.WARNING,
                sentence(
                    f"The rubber of '{one.patch.name}' cures another way than the mould's: the two "
                    "may not bond, or one may keep the other from curing. Take both of one kind."
                ),
            )
        elif soft.hardness_shore_a >= main.hardness_shore_a:
            yield Finding(
                "soft-place-hard",
                Severity.NOTE,
                sentence(
                    f"The rubber of '{one.patch.name}' is no softer than the mould's: it helps "
                    "nothing to let go. Take a softer one, or leave the place out."
                ),
            )


def _clay_differs(plan: MouldPlan) -> Iterator[Finding]:
    clay, measured = plan.wish.clay_m3, plan.study.curve.volume(plan.study.wall_m)
    if clay is None or abs(clay / measured - 1.0) <= _CLAY_AGREES:
        return
    yield Finding(
        "clay",
        Severity.NOTE,
        sentence(
            "The clay comes to {clay} and an even blanket of {wall} to {measured}: the clay is "
            "taken; look where it lay thick or thin.",
            clay=(clay, Unit.VOLUME),
            wall=(plan.study.wall_m, Unit.LENGTH),
            measured=(measured, Unit.VOLUME),
        ),
    )


_RULES: tuple[Rule[MouldPlan], ...] = (
    _peels,
    _locks,
    _fills,
    _sags,
    _fits_the_cup,
    _runs_in_time,
    _is_lifted,
    _is_turned,
    _keeps_windows,
    _saves_rubber,
    _clay_differs,
    _soft_places_help,
)
