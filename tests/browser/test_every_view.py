"""Every view, at the sizes and in the light of a desk, a tablet and a telephone."""

import pytest
from selenium.webdriver.common.by import By

from browser.views import MAIN, SIZES, VIEWS, at_size, faults, parted

pytestmark = pytest.mark.browser


@pytest.fixture
def desk(person):
    """Somebody at a desk, which is tidied up afterwards."""
    yield person
    at_size(person, SIZES["1280"])


@pytest.mark.parametrize("name", VIEWS)
def test_a_view_is_whole_at_every_size_accessible_quiet_and_all_our_own(desk, address, name):
    VIEWS[name].open(desk, address)
    assert desk.complaints("minor") == []
    assert parted(desk) == []
    [heading] = desk.driver.find_elements(By.TAG_NAME, "h1")
    title = f"{heading.get_attribute('textContent')} – Mild Husk"
    assert desk.driver.title.replace("\u00a0", " ") == title.replace("\u00a0", " ")
    for size in (SIZES[one] for one in MAIN):
        at_size(desk, size)
        assert faults(desk, size) == {"wide": [], "cut": [], "small": []}, size
    at_size(desk, SIZES["1280"], dark=True)
    assert desk.complaints("minor", only="color-contrast") == []
    assert desk.console_errors() == []
    fetched = desk.driver.execute_script(
        "return performance.getEntriesByType('resource').map(e => e.name)"
    )
    assert fetched
    assert [one for one in fetched if not one.startswith((address, "blob:", "data:"))] == []
