"""The board, the finish of a cast, offers and kept plans, as their maker uses them."""

from datetime import UTC, datetime, timedelta

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from browser.lookup import fetch, post, sheet_named

pytestmark = pytest.mark.browser


def _at(text):
    return datetime.fromisoformat(text)


@pytest.fixture
def own(address):
    """A task of one's own, tomorrow or later: nothing else of this session is in its way."""
    put = []

    def add(title, minutes=60):
        body = {"kind": "own", "title": title, "minutes": minutes, "zone": "UTC"}
        told = post(address, "/days/jobs", body)
        put.append(next(one["id"] for one in told["jobs"] if one["title"] == title))
        return next(one for one in _board(address) if one["title"] == title)

    yield add
    for key in put:
        post(address, f"/days/jobs/{key}", {}, method="DELETE")


def _board(address):
    return fetch(address, "/days/board")["tasks"]


def _shown(person, title):
    """The block of a task, on the day that shows it, from today on."""
    person.go("/today/board")

    def look():
        # The heading stands there as soon as the blocks of its day do: a day that is not on the
        # screen yet has none, and must not be passed over.
        day = person.one(".board-tools h2").text
        found = person.driver.find_elements(By.CSS_SELECTOR, ".board-block.of-person")
        here = [one for one in found if title in (one.get_attribute("aria-label") or "")]
        if here:
            return here[0]
        person.clicks("button[aria-label=Later]")
        # The next day is on the screen before it is looked at, and not passed over.
        person.until(lambda: person.one(".board-tools h2").text != day, "the next day")
        return None

    return person.until(look, title)


def test_a_task_is_moved_by_keys_and_says_first_what_that_breaks(person, address, own):
    task = own("Cut felt for the crown")
    block = _shown(person, "Cut felt")
    block.send_keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    person.sees("Put it there")
    assert next(one for one in _board(address) if one["id"] == task["id"]) == task
    person.presses("Put it there")
    later = _at(task["starts"]) + timedelta(minutes=30)

    def moved():
        one = next(one for one in _board(address) if one["id"] == task["id"])
        # Where something was in the way it stands as soon after as can be.
        return one["pinned"] and _at(one["starts"]) >= later.replace(second=0)

    person.until(moved, "it is moved")
    person.presses("Plan it again")
    person.until(
        lambda: not next(one for one in _board(address) if one["id"] == task["id"])["pinned"],
        "it is free again",
    )
    # Far back it cannot go, and that is said before anything is done.
    block = _shown(person, "Cut felt")

    def far_back():
        # Over a night, or over a weekend: as far as the next day of work is away.
        block.send_keys(Keys.SHIFT, Keys.ARROW_LEFT * 8)
        return "that time is past" in person.text()

    person.until(far_back, "that time is past")
    person.presses("Leave it")
    assert person.complaints() == []
    assert person.console_errors() == []


def test_a_task_is_dragged_and_what_is_in_the_way_is_named(person, address, own):
    # Past all that the demo plans, whatever day and hour it is begun at.
    nine = (datetime.now(UTC) + timedelta(days=9)).replace(hour=9, minute=0, second=0)
    for title, hour in (("Sand the left horn", 9), ("Sand the right horn", 13)):
        body = {"task": own(title, 90)["id"], "starts": nine.replace(hour=hour).isoformat()}
        post(address, "/days/board/moves", body)
    block = _shown(person, "right horn")
    hours = -4.0
    day = person.driver.execute_script(
        "return document.querySelector('.board-tools > .faint').textContent"
    )
    from_h, to_h = (int(one[:2]) for one in day.split(" to "))
    width = person.one(".board-field").size["width"]
    by = round(hours * width / ((to_h or 24) - from_h))
    ActionChains(person.driver).click_and_hold(block).move_by_offset(by // 2, 0).move_by_offset(
        by - by // 2, 0
    ).release().perform()
    person.sees("is at 'Sand the left horn' then")
    person.presses("Put it there")

    def apart():
        found = [one for one in _board(address) if "horn" in one["title"]]
        one, other = sorted(found, key=lambda task: task["starts"])
        # The right one was put where the left one was.
        is_moved = all(_at(task["starts"]).hour != 13 for task in found)
        return is_moved and one["ends"] <= other["starts"]

    person.until(apart, "one of them makes room")
    assert person.console_errors() == []


