"""The bench while network, server and browser come and go: a press is when it was pressed."""

import time
from datetime import datetime
from urllib.parse import urlsplit

import pytest

from browser.chromium import Person, chromium_browser, tablet
from browser.lookup import fetch, start_pour
from served import fresh_database, served

pytestmark = pytest.mark.browser
AHEAD_S = 97.0
PRESSED = {
    "weigh": "Both are measured",
    "mix": "A meets B: start the clock",
    "pour": "It is in the mould",
    "gel": "It has stopped flowing",
}
DONE_AT = {"weigh": "weighed_at", "mix": "mixed_at", "pour": "poured_at", "gel": "gelled_at"}


def _press(person, step, times):
    """Press a step, and note between which two moments that was."""
    begun = time.time()
    person.presses(PRESSED[step])
    times.append((step, begun, time.time()))


def _assert_logged(pour, times):
    """The log's times are those of the presses, to 0.3 s, each step once."""
    done = [
        (step, datetime.fromisoformat(coat[name]).timestamp())
        for coat in pour["coats"]
        for step, name in DONE_AT.items()
        if coat[name] is not None
    ]
    assert [step for step, _ in done] == [step for step, _, _ in times]
    for (step, at), (_, begun, ended) in zip(done, times, strict=True):
        assert begun - 0.3 <= at <= ended + 0.3, (step, at - begun, ended - begun)


def test_nothing_pressed_is_lost_or_late_whatever_goes_away(cluster):
    """The server stops, the page is reloaded, the browser killed, the server back: by a tablet
    whose clock is a minute and a half ahead."""
    times = []
    with fresh_database(cluster) as url, tablet(AHEAD_S) as its:
        with served(url, "--demo") as server:
            address = server.address
            pour = start_pour(address, "stage break")["id"]
            person = Person(its.driver, address)
            person.go(f"/pour/{pour}")
            _press(person, "weigh", times)
            person.sees("Pour B into A")
            # Kept for when the server is away, once it has been here.
            person.until(
                lambda: person.driver.execute_async_script(
                    "const done = arguments[0]; navigator.serviceWorker.ready"
                    ".then(() => caches.match('/index.html')).then(at => done(Boolean(at)))"
                ),
                "the kept page",
            )
        begun = time.monotonic()
        _press(person, "mix", times)
        person.until(lambda: "pour before" in person.text(), "the next step", 1.5)
        assert time.monotonic() - begun < 2.5
        person.sees("1 press kept here, not sent yet")
        assert person.complaints() == []
        person.driver.refresh()
        person.sees("pour before")
        person.sees("1 press kept here, not sent yet")
        _press(person, "pour", times)
        person.sees("gels in about")
        its.kill()
        person = Person(its.switch_on(), address)
        person.go(f"/pour/{pour}")
        person.sees("gels in about")
        person.sees("2 presses kept here, not sent yet")
        port = str(urlsplit(address).port)
        with served(url, "--port", port):
            person.until(lambda: "kept here" not in person.text(), "all sent")
            _press(person, "gel", times)
            person.sees("Coat 2 of 2")
            person.until(
                lambda: fetch(address, f"/pours/{pour}")["coats"][0]["gelled_at"], "all taken"
            )
            _assert_logged(fetch(address, f"/pours/{pour}"), times)


def test_a_cut_network_is_said_and_what_another_tablet_did_first_is_refused(person, address):
    pour = start_pour(address, "stage break")["id"]
    times = []
    with chromium_browser() as other_driver:
        other = Person(other_driver, address)
        for one in (person, other):
            one.go(f"/pour/{pour}")
            one.sees("Measure out")
        _press(person, "weigh", times)
        # A second screen shows it within a second.
        other.until(lambda: "Pour B into A" in other.text(), "the other's press", 1.0)
        person.driver.set_network_conditions(offline=True, latency=0, throughput=0)
        try:
            person.presses(PRESSED["mix"])
            person.sees("1 press kept here, not sent yet")
            person.sees("pour before")
            begun = time.time()
            _press(other, "mix", times)
            # It is shown at once; the server has to have it before the network is back.
            other.until(
                lambda: fetch(address, f"/pours/{pour}")["coats"][0]["mixed_at"], "it is taken"
            )
        finally:
            person.driver.delete_network_conditions()
        person.sees("Coat 1, A meets B (pressed at")
        person.sees("was not taken: Coat 1 was mixed at")
        assert person.complaints() == []
        person.presses("Leave it out")
        person.until(lambda: "was not taken" not in person.text(), "the refusal gone")
        person.sees("pour before")
        _assert_logged(fetch(address, f"/pours/{pour}"), times)
        mixed = fetch(address, f"/pours/{pour}")["coats"][0]["mixed_at"]
        assert datetime.fromisoformat(mixed).timestamp() >= begun - 0.3


def test_a_press_of_two_bounces_ticks_one_step_off(person, address):
    """A sticky glove presses twice within a fifth of a second (common practice, no source)."""
    pour = start_pour(address, "stage break")["id"]
    person.go(f"/pour/{pour}")
    person.sees("Measure out")
    time.sleep(0.5)
    person.driver.execute_script(
        "const press = () => document.querySelector('button.press').click();"
        "press(); for (const ms of [60, 120, 200]) setTimeout(press, ms);"
    )
    person.sees("Pour B into A")
    time.sleep(0.6)
    stands = fetch(address, f"/pours/{pour}")["coats"][0]
    assert stands["weighed_at"]
    assert stands["mixed_at"] is None
