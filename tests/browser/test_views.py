"""Steps, dialogs and keys of the desk and the bench; test_every_view.py goes round all views."""

import pytest
from selenium.webdriver.common.keys import Keys

from browser.chromium import Person, chromium_browser
from browser.lookup import fetch, sheet_named, start_pour

pytestmark = pytest.mark.browser


def _first(address, what):
    return fetch(address, f"/{what}")[what][0]["id"]


def _mask_sheet(address):
    return f"/sheets/{sheet_named(address, 'chorus')['id']}"


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
    person.clicks("[data-figure=total_charge] button")
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
    person.sees("as CSV")
    person.until(lambda: person.driver.switch_to.active_element.tag_name == "h1", "its heading")
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
    # From the page's heading on through the page, and back to the stations.
    assert {"Runs", "as CSV"} <= seen
    person.one("h1").send_keys(Keys.SHIFT + Keys.TAB)
    back = set()
    for _ in range(14):
        back.add(person.driver.switch_to.active_element.text)
        person.driver.switch_to.active_element.send_keys(Keys.SHIFT + Keys.TAB)
    assert {"Shelf", "Cast sheets", "Pour", "Practice", "Workshop"} <= back


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


def test_a_kept_sheet_is_given_another_piece_among_all(person, address):
    person.go(f"/sheets/{sheet_named(address, 'chorus')['id']}")
    person.sees("Resin to mix")
    of_the_mask = person.figure("total_charge")
    # The others are looked up when one is to be chosen.
    person.clicks(".field:has(#piece) .ant-select")
    person.clicks(".ant-select-item-option[title='Lamplighter helmet']")
    person.until(lambda: person.figure("total_charge") != of_the_mask, "the helmet's charge")
    kilograms = [
        float(one.replace(",", "").split()[0])
        for one in (of_the_mask, person.figure("total_charge"))
    ]
    # The helmet has far more than twice the face of the mask.
    assert kilograms[1] > 2.0 * kilograms[0]
    person.sees("Save this sheet")
    assert person.console_errors() == []


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
