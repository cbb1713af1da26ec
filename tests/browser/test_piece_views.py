"""Pieces: places marked, a body dragged into shape, a long measuring seen and cancelled."""

import json
import time
import urllib.request

import pytest
import trimesh
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from browser.lookup import fetch, post
from core.corpus import dish
from core.shapes import stl_bytes

pytestmark = pytest.mark.browser


def _piece(address, words):
    found = next(one for one in fetch(address, "/pieces")["pieces"] if words in one["name"])
    return fetch(address, f"/pieces/{found['id']}")


def test_an_eye_is_marked_by_keyboard_measured_and_taken_back(person, address):
    mask = _piece(address, "mask")
    person.go(f"/pieces/{mask['id']}")
    person.presses("Mark eyes, visor or a wrong skin")
    person.types("So far round it", "15")
    person.one("figure canvas")
    person.until(lambda: _marked(person), "a mark on the piece")
    assert "cast, then cut away, 15.0 mm round a place" in person.text()
    assert person.complaints() == []
    person.presses("Measure again")
    person.until(lambda: person.driver.find_elements(By.CLASS_NAME, "legend"), "a legend")
    found = _piece(address, "mask")
    # A patch of 15 mm round a place is about a disc: common sense, within its bends.
    assert 0.8 < found["survey"]["waste_area_m2"] / (3.1416 * 0.015**2) < 1.6
    person.clicks("[aria-label='Remove mark 1']")
    person.presses("Measure again")
    person.until(lambda: _piece(address, "mask")["survey"]["waste_area_m2"] == 0.0, "no waste")
    assert _piece(address, "mask")["measures"]["area_m2"] == pytest.approx(
        mask["measures"]["area_m2"], rel=1e-6
    )


def _marked(person):
    # The drawing needs a moment until there is something to press on.
    person.presses("Mark the middle of the view")
    return person.driver.find_elements(By.CSS_SELECTOR, "ol.marks li")


def test_a_taped_body_follows_its_marks(person):
    person.go("/pieces/by-hand")
    person.sees("more girths make it surer")
    before = person.figure("taped-area")
    handle = person.one("[aria-label='Girth of station 4']")
    handle.send_keys(Keys.ARROW_RIGHT * 4)
    field = person.one("[aria-label='girth of station 4']")
    assert field.get_attribute("value") == "620"
    person.until(lambda: person.figure("taped-area") != before, "another area")
    person.one("figure[aria-label='The taped piece in three dimensions'] canvas")
    assert person.console_errors() == []


def test_a_long_measuring_is_seen_and_cancelled(person, address):
    """A ball of 330,000 faces keeps a worker busy for some seconds."""
    ball = trimesh.creation.icosphere(subdivisions=7, radius=100.0)
    sent = _upload(address, ball.export(file_type="stl"))
    body = {"name": "A very fine ball", "mesh_sha256": sent, "units": "mm"}
    job = post(address, "/pieces", body)
    assert job["status"] in ("waiting", "running")
    person.go("/pieces")
    person.sees("A very fine ball")
    person.clicks("[aria-label='Cancel A very fine ball']")
    person.until(
        lambda: fetch(address, f"/jobs/{job['id']}")["status"] == "cancelled", "its cancelling"
    )
    person.until(lambda: "A very fine ball" not in person.text(), "it gone")
    names = [one["name"] for one in fetch(address, "/pieces")["pieces"]]
    assert "A very fine ball" not in names
    assert person.console_errors() == []


def _make(address, name, mesh):
    """A piece of a file, measured."""
    body = {"name": name, "mesh_sha256": _upload(address, stl_bytes(mesh.scaled(1e3)))}
    job = post(address, "/pieces", {**body, "units": "mm"})
    while fetch(address, f"/jobs/{job['id']}")["status"] in ("waiting", "running"):
        time.sleep(0.2)
    return fetch(address, f"/jobs/{job['id']}")["piece_id"]


def test_a_question_about_a_file_is_answered_by_one_press_and_remembered(person, address):
    """A thick dish may be a print of a bowl: both areas stand side by side until somebody says."""
    piece = _make(address, "Thick dish", dish(28))
    person.go(f"/pieces/{piece}")
    person.sees("Is this a hollow print?")
    person.sees("in question: counted until you say")
    (question,) = fetch(address, f"/pieces/{piece}")["survey"]["asks"]
    outer, whole = (one["area_m2"] for one in question["choices"])
    for area in (outer, whole):
        assert f"{area * 1e4:,.0f} cm²" in person.text()
    assert person.complaints() == []
    person.presses("Hollow print: the outer skin")
    person.until(lambda: "Is this a hollow print?" not in person.text(), "the answer taken", 30.0)
    person.sees("left out: the mould never touches it")
    found = fetch(address, f"/pieces/{piece}")
    assert (found["wish"]["skin"], found["survey"]["asks"]) == ("outer", [])
    assert found["measures"]["area_m2"] == pytest.approx(outer, rel=1e-2)
    # The other answer is one press away, and so is the file as it came.
    person.presses("The file as it came")
    person.sees("the file as it came")
    person.presses("What is cast")
    person.presses("Count all of it")
    person.until(
        lambda: (
            fetch(address, f"/pieces/{piece}")["measures"]["area_m2"]
            == pytest.approx(whole, rel=1e-3)
        ),
        "all of it counted",
        30.0,
    )
    assert person.console_errors() == []


def _upload(address, content):
    """Send a file as a browser does; returns its hash."""
    head = b'--x\r\nContent-Disposition: form-data; name="file"; filename="ball.stl"\r\n\r\n'
    kind = {"Content-Type": "multipart/form-data; boundary=x", "X-Mild-Husk": "test"}
    request = urllib.request.Request(
        f"{address}api/v1/mesh-files", head + content + b"\r\n--x--\r\n", kind
    )
    with urllib.request.urlopen(request, timeout=60) as answer:
        sent = json.load(answer)
    while fetch(address, f"/jobs/{sent['job']['id']}")["status"] in ("waiting", "running"):
        time.sleep(0.2)
    return sent["sha256"]
