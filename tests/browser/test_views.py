"""Every view: no serious accessibility finding, no console error, nothing from elsewhere."""

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from browser.chromium import Person, chromium_browser
from browser.lookup import fetch, sheet_named, start_pour

pytestmark = pytest.mark.browser


def _first(address, what):
    return fetch(address, f"/{what}")[what][0]["id"]


def _mask_sheet(address):
    return f"/sheets/{sheet_named(address, 'chorus')['id']}"


VIEWS = {
    "today": (lambda _: "/today", "Add a job"),
    "pieces": (lambda _: "/pieces", "Lamplighter helmet"),
    "piece": (lambda a: f"/pieces/{_first(a, 'pieces')}", "Casting face"),
    "piece by hand": (lambda _: "/pieces/by-hand", "more girths make it surer"),
    "moulds": (lambda _: "/moulds", "Lamplighter, two parts"),
    "shelf": (lambda _: "/shelf", "Slow epoxy"),
    "resin": (lambda a: f"/shelf/{_first(a, 'materials')}", "Working time"),
    "own resin": (lambda _: "/shelf/new", "Start from"),
    "everything else": (lambda _: "/shelf/supplies", "Firm addition-cure rubber"),
    "a rubber": (
        lambda a: f"/shelf/supplies/{fetch(a, '/supplies?kind=rubber')['supplies'][0]['id']}",
        "Kits on offer",
    ),
    "own consumable": (lambda _: "/shelf/supplies/new/consumable", "Used a coat"),
    "lots": (lambda _: "/shelf/lots", "Polyester, by the door"),
    "chain": (lambda _: "/shelf/chain", "Medium rigid urethane"),
    "dab tests": (lambda _: "/shelf/dabs", "Start its clock"),
    "what to buy": (lambda _: "/shelf/buy", "How many casts?"),
    "sheets": (lambda _: "/sheets", "Marsh bird, chorus copy"),
    "sheet": (_mask_sheet, "Resin to mix"),
    "cost": (lambda a: f"{_mask_sheet(a)}/cost", "Together"),
    "new sheet": (lambda _: "/sheets/new", "Resin to mix"),
    "before the pour": (lambda a: f"{_mask_sheet(a)}/pour", "Start a pour"),
    "pour station": (lambda _: "/pour", "Start from a cast sheet"),
    "bench": (lambda a: f"/pour/{start_pour(a, 'shop window')['id']}", "Measure out"),
    "log": (lambda _: "/log", "Harbour mistress"),
    "log entry": (lambda a: f"/log/{_first(a, 'pours')}", "Coat by coat"),
    "runs": (lambda _: "/log/runs", "Begin the run"),
    "what was learned": (lambda a: f"{_mask_sheet(a)}/learned", "Loss in cup and on stick"),
    "pours beside each other": (
        lambda a: (
            "/log/beside?"
            + "&".join(
                f"pour={one['id']}" for one in fetch(a, "/pours?search=souvenir")["pours"][:3]
            )
        ),
        "What came of it",
    ),
    "workshop": (lambda _: "/workshop", "Largest mixing cup"),
    "nowhere": (lambda _: "/nowhere/at/all", "nothing at this address"),
}


@pytest.mark.parametrize("name", VIEWS)
def test_a_view_is_accessible_quiet_and_all_our_own(person, address, name):
    path, words = VIEWS[name]
    person.go(path(address))
    person.sees(words)
    assert person.complaints() == []
    assert person.console_errors() == []
    fetched = person.driver.execute_script(
        "return performance.getEntriesByType('resource').map(e => e.name)"
    )
    assert fetched
    assert [one for one in fetched if not one.startswith((address, "blob:", "data:"))] == []
    headings = person.driver.find_elements(By.TAG_NAME, "h1")
    assert len(headings) == (0 if name == "nowhere" else 1)


def test_every_step_at_the_bench_is_accessible(person, address):
    pour = start_pour(address, "stage break")
    person.go(f"/pour/{pour['id']}")
    for _ in pour["coats"]:
        for button in (
            "Both are measured",
            "A meets B: start the clock",
            "It is in the mould",
            "It has stopped flowing",
        ):
            person.sees(button)
            assert person.complaints() == []
            assert person.small_targets(".bench") == []
            person.presses(button)
    person.sees("It is out: close the pour")
    assert person.complaints() == []
    assert person.small_targets(".bench") == []


