"""The desk itself: its bar on a telephone, its dark, where the focus goes, menus by key."""

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from browser.lookup import fetch, post, sheet_named
from browser.views import SIZES, at_size

pytestmark = pytest.mark.browser


@pytest.fixture
def desk(person):
    """Somebody at a desk, which is tidied up afterwards."""
    yield person
    at_size(person, SIZES["1280"])
    person.driver.execute_script("localStorage.removeItem('husk-look')")


def focused(person):
    return person.driver.switch_to.active_element


def ground(person):
    return person.driver.execute_script("return getComputedStyle(document.body).backgroundColor")


def test_who_goes_to_a_page_is_at_its_heading_and_the_window_is_named_after_it(desk):
    desk.go("/pieces")
    desk.sees("Lamplighter helmet")
    # Whoever has just opened it is where the browser put them.
    assert focused(desk).tag_name == "body"
    desk.presses("Lamplighter helmet")
    desk.until(lambda: focused(desk).tag_name == "h1", "the heading")
    assert focused(desk).text == "Lamplighter helmet"
    assert desk.driver.title == "Lamplighter helmet – Mild Husk"
    desk.one("body").send_keys("g", "l")
    desk.until(lambda: focused(desk).text == "Log", "the next heading")
    assert desk.driver.title == "Log – Mild Husk"
    # Back again by the browser, too.
    desk.driver.back()
    desk.until(lambda: focused(desk).text == "Lamplighter helmet", "the heading of before")


def test_on_a_telephone_the_stations_are_a_bar_below_and_the_rest_is_a_press_away(desk):
    at_size(desk, SIZES["390"])
    desk.go("/log")
    desk.sees("Harbour mistress")
    bar = desk.one("nav.rail")
    assert bar.rect["y"] + bar.rect["height"] == pytest.approx(SIZES["390"].height, abs=1)
    assert bar.rect["width"] == SIZES["390"].width
    assert "Shelf" not in bar.text
    desk.presses("More")
    desk.until(lambda: "Shelf" in bar.text and "Workshop" in bar.text, "all stations")
    desk.one("body").send_keys(Keys.ESCAPE)
    desk.until(lambda: "Shelf" not in bar.text, "the bar alone")
    desk.presses("More")
    desk.presses("Shelf")
    desk.sees("Slow epoxy")
    assert "Practice" not in desk.one("nav.rail").text


def test_the_desk_is_dark_where_the_system_is_or_where_it_is_chosen(desk):
    desk.go("/shelf")
    desk.sees("Slow epoxy")
    light = ground(desk)
    at_size(desk, SIZES["1280"], dark=True)
    desk.until(lambda: ground(desk) != light, "the dark")
    dark = ground(desk)
    desk.presses("Light or dark")
    desk.until(lambda: ground(desk) == light, "light by choice")
    desk.presses("Light")
    desk.until(lambda: ground(desk) == dark, "dark by choice")
    at_size(desk, SIZES["1280"])
    desk.go("/log")
    desk.sees("Harbour mistress")
    assert ground(desk) == dark


def choose_by_key(person, words):
    """Open the menu of a sheet and choose in it, by keys alone."""
    opener = "//main//summary[normalize-space(.)='More' and @aria-disabled='false']"
    more = person.until(lambda: person.driver.find_element(By.XPATH, opener), "its menu")
    more.send_keys(Keys.ENTER)
    for _ in range(8):
        focused(person).send_keys(Keys.ARROW_DOWN)
        if words in focused(person).text:
            break
    focused(person).send_keys(Keys.ENTER)


def test_the_menu_of_a_sheet_opens_by_key_and_deleting_asks(desk, address):
    like = sheet_named(address, "chorus")
    copied = {key: like[key] for key in ("piece_id", "material_id", "wish")}
    made = post(address, "/sheets", {**copied, "name": "Short-lived"})
    desk.go(f"/sheets/{made['id']}")
    desk.sees("Resin to mix")
    choose_by_key(desk, "Delete this sheet")
    desk.sees("Delete “Short-lived”?")
    desk.answers("Cancel")
    desk.until(lambda: "Delete “Short-lived”?" not in desk.text(), "it stays")
    assert made["id"] in [one["id"] for one in fetch(address, "/sheets")["sheets"]]
    # What leads elsewhere leads there by key, too.
    choose_by_key(desk, "What it costs")
    desk.until(lambda: desk.driver.current_url.endswith("/cost"), "what it costs")
    desk.go(f"/sheets/{made['id']}")
    desk.sees("Resin to mix")
    choose_by_key(desk, "Delete this sheet")
    desk.sees("Delete “Short-lived”?")
    desk.answers("Delete")
    desk.until(lambda: desk.driver.current_url.endswith("/sheets"), "back at the list")
    assert made["id"] not in [one["id"] for one in fetch(address, "/sheets")["sheets"]]
    assert desk.console_errors() == []


def test_a_list_is_searched_and_ordered(desk):
    def names():
        found = desk.driver.find_elements(By.CSS_SELECTOR, ".gallery .row-name")
        return [one.text for one in found]

    desk.go("/sheets")
    desk.sees("Harbour mistress, souvenir")
    listed = names()
    order = desk.one("input[aria-label=Order]")
    order.send_keys(Keys.ENTER)
    order.send_keys(Keys.ARROW_DOWN, Keys.ENTER)
    desk.until(lambda: names() == sorted(listed), "the names in order")
    desk.one("input[aria-label^='Search']").send_keys("polyester")
    desk.until(lambda: names() == ["Harbour mistress, shop window"], "the one in polyester")
    # What is listed is shown: the picture has come.
    drawn = "return [...document.querySelectorAll('img.drawing')].every(i => i.naturalWidth > 0)"
    desk.until(
        lambda: (
            desk.driver.find_elements(By.CSS_SELECTOR, "img.drawing")
            and desk.driver.execute_script(drawn)
        ),
        "its picture",
        120.0,
    )
