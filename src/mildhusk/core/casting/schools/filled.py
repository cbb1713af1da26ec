"""Schools that add something to a thin skin: foam behind it, metal powder in its face."""

import math
from collections.abc import Iterator
from typing import TYPE_CHECKING

from mildhusk.core.amounts import Source, Term, derived, given, larger
from mildhusk.core.casting.coats import CoatKind, Layer, Need
from mildhusk.core.casting.schools.base import Backed, FoamBacking, Husk, School
from mildhusk.core.casting.schools.rolled import Equal, thin_first
from mildhusk.core.casting.wish import CoatSchool
from mildhusk.core.findings import Finding, Severity
from mildhusk.core.wording import Unit, sentence

if TYPE_CHECKING:
    from mildhusk.core.casting.plan import CastSheet

POWDER_KG_M2 = 0.06
"""Metal powder that a wet first coat takes when it is dusted (assumed)."""
FOAM_KG_M3 = 120.0
"""Density of a rigid foam that rises freely (assumed; its data sheet stands above it)."""
FOAM_LIQUID_KG_M3 = 1100.0
"""Of its two parts, stirred (assumed)."""
FOAM_PACKED = 1.1
"""Filled a little more than it would rise freely (assumed)."""


class FoamBacked(Equal):
    """A thin skin, and rigid foam in its hollow."""

    key = CoatSchool.FOAM
    name = "thin skin, backed with foam"
    when = "For props that need no hollow: light and stiff. The hollow is filled and lost."
    explains_more_coats = False

    def backing(self, holds: Term, volume: Term) -> Backed:
        """Return the foam that fills the hollow."""
        hollow = derived(
            "", "hollow behind the skin", Unit.VOLUME,
            "max(what the piece holds − resin on the wall, 0)",
            lambda whole, skin: larger(whole - skin, 0.0), holds, volume,
        )  # fmt: skip
        weight = derived(
            "foam", "foam", Unit.MASS, "hollow behind the skin × foam's density × how full",
            lambda v, d, full: v * d * full,
            hollow,
            given("foam's density", FOAM_KG_M3, Unit.DENSITY, Source.ASSUMED),
            given("how full", FOAM_PACKED, Unit.SHARE, Source.ASSUMED),
            words="A and B of a rigid foam, a little more than would rise freely.",
        )  # fmt: skip
        foam = FoamBacking(hollow.value, weight.value, FOAM_LIQUID_KG_M3 / FOAM_KG_M3)
        return Backed(foam, weight)

    def findings(self, sheet: "CastSheet") -> Iterator[Finding]:
        """Say how much foam fills the hollow."""
        assert sheet.foam is not None
        yield Finding(
            "foam",
            Severity.NOTE,
            sentence(
                "Behind the skin the hollow is {hollow}: {foam} of rigid foam fill it, which grows "
                "to {times} times its volume. Leave it a hole to rise out of; pour it in two goes.",
                hollow=(sheet.foam.hollow_m3, Unit.VOLUME),
                foam=(sheet.foam.kg, Unit.MASS),
                times=(sheet.foam.expansion, Unit.COUNT),
            ),
        )


class PowderFaced(School):
    """Metal powder in a thin first coat, plain coats behind."""

    key = CoatSchool.POWDER
    name = "powder in the first coat"
    when = (
        "For a metal face that is polished later: powder in a thin first coat, plain ones behind."
    )

    def divide(self, need: Need) -> tuple[Layer, ...]:
        """Divide into a thin first coat with powder, and equal ones."""
        return thin_first(need, CoatKind.POWDER, POWDER_KG_M2 * need.area_m2)

    def to_mix(self, husk: Husk) -> Term:
        """Return what the wall takes, and the powder. [kg]"""
        return derived(
            "", "weight needed for the wall, and powder", Unit.MASS,
            "weight needed for the wall + metal powder",
            lambda need, powder: need + powder, husk.needed, _powder(husk),
        )  # fmt: skip

    def skin(self, husk: Husk) -> Term:
        """Return the weight of the husk with its powder. [kg]"""
        return derived(
            "", "set on the wall, with the powder", Unit.MASS, "set on the wall + metal powder",
            lambda wall, powder: wall + powder, husk.on_wall, _powder(husk),
        )  # fmt: skip

    def findings(self, sheet: "CastSheet") -> Iterator[Finding]:
        """Say how much powder, and to take care."""
        yield Finding(
            "powder",
            Severity.NOTE,
            sentence(
                "Dust {powder} of metal powder over coat 1 while it is wet, or stir it in. "
                "Fine metal dust: respirator, no flame, no sparks.",
                powder=(sheet.coats[0].added_kg.powder, Unit.MASS),
            ),
        )


def _powder(husk: Husk) -> Term:
    kg = math.fsum(one.powder_kg for one in husk.layers)
    return given("metal powder", kg, Unit.MASS, Source.COMPUTED)
