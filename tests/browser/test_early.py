"""What a page will ask for comes with its address, and its page does not ask for it again."""

import pytest

from browser.chromium import Person, chromium_browser
from browser.lookup import fetch

pytestmark = pytest.mark.browser
_ASKED = """
return performance.getEntriesByType("resource")
  .filter((one) => one.name.startsWith(location.origin + "/api/v1/"))
  .map((one) => [one.name.slice(location.origin.length), one.initiatorType, one.startTime]);
"""


@pytest.mark.parametrize(
    ("path", "waits_for", "early"),
    [
        ("/today", "h1", ["/days"]),
        ("/log", "h1", ["/pours?limit=50&offset=0&search="]),
        (
            "/sheets/{sheet}",
            ".sheet-name",
            ["/castables", "/pieces?limit=200&offset=0", "/sheets/{sheet}", "/workshop"],
        ),
    ],
)
def test_answers_come_beside_the_first_script(address, path, waits_for, early):
    sheet = fetch(address, "/sheets")["sheets"][0]["id"]
    with chromium_browser() as driver:
        # A browser that has been nowhere.
        person = Person(driver, address)
        person.go(path.format(sheet=sheet))
        person.one(waits_for)
        asked = driver.execute_script(_ASKED)
        assert person.console_errors() == []
    wanted = [f"/api/v1{one}".format(sheet=sheet) for one in early]
    assert sorted(name for name, how, _ in asked if how == "link") == wanted
    again = {name for name, how, _ in asked if how == "fetch"}
    # What happens meanwhile: whoever listens looks anew once, as soon as it listens.
    assert again & set(wanted) <= {"/api/v1/days"}
    # None waits for a script to have come: all begin before the first of what scripts ask for.
    later = [start for name, _, start in asked if name not in wanted]
    begun = [start for name, how, start in asked if how == "link"]
    assert not later or max(begun) < min(later)
