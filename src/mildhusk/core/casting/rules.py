"""Rules over a planned cast: what a maker should know before mixing."""

from collections.abc import Iterator
from dataclasses import replace
from typing import TYPE_CHECKING

from mildhusk.core.casting.coats import coat_count
from mildhusk.core.casting.limits import Limit
from mildhusk.core.casting.timeline import ready_for_next_s
from mildhusk.core.casting.wish import USUAL
from mildhusk.core.constants import MIXING_TIME_S, ZERO_CELSIUS_K
from mildhusk.core.cure.classes import Danger
from mildhusk.core.cure.clock import coat_clock
from mildhusk.core.findings import Action, Finding, Rule, Severity
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.mixing.recipe import filler_volume_share, thickened_by
from mildhusk.core.wording import Unit, sentence

if TYPE_CHECKING:
    from mildhusk.core.casting.plan import CastSheet

# Below this share of the face the inside has shrunk so much that Steiner's formula is stretched.
_TIGHT_INSIDE = 0.5
# Honey runs so; thicker is spread with a brush (common practice, no source).
_HARD_TO_ROLL_PA_S = 10.0
_HEAVY_TO_WEAR_KG = 1.2
_MANY_COATS = 8
_HANDS = {1: "one pair of hands", 2: "two pairs of hands"}
USUAL_THIN_SHARE = 0.65
"""Of a rolled wall's mean, what 95 % of the face has at least, as real pieces are simulated on a
machine (assumed). [1]"""
_NEARLY, _DRIPS = 1.05, 0.02
_SOONER = 0.95
_USUAL_ROOM_K = (15.0 + ZERO_CELSIUS_K, 30.0 + ZERO_CELSIUS_K)


def _resin(sheet: "CastSheet") -> CastingResin:
    assert isinstance(sheet.as_on_shelf, CastingResin)
    return sheet.as_on_shelf


def _uneven_wall(sheet: "CastSheet") -> Iterator[Finding]:
    """Tell how thin a wall gets of which it is not said how it is turned."""
    thin_m = sheet.planned_wall_m * USUAL_THIN_SHARE
    if sheet.uneven is not None or sheet.way.mends_thin_places or thin_m >= sheet.wish.wall_m:
        return
    yield Finding(
        "uneven-wall",
        Severity.NOTE,
        sentence(
            "Rolled walls come out uneven: poured for a mean of {wall}, thin places will be about "
            "{thin}. Say how the mould is turned, and its coats are simulated.",
            wall=(sheet.planned_wall_m, Unit.LENGTH),
            thin=(thin_m, Unit.LENGTH),
        ),
        Action(sentence("Turn it as is usual"), "motion", USUAL),
    )


def _stays_thin(sheet: "CastSheet") -> Iterator[Finding]:
    """Tell what stays thinner than is wished for, and what mends it."""
    wall, wish = sheet.wall, sheet.wish
    if wall is None or wall.share_under <= _NEARLY * wish.least.share_under:
        return
    at = f", most of it at: {wall.thin[0].place}" if wall.thin else ""
    yield Finding(
        "stays-thin",
        Severity.WARNING,
        sentence(
            f"{{share}} of the face stays under {{wall}}{at}. About {{paste}} of paste fills it; a "
            "lid, a machine or a slower resin would even it.",
            share=(wall.share_under, Unit.SHARE),
            wall=(wish.wall_m, Unit.LENGTH),
            paste=(wall.paste_kg, Unit.MASS),
        ),
    )


def _runs_over(sheet: "CastSheet") -> Iterator[Finding]:
    """Tell what runs over the rim, where that is more than drips."""
    wall = sheet.wall
    if wall is None or wall.spilt_kg <= _DRIPS * sheet.total_charge_kg:
        return
    yield Finding(
        "runs-over",
        Severity.WARNING,
        sentence(
            "{spilt} of {total} run over the rim: put a lid on, draw the rim inwards by a ledge, "
            "or pour more and lighter coats.",
            spilt=(wall.spilt_kg, Unit.MASS),
            total=(sheet.total_charge_kg, Unit.MASS),
        ),
    )


