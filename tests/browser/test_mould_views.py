"""A mould's page: studied once, planned, built otherwise, ticked, torn, retired."""

import pytest
from selenium.webdriver.common.by import By

from browser.lookup import fetch

pytestmark = pytest.mark.browser
# A worker studies for some seconds, more when the machine is shared.
STUDY_S = 90.0


def _mould(address, words):
    found = next(one for one in fetch(address, "/moulds")["moulds"] if words in one["name"])
    return fetch(address, f"/moulds/{found['id']}")


def _studied(person, address, words):
    mould = _mould(address, words)
    person.go(f"/moulds/{mould['id']}")
    person.until(lambda: _mould(address, words)["studied"], "its study", STUDY_S)
    person.sees("Rubber to mix")
    return mould


def test_a_mould_is_studied_when_it_is_opened_and_planned_to_the_coat(person, address):
    _studied(person, address, "Harbour mistress")
    for words in ("Coats of rubber", "Does it let go?", "Build clock", "One person may lift it"):
        person.sees(words)
    rubber = int(person.figure("planned-rubber").split()[0].replace(",", ""))
    table = person.one("section[aria-label='Coats of rubber'] table.coats")
    weighed = 0
    for row in table.find_elements(By.CSS_SELECTOR, "tbody tr"):
        cells = [one.text for one in row.find_elements(By.TAG_NAME, "td")]
        weighed += sum(int(cell.split()[0]) for cell in cells if cell.endswith(" g"))
    # What is shown adds up to what is shown.
    assert weighed == rubber
    person.presses("Try another dose")
    person.types("Catalyst, of part A by weight", "20")
    person.sees("The catalyst is 20 %; give 8 % to 12 %")
    assert person.complaints() == []
    # A refusal is told by its status, which the browser writes down.
    errors = person.console_errors()
    assert all("422" in one for one in errors), errors


def test_a_mould_is_built_otherwise_and_lives(person, address):
    mould = _studied(person, address, "Marsh bird glove")
    person.presses("Change the build")
    person.types("Wall of rubber", "8")
    assert person.complaints() == []
    person.presses("Save the build")
    person.until(lambda: _mould(address, "Marsh bird glove")["rubber_wall_m"] == 0.008, "8 mm")
    person.until(lambda: _mould(address, "Marsh bird glove")["studied"], "its new study", STUDY_S)
    person.sees("8.0 mm outwards")
    person.clicks(".check input")
    person.sees("4 of 5 left to look at")
    person.types("What happened, in a few words", "Clean.")
    person.presses("One more cast")
    person.sees("a cast came out. Clean.")
    person.sees("5 of 5 left to look at")
    person.presses("Retire it")
    person.sees("Retired on")
    person.presses("Put it back into use")
    person.until(lambda: _mould(address, mould["name"])["retired_at"] is None, "it in use")
    assert person.console_errors() == []


def test_a_soft_place_is_pressed_on_the_piece_and_planned(person, address):
    _studied(person, address, "Lamplighter")
    person.presses("Change the build")
    person.presses("Press one on the piece")
    person.presses("Mark the middle of the view")
    person.types("Reaches round its middle", "20")
    person.until(lambda: person.driver.find_elements(By.ID, "soft-name-0"), "its name")
    person.types("Gauze is laid into coat", "2")
    person.types("Thickener from this coat on", "3")
    person.types("Stays on board, brush and cup", "12")
    assert person.complaints() == []
    person.presses("Save the build")
    person.until(lambda: _mould(address, "Lamplighter")["patches"], "the soft place")
    person.until(lambda: _mould(address, "Lamplighter")["studied"], "its new study", STUDY_S)
    person.sees("of gauze")
    brush = _mould(address, "Lamplighter")["brush"]
    assert (brush["thickened_from"], brush["gauze_in"], brush["loss"]) == (3, 2, 0.12)
    place = person.one("section[aria-label='Soft places']")
    assert "Soft place 1" in place.text
    # The same rubber helps nothing, and it is said.
    person.sees("is no softer than the mould's")


def test_own_coats_that_do_not_sum_are_told_beside_them(person, address):
    _studied(person, address, "Lamplighter")
    person.presses("Change the build")
    own = (By.XPATH, "//label[contains(., 'Say how thick each coat is')]")
    person.until(lambda: person.driver.find_element(*own), "the choice").click()
    person.types("Coat 2", "1")
    person.sees("change a coat, or the wall")
    assert person.complaints() == []