def test_the_finish_of_a_cast_is_planned_step_by_step(person, address):
    pour = next(
        one
        for one in fetch(address, "/pours?limit=200")["pours"]
        if one["status"] == "cast" and "market day" in one["sheet_name"]
    )
    person.go(f"/log/{pour['id']}")
    person.presses("Finish")
    person.sees("No finish is planned.")
    person.clicks(".uses label")
    person.presses("Plan the finish")
    person.sees("Not ready for primer")
    told = fetch(address, f"/pours/{pour['id']}/finish")
    assert told["wish"]["worn"]
    first = told["steps"][0]
    person.sees(first["step"]["title"])
    assert all(one in person.text() for one in first["step"]["cautions"])
    person.clicks(".card.now .press-now")
    person.until(
        lambda: fetch(address, f"/pours/{pour['id']}/finish")["steps"][0]["done"], "it is done"
    )
    person.clicks("[aria-label='Leave out: Fill what the primer shows']")
    person.until(
        lambda: "fill" in fetch(address, f"/pours/{pour['id']}/finish")["wish"]["dropped"],
        "it is left out",
    )
    person.types("Trimmed, g", "5")
    person.presses("Save the weight")
    person.until(
        lambda: fetch(address, f"/pours/{pour['id']}/finish")["trimmed_kg"] == 0.005, "weighed"
    )
    assert person.complaints() == []
    assert person.console_errors() == []
    job = fetch(address, f"/pours/{pour['id']}/finish")["job_id"]
    post(address, f"/days/jobs/{job}", {}, method="DELETE")


def test_an_offer_is_asked_for_and_answers_with_a_day_and_a_price(person, address):
    sheet = sheet_named(address, "chorus")
    due = (datetime.now().astimezone() + timedelta(days=20)).isoformat()
    offer = post(
        address,
        "/days/offers",
        {"title": "Lantern walk", "sheet_id": sheet["id"], "casts": 2, "due": due, "zone": "UTC"},
    )
    person.go("/today/offers")
    person.sees("Lantern walk: 2 casts")
    price = offer["answer"]["ways"][0]["price"]
    person.sees(f"{float(price):,.2f} EUR")
    person.sees("Yes, by")
    assert person.complaints() == []
    person.clicks("[aria-label='Delete Lantern walk']")
    person.answers("Delete")
    person.until(lambda: fetch(address, "/days/offers")["offers"] == [], "it is deleted")
    assert person.console_errors() == []


def test_a_plan_is_kept_and_read_again(person, address, own):
    own("Mix the filler", 30)
    person.go("/today/went")
    person.types("Save the current plan as", "Before the fair")
    person.presses("Save the plan")
    person.sees("Mix the filler")
    person.sees("not begun")
    assert person.complaints() == []
    person.presses("Delete it")
    person.until(lambda: fetch(address, "/days/kept")["kept"] == [], "it is deleted")
    assert person.console_errors() == []


def test_today_is_read_at_the_bench_and_reminds_where_it_is_asked_to(person, address, own):
    own("Wipe the table", 15)
    person.go("/today/bench")
    person.sees("Today")
    ground = person.driver.execute_script(
        "return getComputedStyle(document.querySelector('.today-bench')).backgroundColor"
    )
    assert ground == "rgb(23, 22, 20)"
    assert person.complaints() == []
    person.presses("Leave")
    person.presses("Remind me here")
    person.sees("Stop reminding me here")
    person.presses("Make a calendar address")
    field = person.field("Address for your calendar program")
    shown = field.get_attribute("value")
    path = fetch(address, "/days/calendar")["path"]
    assert shown.endswith(path)
    person.presses("End it")
    person.until(lambda: fetch(address, "/days/calendar")["path"] is None, "it is ended")
    person.presses("Stop reminding me here")
    assert person.console_errors() == []