def _more_coats(sheet: "CastSheet") -> Iterator[Finding]:
    """Tell which limit made more coats than the wall needs."""
    if not sheet.way.explains_more_coats or not sheet.fits:
        return
    carried = sheet.way.carried_m(sheet.pourable.coat_wall_m)
    usual = coat_count(sheet.planned_wall_m, carried)
    if len(sheet.coats) <= usual:
        return
    limits = sheet.limits
    limit = min((Limit.TIME, Limit.RIM, Limit.CUP), key=limits.at)
    why = {
        Limit.TIME: "only {most} can be mixed and spread in its working time",
        Limit.RIM: "more than {most} runs out over the rim",
        Limit.CUP: "the cups hold {most} with room to stir",
    }[limit]
    yield Finding(
        "more-coats",
        Severity.NOTE,
        sentence(
            f"The wall alone would take {{usual}} coats; there are {{count}}, because {why}.",
            usual=(usual, Unit.COUNT),
            count=(len(sheet.coats), Unit.COUNT),
            most=(limits.at(limit), Unit.MASS),
        ),
    )


def _tack_missed(sheet: "CastSheet") -> Iterator[Finding]:
    hands = sheet.wish.hands
    for coat in sheet.coats[:-1]:
        poured = ready_for_next_s(coat.clock, hands) + MIXING_TIME_S
        if poured <= coat.clock.next_until_s:
            continue
        saved = ready_for_next_s(coat.clock, 2) + MIXING_TIME_S <= coat.clock.next_until_s
        yield Finding(
            "tack-missed",
            Severity.WARNING,
            sentence(
                f"Coat {{number}} takes the next one until {{until}}, but with {_HANDS[hands]} it "
                "is weighed and mixed at {poured}: scuff it, or weigh all cups beforehand.",
                number=(coat.number, Unit.COUNT),
                until=(coat.clock.next_until_s, Unit.TIME),
                poured=(poured, Unit.TIME),
            ),
            Action(sentence("Pour it with two"), "hands", 2.0) if saved and hands == 1 else None,
        )
        return


def _thick_mix(sheet: "CastSheet") -> Iterator[Finding]:
    extras = sheet.wish.extras
    if extras.filler == 0.0:
        return
    share = filler_volume_share(_resin(sheet).density_cured_kg_m3, extras)
    times = thickened_by(share)
    thick = _resin(sheet).viscosity_pa_s * times
    hard = thick > _HARD_TO_ROLL_PA_S
    yield Finding(
        "filled",
        Severity.WARNING if hard else Severity.NOTE,
        sentence(
            "With filler, {share} of the volume, the mix is {times} times as thick: {thick}."
            + (" It hardly runs: take less, or brush it in." if hard else ""),
            share=(share, Unit.SHARE),
            times=(times, Unit.COUNT),
            thick=(thick, Unit.VISCOSITY),
        ),
    )


def _of_the_school(sheet: "CastSheet") -> Iterator[Finding]:
    yield from sheet.way.findings(sheet)


def _short_tack_window(sheet: "CastSheet") -> Iterator[Finding]:
    length = min(one.clock.next_until_s - one.clock.next_from_s for one in sheet.coats)
    if len(sheet.coats) > 1 and length < MIXING_TIME_S + sheet.conditions.spread_s:
        yield Finding(
            "short-tack-window",
            Severity.WARNING,
            sentence(
                "The tack window is only {length} long: have the next cup weighed before it opens, "
                "or the coats may not bond.",
                length=(length, Unit.TIME),
            ),
        )


def _odd_room(sheet: "CastSheet") -> Iterator[Finding]:
    low, high = _USUAL_ROOM_K
    room = sheet.wish.room_temperature_k
    if not low <= room <= high:
        yield Finding(
            "odd-room",
            Severity.WARNING,
            sentence(
                "{room} is outside {low} to {high}, where the times are trusted: try a small cup "
                "first and watch it gel.",
                room=(room, Unit.TEMPERATURE),
                low=(low, Unit.TEMPERATURE),
                high=(high, Unit.TEMPERATURE),
            ),
        )


def _big_cup(sheet: "CastSheet") -> Iterator[Finding]:
    # The solver is slow to load, and rules are listed without it.
    from mildhusk.core.cure.data_sheet import retimed

    charge_kg, resin = sheet.heaviest.reacts_kg, retimed(_resin(sheet), sheet.wish.time_factor)
    if charge_kg <= 2.0 * resin.standard_mass_kg:
        return
    standard = coat_clock(
        resin, replace(sheet.conditions, cups=1), resin.standard_mass_kg, sheet.heaviest.wall_m
    )
    if sheet.heaviest.clock.working_time_s < _SOONER * standard.working_time_s:
        yield Finding(
            "cup-goes-off-sooner",
            Severity.NOTE,
            sentence(
                "The data sheet's times hold for {standard} in a cup; {charge} heat up more and go "
                "off sooner. Pour without delay.",
                standard=(_resin(sheet).standard_mass_kg, Unit.MASS),
                charge=(charge_kg, Unit.MASS),
            ),
        )


