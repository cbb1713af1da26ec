"""The nearest change that lets a plan fit which does not: tried out, not guessed."""

from collections.abc import Iterator
from dataclasses import replace

from mildhusk.core.casting.plan import CastSheet, cast_fits
from mildhusk.core.casting.wish import CastWish, CoatSchool
from mildhusk.core.constants import ZERO_CELSIUS_K
from mildhusk.core.errors import HuskError
from mildhusk.core.findings import Action
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.catalogue import CastingMaterial
from mildhusk.core.wording import Unit, sentence

COLDEST_PARTS_K = 12.0 + ZERO_CELSIUS_K
"""Colder, A and B get thick and may not mix well (assumed)."""
_COOLER_K = (2.0, 4.0, 7.0, 10.0, 14.0)
_MOST_RESINS = 4
_FINEST_SCALE_KG = 1e-5

Change = tuple[CastWish, CastingMaterial, Action]


def nearest_mend(sheet: CastSheet, shelf: tuple[CastingMaterial, ...] = ()) -> Action | None:
    """Return the first change, the least first, with which every coat keeps every limit.

    Parameters
    ----------
    sheet : CastSheet
        That does not fit.
    shelf : tuple of CastingMaterial
        To take another one from.

    Returns
    -------
    Action or None
        None where no single change suffices.
    """
    for wish, material, action in _changes(sheet, shelf):
        try:
            if cast_fits(sheet.face, material, wish, sheet.equipment):
                return action
        except HuskError:
            continue
    return None


def _changes(sheet: CastSheet, shelf: tuple[CastingMaterial, ...]) -> Iterator[Change]:
    """Yield changes of the wish, the least first, then slower resins of the shelf."""
    resin = sheet.as_on_shelf
    for wish, action in _wishes(sheet):
        yield wish, resin, action
    if not isinstance(resin, CastingResin):
        return
    slower = sorted(
        (
            one
            for one in shelf
            if isinstance(one, CastingResin) and one.working_time_s > resin.working_time_s
        ),
        key=lambda one: one.working_time_s,
    )
    for other in slower[:_MOST_RESINS]:
        plain = replace(sheet.wish, catalyst=None, time_factor=1.0)
        yield plain, other, Action(sentence(f"Take {other.name}"), "material_key", other.key)


def _wishes(sheet: CastSheet) -> Iterator[tuple[CastWish, Action]]:
    wish = sheet.wish
    if sheet.limits.scale_kg >= sheet.limits.reach_kg and wish.scale_step_kg > _FINEST_SCALE_KG:
        finer = max(wish.scale_step_kg / 10.0, _FINEST_SCALE_KG)
        yield (
            replace(wish, scale_step_kg=finer),
            Action(
                sentence("Weigh on a scale that shows {step}", step=(finer, Unit.MASS)),
                "scale_step_kg",
                finer,
            ),
        )
    if wish.school is not CoatSchool.EQUAL:
        yield (
            replace(wish, school=CoatSchool.EQUAL),
            Action(sentence("Divide it into equal charges"), "school", str(CoatSchool.EQUAL)),
        )
    if wish.hands == 1:
        yield (
            replace(wish, hands=2),
            Action(sentence("Pour it with two"), "hands", 2.0),
        )
    parts = sheet.conditions.parts_k
    for cooler in _COOLER_K:
        if parts - cooler < COLDEST_PARTS_K:
            break
        yield (
            replace(wish, parts_temperature_k=parts - cooler),
            Action(
                sentence("Cool A and B to {to}", to=(parts - cooler, Unit.TEMPERATURE)),
                "parts_temperature_k",
                parts - cooler,
            ),
        )
