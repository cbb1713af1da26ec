"""What a maker should know about a sheet before mixing: plain sentences, each with its remedy."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import StrEnum

from mildhusk.core.constants import (
    MIXING_TIME_S,
    SPREADING_TIME_S,
    USUAL_UNEVENNESS,
    ZERO_CELSIUS_K,
)
from mildhusk.core.cure.clock import CoatClock, coat_clock
from mildhusk.core.geometry.measure import FaceMeasures
from mildhusk.core.materials.casting_resin import RatioBasis
from mildhusk.core.mixing.cup import MIXING_CUP
from mildhusk.core.planning.sheet import CastSheet
from mildhusk.core.wording import Sentence, Unit, sentence


class Severity(StrEnum):
    """How much a finding matters."""

    STOP = "stop"
    """This plan will not work as it stands."""
    WARNING = "warning"
    """It may spoil the cast."""
    NOTE = "note"
    """Good to know."""


@dataclass(frozen=True, slots=True)
class Action:
    """A change of the wish that mends a finding: one field, in SI, and what the button says."""

    label: Sentence
    field: str
    value: float


@dataclass(frozen=True, slots=True)
class Finding:
    """A finding: what, how much, what to do."""

    id: str
    severity: Severity
    sentence: Sentence
    action: Action | None = None


# A part weighed in fewer steps than this is off by more than 1 %.
_STEPS_FOR_ONE_PERCENT = 50
# Closed surfaces whose mean half thickness is below this share of their size are hollow prints.
_HOLLOW_SHARE = 0.08
# Below this share of the face the inside has shrunk so much that Steiner's formula is stretched.
_TIGHT_INSIDE = 0.5
_HEAVY_TO_WEAR_KG = 1.2
_MANY_COATS = 8
_USUAL_ROOM_K = (15.0 + ZERO_CELSIUS_K, 30.0 + ZERO_CELSIUS_K)


def piece_findings(face: FaceMeasures) -> tuple[Finding, ...]:
    """Return what a measured piece will not do well."""
    return tuple(_about_piece(face))


def sheet_findings(sheet: CastSheet) -> tuple[Finding, ...]:
    """Return the findings of a sheet, the gravest first."""
    found = [finding for rule in _SHEET_RULES for finding in rule(sheet)]
    found += piece_findings(sheet.face)
    order = list(Severity)
    return tuple(sorted(found, key=lambda finding: order.index(finding.severity)))


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
    if sheet.wish.allowance > 0.0:
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


def _clock_at(sheet: CastSheet, room_k: float) -> CoatClock:
    """Return the clock of a sheet's coats in another room."""
    coat = sheet.coats[0]
    return coat_clock(sheet.resin, room_k, coat.charge.total_kg, coat.wall_m)


def _short_working_time(sheet: CastSheet) -> Iterator[Finding]:
    needed = MIXING_TIME_S + SPREADING_TIME_S
    if sheet.clock.working_time_s >= needed:
        return
    room = sheet.wish.room_temperature_k
    cooler = next(
        (
            room - step
            for step in range(1, 31)
            if room - step >= _USUAL_ROOM_K[0]
            and _clock_at(sheet, room - step).working_time_s >= needed
        ),
        None,
    )
    advice = (
        "Cool the room, mould and parts, or take a slower resin."
        if cooler is not None
        else "Take a slower resin."
    )
    yield Finding(
        "short-working-time",
        Severity.STOP,
        sentence(
            "At {room} it can be worked for {working}, but mixing and covering the mould take "
            f"about {{needed}}. {advice}",
            room=(room, Unit.TEMPERATURE),
            working=(sheet.clock.working_time_s, Unit.TIME),
            needed=(needed, Unit.TIME),
        ),
        None
        if cooler is None
        else Action(
            sentence("Plan at {cooler}", cooler=(cooler, Unit.TEMPERATURE)),
            "room_temperature_k",
            cooler,
        ),
    )


def _short_tack_window(sheet: CastSheet) -> Iterator[Finding]:
    length = sheet.clock.next_until_s - sheet.clock.next_from_s
    if len(sheet.coats) > 1 and length < MIXING_TIME_S + SPREADING_TIME_S:
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
    charge = sheet.coats[0].charge
    if charge.total_m3 > MIXING_CUP.capacity_m3:
        yield Finding(
            "cup-too-small",
            Severity.WARNING,
            sentence(
                "One charge is {charge}, more than the {cup} a cup holds: use a bucket, or two "
                "pairs of hands with a cup each.",
                charge=(charge.total_m3, Unit.VOLUME),
                cup=(MIXING_CUP.capacity_m3, Unit.VOLUME),
            ),
        )
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


def _coarse_scale(sheet: CastSheet) -> Iterator[Finding]:
    charge = sheet.coats[0].charge
    by_weight = charge.basis is RatioBasis.WEIGHT
    step = sheet.wish.scale_step_kg if by_weight else sheet.wish.volume_step_m3
    least = min(charge.a_kg, charge.b_kg) if by_weight else min(charge.a_m3, charge.b_m3)
    if least / step >= _STEPS_FOR_ONE_PERCENT:
        return
    unit = Unit.MASS if by_weight else Unit.VOLUME
    yield Finding(
        "coarse-scale",
        Severity.WARNING,
        sentence(
            "The smaller part is only {least} per coat, read in steps of {step}: it can be off by "
            "{off}. Use a finer scale or syringe.",
            least=(least, unit),
            step=(step, unit),
            off=(step / 2.0 / least, Unit.SHARE),
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


_SHEET_RULES: tuple[Callable[[CastSheet], Iterator[Finding]], ...] = (
    _short_working_time,
    _short_tack_window,
    _odd_room,
    _big_cup,
    _coarse_scale,
    _tight_inside,
    _uneven_wall,
    _many_coats,
    _shrinkage,
    _worn,
)