def _hot_mix(sheet: "CastSheet") -> Iterator[Finding]:
    """Tell how long a full cup may stand and how deep a puddle may lie."""
    # The solver is slow to load, and rules are listed without it.
    from mildhusk.core.cure.data_sheet import retimed
    from mildhusk.core.cure.heat import passed_in_cup, puddle_limit
    from mildhusk.core.cure.model import cup_course

    at, resin = sheet.conditions, retimed(_resin(sheet), sheet.wish.time_factor)
    mass_kg = sheet.heaviest.reacts_kg / at.cups
    cup = cup_course(resin, mass_kg, at.parts_k, at.room_k, at.catalyst)
    passed = passed_in_cup(resin, cup)
    if not passed:
        return
    first, gravest = passed[0], passed[-1]
    puddle = puddle_limit(resin, at.parts_k, at.mould_k, at.catalyst)
    deep = "" if puddle is None else " Spread what is left thinner than {depth} and let it set."
    values = {} if puddle is None else {"depth": (puddle.depth_m, Unit.LENGTH)}
    yield Finding(
        "hot-mix",
        Severity.NOTE if gravest.limit.danger is Danger.SOFTENS else Severity.WARNING,
        sentence(
            "Left standing, {charge} in one cup pass {limit} after {after} and reach {peak}: "
            f"{gravest.limit.what}. Empty the cup before that, and never into a bin.{deep}",
            charge=(mass_kg, Unit.MASS),
            limit=(first.limit.temperature_k, Unit.TEMPERATURE),
            after=(first.after_s, Unit.TIME),
            peak=(cup.peak_k, Unit.TEMPERATURE),
            **values,
        ),
    )


def _tight_inside(sheet: "CastSheet") -> Iterator[Finding]:
    share = sheet.inner_area_m2 / sheet.face.area_m2
    if share < _TIGHT_INSIDE:
        yield Finding(
            "tight-inside",
            Severity.WARNING,
            sentence(
                "The inside shrinks to {share} of the face: noses, beaks and ears fill solid and "
                "the grams are only a rough guide.",
                share=(share, Unit.SHARE),
            ),
        )


def _many_coats(sheet: "CastSheet") -> Iterator[Finding]:
    if len(sheet.coats) > _MANY_COATS:
        yield Finding(
            "many-coats",
            Severity.NOTE,
            sentence(
                "{coats} coats mean {hands} of rolling: ask for a thinner wall, or take a resin "
                "that leaves more per coat.",
                coats=(len(sheet.coats), Unit.COUNT),
                hands=(sheet.hands_on_s, Unit.TIME),
            ),
        )


def _shrinkage(sheet: "CastSheet") -> Iterator[Finding]:
    longest = max(sheet.face.extents_m)
    less = longest * sheet.as_on_shelf.shrinkage
    if less >= 1e-3:
        yield Finding(
            "shrinkage",
            Severity.NOTE,
            sentence(
                "Over {longest} the cast comes out about {less} smaller than the mould.",
                longest=(longest, Unit.LENGTH),
                less=(less, Unit.LENGTH),
            ),
        )


def _worn(sheet: "CastSheet") -> Iterator[Finding]:
    if not sheet.wish.worn:
        return
    heavy = sheet.cast_kg > _HEAVY_TO_WEAR_KG
    yield Finding(
        "worn",
        Severity.WARNING if heavy else Severity.NOTE,
        sentence(
            ("{weight} is heavy on a neck. " if heavy else "The wearer carries {weight}. ")
            + "A costume helmet is not protective equipment.",
            weight=(sheet.cast_kg, Unit.MASS),
        ),
    )


RESIN_RULES: tuple[Rule["CastSheet"], ...] = (
    _tack_missed,
    _short_tack_window,
    _odd_room,
    _big_cup,
    _hot_mix,
    _more_coats,
    _thick_mix,
    _of_the_school,
    _tight_inside,
    _uneven_wall,
    _stays_thin,
    _runs_over,
    _many_coats,
    _shrinkage,
    _worn,
)
"""Of a cast in a two-part resin."""

MELT_RULES: tuple[Rule["CastSheet"], ...] = (
    _of_the_school,
    _tight_inside,
    _many_coats,
    _shrinkage,
    _worn,
)
"""Of a cast in something that sets by cooling."""
