"""A fault in the log: its causes, the verdict, and the sheet changed by a press."""

import pytest
from selenium.webdriver.common.keys import Keys

from browser.lookup import fetch

pytestmark = pytest.mark.browser


def _pour(address, words):
    pours = fetch(address, "/pours")["pours"]
    return next(one for one in pours if one["status"] == "cast" and words in one["sheet_name"])


def test_a_fault_is_put_down_to_its_cause_and_the_sheet_is_mended(person, address):
    pour = _pour(address, "parade")
    before = fetch(address, f"/sheets/{pour['sheet_id']}")
    person.go(f"/log/{pour['id']}")
    person.sees("What is wrong with it")
    fault = person.field("Fault")
    fault.send_keys(Keys.ENTER)
    # On a slow machine the kinds come after the list was opened.
    person.one(".ant-select-item-option")
    fault.send_keys(Keys.ENTER)
    person.types("Where on it", "over the brow")
    person.presses("Add this fault")
    person.sees("Thin place, over the brow")
    person.sees("Because")
    first = person.one(".cause .share").text
    # What the maker knows moves it: the page follows the answer.
    person.clicks(".fault .ask label:nth-of-type(2)")
    person.until(lambda: person.one(".cause .share").text != first, "another likelihood")
    assert person.complaints() == []
    person.presses("This was it")
    person.sees("Your verdict")
    person.presses("Change the sheet: ")
    person.sees("The sheet is changed")
    after = fetch(address, f"/sheets/{pour['sheet_id']}")
    assert after["version"] == before["version"] + 1
    assert after["wish"] != before["wish"]
    person.clicks("[aria-label='Remove Thin place']")
    person.until(lambda: "over the brow" not in person.text(), "it is gone")
    assert person.console_errors() == []


def test_the_demo_tells_of_the_belt_that_slipped(person, address):
    person.go(f"/log/{_pour(address, 'market day')['id']}")
    person.sees("Thin place, brow")
    person.sees("the mould stood still while the resin was liquid")
    assert person.one(".cause b:not(.share)").text == "It was not led there while it ran"
