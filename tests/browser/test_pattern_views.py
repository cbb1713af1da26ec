"""Patterns to cut: found on the flat part and on the piece, refused in a sentence, taken along."""

import re

import pytest
from selenium.webdriver.common.by import By

from browser.lookup import fetch, fetch_bytes

pytestmark = pytest.mark.browser
# A worker studies for some seconds, more when the machine is shared.
STUDY_S = 90.0


def _mould(address):
    moulds = fetch(address, "/moulds")["moulds"]
    return next(one for one in moulds if "Lamplighter" in one["name"])


def _press_one(person, selector, words):
    def look():
        for one in person.driver.find_elements(By.CSS_SELECTOR, selector):
            if one.is_displayed() and words in one.text:
                one.click()
                return True
        return False

    person.until(look, words)


def _kind(person, name):
    _press_one(person, ".ant-segmented-item", name)


def _choose(person, label, words):
    person.field(label).click()
    _press_one(person, ".ant-select-item-option", words)


def test_a_wall_is_cut_flat_and_found_on_the_mould(person, address):
    mould = _mould(address)
    person.go(f"/moulds/{mould['id']}")
    person.presses("Patterns to cut")
    person.sees("Patterns to cut: Lamplighter")
    person.until(lambda: "From bolt to bolt" in person.text(), "its wall", STUDY_S)
    person.until(lambda: "Take it to the bench" in person.text(), "its wall", STUDY_S)
    before = float(person.figure("pattern-cut").split()[0].replace(",", ""))
    # A wider clearance is a longer cut: by 2 pi c round a bulge, less of a half that stands.
    person.types("Clearance to the rubber", "6")
    person.until(lambda: person.figure("pattern-clearance") == "6.0 mm", "the new clearance")
    after = float(person.figure("pattern-cut").split()[0].replace(",", ""))
    assert before < after < before + 2 * 3.15 * 5
    # A mark that is pressed on the flat wall is the one that is named for both.
    place = person.driver.find_elements(By.CSS_SELECTOR, ".pattern-sheets .place")[4]
    name = place.find_element(By.TAG_NAME, "title").get_attribute("textContent")
    place.click()
    person.until(
        lambda: len(person.driver.find_elements(By.CSS_SELECTOR, ".place.chosen")) == 1, "a mark"
    )
    person.until(
        lambda: name in person.one(".pattern-mark .ant-select").text, f"{name} beside the view"
    )
    person.one("figure.view canvas")
    assert person.complaints() == []


def test_a_line_that_leaves_its_plane_is_saved_and_found_from_the_build_clock(person, address):
    mould = _mould(address)
    person.go(f"/moulds/{mould['id']}/patterns")
    person.until(lambda: "Take it to the bench" in person.text(), "its wall", STUDY_S)
    # Across the split that locks least no plane does well.
    person.types("Turn the split by", "35")
    _choose(person, "Part line", "follows the widest points")
    person.sees("Locked area, this line")
    line, plane = (
        float(person.figure(f"pattern-{name}").split()[0]) for name in ("locked", "locked-plane")
    )
    assert 0.0 < line < plane
    person.one(".pattern-heights summary").click()
    person.until(
        lambda: re.search(r"wall 1\.1: mark 1: \d+\.\d mm", person.text()), "the clay at a mark"
    )
    assert person.complaints() == []
    person.presses("Save these sizes")
    person.until(lambda: person.one(".asked .ant-btn").text == "Saved", "it is saved")
    # Whoever comes by the clock finds it as it was left.
    person.go(f"/moulds/{mould['id']}")
    person.presses("Cut the wall of the part line")
    person.sees("Locked area, this line")
    assert person.field("Turn the split by").get_attribute("value") == "35"
    assert person.one(".asked .ant-btn").text == "Saved"
    assert person.console_errors() == []


def test_a_pattern_goes_to_the_printer_and_the_cutter(person, address):
    mould = _mould(address)
    person.go(f"/moulds/{mould['id']}/patterns")
    _kind(person, "Skirt")
    person.sees("Round the rim")
    person.types("Height", "80")
    person.until(lambda: person.figure("pattern-height") == "80.0 mm", "the new height")
    links = {
        one.text: one.get_attribute("href")
        for one in person.driver.find_elements(By.CSS_SELECTOR, "aside.measures a")
    }
    begins = {"Print at 1:1": b"%PDF", "As SVG": b"<svg", "As DXF": b"  0\nSECTION"}
    for name, first in begins.items():
        path = links[name].split("/api/v1", 1)[1]
        assert "height_m=0.08" in path
        assert fetch_bytes(address, path).startswith(first)


def test_what_cannot_be_cut_is_said_where_it_was_typed(person, address):
    helmet = next(one for one in fetch(address, "/pieces")["pieces"] if "helmet" in one["name"])
    person.go(f"/pieces/{helmet['id']}/patterns")
    person.sees("Round the rim")
    # A piece alone has no shell to cut walls and strips for.
    offered = [
        one.text for one in person.driver.find_elements(By.CSS_SELECTOR, ".ant-segmented-item")
    ]
    assert offered == ["Skirt", "Box", "Visor", "Trimming"]
    person.types("Sheet height", "50")
    person.sees("A side of the sheet is 50 mm; give 100 mm to 5,000 mm.")
    person.types("Sheet height", "300")
    person.sees("Round the rim")
    _kind(person, "Visor")
    person.sees("The piece has no opening but its rim.")
    _kind(person, "Trimming")
    person.sees("Edges to trim")
    errors = person.console_errors()
    assert all("422" in one for one in errors), errors
