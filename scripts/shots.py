"""Remakes docs/screenshots/ from the demo in the real browser, on a database of its own."""

import csv
import io
import sys
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

import pypdfium2  # noqa: E402
from matplotlib import image  # noqa: E402
from selenium.webdriver.common.action_chains import ActionChains  # noqa: E402
from selenium.webdriver.common.keys import Keys  # noqa: E402

from browser.chromium import Person, chromium_browser  # noqa: E402
from browser.lookup import (  # noqa: E402 - the tests' words
    fetch,
    fetch_bytes,
    post,
    sheet_named,
    start_pour,
)
from browser.views import SIZES, Size, at_size  # noqa: E402
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
        one
        for one in fetch(address, "/pours")["pours"]
        if one["closed_at"] and "market day" in one["sheet_name"]
    )
    souvenir = next(
        one for one in fetch(address, "/pours?search=souvenir")["pours"] if one["faults"]
    )
    views = {
        "piece": (f"/pieces/{helmet['id']}", "What it will not do well"),
        "moulds": (f"/moulds/{_mould(address)['id']}", "Rubber to mix"),
        "shelf": ("/shelf", "Slow epoxy"),
        "sheets": ("/sheets", "Harbour mistress, souvenir"),
        "log": ("/log", "Harbour mistress, souvenir"),
        "log-entry": (f"/log/{entry['id']}", "Coat by coat"),
    }
    for name, (path, words) in views.items():
        person.go(path)
        person.sees(words)
        if name == "log-entry":
            person.until(lambda: "As it was turned" in person.text(), "both walls", 240.0)
            person.driver.execute_script("document.querySelector('.poured-walls').scrollIntoView()")
            time.sleep(3.0)
        if name in ("sheets", "moulds"):
            person.until(lambda: _is_drawn(person), "the drawings", 120.0)
        _keep(person, name)
    _days(person, address)
    _read(person, address, souvenir)
    _life(person, address)
    _patterns(person, address)
    _settled(person, sheet_named(address, "market day")["id"])
    _walls(person, mask["id"])
    _bench(person, address)
    _practice(person)


def _is_drawn(person: Person) -> bool:
    empty = person.driver.find_elements("css selector", "span.drawing")
    return not empty


def _practice(person: Person) -> None:
    """A mould on the practice tray, rolled for some seconds."""
    person.go("/practice")
    person.presses("Begin: pour it in")
    person.sees("Stop here")
    for key, held_s in ((Keys.ARROW_UP, 1.3), (Keys.ARROW_RIGHT, 6.0)):
        ActionChains(person.driver).key_down(key).pause(held_s).key_up(key).perform()
    _keep(person, "practice")


def _days(person: Person, address: str) -> None:
    """A busy day and its board, an offer, the finish of a helmet."""
    hours = [{"weekday": day, "opens_h": 8, "closes_h": 18, "evening_h": 21} for day in range(7)]
    short = [{**one, "closes_h": 16, "evening_h": 0} for one in hours]
    people = [{"name": "Ada", "hours": hours}, {"name": "Bo", "hours": short}]
    post(address, "/days/people", {"people": people}, method="PUT")
    helmet = next(
        one
        for one in fetch(address, "/pours?limit=200")["pours"]
        if one["status"] == "cast" and "parade" in one["sheet_name"]
    )
    wish = {
        "paint": "solvent-based", "worn": True, "visor": True, "straps": True, "padding": True,
        "cut_outs": 1,
    }  # fmt: skip
    body = {"finish": wish, "release": "release-paintable-spray"}
    post(address, f"/pours/{helmet['id']}/finish", body, method="PUT")
    mask = sheet_named(address, "chorus")
    mould = next(
        one for one in fetch(address, "/moulds")["moulds"] if one["piece_id"] == mask["piece_id"]
    )
    due = (datetime.now(UTC) + timedelta(days=9)).isoformat()
    asked = {
        "title": "Spring procession", "sheet_id": mask["id"], "mould_id": mould["id"],
        "casts": 12, "due": due, "finish": {"paint": "water-based", "worn": True, "cut_outs": 2},
    }  # fmt: skip
    post(address, "/days/offers", asked)
    for name, path, words in (
        ("today", "/today", "Next for hands"),
        ("offer", "/today/offers", "Spring procession"),
        ("finish", f"/log/{helmet['id']}/finish", "Weight and room inside"),
    ):
        person.go(path)
        person.sees(words)
        _keep(person, name)
    person.go("/today/board")
    person.sees("People")
    blocks = person.driver.find_elements("css selector", ".board-block.of-person:not(.begun)")
    blocks[1].send_keys(Keys.ARROW_RIGHT * 2)
    person.sees("Put it there")
    _keep(person, "board")


