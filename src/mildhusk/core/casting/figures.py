"""The figures of a sheet as amounts: each made once, from its terms."""

import math
from dataclasses import dataclass
from itertools import groupby
from typing import TYPE_CHECKING

from mildhusk.core.amounts import (
    Amount,
    Source,
    Term,
    derived,
    given,
    larger,
    modelled,
    renamed,
    source_of,
)
from mildhusk.core.casting.learned_bands import LearnedBands
from mildhusk.core.casting.limits import CUP_FILL, LEAST_FILM_M, RIM_SHARE, CoatLimits
from mildhusk.core.casting.pourable import Pourable, PouredCoat
from mildhusk.core.casting.schools.base import FoamBacking, Husk, School, backed_weight
from mildhusk.core.casting.timeline import weighing_s
from mildhusk.core.casting.unevenness import StandsOn, Unevenness
from mildhusk.core.casting.wish import CastWish
from mildhusk.core.coating.turning import LeastWall
from mildhusk.core.constants import LOSS_BAND, MIXING_TIME_S
from mildhusk.core.cure.clock import CoatClock, Conditions
from mildhusk.core.equipment import Equipment
from mildhusk.core.geometry.curve import VolumeCurve
from mildhusk.core.geometry.measure import FaceMeasures
from mildhusk.core.wording import Unit

if TYPE_CHECKING:
    from mildhusk.core.casting.plan import SheetCoat


@dataclass(frozen=True, slots=True)
class Figures:
    """Every figure of a sheet, and the foam behind it where there is some."""

    amounts: tuple[Amount, ...]
    foam: FoamBacking | None

    def __getitem__(self, key: str) -> Amount:
        return next(one for one in self.amounts if one.key == key)


def figures_of(
    face: FaceMeasures,
    pourable: Pourable,
    school: School,
    wish: CastWish,
    at: Conditions,
    limits: CoatLimits,
    equipment: Equipment,
    coats: "tuple[SheetCoat, ...]",
    heaviest: "SheetCoat",
    uneven: Unevenness | None,
    bands: LearnedBands,
) -> Figures:
    """Make every figure of a sheet.

    Parameters
    ----------
    face : FaceMeasures
    pourable : Pourable
    school : School
    wish : CastWish
    at : Conditions
    limits : CoatLimits
    equipment : Equipment
    coats : tuple of SheetCoat
    heaviest : SheetCoat
        The first with the largest charge.
    uneven : Unevenness or None
        None for an even wall.
    bands : LearnedBands

    Returns
    -------
    Figures
    """
    wall = _wall(wish, school) if uneven is None else _wall_by_thin_places(wish, uneven)
    volume = _volume(face, wall, wish, bands)
    density = renamed(pourable.density, "", "cured density")
    loss = _loss(wish, uneven, bands)
    on_wall = derived(
        "", "set on the wall", Unit.MASS, "resin on the wall × cured density",
        lambda v, d: v * d, volume, density,
    )  # fmt: skip
    needed = derived(
        "", "weight needed for the wall", Unit.MASS, "set on the wall ÷ (1 − loss)",
        lambda kg, lost: kg / (1.0 - lost), on_wall, loss,
    )  # fmt: skip
    mixed_kg = math.fsum(coat.charge_kg for coat in coats)
    layers = tuple(coat.layer for coat in coats)
    husk = Husk(on_wall, needed, loss, mixed_kg, layers, wish, pourable.liquid_kg_m3)
    holds = given(
        "what the piece holds", face.volume_m3, Unit.VOLUME, Source.MEASURED,
        face.band * face.volume_m3,
    )  # fmt: skip
    backed = school.backing(holds, volume)
    skin = school.skin(husk)
    total = _total(school.to_mix(husk), mixed_kg, pourable)
    resin = _resin(coats, pourable)
    terms = (
        volume,
        wall,
        _count(len(coats), wall, limits, school, pourable),
        total,
        _charge(heaviest, pourable),
        resin,
        renamed(
            backed_weight(skin, backed),
            "cast_weight",
            "weight of the cast",
            "Before eyes, visor or skirt are cut out.",
        ),
        _trimmed(skin, face, None if backed is None else backed.weight),
        *(() if backed is None else (backed.weight,)),
        _cost(resin, pourable),
        *_limits(face, pourable, school, wish, at, limits, equipment, density, loss),
        *_times(coats, heaviest, pourable, at, wish, bands),
    )
    foam = None if backed is None else backed.foam
    return Figures(tuple(term.amount for term in terms), foam)


