"""The practice tray in the browser: rolled by keys and by hand, judged, remembered."""

import re

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from browser.lookup import fetch

pytestmark = pytest.mark.browser
_NO_SPILL = "//label[contains(., 'No spill')]"


def wet(person):
    """The share of the mould that was ever wet, as it stands on the page. [%]"""
    told = re.search(r"wet\s+(\d+) %", person.text())
    return int(told[1]) if told else 0


def hold(person, key, seconds):
    ActionChains(person.driver).key_down(key).pause(seconds).key_up(key).perform()


def test_a_mould_is_rolled_by_keys_and_its_wall_is_judged(person, address):
    pours = fetch(address, "/pours")["total"]
    person.go("/practice")
    person.sees("Nothing here touches your stock or your log.")
    # What holds most is proposed.
    person.sees("Lamplighter helmet")
    person.presses("Begin: pour it in")
    person.until(lambda: wet(person) > 0, "the pour")
    person.one("canvas")
    assert person.driver.switch_to.active_element.get_attribute("role") == "application"
    before = wet(person)
    hold(person, Keys.ARROW_UP, 1.2)
    hold(person, Keys.ARROW_RIGHT, 4.0)
    person.until(lambda: wet(person) > before + 20, "more that is wet")
    assert person.complaints("minor") == []
    hold(person, Keys.ARROW_DOWN, 1.5)
    person.presses("Stop here and see the wall")
    person.sees("% of the face was wet; 99 % are wanted.")
    person.sees("Thin")
    person.sees("Your last tries")
    assert person.complaints("minor") == []
    assert person.console_errors() == []
    # It is remembered here, and stands nowhere else.
    person.go("/practice")
    person.sees("Your last tries")
    assert fetch(address, "/pours")["total"] == pours
    person.driver.execute_script("localStorage.removeItem('husk-practice')")


def test_a_finger_tilts_it_and_what_runs_over_the_rim_is_told(person):
    person.go("/practice")
    person.until(lambda: person.driver.find_elements(By.XPATH, _NO_SPILL), "the exercises")
    person.driver.find_element(By.XPATH, _NO_SPILL).click()
    person.until(lambda: "more than usual is in the mould" in person.text(), "what is to be done")
    person.presses("Begin: pour it in")
    person.until(lambda: wet(person) > 0, "the pour")
    tray = person.one(".tray-hands")
    # Up the screen is further over, until it stands on its head.
    ActionChains(person.driver).move_to_element(tray).click_and_hold().move_by_offset(
        0, -190
    ).release().perform()
    ActionChains(person.driver).move_to_element(tray).click_and_hold().move_by_offset(
        0, -190
    ).release().perform()
    person.until(
        lambda: re.search(r"over the rim\s+[1-9][\d,.]* g", person.text()), "what is spilt"
    )
    person.presses("Stop here and see the wall")
    person.sees("Not yet")
    person.sees("went over the rim.")
    person.driver.execute_script("localStorage.removeItem('husk-practice')")


def test_an_exercise_is_chosen_and_says_what_to_do(person):
    person.go("/practice")
    person.sees("Save a late coat")
    for name, says in (
        ("Rim first", "Wet the whole rim"),
        ("Chase the thin side", "Give the thin side more"),
        ("Save a late coat", "of its gel time is gone"),
    ):
        person.driver.find_element(By.XPATH, f"//label[contains(., '{name}')]").click()
        person.sees(says)
