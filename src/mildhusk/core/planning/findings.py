"""What a maker should know about a sheet before mixing: plain sentences, each with its remedy."""

from collections.abc import Callable, Iterator

from mildhusk.core.constants import (
    MIXING_TIME_S,
    USUAL_UNEVENNESS,
    ZERO_CELSIUS_K,
)
from mildhusk.core.findings import Action, Finding, Rule, Severity, findings_of, gravest_first
from mildhusk.core.geometry.measure import FaceMeasures
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.mixing.recipe import filler_volume_share, thickened_by
from mildhusk.core.planning.coats import CoatKind, coat_count
from mildhusk.core.planning.limits import Limit
from mildhusk.core.planning.melted import MELTED_K, POUR_K, THICK_K
from mildhusk.core.planning.mending import nearest_mend
from mildhusk.core.planning.paste import paste_area
from mildhusk.core.planning.sheet import CastSheet, CoatPlan, ready_for_next_s
from mildhusk.core.planning.wish import CoatSchool
from mildhusk.core.wording import Unit, sentence

Shelf = Callable[[], tuple[CastingResin, ...]]

# Closed surfaces whose mean half thickness is below this share of their size are hollow prints.
_HOLLOW_SHARE = 0.08
# Below this share of the face the inside has shrunk so much that Steiner's formula is stretched.
_TIGHT_INSIDE = 0.5
# Honey runs so; thicker is spread with a brush (common practice, no source).
_HARD_TO_ROLL_PA_S = 10.0
_HEAVY_TO_WEAR_KG = 1.2
_MANY_COATS = 8
_USUAL_ROOM_K = (15.0 + ZERO_CELSIUS_K, 30.0 + ZERO_CELSIUS_K)


def piece_findings(face: FaceMeasures) -> tuple[Finding, ...]:
    """Return what a measured piece will not do well."""
    return tuple(_about_piece(face))


def sheet_findings(sheet: CastSheet, shelf: Shelf = tuple) -> tuple[Finding, ...]:
    """Return the findings of a sheet, the gravest first.

    Parameters
    ----------
    sheet : CastSheet
    shelf : callable
        Other resins to propose where this one does not do; asked only then.
    """
    found = findings_of(_SHEET_RULES, sheet)
    return gravest_first((*_does_not_fit(sheet, shelf), *found, *piece_findings(sheet.face)))


def _about_piece(face: FaceMeasures) -> Iterator[Finding]:
    thickness = 2.0 * face.volume_m3 / face.area_m2
    if face.watertight and thickness < _HOLLOW_SHARE * min(face.extents_m):
        yield Finding(
            "hollow-print",
            Severity.WARNING,
            sentence(
                "The file looks like a hollow print with both skins, {thickness} thick: the inner "
                "skin is counted as casting face too, so grams come out about twice too high. "
                "Export the outer skin alone.",
                thickness=(thickness, Unit.LENGTH),
            ),
        )
    elif not face.openings:
        yield Finding(
            "no-opening",
            Severity.NOTE,
            sentence(
                "The piece has no opening, so all of its face is counted, a flat base or a closed "
                "neck too. Delete those faces if the mould is open there."
            ),
        )
    if face.bodies > 1:
        yield Finding(
            "several-bodies",
            Severity.WARNING,
            sentence(
                "The file holds {bodies} separate surfaces; each is counted. Delete loose crumbs "
                "and inner skins.",
                bodies=(face.bodies, Unit.COUNT),
            ),
        )
    faulty = face.branching_edges + face.clashing_edges + face.folded_edges
    if faulty:
        yield Finding(
            "faulty-edges",
            Severity.WARNING,
            sentence(
                "At {edges} edges the faces branch, fold back or disagree about outside; there the "
                "bend of the face is left out, and the grams are less certain. Repair the mesh.",
                edges=(faulty, Unit.COUNT),
            ),
        )
    if face.flat_faces:
        yield Finding(
            "flat-faces",
            Severity.NOTE,
            sentence(
                "{faces} faces have no area and were left out.",
                faces=(face.flat_faces, Unit.COUNT),
            ),
        )
    if face.flipped:
        yield Finding(
            "flipped",
            Severity.NOTE,
            sentence("The file had inside and outside exchanged; it is measured the right way."),
        )


