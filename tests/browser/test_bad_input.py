"""What goes wrong is said where it goes wrong, and leaves nothing half done."""

import struct
import time

import numpy as np
import pytest
from selenium.webdriver.common.by import By

from browser.lookup import fetch, sheet_named
from core.shapes import box, stl_bytes
from mildhusk.core.geometry.mesh import join_corners

pytestmark = pytest.mark.browser


def _with_nan() -> bytes:
    content = bytearray(stl_bytes(box(90, 90, 90)))
    content[96:100] = struct.pack("<f", float("nan"))
    return bytes(content)


FILES = {
    "nan.stl": (_with_nan(), "coordinates that are not numbers"),
    "empty.stl": (b"", "The file is empty"),
    "soup.stl": (b"a recipe for soup", "not an STL file"),
    "short.stl": (stl_bytes(box(90, 90, 90))[:-20], "cut short"),
}


def _pieces(address):
    """The pieces that there are; their drawings come when a worker has time."""
    return [(one["id"], one["version"]) for one in fetch(address, "/pieces")["pieces"]]


def _choose(person, path):
    person.go("/pieces")
    person.presses("Upload a shape")
    person.sees("Drop a shape here")
    person.driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(path))


@pytest.mark.parametrize("name", FILES)
def test_a_bad_file_is_told_and_no_piece_appears(person, address, tmp_path, name):
    content, words = FILES[name]
    before = _pieces(address)
    (tmp_path / name).write_bytes(content)
    _choose(person, tmp_path / name)
    # A worker has just begun when the first of them comes.
    person.until(lambda: words in person.text(), words, 60.0)
    assert _pieces(address) == before


def test_a_shape_without_area_is_told_when_it_is_measured(person, address, tmp_path):
    before = _pieces(address)
    line = np.array([[[0.0, 0, 0], [100, 0, 0], [250, 0, 0]]])
    (tmp_path / "line.stl").write_bytes(stl_bytes(join_corners(line)))
    _choose(person, tmp_path / "line.stl")
    person.presses("Measure it")
    person.sees("The shape has no area")
    assert _pieces(address) == before


def test_300_mb_are_refused_before_they_are_sent(person, tmp_path):
    path = tmp_path / "huge.stl"
    with path.open("wb") as file:
        file.truncate(300_000_000)
    _choose(person, path)
    person.sees("The file has 300 MB; up to 200 MB are read.")


@pytest.mark.parametrize(
    ("label", "typed", "words"),
    [
        ("Least wall", "thin", "“thin” is not a number"),
        ("Least wall", "", "is not a number"),
        ("Least wall", "0", "more than 0 mm"),
        ("Least wall", "-3", "more than 0 mm"),
        ("Least wall", "60", "thicker than"),
        ("Least wall", "1000000", "thicker than"),
        ("Room", "99", "give 5 °C to 45 °C"),
        ("Loss", "80", "give 0 % to 50 %"),
        ("Extra, for unevenness", "-5", "give 0 % to 100 %"),
    ],
)
def test_a_bad_number_is_told_at_its_field_and_cannot_be_kept(person, address, label, typed, words):
    person.go(f"/sheets/{sheet_named(address, 'stage break')['id']}")
    person.sees("Resin to mix")
    person.types(label, typed or "\ue017")  # nothing typed: the delete key
    person.sees(words)
    assert person.field(label).get_attribute("aria-invalid") == "true"
    assert not person.one(".sheet-bar .actions button").is_enabled()
    person.types(label, "20" if label == "Room" else "2")
    person.until(
        lambda: person.field(label).get_attribute("aria-invalid") == "false", "a number again"
    )


def test_a_resin_without_density_is_told_at_its_field(person, address):
    before = fetch(address, "/materials")
    person.go("/shelf/new")
    person.types("Name", "Weightless")
    person.types("Density of A", "0")
    person.presses("Save as your own sheet")
    person.sees("The density of part A is 0 kg/m³; give 200 kg/m³ to 12,000 kg/m³.")
    assert person.field("Density of A").get_attribute("aria-invalid") == "true"
    assert fetch(address, "/materials") == before


def test_a_pour_closed_in_one_window_is_told_in_the_other(person, another_person, address):
    person.go(f"/sheets/{sheet_named(address, 'Harbour mistress, shop window')['id']}/pour")
    person.presses("Start a pour")
    person.sees("Coat 1 of 2")
    for _ in range(2):
        person.presses("Both are measured")
        person.presses("A meets B: start the clock")
        person.presses("It is in the mould")
        person.presses("It has stopped flowing")
    person.sees("demould in about")
    another_person.driver.get(person.driver.current_url)
    for one, weight in ((person, "150"), (another_person, "170")):
        one.types("The cast weighs", weight)
    person.presses("It is out: close the pour")
    person.sees("a husk")
    # It is told by itself; there is nothing left to press.
    another_person.sees("This pour is closed.")
    assert fetch(address, "/pours")["pours"][0]["cast_kg"] == 0.15


def test_a_number_at_the_bench_that_is_none_cannot_be_ticked_off(person, address):
    person.go(f"/sheets/{sheet_named(address, 'Lamplighter, parade')['id']}/pour")
    person.presses("Start a pour")
    field = person.one("input[aria-label^='Part A']")
    field.send_keys("x")
    person.sees("That is not a number")
    assert not person.one(".press").is_enabled()


def test_a_piece_in_use_is_not_deleted_and_the_reason_is_said(person):
    person.go("/pieces")
    person.presses("Lamplighter helmet")
    person.presses("Delete")
    person.answers("Delete")
    person.sees("uses this piece; delete the sheet first")


def test_a_field_reads_fractions_and_commas_as_the_command_line_does(person, address):
    """An eighth of an inch is 3.175 mm (NIST SP 811); what can be read in two ways is asked."""
    sheet = sheet_named(address, "chorus")
    person.go(f"/sheets/{sheet['id']}")
    person.sees("Resin to mix")

    def charge_for(typed):
        """The charge that stands for a second: each key may be a plan of its own."""
        person.types("Least wall", typed)
        seen = []
        person.until(lambda: _stands(seen, person.figure("total_charge")), f"a plan for {typed}")
        return seen[-1]

    plain = charge_for("3.175")
    assert charge_for("4,25") != plain
    assert charge_for("1/8 in") == plain
    person.types("Least wall", "1,500 m")
    person.sees("can be read as 1500 m or as 1.5 m")
    assert person.console_errors() == []


def _stands(seen: list[str], now: str) -> bool:
    """Note what is seen now; whether it is what was seen five times before."""
    time.sleep(0.25)
    seen.append(now)
    return len(seen) > 5 and len(set(seen[-6:])) == 1
