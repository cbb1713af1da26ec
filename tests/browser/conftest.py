"""The built application with the demo, and a browser on it."""

from collections.abc import Iterator

import pytest
from selenium.webdriver import Chrome

from browser.chromium import Person, chromium_browser
from mildhusk.cluster import Cluster
from served import ROOT, fresh_database, served


@pytest.fixture(scope="session")
def address(cluster: Cluster) -> Iterator[str]:
    assert (ROOT / "frontend/dist/index.html").exists(), "build the front end first: make setup"
    with fresh_database(cluster) as url, served(url, "--demo") as server:
        yield server.address


@pytest.fixture(scope="session")
def chromium() -> Iterator[Chrome]:
    with chromium_browser() as driver:
        yield driver


@pytest.fixture
def person(chromium: Chrome, address: str) -> Person:
    chromium.get_log("browser")  # forget what an earlier test said
    # The page stays: the next test's then opens in the same process, in half the time.
    return Person(chromium, address)


@pytest.fixture
def another_chromium() -> Iterator[Chrome]:
    with chromium_browser() as driver:
        yield driver


@pytest.fixture
def another_person(another_chromium: Chrome, address: str) -> Person:
    return Person(another_chromium, address)
