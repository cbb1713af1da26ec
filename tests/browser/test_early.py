"""What a page will ask for comes with its address, and its page does not ask for it again."""

import time

import pytest

from browser.chromium import Person, chromium_browser
from browser.lookup import fetch, post, sheet_named
from browser.views import VIEWS, View

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
            ["/castables", "/sheets/{sheet}", "/workshop"],
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


_MOST = 5
"""Requests of a view after the first."""
_MEANWHILE = ("/live", "/jobs/", "/now", "/drawings/", "/pictures/")
"""Events, how far a job is, a clock, and the pictures of a list, each as long as somebody looks."""
_GO = """
performance.clearResourceTimings();
history.pushState({idx: 1, key: "there", usr: null}, "", arguments[0]);
dispatchEvent(new PopStateEvent("popstate", {state: history.state}));
"""
_QUIET_S = 1.5


def _of_mould(address):
    named = (one for one in fetch(address, "/moulds")["moulds"] if "Lamplighter" in one["name"])
    return f"/moulds/{next(named)['id']}"


def _of_turned_sheet(address):
    return f"/sheets/{sheet_named(address, 'market day')['id']}"


_BUSIEST = {
    "piece": VIEWS["piece"],
    "mould": View(_of_mould, "Its casts"),
    "kept sheet": View(_of_turned_sheet, "Resin to mix"),
    "new sheet": VIEWS["new sheet"],
    "log entry": VIEWS["log entry"],
    "workshop": VIEWS["workshop"],
}


def test_a_view_after_the_first_asks_for_little(address):
    _walled(address)
    with chromium_browser() as driver:
        person = Person(driver, address)
        told = {}
        for name, view in _BUSIEST.items():
            # Each is the second view of somebody who has been on one other page; what a worker is
            # asked for once, it was asked for.
            if name == "mould":
                person.go(view.path(address))
                person.sees("Build clock")
            person.go("/today")
            person.sees("Add a job")
            person.until(lambda: _asked_for(driver, "/fault-kinds"), "what stands is there")
            time.sleep(_QUIET_S)
            driver.execute_script(_GO, view.path(address))
            person.sees(view.words)
            time.sleep(_QUIET_S)
            names = [one for one, _, _ in driver.execute_script(_ASKED)]
            told[name] = [one for one in names if not any(other in one for other in _MEANWHILE)]
        assert person.console_errors() == []
    assert {name: asked for name, asked in told.items() if len(asked) > _MOST} == {}


def _asked_for(driver, name):
    return any(one.endswith(name) for one, _, _ in driver.execute_script(_ASKED))


def _walled(address):
    """The wall of the turned sheet is there, as it mostly is when a kept sheet is opened."""
    sheet = fetch(address, _of_turned_sheet(address))
    question = {key: sheet[key] for key in ("piece_id", "material_id", "wish")}
    ends = time.monotonic() + 120.0
    while post(address, "/sheets/settle", question)["run"] is None:
        assert time.monotonic() < ends
        time.sleep(0.5)
