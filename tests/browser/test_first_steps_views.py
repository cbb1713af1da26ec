"""A new workshop: three ways to a first number, two presses each; and the tour."""

import pytest
from selenium.webdriver.common.by import By

from browser.chromium import Person
from core.shapes import half_sphere, stl_bytes
from served import fresh_database, served

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def empty(cluster):
    """The address of a workshop that has nothing yet."""
    with fresh_database(cluster) as url, served(url) as server:
        yield server.address


@pytest.fixture
def newcomer(chromium, empty):
    chromium.get_log("browser")
    return Person(chromium, empty)


def test_the_tape_is_two_presses_from_a_number(newcomer):
    newcomer.go("/")
    newcomer.sees("How much resin, how many coats, and when?")
    assert newcomer.complaints("minor") == []
    newcomer.presses("Measure by hand")
    newcomer.until(lambda: "cm²" in newcomer.figure("taped-area"), "an area")


def test_a_file_is_two_presses_and_a_choice_from_a_number(newcomer, tmp_path):
    file = tmp_path / "dome.stl"
    file.write_bytes(stl_bytes(half_sphere(100.0, 30)))
    newcomer.go("/")
    newcomer.presses("Upload a shape")
    newcomer.until(
        lambda: newcomer.driver.find_element(By.CSS_SELECTOR, "input[type=file]"), "file input"
    ).send_keys(str(file))
    newcomer.sees("mm: the piece is 200 × 200 × 100 mm")


def test_an_example_is_one_press_from_a_number_and_can_be_deleted(newcomer):
    newcomer.go("/")
    newcomer.presses("See an example")
    newcomer.until(lambda: "g" in newcomer.figure("total_charge"), "resin to mix")
    assert newcomer.complaints() == []
    assert newcomer.console_errors() == []
    # Whoever has a piece is not asked how to begin any more.
    newcomer.go("/")
    newcomer.sees("Add a job")
    assert "See an example" not in newcomer.text()


def test_the_tour_goes_through_the_stations_and_ends(newcomer):
    newcomer.go("/pieces")
    newcomer.presses("Tour")
    seen = []
    for number in range(1, 9):
        newcomer.sees(f"{number} of 8")
        seen.append(newcomer.driver.current_url.rsplit("/", 1)[1])
        if number in (1, 8):
            assert newcomer.complaints("minor") == []
        newcomer.presses("Done" if number == 8 else "Next")
    assert seen == ["pieces", "moulds", "shelf", "sheets", "practice", "pour", "log", "today"]
    newcomer.until(lambda: "8 of 8" not in newcomer.text(), "the end")
    newcomer.presses("Tour")
    newcomer.presses("Next")
    newcomer.presses("Back")
    newcomer.sees("1 of 8")
    newcomer.presses("End the tour")
    newcomer.until(lambda: "1 of 8" not in newcomer.text(), "the end")
    assert newcomer.console_errors() == []
