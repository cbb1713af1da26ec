"""The plan of coats on the screen: schools, cure, what does not fit, and what mends it."""

import pytest
from icalendar import Calendar
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from browser.lookup import fetch, fetch_bytes, post, sheet_named

pytestmark = pytest.mark.browser


def _open(person, address, words="chorus"):
    sheet = sheet_named(address, words)
    person.go(f"/sheets/{sheet['id']}")
    person.sees("Resin to mix")
    return sheet


def _calm(person):
    """What the view complains of, once a drawer has come to rest."""
    person.until(
        lambda: not person.driver.find_elements(By.CSS_SELECTOR, "[class*='-motion-']"), "rest"
    )
    return person.complaints()


def test_another_school_is_taken_and_taken_back(person, address):
    _open(person, address)
    assert person.figure("coats") == "3"
    person.presses("Other ways to divide it")
    person.sees("For fine surfaces")
    assert _calm(person) == []
    person.presses("thin detail coat first")
    person.until(lambda: person.figure("coats") == "4", "four coats")
    person.sees("Changed: thin detail coat first.")
    person.presses("Undo")
    person.until(lambda: person.figure("coats") == "3", "three coats again")
    assert person.console_errors() == []


def test_a_plan_that_cannot_be_is_stopped_and_one_press_mends_it(person, address):
    _open(person, address)
    person.types("Room", "43")
    person.sees("This plan does not fit")
    person.sees("mixing and covering the mould take about")
    shorts = person.driver.find_elements(By.CSS_SELECTOR, ".stretch.short")
    assert shorts
    assert person.complaints() == []
    person.presses("Cool A and B to")
    person.until(lambda: "This plan does not fit" not in person.text(), "a plan that fits")
    cooled = float(person.field("A and B are at").get_attribute("value"))
    assert cooled < 43.0
    person.presses("Undo")
    person.sees("This plan does not fit")


def test_the_cure_is_drawn_and_told(person, address):
    _open(person, address)
    person.presses("How it cures")
    person.sees("gels as a film on the mould")
    assert len(person.driver.find_elements(By.CSS_SELECTOR, ".cure-curves path")) == 4
    person.sees("2 °C warmer")
    person.sees("A cup left standing passes 100 °C")
    person.sees("A puddle deeper than")
    assert _calm(person) == []
    before = person.text()
    person.types("A puddle this deep", "30")
    person.until(lambda: person.text() != before, "a deeper puddle, warmer")
    assert person.console_errors() == []


def test_what_bounds_a_coat_is_opened(person, address):
    _open(person, address)
    person.clicks(".limits summary")
    rows = person.until(
        lambda: person.driver.find_elements(By.CSS_SELECTOR, ".limits tr"), "its limits"
    )
    assert len(rows) == 6
    person.sees("staying on the wall until it sets")
    assert person.complaints() == []


def test_tint_is_premixed_and_the_bands_of_a_time_are_told(person, address):
    _open(person, address)
    person.clicks(".wanted details summary")
    person.types("Tint, of A and B", "2")
    person.sees("First stir all of B")
    person.clicks("table.coats .figure")
    person.sees("give or take")
    person.presses("working time")
    person.sees("class's activation energy")
    assert _calm(person) == []


def test_the_clock_of_a_kept_sheet_is_a_calendar(person, address):
    sheet = _open(person, address)
    link = person.until(
        lambda: person.driver.find_element(By.PARTIAL_LINK_TEXT, "Into a calendar"), "the link"
    )
    path = link.get_attribute("href").split("/api/v1", 1)[1]
    calendar = Calendar.from_ical(fetch_bytes(address, path))
    assert len(calendar.walk("VEVENT")) == len(sheet["plan"]["ribbon"]) + 1


def test_the_workshop_says_what_it_works_with(person, address):
    before = fetch(address, "/workshop")["equipment"]
    person.go("/workshop")
    person.types("Working hours until", "6")
    person.presses("Save")
    person.sees("The workshop has to open before it closes.")
    person.types("Working hours until", "21")
    person.presses("Save")
    person.until(lambda: fetch(address, "/workshop")["equipment"]["closes_h"] == 21.0, "its hours")
    person.types("Working hours until", str(before["closes_h"]))
    person.presses("Save")
    person.until(lambda: fetch(address, "/workshop")["equipment"] == before, "the hours as before")
    assert person.complaints() == []


def test_too_much_of_a_is_followed_by_b(person, address):
    sheet = sheet_named(address, "chorus")
    person.go(f"/sheets/{sheet['id']}/pour")
    person.presses("Start a pour")
    field = person.one("input[aria-label^='Part A']")
    wanted = float(field.get_attribute("value"))
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys(f"{wanted * 1.1:.1f}")
    person.sees("all else follows what was really poured")
    coat = sheet["plan"]["coats"][0]["parts_kg"]
    grown = f"{coat['B'] * round(wanted * 1.1, 1) / wanted * 1e3:.1f}"
    person.until(lambda: grown in person.text(), f"{grown} g of B")


def test_an_overshoot_takes_thinner_along_and_parts_are_shown_as_the_scale_shows_them(
    person, address
):
    """Law: every part grows as A did; on a scale of 0.01 g two figures stand after the point."""
    like = sheet_named(address, "chorus")
    wish = {**like["wish"], "thinner": 0.05, "scale_step_kg": 1e-5}
    sheet = post(
        address,
        "/sheets",
        {
            "name": "Thinned",
            "piece_id": like["piece_id"],
            "material_id": like["material_id"],
            "wish": wish,
        },
    )
    person.go(f"/sheets/{sheet['id']}/pour")
    person.presses("Start a pour")
    coat = sheet["plan"]["coats"][0]
    grams = {**coat["parts_kg"], "thinner": coat["added_kg"]["thinner"]}
    person.sees(f"thinner {grams['thinner'] * 1e3:.2f} g")
    assert f"{grams['A'] * 1e3:.2f}" in person.text()
    field = person.one("input[aria-label^='Part A']")
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys(f"{grams['A'] * 1.2e3:.2f}")
    grown = round(grams["A"] * 1.2e3, 2) / (grams["A"] * 1e3)
    person.sees(f"thinner {grams['thinner'] * grown * 1e3:.2f} g")
    assert f"{grams['B'] * grown * 1e3:.2f}" in person.text()
