"""Signing in, inviting and joining in the browser; and what was typed or pressed stays."""

from collections.abc import Iterator

import pytest
from selenium.common.exceptions import ElementClickInterceptedException
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from browser.chromium import Person
from browser.lookup import fetch, sheet_named, start_pour
from browser.views import VIEWS
from served import fresh_database, served

pytestmark = pytest.mark.browser
PASSWORD, OTHER = "the first of many", "a second one, longer"

SHEET_NAME = "input[aria-label='Name of the sheet']"


@pytest.fixture
def own_address(cluster) -> Iterator[str]:
    """A demo of its own: who has an owner is open to no other test."""
    with fresh_database(cluster) as url, served(url, "--demo") as server:
        yield server.address


def _typed(person, name, password):
    person.types("Name", name)
    person.types("assword", password)


def _becomes_owner(person):
    person.go("/workshop")
    person.sees("Whoever sits at this machine needs no password.")
    _typed(person, "Ilse", PASSWORD)
    person.presses("Set the password")
    person.sees("You are signed in as Ilse.")


def _names(person, name):
    person.sees("Resin to mix")
    field = person.one(SHEET_NAME)
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys(name)


def _loses_its_cookies(person):
    person.driver.execute_cdp_cmd("Network.clearBrowserCookies", {})


def _presses_unknown(person, button):
    """Press as somebody who is signed in no more; what asks by itself may be refused sooner."""
    while True:
        _loses_its_cookies(person)
        try:
            return person.presses(button)
        except ElementClickInterceptedException:
            _signs_in(person, "Ilse", PASSWORD)
            _is_in(person)


def _signs_in(person, name, password):
    person.sees("No account?")
    _typed(person, name, password)
    person.clicks("dialog[open] button[type=submit]")


def _is_in(person):
    """The page behind says nothing of it: a press shows there before it is kept."""
    person.until(
        lambda: not person.driver.find_elements(By.CSS_SELECTOR, "dialog[open]"), "the dialog gone"
    )


def _link(person, name, role=None):
    person.until(lambda: person.driver.find_elements(By.CSS_SELECTOR, ".new-device"), "the form")
    person.types("is invited", name)
    if role is not None:
        person.one(".access .new-device .ant-select").click()
        person.clicks(f".ant-select-item-option[title='{role}']")
    person.presses("Make a link")
    person.sees(f"Send this link to {name}")
    return person.one(".invitation input").get_attribute("value")


def test_a_workshop_gets_an_owner_and_an_apprentice(own_address, chromium, another_chromium):
    pour = start_pour(own_address, "stage break")["id"]
    sheet = sheet_named(own_address, "stage break")["id"]
    owner = Person(chromium, own_address)
    owner.go("/workshop")
    owner.sees("Whoever sits at this machine needs no password.")
    _typed(owner, "Ilse", "short")
    assert not owner.one(".access button[type=submit]").is_enabled()
    _typed(owner, "Ilse", "ilseilseilse")
    owner.presses("Set the password")
    owner.sees("easy to guess")
    _typed(owner, "Ilse", PASSWORD)
    owner.presses("Set the password")
    owner.sees("You are signed in as Ilse. Owner")
    assert owner.complaints(only=".access") == []
    link = _link(owner, "Piet", "Apprentice")

    apprentice = Person(another_chromium, own_address)
    apprentice.go("/sheets")
    apprentice.sees("Sign in to this workshop first.")
    another_chromium.get(link)
    apprentice.sees("You are invited. Apprentice: pours and logs")
    assert apprentice.field("Name").get_attribute("value") == "Piet"
    assert apprentice.complaints() == []
    apprentice.types("assword", OTHER)
    apprentice.presses("Join")
    apprentice.until(lambda: another_chromium.current_url.endswith("/today"), "today")
    # Used up: whoever opens it again is told so.
    another_chromium.get("about:blank")
    another_chromium.get(link)
    apprentice.sees("This invitation was used")
    # Pours, and deletes nothing.
    apprentice.go(f"/pour/{pour}")
    apprentice.presses("Both are measured")
    apprentice.sees("Pour B into A")
    apprentice.go(f"/sheets/{sheet}")
    more = "//main//summary[normalize-space(.)='More' and @aria-disabled='false']"
    apprentice.until(lambda: another_chromium.find_element(By.XPATH, more), "its menu").click()
    apprentice.sees("Coats as CSV")
    apprentice.until(lambda: "Apprentice" in apprentice.one(".rail").text, "whose it is")
    assert "Delete this sheet" not in apprentice.text()
    _names(apprentice, "Mine now")
    apprentice.presses("Save this sheet")
    apprentice.sees("may pour and log, and change nothing else")
    apprentice.go("/workshop")
    apprentice.sees("You are signed in as Piet.")
    assert "Export the workshop" not in apprentice.text()
    apprentice.presses("Sign out")
    apprentice.sees("No account?")

    # The owner takes the account away.
    owner.go("/workshop")
    owner.clicks("button[aria-label='Remove Piet']")
    owner.answers("Remove")
    owner.until(
        lambda: not owner.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Remove Piet']"),
        "Piet gone",
    )
    _signs_in(apprentice, "Piet", OTHER)
    apprentice.sees("That name and password do not go together.")
    owner.clicks("button[aria-label='Remove Ilse']")
    owner.answers("Remove")
    owner.sees("make somebody else owner first")


