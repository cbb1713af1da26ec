"""Kept JSON: what a release writes it reads, and what earlier releases wrote, too."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.plans import FACE, RESIN, WISH
from mildhusk.core.casting.plan import plan_cast
from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.casting.wish import CastWish
from mildhusk.core.equipment import Equipment
from mildhusk.core.errors import HuskError, InputError
from mildhusk.store.values import BUILDS, EQUIPMENT, FACES, POUR_PLANS, WISHES


def through_json(kept):
    return json.loads(json.dumps(kept))


@given(
    wall=st.floats(1e-4, 0.02),
    tint=st.floats(0.0, 0.05),
    hands=st.sampled_from([1, 2]),
    opens=st.floats(0.0, 11.0),
)
def test_what_is_written_is_read(wall, tint, hands, opens):
    wish = CastWish(wall, 294.15, tint=tint, hands=hands)
    assert WISHES.read(through_json(WISHES.write(wish))) == wish
    equipment = Equipment(opens_h=opens, closes_h=20.0)
    assert EQUIPMENT.read(through_json(EQUIPMENT.write(equipment))) == equipment


def test_a_face_and_the_plan_of_a_pour_are_written_and_read():
    assert FACES.read(through_json(FACES.write(FACE))) == FACE
    plan = PourPlan.of(plan_cast(FACE, RESIN, WISH))
    assert POUR_PLANS.read(through_json(POUR_PLANS.write(plan))) == plan


def test_what_an_earlier_release_kept_is_read():
    """As those releases wrote it: no version, hours in seconds, no clay as an empty object."""
    old_wish = {
        "wall_m": 0.0025, "room_temperature_k": 294.15, "allowance": 0.15, "loss": 0.05,
        "worn": True, "scale_step_kg": 1e-4, "volume_step_m3": 1e-6,
    }  # fmt: skip
    wish = WISHES.read(old_wish)
    assert (wish.wall_m, wish.school, wish.hands, wish.tint) == (0.0025, "equal", 1, 0.0)
    equipment = EQUIPMENT.read({"opens": 7.5 * 3600, "closes": 64_800, "machine_limit_kg": 12.0})
    assert (equipment.opens_h, equipment.closes_h, equipment.machine_limit_kg) == (7.5, 18.0, 12.0)
    assert BUILDS.read({"way": "brush", "clay": {}}).clay is None
    poured = through_json(POUR_PLANS.write(PourPlan.of(plan_cast(FACE, RESIN, WISH))))
    new = ("kind", "added_kg", "binding_limit", "fits", "places")
    first = {
        name: value
        for name, value in poured.items()
        if name
        not in (
            "version",
            "premix",
            "time_factor",
            "out_after_s",
            "measured_parts",
            "scale_step_kg",
        )
    }
    first["coats"] = [{n: v for n, v in one.items() if n not in new} for one in poured["coats"]]
    read = POUR_PLANS.read({**first, "why": [], "cautions": ["Gloves."]})
    assert [one.charge_kg for one in read.coats] == [one["charge_kg"] for one in poured["coats"]]
    assert read.measured_parts == ("A", "B")
    assert read.scale_step_kg == 1e-4
    assert read.out_after_s == pytest.approx(poured["out_after_s"])


@pytest.mark.parametrize(
    ("kept", "said"),
    [({"tint": 0.5}, "tint"), ({"hands": 7}, "hands")],
)
def test_what_is_kept_and_cannot_be_any_more_is_told_in_the_cores_words(kept, said):
    with pytest.raises(InputError, match=said) as caught:
        WISHES.read({"wall_m": 0.003, "room_temperature_k": 294.15, **kept})
    assert isinstance(caught.value, HuskError)