def _wall(wish: CastWish, school: School) -> Term:
    least = given("least wall", wish.wall_m, Unit.LENGTH, Source.WISHED)
    more = given("more for unevenness", school.allowance(wish), Unit.SHARE, Source.WISHED)
    return derived(
        "planned_wall", "mean wall poured for", Unit.LENGTH,
        "least wall × (1 + more for unevenness)", lambda wall, add: wall * (1.0 + add), least, more,
    )  # fmt: skip


_LEAST_WORDS = {
    LeastWall.MOST: "thin places (5 %)",
    LeastWall.NEARLY_ALL: "thinnest places (1 %)",
    LeastWall.TYPICAL: "typical place",
}


def _wall_by_thin_places(wish: CastWish, uneven: Unevenness) -> Term:
    least = given("least wall", wish.wall_m, Unit.LENGTH, Source.WISHED)
    name = f"{_LEAST_WORDS[wish.least]} beside the mean"
    thin = given(
        name, uneven.thin_share, Unit.SHARE, _SOURCES[uneven.stands_on],
        uneven.band * uneven.thin_share,
    )  # fmt: skip
    return derived(
        "planned_wall", "mean wall poured for", Unit.LENGTH, f"least wall ÷ {name}",
        lambda wall, share: wall / share, least, thin,
        words=_STANDS_ON_WORDS[uneven.stands_on],
    )  # fmt: skip


_SOURCES = {
    StandsOn.ESTIMATE: Source.FITTED,
    StandsOn.FIRST_LOOK: Source.SIMULATED,
    StandsOn.SETTLED: Source.SIMULATED,
}
_STANDS_ON_WORDS = {
    StandsOn.ESTIMATE: "How thin the thin places are is estimated: fitted to many simulated casts.",
    StandsOn.FIRST_LOOK: "How thin the thin places are comes from a rough simulation of this cast.",
    StandsOn.SETTLED: "How thin the thin places are comes from simulating just these coats.",
}


def _loss(wish: CastWish, uneven: Unevenness | None, bands: LearnedBands) -> Term:
    half_width, says = LOSS_BAND * wish.loss, Source.WISHED
    if bands.loss is not None:
        half_width, says = bands.loss, Source.LEARNED
    if uneven is None:
        return given("loss", wish.loss, Unit.SHARE, says, half_width)
    source = _SOURCES[uneven.stands_on]
    return derived(
        "loss", "loss", Unit.SHARE, "1 − (1 − cup and stick) × (1 − on the lid − over the rim)",
        lambda cup, lid, rim: 1.0 - (1.0 - cup) * (1.0 - lid - rim),
        given("cup and stick", wish.loss, Unit.SHARE, says, half_width),
        given("on the lid", uneven.lid_share, Unit.SHARE, source, uneven.band * uneven.lid_share),
        given("over the rim", uneven.spilt_share, Unit.SHARE, source),
    )  # fmt: skip


def _volume(face: FaceMeasures, wall: Term, wish: CastWish, bands: LearnedBands) -> Term:
    # What is off of the shape as a whole: facets, distances, a tape, what casts taught.
    shape = _shape(face, wish, bands)
    if face.curve is not None:
        return _volume_by_distances(face.curve, wall, shape)
    return derived(
        "shell_volume", "resin on the wall", Unit.VOLUME,
        "(casting face × mean wall poured for − mean curvature × mean wall poured for × "
        "mean wall poured for + total curvature × mean wall poured for × mean wall poured for × "
        "mean wall poured for ÷ 3) × the shape as measured",
        lambda A, t, M, G, s: (A * t - M * t * t + G * t * t * t / 3.0) * s,
        given("casting face", face.area_m2, Unit.AREA, Source.MEASURED),
        wall,
        given("mean curvature", face.mean_curvature_m, Unit.LENGTH, Source.MEASURED),
        given("total curvature", face.total_curvature, Unit.COUNT, Source.MEASURED),
        shape,
        words="Area times wall, less what the face's bends take away as the wall grows inwards "
        "(Steiner's formula).",
    )  # fmt: skip


