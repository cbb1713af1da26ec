"""Today as its maker uses it: what to do now, done by one press, and what the days then are."""

import pytest
from selenium.webdriver.common.keys import Keys

from browser.lookup import fetch, post, sheet_named

pytestmark = pytest.mark.browser


def _left(address):
    told = fetch(address, "/days")
    return [*told["now"], *told["to_come"]]


@pytest.fixture
def put(address):
    """Put something into days in which nothing else is: what others poured is begun in them."""
    for job in fetch(address, "/days")["jobs"]:
        post(address, f"/days/jobs/{job['id']}", {}, method="DELETE")
    put_in = []

    def add(title, **told):
        answer = post(address, "/days/jobs", {"title": title, "zone": "UTC", **told})
        put_in.append(next(one["id"] for one in answer["jobs"] if one["title"] == title))

    yield add
    for key in put_in:
        post(address, f"/days/jobs/{key}", {}, method="DELETE")


def test_the_next_is_started_and_done_and_what_follows_sets_by_itself(person, address, put):
    put("A bird for the shop", kind="cast", sheet_id=sheet_named(address, "chorus")["id"])
    person.go("/today")
    person.sees("A bird for the shop")
    count = len(_left(address))
    while not fetch(address, "/days")["setting"]:
        before = len(_left(address))
        # What comes next may be started before its time.
        person.presses("Start" if fetch(address, "/days")["now"] else "Start now")
        person.until(lambda: any(one["begun"] for one in _left(address)), "it is begun")
        person.presses("Done")
        person.until(lambda before=before: len(_left(address)) < before, "it is done")
        assert count - len(_left(address)) < 8
    person.sees("Setting by itself")
    person.sees("It cures in the mould")
    assert person.complaints() == []
    assert person.console_errors() == []


def test_a_figure_presses_the_thing_that_has_it_on_its_button(person, address, put):
    for title in ("Fetch the sand", "Sweep the yard"):
        put(title, kind="own", minutes=20)
    person.go("/today")
    person.sees("Fetch the sand")
    shown = person.until(
        lambda: person.driver.find_elements("css selector", ".press-now, .press-early"), "buttons"
    )
    at = len(shown) - 1
    assert shown[at].text in ("Start now", "Start", "Done")
    content = person.driver.execute_script(
        "return getComputedStyle(arguments[0], '::after').content", shown[at]
    )
    assert "counter" in content
    before = {one["id"] for one in fetch(address, "/days")["now"] if one["begun"]}
    person.one("body").send_keys(str(at + 1))
    person.until(
        lambda: {one["id"] for one in fetch(address, "/days")["now"] if one["begun"]} != before,
        "it is begun, or done",
    )
    assert person.console_errors() == []


def test_enter_ticks_off_what_is_to_be_done_also_after_a_link_was_followed(person, address, put):
    put("Stir the gypsum", kind="own", minutes=20)
    person.go("/log")
    person.one("h1")
    # The link has the focus when its page comes; then the heading has, which keeps no key.
    person.clicks("nav a[href='/today']")
    person.sees("Stir the gypsum")
    person.until(
        lambda: person.driver.switch_to.active_element.tag_name == "h1", "the focus on the heading"
    )
    person.driver.switch_to.active_element.send_keys(Keys.ENTER)
    person.until(lambda: any(one["begun"] for one in _left(address)), "it is begun")
    # A field keeps its Enter.
    person.one("input[type=radio][value=own]").find_element("xpath", "./ancestor::label").click()
    person.types("Name", "Sand the cheeks")
    person.field("Name").send_keys(Keys.ENTER)
    person.clicks("[aria-label='Remove: Sand the cheeks']")
    (task,) = person.until(lambda: _left(address) if len(_left(address)) == 1 else None, "one left")
    assert task["begun"]
    assert person.console_errors() == []


def test_a_task_is_added_and_taken_off_again(person, address):
    person.go("/today")
    person.sees("Add a job")
    person.one("input[type=radio][value=own]").find_element("xpath", "./ancestor::label").click()
    person.types("Minutes of work", "25")
    person.types("Name", "Sweep the floor")
    person.presses("Add it")
    person.sees("Sweep the floor")
    person.until(
        lambda: "Sweep the floor" in [one["title"] for one in fetch(address, "/days")["jobs"]],
        "it is in the days",
    )
    person.clicks("[aria-label='Remove: Sweep the floor']")
    person.until(
        lambda: "Sweep the floor" not in [one["title"] for one in fetch(address, "/days")["jobs"]],
        "it is off",
    )
    assert person.complaints() == []
    assert person.console_errors() == []


def test_who_works_here_is_said_in_the_workshop(person, address):
    person.go("/workshop")
    person.sees("Who works here, and when")
    name = person.one(".people fieldset input")
    name.send_keys(Keys.CONTROL + "a")
    name.send_keys("Ada")
    person.presses("Save people")
    person.until(
        lambda: [one["name"] for one in fetch(address, "/days/people")["people"]] == ["Ada"],
        "Ada works here",
    )
    assert person.complaints() == []
    assert person.console_errors() == []
