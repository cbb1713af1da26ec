"""The whole workshop as one file, from the page that offers it."""

import io
import zipfile
from pathlib import Path

import pytest
from selenium.webdriver.common.by import By

from browser.lookup import fetch, fetch_bytes

pytestmark = pytest.mark.browser
KEPT = Path(__file__).parents[1] / "archives/version-1.zip"


def _chooses(person, path):
    panel = person.one("section[aria-labelledby=archive]")
    panel.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(path))


def test_an_archive_says_what_it_brings_before_anything_is_imported(person, address, tmp_path):
    pieces = fetch(address, "/pieces")
    person.go("/workshop")
    person.sees("Export the workshop")
    _chooses(person, KEPT)
    person.sees("Import this archive?")
    person.sees("What is missing here is added. What is here already stays as it is.")
    said = person.one("dialog[open]").text.replace("\u00a0", " ")
    assert "1 piece" in said
    assert "51 materials, here already" in said
    assert person.complaints("minor") == []
    person.presses("Cancel")
    person.until(lambda: not person.driver.find_elements(By.CSS_SELECTOR, "dialog[open]"), "closed")
    assert fetch(address, "/pieces") == pieces
    cut = tmp_path / "cut.zip"
    cut.write_bytes(KEPT.read_bytes()[:20_000])
    _chooses(person, cut)
    person.sees("This is no archive, or only the beginning of one; export the workshop again.")
    assert fetch(address, "/pieces") == pieces


def test_the_link_sends_a_file_that_holds_the_pieces_seen_here(person, address):
    person.go("/workshop")
    person.sees("Export the workshop")
    [link] = [
        one
        for one in person.driver.find_elements(By.CSS_SELECTOR, "a[href$='archive.zip']")
        if one.is_displayed()
    ]
    path = link.get_attribute("href").split("/api/v1")[1]
    with zipfile.ZipFile(io.BytesIO(fetch_bytes(address, path))) as archive:
        rows = archive.read("tables/piece.jsonl").decode().splitlines()
    assert len(rows) == fetch(address, "/pieces")["total"]