def _shape(face: FaceMeasures, wish: CastWish, bands: LearnedBands) -> Term:
    name, source = "the shape as measured", Source.MEASURED
    half_width = wish.area_factor * face.band
    if wish.area_factor != 1.0:
        source = Source.WISHED
    if bands.area_factor is not None:
        # What casts taught holds what the file missed.
        half_width, source = bands.area_factor, Source.LEARNED
    return given(name, wish.area_factor, Unit.SHARE, source, half_width)


def _volume_by_distances(curve: VolumeCurve, wall: Term, shape: Term) -> Term:
    walls, volumes = curve.walls_m, curve.volumes_m3
    above = next((at for at, one in enumerate(walls) if one >= wall.value), len(walls) - 1)
    thin, thick = max(above - 1, 0), max(above, 1)
    return derived(
        "shell_volume", "resin on the wall", Unit.VOLUME,
        "(volume of the thinner row + (volume of the thicker row − volume of the thinner row) × "
        "(mean wall poured for − thinner row) ÷ (thicker row − thinner row)) × "
        "the shape as measured",
        lambda t, t0, v0, t1, v1, s: (v0 + (v1 - v0) * (t - t0) / (t1 - t0)) * s,
        wall,
        given("thinner row", walls[thin], Unit.LENGTH, Source.MEASURED),
        given("volume of the thinner row", volumes[thin], Unit.VOLUME, Source.MEASURED),
        given("thicker row", walls[thick], Unit.LENGTH, Source.MEASURED),
        given("volume of the thicker row", volumes[thick], Unit.VOLUME, Source.MEASURED),
        shape,
        words="All points nearer than the wall to the casting face, counted for a table of walls "
        "when the piece was surveyed; between its two nearest rows.",
    )  # fmt: skip


def _count(count: int, wall: Term, limits: CoatLimits, school: School, pourable: Pourable) -> Term:
    leaves = given(
        "one coat leaves", school.carried_m(pourable.coat_wall_m), Unit.LENGTH,
        source_of(pourable.material.origin),
    )  # fmt: skip
    return modelled(
        "coats", "coats", Unit.COUNT,
        "The wall divided by what one coat usually leaves, rounded up; more where a charge would "
        "not be mixed and spread in time, run over the rim or not fit the cups; otherwise as the "
        f"school has it ({school.name}).",
        count,
        wall, leaves,
        given("spread in time at most", limits.time_kg, Unit.MASS, Source.COMPUTED),
        given("under the rim at most", limits.rim_kg, Unit.MASS, Source.COMPUTED),
        given("in the cups at most", limits.cup_kg, Unit.MASS, Source.COMPUTED),
    )  # fmt: skip


def _total(to_mix: Term, mixed_kg: float, pourable: Pourable) -> Term:
    name = to_mix.amount.name
    rounding = given(
        "rounding up to what can be read", mixed_kg - to_mix.value, Unit.MASS, Source.COMPUTED
    )
    return derived(
        "total_charge", pourable.whole, Unit.MASS, f"{name} + rounding up to what can be read",
        lambda kg, more: kg + more, to_mix, rounding,
        words=f"The band takes the loss to be wrong by up to {LOSS_BAND * 100:.0f} % of itself.",
    )  # fmt: skip


def _charge(coat: "SheetCoat", pourable: Pourable) -> Term:
    says = source_of(pourable.material.origin)
    named = {
        f"part {part}" if len(pourable.parts) > 1 else part: kg
        for part, kg in zip(pourable.parts, (coat.parts_kg.A, coat.parts_kg.B), strict=False)
    }
    added = coat.added_kg
    named |= {"thickener": added.thickener, "thinner": added.thinner, "powder": added.powder}
    shown = {name: kg for name, kg in named.items() if kg}
    return derived(
        "charge", "one charge", Unit.MASS, " + ".join(shown), lambda *parts: sum(parts),
        *(given(name, kg, Unit.MASS, says) for name, kg in shown.items()),
        words="The largest of them, divided as the school has it; parts by the data sheet's ratio "
        "or the dose wished, each rounded up to what can be read off.",
    )  # fmt: skip


def _resin(coats: "tuple[SheetCoat, ...]", pourable: Pourable) -> Term:
    what = " and ".join(pourable.parts)
    alike = _alike(coats, lambda coat: round(coat.reacts_kg, 12))
    return derived(
        "resin", f"{what} of all coats", Unit.MASS,
        " + ".join(f"{len(group)} × {what} of {_span(group)}" for group in alike),
        lambda *each: sum(len(group) * kg for group, kg in zip(alike, each, strict=True)),
        *(
            given(f"{what} of {_span(group)}", group[0].reacts_kg, Unit.MASS, Source.COMPUTED)
            for group in alike
        ),
        words="What the kit holds of it, without tint, filler, thickener, thinner and powder.",
    )  # fmt: skip


