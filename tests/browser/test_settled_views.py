"""The sheet follows from the wall: estimated at once, settled a moment later, mended at a press."""

import pytest
from selenium.webdriver.common.keys import Keys

from browser.lookup import post, sheet_named

pytestmark = pytest.mark.browser

_SETTLED = "Settled: just these coats were simulated."


def _turn_the_bust(person, address, wall_mm):
    """The demo's bust, for a thin wall on a machine with a lid: a draft, and what it asks."""
    stage = sheet_named(address, "stage break")
    person.go(f"/sheets/{stage['id']}")
    person.sees("Resin to mix")
    person.types("Least wall", wall_mm)
    turned = person.field("Turned")
    turned.send_keys("machine")
    turned.send_keys(Keys.ENTER)
    person.sees(" to mix.")
    assert person.one(".wanted .ant-checkbox-input").is_selected()
    wish = {**stage["wish"], "motion": "machine", "lid": True, "wall_m": float(wall_mm) / 1e3}
    return {"piece_id": stage["piece_id"], "material_id": stage["material_id"], "wish": wish}


def test_the_wall_comes_by_itself_and_the_sheet_follows_from_it(person, address):
    question = _turn_the_bust(person, address, "1.2")
    estimated = person.figure("total_charge")
    before = person.one(".headline").location["y"]
    person.sees("First look: ")
    person.sees("A first look, of the estimate’s coats: ")
    assert person.one(".headline").location["y"] == before
    person.until(lambda: _SETTLED in person.text(), "the settled plan", 120.0)
    person.until(lambda: person.figure("total_charge") != estimated, "another charge")
    # Nothing moved under the hand while it was looked at and simulated.
    after = person.one(".headline").location["y"]
    assert after == before, (before, after)
    plan = post(address, "/sheets/settle", question)["plan"]
    assert plan["stands_on"] == "settled"
    shown = person.figure("total_charge").splitlines()[0]
    assert shown == f"{plan['total_charge_kg'] * 1e3:,.1f} g"
    said = person.one(".settled-said").text
    assert f"{plan['wall']['p05_m'] * 1e3:.1f} mm or more on 95 % of the face" in said
    person.one(".settled canvas")
    assert person.complaints() == []
    assert person.console_errors() == []
    # The places are those of a bust, and no axis of the file.
    places = [one["place"] for one in plan["wall"]["thin"]]
    assert all(place in person.one(".settled").text for place in places)
    assert not [one for one in places if "+" in one or "-" in one]
    # Without its lid everything would run out.
    person.clicks(".wanted .ant-checkbox-input")
    assert not person.one(".wanted .ant-checkbox-input").is_selected()
    person.sees("put a lid on, or turn it by hand")


def test_a_slow_line_asks_nothing_of_a_plan_that_is_not_turned(person, address):
    # The last question's plan stands until the next is there: it says nothing of the next.
    _turn_the_bust(person, address, "1.3")
    turned = person.field("Turned")
    with person.far_away(latency_ms=2500):
        turned.send_keys("not said")
        turned.send_keys(Keys.ENTER)
        person.sees("it is not said how the mould is turned")
    assert person.console_errors() == []


def test_lighter_coats_are_taken_at_a_press_and_taken_back(person, address):
    # Another wall than the test before: what was settled once is known at once.
    _turn_the_bust(person, address, "1.1")
    person.until(lambda: _SETTLED in person.text(), "the settled plan", 120.0)
    coats = int(person.figure("coats"))
    person.presses(f"Or {coats + 1} lighter coats")
    person.until(lambda: person.figure("coats") == str(coats + 1), "a coat more")
    person.sees(f"{coats + 1} equal coats, as you chose.")
    person.presses("As the limits have it")
    person.until(lambda: _SETTLED in person.text(), "what was settled before", 60.0)
    assert person.figure("coats") == str(coats)
    # The same from the picture of more and fewer coats, by keyboard; what is not simulated says so.
    assert person.one(f"[aria-label^='{coats}\u00a0coats'][aria-pressed=true]")
    other = person.one(f"[aria-label^='{coats + 1}\u00a0coats']")
    assert "an estimate" in other.get_attribute("aria-label")
    assert "% of the mean wall" not in other.get_attribute("aria-label")
    assert person.complaints() == []
    other.send_keys(Keys.ENTER)
    person.until(lambda: person.figure("coats") == str(coats + 1), "a coat more")
    person.presses("Undo")
    person.until(lambda: person.figure("coats") == str(coats), "the coats before")
    assert person.console_errors() == []
