"""Without a pointer: a piece is turned, a place of the wall chosen and read, a pour led on."""

import re

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from browser.lookup import fetch, post, sheet_named

pytestmark = pytest.mark.browser

_LONG_S = 600.0
"""A worker steps back for whatever else the machine does."""


def _in_the_middle(person) -> float:
    """The wall in the middle of the view, read by a key. [mm]"""
    reader = "//button[.='Read the middle of the view']"
    person.driver.find_element(By.XPATH, reader).send_keys(Keys.ENTER)
    told = person.one(".wall-view [role=status] b").text.replace("\u00a0", " ")
    return float(re.match(r"([\d.]+) mm", told)[1])


def test_a_thin_place_is_chosen_from_the_list_and_stands_in_the_middle_of_the_view(person, address):
    sheet = sheet_named(address, "chorus")
    person.go(f"/sheets/{sheet['id']}/wall")
    person.until(lambda: "numbered on the piece" in person.text(), "thin places", _LONG_S)
    person.until(lambda: "Estimate:" in person.text(), "the wall itself", _LONG_S)
    person.one(".wall-view canvas")
    wished = 1e3 * sheet["wish"]["wall_m"]
    rows = person.driver.find_elements(By.CSS_SELECTOR, "ol.places")[0]
    first, *_, last = rows.find_elements(By.TAG_NAME, "button")

    def looked_at(place) -> float:
        place.send_keys(Keys.ENTER)
        # Whatever point of the place it is, it is thinner than wished.
        person.until(lambda: _in_the_middle(person) < wished, f"the place {place.text}", 20.0)
        return _in_the_middle(person)

    there = looked_at(first)
    assert looked_at(last) != there
    # It was held still, and comes back to the very point.
    assert looked_at(first) == there
    assert person.complaints() == []
    assert person.console_errors() == []


def test_a_piece_is_turned_and_brought_nearer_by_keys(person, address):
    sheet = sheet_named(address, "chorus")
    person.go(f"/sheets/{sheet['id']}/wall")
    person.until(lambda: "Estimate:" in person.text(), "the wall itself", _LONG_S)
    person.one(".wall-view canvas")
    if person.driver.find_elements(By.XPATH, "//button[.='Hold still']"):
        person.presses("Hold still")
    view = person.one(".view-hands")
    name = view.get_attribute("aria-label")
    assert "Arrow keys turn it" in name

    def after(keys) -> float:
        view.send_keys(keys)
        return _in_the_middle(person)

    seen = {round(after(Keys.ARROW_RIGHT * 3), 1) for _ in range(12)}
    # Once round it by 360 degrees: other places, with other walls.
    assert len(seen) > 2
    far = person.one(".wall-view canvas").screenshot_as_png
    view.send_keys("+" * 3)
    person.until(lambda: person.one(".wall-view canvas").screenshot_as_png != far, "it is nearer")
    assert person.console_errors() == []


def test_after_a_press_at_the_bench_the_focus_is_at_what_to_do_next(person, address):
    sheet = sheet_named(address, "shop window")
    pour = post(address, "/pours", {"sheet_id": sheet["id"]})
    person.go(f"/pour/{pour['id']}")
    for pressed, then in [
        ("Both are measured", "Pour B into A and stir"),
        ("A meets B: start the clock", "Stir, scrape, pour round the rim"),
        ("It is in the mould", "Keep it turning"),
    ]:
        person.presses(pressed)
        person.sees(then)
        focused = person.driver.execute_script("return document.activeElement.textContent")
        assert focused == then
    # And Enter goes on from there.
    person.until(lambda: person.one(".press").is_enabled(), "it is armed")
    person.driver.switch_to.active_element.send_keys(Keys.ENTER)
    person.until(
        lambda: fetch(address, f"/pours/{pour['id']}")["coats"][0]["gelled_at"] is not None,
        "it has gelled",
    )
    assert person.console_errors() == []