def _uneven_wall(sheet: CastSheet) -> Iterator[Finding]:
    if sheet.wish.allowance > 0.0 or sheet.wish.school is CoatSchool.PASTE:
        return
    thin = sheet.wish.wall_m * (1.0 - USUAL_UNEVENNESS)
    yield Finding(
        "uneven-wall",
        Severity.NOTE,
        sentence(
            "Rolled walls come out uneven: poured for a mean of {wall}, thin places will be about "
            "{thin}. The flow is not simulated here.",
            wall=(sheet.wish.wall_m, Unit.LENGTH),
            thin=(thin, Unit.LENGTH),
        ),
        Action(
            sentence("Allow {more} more", more=(USUAL_UNEVENNESS, Unit.SHARE)),
            "allowance",
            USUAL_UNEVENNESS,
        ),
    )


_BREAKS: dict[Limit, tuple[str, Severity, str]] = {
    Limit.TIME: (
        "short-working-time",
        Severity.STOP,
        "Coat {number} can be worked for {working} in its cup, but mixing and covering the mould "
        "take about {needed}.",
    ),
    Limit.REACH: (
        "does-not-reach",
        Severity.STOP,
        "Coat {number} is {charge}; less than {least} does not reach everywhere.",
    ),
    Limit.CARRY: (
        "too-much-at-once",
        Severity.WARNING,
        "Coat {number} is {charge}; more than {most} runs down and pools before it gels.",
    ),
    Limit.RIM: (
        "over-the-rim",
        Severity.WARNING,
        "Coat {number} is {charge}; more than {most} runs out over the rim when it is tipped.",
    ),
    Limit.CUP: (
        "cup-too-small",
        Severity.WARNING,
        "Coat {number} is {charge}; the cups hold {most} with room to stir.",
    ),
    Limit.SCALE: (
        "coarse-scale",
        Severity.WARNING,
        "Coat {number} is {charge}; below {least} the smaller part cannot be read to 1 %. Use a "
        "finer scale or a syringe.",
    ),
}


def _does_not_fit(sheet: CastSheet, shelf: Shelf) -> Iterator[Finding]:
    """Tell the first coat that breaks a limit, and the nearest change with which all fit."""
    broken = sheet.broken
    if broken is None:
        return
    limit = broken.binding_limit
    id, severity, words = _BREAKS[limit]
    action = nearest_mend(sheet, shelf())
    if action is None:
        words += " No single change mends it: take a slower resin, or a smaller piece."
    bound = sheet.limits.at(limit)
    yield Finding(
        id,
        severity,
        sentence(words, **{
            name: value
            for name, value in {
                "number": (broken.number, Unit.COUNT),
                "charge": (broken.recipe.total_kg, Unit.MASS),
                "least": (bound, Unit.MASS),
                "most": (bound, Unit.MASS),
                "working": (broken.clock.working_time_s, Unit.TIME),
                "needed": (MIXING_TIME_S + sheet.conditions.spread_s, Unit.TIME),
            }.items()
            if f"{{{name}}}" in words
        }),
        action,
    )  # fmt: skip


def _more_coats(sheet: CastSheet) -> Iterator[Finding]:
    """Tell which limit made more coats than the wall needs."""
    if sheet.wish.school not in (CoatSchool.EQUAL, CoatSchool.MACHINE) or not sheet.fits:
        return
    carried = sheet.wish.carried_m(sheet.resin.coat_wall_m)
    usual = coat_count(sheet.wish.planned_wall_m, carried)
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


def _tack_missed(sheet: CastSheet) -> Iterator[Finding]:
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
                "Coat {number} takes the next one until {until}, but with {hands} pair of hands it "
                "is weighed and mixed at {poured}: scuff it, or weigh all cups beforehand.",
                number=(coat.number, Unit.COUNT),
                until=(coat.clock.next_until_s, Unit.TIME),
                hands=(hands, Unit.COUNT),
                poured=(poured, Unit.TIME),
            ),
            Action(sentence("Pour it with two"), "hands", 2.0) if saved and hands == 1 else None,
        )
        return


