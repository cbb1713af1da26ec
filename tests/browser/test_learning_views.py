"""Readings, pictures, runs and pours beside each other, as a maker goes about them."""

import pytest
from PIL import Image
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from browser.lookup import fetch

pytestmark = pytest.mark.browser


def _casts(address, words):
    pours = fetch(address, "/pours?search=" + words)["pours"]
    return [one for one in pours if one["status"] == "cast"]


def _read(address, pour):
    return fetch(address, f"/pours/{pour['id']}/readings")["readings"]


def test_a_wall_is_read_on_the_piece_and_in_words(person, address):
    pour = _casts(address, "parade")[0]
    person.go(f"/log/{pour['id']}")
    person.sees("Nothing read yet")
    person.until(
        lambda: person.one(".readings .view-tools button:not([disabled])"), "the piece drawn"
    )
    person.presses("Mark the middle of the view")
    person.sees("The place is marked")
    person.types("Wall", "2.4")
    person.presses("Save the reading")
    person.until(lambda: len(_read(address, pour)) == 1, "the reading kept")
    kept = _read(address, pour)[0]
    assert kept["wall_m"] == pytest.approx(0.0024)
    assert kept["at_m"] is not None
    # Where on a helmet is told by its shape.
    person.sees(kept["place"])
    person.types("Place in words", "under the comb")
    person.types("Wall", "0,003 m")
    person.presses("Save the reading")
    person.sees("under the comb")
    assert person.complaints() == []
    for left in (1, 0):
        person.clicks("[aria-label='Remove reading 1']")
        person.until(lambda left=left: len(_read(address, pour)) == left, "it is taken off")
    assert person.console_errors() == []


def test_a_wall_that_cannot_be_is_told_and_a_picture_is_kept(person, address, tmp_path):
    pour = _casts(address, "stage%20break")[0]
    person.go(f"/log/{pour['id']}")
    person.types("Place in words", "brow")
    person.types("Wall", "400")
    person.presses("Save the reading")
    person.sees("400 mm")
    assert _read(address, pour) == []
    written = tmp_path / "lit.jpg"
    Image.new("RGB", (1200, 800), "orange").save(written)
    person.until(lambda: person.driver.find_elements(By.ID, "caption-cast"), "the pictures")
    person.driver.find_element(By.ID, "caption-cast").send_keys("against the lamp")
    person.driver.find_elements(By.CSS_SELECTOR, "input[type=file]")[-1].send_keys(str(written))
    person.sees("against the lamp")
    (kept,) = fetch(address, f"/pours/{pour['id']}/readings")["pictures"]
    assert (kept["width"], kept["height"]) == (1200, 800)
    assert person.complaints() == []
    person.clicks("[aria-label='Remove against the lamp']")
    person.until(
        lambda: fetch(address, f"/pours/{pour['id']}/readings")["pictures"] == [], "it is gone"
    )


def test_the_demos_mould_tells_its_story(person, address):
    """Nine casts, a fault with its cause and verdict, one coat more, and better ones since."""
    casts = sorted(_casts(address, "souvenir"), key=lambda one: one["started_at"])
    assert [one["cast_number"] for one in casts] == list(range(1, 10))
    (bad,) = [one for one in casts if one["faults"]]
    assert bad["coats"] + 1 == casts[-1]["coats"]
    person.go(f"/log/{bad['id']}")
    person.sees("Your verdict")
    assert "Telephone rang" in person.one("#note").get_attribute("value")
    walls = [
        next(r["wall_m"] for r in _read(address, one) if r["place"] == "brow")
        for one in (bad, casts[-1])
    ]
    assert walls[0] < 0.6 * walls[1]
    person.go(f"/sheets/{bad['sheet_id']}/learned")
    person.sees("Loss in cup and on stick")
    person.sees("of your pours, since")


def test_pours_are_set_beside_each_other_from_the_log(person, address):
    person.go("/log")
    person.sees("Tick two to four pours")
    ticks = person.driver.find_elements(By.CSS_SELECTOR, "tbody .ant-checkbox-input")
    for tick in ticks[:2]:
        tick.send_keys(Keys.SPACE)
    person.presses("Compare 2 pours")
    person.sees("What differed, the most unusual first")
    person.sees("What came of it")
    assert person.complaints() == []
    assert person.console_errors() == []


def test_a_run_is_begun_and_says_what_it_takes(person, address):
    person.go("/log/runs")
    person.presses("Plan a run")
    person.types("Name", "Souvenirs for the fair")
    sheet = person.field("Cast sheet")
    sheet.send_keys("souvenir")
    sheet.send_keys(Keys.ENTER)
    person.types("Casts", "30")
    person.dates("Due on", "2030-12-20")
    person.presses("Begin the run")
    person.presses("Souvenirs for the fair")
    person.sees("of 30 casts")
    person.sees("is missing")
    person.sees("Have another one ready before cast")
    assert person.complaints() == []
    assert person.console_errors() == []
    person.presses("Delete")
    person.answers("Delete")
    person.until(lambda: person.driver.current_url.endswith("/log/runs"), "back at the runs")
    left = [one["name"] for one in fetch(address, "/runs")["runs"]]
    assert "Souvenirs for the fair" not in left
    assert person.console_errors() == []
