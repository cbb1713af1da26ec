"""A data sheet, a face and a plan to vary in tests. The values are round, not any product's."""

from dataclasses import replace
from decimal import Decimal

from core.shapes import half_sphere
from mildhusk.core.amounts import Origin
from mildhusk.core.casting.plan import CastSheet, plan_cast
from mildhusk.core.casting.wish import CastWish
from mildhusk.core.geometry.measure import FaceMeasures, measure_face
from mildhusk.core.materials.casting_resin import CastingResin, RatioBasis
from mildhusk.core.materials.traits import Trait

RESIN = CastingResin(
    key="round-numbers",
    name="Round numbers",
    material_class="test resin",
    origin=Origin.OWN_SHEET,
    ratio_basis=RatioBasis.WEIGHT,
    parts_a=100.0,
    parts_b=50.0,
    density_a_kg_m3=1000.0,
    density_b_kg_m3=1250.0,
    density_cured_kg_m3=1100.0,
    viscosity_pa_s=0.1,
    working_time_s=300.0,
    gel_s=400.0,
    standard_mass_kg=0.1,
    standard_temperature_k=296.15,
    tack_from_s=500.0,
    tack_until_s=1000.0,
    demould_s=1800.0,
    full_cure_s=86_400.0,
    coat_wall_m=0.001,
    hardness="Shore D 70",
    shrinkage=0.004,
    hazards=("Gloves.",),
    traits=(Trait.URETHANE,),
    kit_mass_kg=2.0,
    kit_price=Decimal("40.00"),
)
BY_VOLUME = replace(RESIN, ratio_basis=RatioBasis.VOLUME, parts_a=1.0, parts_b=1.0)
FACE: FaceMeasures = measure_face(half_sphere(0.1, 40))
WISH = CastWish(wall_m=0.003, room_temperature_k=296.15)


def planned(resin: CastingResin = RESIN, face: FaceMeasures = FACE, **wish: object) -> CastSheet:
    return plan_cast(face, resin, replace(WISH, **wish))