def _thick_mix(sheet: CastSheet) -> Iterator[Finding]:
    extras = sheet.wish.extras
    if extras.filler == 0.0:
        return
    share = filler_volume_share(sheet.resin.density_cured_kg_m3, extras)
    times = thickened_by(share)
    thick = sheet.resin.viscosity_pa_s * times
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


def _of_the_school(sheet: CastSheet) -> Iterator[Finding]:
    """Say what a school's own coat is, where the numbers alone do not."""
    for coat in sheet.coats:
        if coat.kind is CoatKind.PASTE:
            yield _paste(sheet, coat)
        elif coat.kind is CoatKind.POWDER:
            yield Finding(
                "powder",
                Severity.NOTE,
                sentence(
                    "Dust {powder} of metal powder over coat 1 while it is wet, or stir it in. "
                    "Fine metal dust: respirator, no flame, no sparks.",
                    powder=(coat.powder_kg, Unit.MASS),
                ),
            )
    if sheet.backing is not None:
        yield Finding(
            "foam",
            Severity.NOTE,
            sentence(
                "Behind the skin the hollow is {hollow}: {foam} of rigid foam fill it, which grows "
                "to {times} times its volume. Leave it a hole to rise out of; pour it in two goes.",
                hollow=(sheet.backing.hollow_m3, Unit.VOLUME),
                foam=(sheet.backing.kg, Unit.MASS),
                times=(sheet.backing.expansion, Unit.COUNT),
            ),
        )
    if sheet.wish.school is CoatSchool.CLAY:
        yield Finding(
            "hot-clay",
            Severity.WARNING,
            sentence(
                "Take the clay off the heat at {melted}, pour it at {pour} and not above, and roll "
                "until {thick}. It burns skin and sticks: gloves, sleeves, face shield.",
                melted=(MELTED_K, Unit.TEMPERATURE),
                pour=(POUR_K, Unit.TEMPERATURE),
                thick=(THICK_K, Unit.TEMPERATURE),
            ),
        )


def _paste(sheet: CastSheet, coat: CoatPlan) -> Finding:
    where = "at the places named" if coat.places else "over the rim, edges and corners, about"
    return Finding(
        "paste",
        Severity.NOTE,
        sentence(
            "Coat {number} is a paste: {thickener} of thickener makes it stay where it is spread, "
            + f"{where} "
            + "{area}.",
            number=(coat.number, Unit.COUNT),
            thickener=(coat.recipe.thickener_kg, Unit.MASS),
            area=(paste_area(sheet.wish.paste_places, sheet.face.area_m2), Unit.AREA),
        ),
    )


def _short_tack_window(sheet: CastSheet) -> Iterator[Finding]:
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


def _odd_room(sheet: CastSheet) -> Iterator[Finding]:
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


def _big_cup(sheet: CastSheet) -> Iterator[Finding]:
    charge = sheet.largest.charge
    if charge.total_kg > 2.0 * sheet.resin.standard_mass_kg:
        yield Finding(
            "cup-goes-off-sooner",
            Severity.NOTE,
            sentence(
                "The data sheet's times hold for {standard} in a cup; {charge} heat up more and go "
                "off sooner. Pour without delay.",
                standard=(sheet.resin.standard_mass_kg, Unit.MASS),
                charge=(charge.total_kg, Unit.MASS),
            ),
        )


def _tight_inside(sheet: CastSheet) -> Iterator[Finding]:
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


def _many_coats(sheet: CastSheet) -> Iterator[Finding]:
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


def _shrinkage(sheet: CastSheet) -> Iterator[Finding]:
    longest = max(sheet.face.extents_m)
    less = longest * sheet.resin.shrinkage
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


def _worn(sheet: CastSheet) -> Iterator[Finding]:
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


_SHEET_RULES: tuple[Rule[CastSheet], ...] = (
    _tack_missed,
    _short_tack_window,
    _odd_room,
    _big_cup,
    _more_coats,
    _thick_mix,
    _of_the_school,
    _tight_inside,
    _uneven_wall,
    _many_coats,
    _shrinkage,
    _worn,
)