def _bench(person: Person, address: str) -> None:
    """A coat on the live scale and on the machine."""
    pour = start_pour(address, "market day")
    person.go(f"/pour/{pour['id']}")
    person.presses("Weigh it on")
    person.until(lambda: "slowly now" in person.text(), "the last grams", 60.0)
    _keep(person, "bench-weigh")
    person.until(lambda: "It is in the mould" in person.text(), "weighed and mixed", 120.0)
    person.presses("It is in the mould")
    person.presses("Start it turning")
    person.sees("now at ")
    time.sleep(3.0)
    _keep(person, "bench-machine")


def _settled(person: Person, sheet_id: str) -> None:
    """The sheet with its wall."""
    person.go(f"/sheets/{sheet_id}")
    settled = "Settled: just these coats were simulated."
    person.until(lambda: settled in person.text(), "the settled plan", 400.0)
    _keep(person, "sheet")
    turned = person.field("Turned")
    turned.send_keys("by eye")
    turned.send_keys(Keys.ENTER)
    person.one(".wanted .ant-checkbox-input").click()
    person.sees("Estimate:")
    person.until(lambda: settled in person.text(), "the settled plan by hand", 400.0)
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


def _read(person: Person, address: str, pour: Any) -> None:
    """The wall of a cast as it was read, thin where the telephone rang, and how far it is off."""
    person.go(f"/log/{pour['id']}")
    person.presses("Simulate it")
    person.until(lambda: "On 95 % of the face at least" in person.text(), "its wall", 240.0)
    told = fetch(address, f"/pours/{pour['id']}/readings")
    content = fetch_bytes(address, f"/walls/{told['simulated']}/wall.csv").decode("utf-8-sig")
    faces = [
        {name: float(value) for name, value in row.items()}
        for row in csv.DictReader(io.StringIO(content))
    ]
    top = max(face["z_mm"] for face in faces)
    # Seen from where the view stands at first: high on its right, a little from the front.
    seen = [face for face in faces if 1.5 * face["x_mm"] + 2.4 * face["y_mm"] > 40.0]
    for share, off in ((0.95, 1.05), (0.8, 0.5), (0.7, 0.8), (0.55, 1.0), (0.3, 1.1), (0.15, 0.95)):
        face = min(seen, key=lambda one: abs(one["z_mm"] - share * top))
        at_m = [face[name] / 1e3 for name in ("x_mm", "y_mm", "z_mm")]
        wall_m = round(off * face["wall_mm"], 1) / 1e3
        post(
            address,
            f"/pours/{pour['id']}/readings",
            {"by": "hole", "wall_m": wall_m, "at_m": at_m},
        )
    person.go(f"/log/{pour['id']}")
    person.sees("As it was poured")
    person.driver.execute_script("document.querySelector('.readings').scrollIntoView()")
    difference = "//label[contains(., 'difference')]"
    person.until(lambda: person.driver.find_elements("xpath", difference), "the walls")
    person.driver.find_element("xpath", difference).click()
    time.sleep(2.0)
    _keep(person, "readings")


def _patterns(person: Person, address: str) -> None:
    """The part-line wall of the helmet, flat and on the mould; and the first page of its print."""
    moulds = fetch(address, "/moulds")["moulds"]
    helmet = next(one for one in moulds if "Lamplighter" in one["name"])
    person.go(f"/moulds/{helmet['id']}/patterns")
    person.until(lambda: "Take it to the bench" in person.text(), "its wall", 120.0)
    time.sleep(3.0)
    person.driver.find_elements("css selector", ".pattern-sheets .place")[12].click()
    _keep(person, "patterns")
    pdf = fetch_bytes(address, f"/moulds/{helmet['id']}/pattern/pdf?kind=part-line")
    page = pypdfium2.PdfDocument(pdf)[0].render(scale=1.1).to_numpy()
    image.imsave(FOLDER.parent / "pattern-page.png", page[:, :, 2::-1])
    print("docs/pattern-page.png")


def _life(person: Person, address: str) -> None:
    """How long a mould lasts, and its casts on their control charts under it."""
    moulds = fetch(address, "/moulds")["moulds"]
    bust = next(one for one in moulds if "Harbour" in one["name"])
    person.go(f"/moulds/{bust['id']}")
    person.until(lambda: "Rubber to mix" in person.text(), "its study", 120.0)
    at_size(person, Size(1280, 1640))
    person.driver.execute_script(
        "document.querySelector(\"[aria-label='Its life']\").scrollIntoView()"
    )
    _keep(person, "mould-life")
    at_size(person, SIZES["1280"])


def _mould(address: str) -> Any:
    return next(one for one in fetch(address, "/moulds")["moulds"] if "Lamp" in one["name"])


def _keep(person: Person, name: str) -> None:
    # Fonts and the drawing of the piece follow the words.
    time.sleep(2.0)
    FOLDER.mkdir(parents=True, exist_ok=True)
    person.driver.save_screenshot(str(FOLDER / f"{name}.png"))
    print(f"docs/screenshots/{name}.png")


if __name__ == "__main__":
    main()
