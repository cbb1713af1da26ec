"""Remakes docs/screenshots/ from the demo in the real browser, on a database of its own."""

import sys
import time
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from selenium.webdriver.common.keys import Keys  # noqa: E402

from browser.chromium import Person, chromium_browser  # noqa: E402
from browser.lookup import fetch, post, sheet_named, start_pour  # noqa: E402 - the tests' words
from browser.test_piece_views import _make  # noqa: E402
from core.corpus import FORMS, dish, hollow_print  # noqa: E402
from served import demo_server  # noqa: E402

FOLDER = ROOT / "docs" / "screenshots"


def main() -> None:
    """Start the demo, go round the views, keep a picture of each."""
    with demo_server() as address, chromium_browser() as driver:
        _round(Person(driver, address), address)


def _round(person: Person, address: str) -> None:
    helmet = next(one for one in fetch(address, "/pieces")["pieces"] if "helmet" in one["name"])
    mask = sheet_named(address, "chorus")
    entry = next(
        one for one in fetch(address, "/pours")["pours"] if one["sheet_name"] == mask["name"]
    )
    _start_dab(address)
    views = {
        "piece": (f"/pieces/{helmet['id']}", "What it will not do well"),
        "tape": ("/pieces/by-hand", "more girths make it surer"),
        "moulds": (f"/moulds/{_mould(address)['id']}", "Rubber to mix"),
        "shelf": ("/shelf", "Slow epoxy"),
        "chain": ("/shelf/chain", "Medium rigid urethane"),
        "dabs": ("/shelf/dabs", "print of light-cured resin"),
        "why": (f"/sheets/{mask['id']}", "Resin to mix"),
        "cost": (f"/sheets/{mask['id']}/cost", "Together"),
        "log-entry": (f"/log/{entry['id']}", "Coat by coat"),
        "bench-weigh": (f"/pour/{start_pour(address, 'parade')['id']}", "Measure out"),
    }
    for name, (path, words) in views.items():
        person.go(path)
        person.sees(words)
        if name != "why":
            _keep(person, name)
        if name == "piece":
            person.driver.execute_script(
                "document.querySelector('.piece-tests').scrollIntoView({block: 'start'})"
            )
            person.sees("It stays in")
            _keep(person, "piece-tests")
        if name == "why":
            person.one("[data-figure=total_charge] button").click()
            person.presses("weight needed for the wall")
            person.presses("set on the wall")
            person.sees("typical for the class")
            _keep(person, "why")
            _cure(person, path)
    for name, title, mesh, words in (
        ("piece-question", "Offering dish", dish(28), "Is this a hollow print?"),
        ("piece-print", "Wardens helm, printed", hollow_print(*FORMS["helmet"]), "left out"),
    ):
        person.go(f"/pieces/{_make(address, title, mesh)}")
        person.sees(words)
        _keep(person, name)
    _settled(person, sheet_named(address, "market day")["id"])
    _walls(person, mask["id"])
    person.go("/shelf/buy")
    for words, casts in (("chorus", "30"), ("feather light", "12")):
        field = person.one(f"[id='casts-{sheet_named(address, words)['id']}']")
        field.send_keys(Keys.CONTROL + "a")
        field.send_keys(casts)
    person.sees("9,180.0 g needed")
    _keep(person, "buy")
    person.go(views["bench-weigh"][0])
    person.presses("Both are measured")
    person.presses("A meets B: start the clock")
    person.sees("pour before")
    _keep(person, "bench-clock")


def _settled(person: Person, sheet_id: str) -> None:
    """The sheet with its wall."""
    person.go(f"/sheets/{sheet_id}")
    settled = "Settled: just these coats were simulated."
    person.until(lambda: settled in person.text(), "the settled plan", 180.0)
    _keep(person, "sheet")
    turned = person.field("Turned")
    turned.send_keys("by eye")
    turned.send_keys(Keys.ENTER)
    person.one(".wanted .ant-checkbox-input").click()
    person.sees("Estimate:")
    person.until(lambda: settled in person.text(), "the settled plan by hand", 180.0)
    # With the same wall in other coats, under the map.
    person.sees("More or fewer coats")
    person.driver.execute_script(
        "document.querySelector('.coat-choices').scrollIntoView({block: 'end'})"
    )
    _keep(person, "sheet-by-hand")


def _walls(person: Person, sheet_id: str) -> None:
    person.go(f"/sheets/{sheet_id}/wall")
    person.until(lambda: "Estimate:" in person.text(), "the wall", 240.0)
    _keep(person, "wall")


def _cure(person: Person, path: str) -> None:
    person.go(path)
    person.presses("How it cures")
    person.sees("2 °C warmer")
    _keep(person, "cure")


def _mould(address: str) -> Any:
    return next(one for one in fetch(address, "/moulds")["moulds"] if "Lamp" in one["name"])


def _start_dab(address: str) -> None:
    supplies = fetch(address, "/supplies")["supplies"]
    keys = {one["key"]: one["id"] for one in supplies}
    body = {
        "first_id": keys["rubber-addition-firm"],
        "second_id": keys["printed-resin"],
        "note": "Under the chin, washed and cured twice.",
    }
    post(address, "/dab-tests", body)


def _keep(person: Person, name: str) -> None:
    # Fonts and the drawing of the piece follow the words.
    time.sleep(2.0)
    FOLDER.mkdir(parents=True, exist_ok=True)
    person.driver.save_screenshot(str(FOLDER / f"{name}.png"))
    print(f"docs/screenshots/{name}.png")


if __name__ == "__main__":
    main()