def _trimmed(skin: Term, face: FaceMeasures, foam: Term | None) -> Term:
    waste = given("cut away", face.waste_share, Unit.SHARE, Source.MEASURED)
    formula = f"{skin.amount.name} × (1 − cut away)"
    words = "With eyes, visor and skirt cut out."
    if foam is None:
        return derived(
            "trimmed_weight", "weight when trimmed", Unit.MASS, formula,
            lambda kg, cut: kg * (1.0 - cut), skin, waste, words=words,
        )  # fmt: skip
    return derived(
        "trimmed_weight", "weight when trimmed", Unit.MASS, f"{formula} + foam",
        lambda kg, cut, more: kg * (1.0 - cut) + more, skin, waste, foam, words=words,
    )  # fmt: skip


def _cost(resin: Term, pourable: Pourable) -> Term:
    says = source_of(pourable.material.origin)
    kit = pourable.material
    exact = float(kit.kit_price) / kit.kit_mass_kg * resin.value
    cents = math.floor(exact * 100.0 + 0.5) / 100.0
    name = resin.amount.name
    return derived(
        "cost", "cost of the resin", Unit.MONEY, f"round({name} × kit price ÷ kit weight, 0.01)",
        lambda kg, price, weight: kg * price / weight + (cents - exact),
        resin,
        given("kit price", float(kit.kit_price), Unit.MONEY, says),
        given("kit weight", kit.kit_mass_kg, Unit.MASS, says),
        words="At the price of the kit by weight; what is left in the kit is not counted.",
    )  # fmt: skip


def _limits(
    face: FaceMeasures,
    pourable: Pourable,
    school: School,
    wish: CastWish,
    at: Conditions,
    limits: CoatLimits,
    equipment: Equipment,
    density: Term,
    loss: Term,
) -> tuple[Term, ...]:
    area_m2 = wish.area_factor * face.area_m2
    area = given("casting face", area_m2, Unit.AREA, Source.MEASURED, face.band * area_m2)
    film = given("least film", LEAST_FILM_M, Unit.LENGTH, Source.ASSUMED)
    usual = given(
        "one coat leaves", school.carried_m(pourable.coat_wall_m), Unit.LENGTH,
        source_of(pourable.material.origin),
    )  # fmt: skip
    liquid = given(
        "density of the mix", pourable.liquid_kg_m3, Unit.DENSITY,
        source_of(pourable.material.origin),
    )  # fmt: skip
    cups = given("cups at once", at.cups, Unit.COUNT, Source.WISHED)
    rim = 1.0 if not face.openings else RIM_SHARE
    scale = given("the scale's last digit, or the cup's mark", limits.scale_kg / 100.0, Unit.MASS,
                  Source.WISHED)  # fmt: skip

    def of_film(key: str, name: str, wall: Term, words: str) -> Term:
        return derived(
            key, name, Unit.MASS,
            f"{wall.amount.name} × casting face × cured density ÷ (1 − loss)",
            lambda t, A, d, lost: t * A * d / (1.0 - lost), wall, area, density, loss, words=words,
        )  # fmt: skip

    return (
        of_film("limit:reach", "at least, to reach everywhere", film,
                "A film that still wets a mould everywhere when it is rolled."),
        modelled("limit:scale", "at least, to be read to 1 %", Unit.MASS,
                 "So much that the smallest part is a hundred of what can be read.",
                 limits.scale_kg, scale),
        of_film("limit:carry", "at most, to stay where it is", usual,
                "More runs down and pools before it gels."),
        modelled("limit:time", "at most, to be spread in time", Unit.MASS,
                 "The largest cups that can be worked as long as mixing and covering take.",
                 limits.time_kg, cups,
                 given("mixing", MIXING_TIME_S, Unit.TIME, Source.ASSUMED),
                 given("covering the mould", at.spread_s, Unit.TIME, Source.WORKSHOP_PACE)),
        derived("limit:rim", "at most, to stay under the rim", Unit.MASS,
                "share of the hollow × what the piece holds × density of the mix",
                lambda share, v, d: share * v * d,
                given("share of the hollow", rim, Unit.SHARE, Source.ASSUMED),
                given("what the piece holds", face.volume_m3, Unit.VOLUME, Source.MEASURED,
                      face.band * face.volume_m3), liquid,
                words="More runs out over the rim when the mould is tipped all round."),
        derived("limit:cup", "at most, to fit the cups", Unit.MASS,
                "cups at once × filled to × what a cup holds × density of the mix",
                lambda n, full, v, d: n * full * v * d, cups,
                given("filled to", CUP_FILL, Unit.SHARE, Source.ASSUMED),
                given("what a cup holds", equipment.cup.capacity_m3, Unit.VOLUME,
                      Source.WORKSHOP_PACE), liquid,
                words="With room to stir."),
    )  # fmt: skip