def test_dialogs_are_accessible(person, address):
    person.go("/pieces")
    person.presses("Upload a shape")
    person.sees("Drop a shape here")
    assert person.complaints() == []
    person.go(_mask_sheet(address))
    person.one("[data-figure=total_charge] button").click()
    person.sees("Why: Resin to mix")
    # A term that was worked out opens in its turn, down to the data sheet.
    for term, before in (
        ("weight needed for the wall", "resin to mix"),
        ("set on the wall", "weight needed for the wall"),
    ):
        person.presses(term)
        person.sees(f"Back to {before}")
    person.sees("typical for the class")
    assert person.complaints() == []


def test_the_desk_can_be_worked_with_the_keyboard_alone(person):
    person.go("/pieces")
    person.sees("Pieces")
    body = person.one("body")
    body.send_keys("?")
    person.sees("metric or imperial")
    body.send_keys(Keys.ESCAPE)
    body.send_keys("g", "l")
    person.until(lambda: person.driver.current_url.endswith("/log"), "the log")
    seen = set()
    for _ in range(14):
        person.driver.switch_to.active_element.send_keys(Keys.TAB)
        focused = person.driver.switch_to.active_element
        # A field with something beside its text shows the focus round both.
        outline = person.driver.execute_script(
            "const whole = arguments[0].closest('.ant-input-affix-wrapper') ?? arguments[0];"
            "return getComputedStyle(whole).outlineStyle",
            focused,
        )
        assert outline != "none", focused.get_attribute("outerHTML")
        seen.add(focused.text)
    assert {"Shelf", "Cast sheets", "Pour"} <= seen


def test_a_finding_is_mended_by_one_press(person, address):
    person.go(_mask_sheet(address))
    person.sees("Resin to mix")
    person.types("Extra, for unevenness", "0")
    person.sees("Rolled walls come out uneven")

    others = {one["id"] for one in fetch(address, "/jobs?kind=settle")["jobs"]}

    def simulated():
        return {one["id"] for one in fetch(address, "/jobs?kind=settle")["jobs"]} - others

    # The page hears of the wall it asked for only when nobody waits for it any more.
    with person.far_away(latency_ms=700):
        person.presses("Turn it as is usual")
        person.sees("Rolled round while it is thin")
        person.until(lambda: "Rolled walls come out uneven" not in person.text(), "no finding")
        assert "Extra, for unevenness" not in person.text()
        person.until(simulated, "its wall on the way")
        person.presses("Undo")
        allowance = person.field("Extra, for unevenness")
        person.until(lambda: allowance.get_attribute("value") == "0", "0 %")
        person.until(lambda: not simulated(), "no wall on the way")


def test_three_dimensions_are_loaded_only_where_they_are_seen(person, address):
    def scripts() -> str:
        return person.driver.execute_script(
            "return performance.getEntriesByType('resource').map(e => e.name).join()"
        )

    person.go("/shelf")
    person.sees("Slow epoxy")
    assert "PieceView" not in scripts()
    person.go(_mask_sheet(address))
    person.one("canvas")
    assert "PieceView" in scripts()


def test_a_browser_without_graphics_shows_the_numbers_all_the_same(address):
    """An old tablet's: the view says so in its place, and the sheet goes on."""
    with chromium_browser("--disable-3d-apis") as driver:
        someone = Person(driver, address)
        someone.go(_mask_sheet(address))
        someone.sees("This browser cannot show the 3D view")
        someone.sees("Resin to mix")
        assert someone.complaints() == []


def test_the_first_address_is_today_and_nothing_is_drawn_in_three_dimensions_there(address):
    loaded = "return performance.getEntriesByType('resource').map((one) => one.name)"
    with chromium_browser() as driver:
        person = Person(driver, address)
        person.go("/")
        person.sees("Add a job")
        assert person.driver.current_url.endswith("/today")
        assert not any("Stage" in name for name in person.driver.execute_script(loaded))
        # It comes where a piece is seen.
        person.go(f"/pieces/{_first(address, 'pieces')}")
        person.one("canvas")
        assert any("Stage" in name for name in person.driver.execute_script(loaded))