def test_what_was_typed_and_pressed_stays_while_somebody_signs_in(own_address, chromium):
    pour = start_pour(own_address, "stage break")["id"]
    sheet = sheet_named(own_address, "stage break")["id"]
    person = Person(chromium, own_address)
    _becomes_owner(person)
    # Half a sheet.
    person.go(f"/sheets/{sheet}")
    _names(person, "Typed before the night")
    _presses_unknown(person, "Save this sheet")
    _signs_in(person, "Ilse", "not that one at all")
    person.sees("do not go together")
    _typed(person, "Ilse", PASSWORD)
    person.clicks("dialog[open] button[type=submit]")
    _is_in(person)
    assert person.one(SHEET_NAME).get_attribute("value") == "Typed before the night"
    person.presses("Save this sheet")
    person.sees("Saved")
    # A press with sticky gloves, and only then the password.
    person.go(f"/pour/{pour}")
    person.sees("Both are measured")
    _presses_unknown(person, "Both are measured")
    _signs_in(person, "Ilse", PASSWORD)
    _is_in(person)
    person.sees("Pour B into A")
    person.go("/workshop")
    person.presses("Sign out")
    person.sees("No account?")
    with pytest.raises(OSError, match="401"):
        fetch(own_address, "/pieces")


def test_a_tablet_is_paired_at_the_bench(own_address, chromium, another_chromium):
    owner = Person(chromium, own_address)
    _becomes_owner(owner)
    owner.one(".access .new-device .ant-select").click()
    owner.clicks(".ant-select-item-option[title='Bench tablet']")
    owner.presses("Make a link")
    owner.sees("Name the tablet")
    owner.types("What the tablet is called", "By the sink")
    owner.presses("Make a link")
    owner.sees("Send this link to By the sink")
    link = owner.one(".invitation input").get_attribute("value")
    tablet = Person(another_chromium, own_address)
    another_chromium.get(link)
    tablet.sees("This becomes By the sink")
    tablet.presses("Pair this tablet")
    tablet.until(lambda: another_chromium.current_url.endswith("/today/bench"), "the bench")
    owner.go("/workshop")
    owner.clicks("button[aria-label='Sign out By the sink']")
    tablet.go("/pour")
    tablet.sees("No account?")


SHOWN = (
    "today", "pieces", "piece", "moulds", "mould", "shelf", "lots", "sheets", "sheet", "cost",
    "other ways to turn it", "what was learned", "log", "log entry", "finish", "runs", "workshop",
    "practice tray",
)  # fmt: skip


def test_a_guest_sees_every_view_whole_and_is_refused_nothing_by_looking(
    own_address, chromium, another_chromium
):
    # What they are is looked up while that is open.
    views = {name: (VIEWS[name].path(own_address), VIEWS[name].words) for name in SHOWN}
    owner = Person(chromium, own_address)
    _becomes_owner(owner)
    link = _link(owner, "Uta", "Guest")
    guest = Person(another_chromium, own_address)
    another_chromium.get(link)
    guest.types("assword", OTHER)
    guest.presses("Join")
    guest.until(lambda: another_chromium.current_url.endswith("/today"), "today")
    guest.console_errors()
    for name, (path, words) in views.items():
        guest.go(path)
        guest.sees(words)
        guest.until(lambda: "Guest" in guest.one(".rail").text, "whose it is")
        refused = [one for one in guest.console_errors() if "403" in one or "401" in one]
        assert (name, refused) == (name, [])
        assert "change nothing. Ask" not in guest.text(), name