def _times(
    coats: "tuple[SheetCoat, ...]",
    heaviest: "SheetCoat",
    pourable: Pourable,
    at: Conditions,
    wish: CastWish,
    bands: LearnedBands,
) -> list[Term]:
    """Make the times: of the coat with the largest charge, of each whose times differ, together."""
    timer = pourable.timer(at, _poured(heaviest), bands.time_factor)
    of_clock = {heaviest.clock: timer(_poured(heaviest), "")}
    for coat in coats:
        if coat.clock not in of_clock:
            of_clock[coat.clock] = timer(_poured(coat), f":{coat.number}")
    told = [term for times in of_clock.values() for term in times.values()]
    groups = _alike(coats, lambda coat: coat.clock)
    rolls = [
        renamed(of_clock[group[0].clock]["roll_until"], "", f"roll until, {_span(group)}")
        for group in groups
    ]
    hands_on = derived(
        "hands_on", "hands on", Unit.TIME,
        " + ".join(
            f"{len(group)} × {roll.amount.name}" for group, roll in zip(groups, rolls, strict=True)
        ),
        lambda *each: sum(len(group) * t for group, t in zip(groups, each, strict=True)),
        *rolls,
        words="From first contact until it no longer flows, for every coat.",
    )  # fmt: skip
    last = _last_mixed(coats, of_clock, wish)
    demould = of_clock[coats[-1].clock]["demould"]
    out = derived(
        "out_after", "comes out", Unit.TIME, "last coat mixed + demould after the last coat",
        lambda mixed, wait: mixed + wait, last, renamed(demould, "", demould.amount.name),
        words="Each next coat is mixed when the tack window opens and it is weighed; after the "
        "last the demould time.",
    )  # fmt: skip
    return [*told, hands_on, out]


def _last_mixed(
    coats: "tuple[SheetCoat, ...]", of_clock: dict[CoatClock, dict[str, Term]], wish: CastWish
) -> Term:
    weighing = given("weighing the next", weighing_s(wish.hands), Unit.TIME, Source.ASSUMED)
    if len(coats) == 1:
        return given("last coat mixed", 0.0, Unit.TIME, Source.COMPUTED)
    groups = _alike(coats[:-1], lambda coat: coat.clock)
    readies = []
    for group in groups:
        times, span = of_clock[group[0].clock], _span(group)
        roll = renamed(times["roll_until"], "", f"roll until, {span}")
        window = renamed(times["next_from"], "", f"next coat from, {span}")
        readies.append(
            derived(
                "",
                f"ready after {span}",
                Unit.TIME,
                f"max({window.amount.name}, {roll.amount.name} + weighing the next)",
                lambda opens, rolled, weigh: larger(opens, rolled + weigh),
                window,
                roll,
                weighing,
            )
        )
    return derived(
        "", "last coat mixed", Unit.TIME,
        " + ".join(
            f"{len(group)} × {one.amount.name}" for group, one in zip(groups, readies, strict=True)
        ),
        lambda *each: sum(len(group) * t for group, t in zip(groups, each, strict=True)), *readies,
    )  # fmt: skip


def _poured(coat: "SheetCoat") -> PouredCoat:
    return PouredCoat(coat.number, coat.reacts_kg, coat.wall_m, coat.clock)


def _alike(coats: "tuple[SheetCoat, ...]", key: object) -> "list[list[SheetCoat]]":
    """Return runs of coats that are alike in something."""
    return [list(group) for _, group in groupby(coats, key)]  # type: ignore[call-overload]


def _span(group: "list[SheetCoat]") -> str:
    first, last = group[0].number, group[-1].number
    return f"coat {first}" if first == last else f"coats {first} to {last}"
