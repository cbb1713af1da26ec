"""The wall of a cast in the real interface: first look, map, playback, two side by side."""

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from browser.lookup import fetch_bytes, sheet_named

_LONG_S = 600.0
"""A worker steps back for whatever else the machine does."""


def _open_wall(person, address, words="chorus"):
    person.go(f"/sheets/{sheet_named(address, words)['id']}")
    person.presses("The wall")
    person.until(lambda: "or more on 95 % of the face" in person.text(), "a first look", _LONG_S)
    person.until(lambda: "Estimate:" in person.text(), "the wall itself", _LONG_S)


def test_a_wall_is_seen_first_roughly_then_finely_and_taken_along(person, address):
    _open_wall(person, address)
    person.sees("Coat by coat")
    person.sees("places, under")
    person.sees("numbered on the piece")
    person.one("canvas")
    link = person.one("a[href$='wall.pdf']").get_attribute("href")
    content = fetch_bytes(address, link.split("/api/v1")[1])
    assert content.startswith(b"%PDF")
    assert person.complaints() == []
    assert person.console_errors() == []


def test_a_coat_is_played_back_by_keyboard(person, address):
    _open_wall(person, address)
    person.presses("Play it back")
    person.sees("Coat 1 after")
    person.presses("Hold")
    handle = person.one("[aria-label='Moment of the coat']")
    handle.send_keys(Keys.END)
    person.until(lambda: handle.get_attribute("aria-valuenow") == "100", "the last moment")
    seconds = person.one(".wall-view b").text
    # A fast resin has set some minutes after the pour (common practice, no source).
    assert 120 < float(seconds.split()[0]) < 450
    person.presses("The wall again")
    person.sees("Touch a place for its coats")
    assert person.console_errors() == []


def test_two_walls_lie_side_by_side_on_one_scale(person, address):
    _open_wall(person, address)
    field = person.one("#wall-beside")
    field.click()
    field.send_keys(Keys.ARROW_DOWN)
    field.send_keys(Keys.ENTER)
    person.until(
        lambda: person.text().count("or more on 95 % of the face") == 2, "both walls", _LONG_S
    )
    ends = [one.text for one in person.driver.find_elements(By.CSS_SELECTOR, ".wall-scale")]
    assert len(ends) == 2
    assert ends[0] == ends[1]


def test_other_ways_are_tried_and_the_gain_is_said(person, address):
    _open_wall(person, address)
    person.presses("Find a better rotation")
    person.until(lambda: "Of 12 ways" in person.text(), "all of them tried", _LONG_S)
    text = person.text()
    assert "with the same resin" in text or "none is better" in text
    person.presses("Look at it")
    person.until(
        lambda: "equal coats" in person.text() or "times the others" in person.text(),
        "the way that was taken",
        _LONG_S,
    )
    person.presses("How much in one coat")
    person.until(
        lambda: (
            "is the most that leaves no puddle" in person.text()
            or "leaves a puddle or spills" in person.text()
        ),
        "the charges",
        _LONG_S,
    )
