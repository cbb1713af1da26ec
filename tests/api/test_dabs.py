"""Dab tests: clock, result once, photo, and the chain that believes them."""

import io

import pytest
from PIL import Image

from api.conftest import API, assert_problem, form_with
from api.test_deciding import ask


@pytest.fixture
def supply(client):
    def find(key):
        listed = client.get(f"{API}/supplies").json["supplies"]
        return next(one["id"] for one in listed if one["key"] == key)

    return find


@pytest.fixture
def dab(client, supply):
    body = {
        "first_id": supply("rubber-addition-firm"),
        "second_id": supply("printed-resin"),
        "note": "Under the chin.",
    }
    return client.post(f"{API}/dab-tests", json=body).json


def judge(client, dab, result):
    return client.post(f"{API}/dab-tests/{dab['id']}/result", json={"result": result})


def test_a_dab_is_due_after_a_day(client, dab, clock):
    assert (dab["due"], dab["result"]) == (False, None)
    clock.pass_seconds(86_400)
    assert client.get(f"{API}/dab-tests").json["dabs"][0]["due"] is True


def test_the_chain_believes_a_dab_above_the_general_rule(client, dab):
    asked = {"master_key": "printed-resin"}

    def firm():
        rubbers = ask(client, **asked).json["links"]["rubber"]
        return next(one for one in rubbers if one["key"] == "rubber-addition-firm")

    assert firm()["verdict"] == "excluded"
    judge(client, dab, "cured")
    assert "Your dab cured and came off clean." in firm()["reasons"]
    assert firm()["verdict"] == "take"
    assert ask(client, **asked).json["links"]["rubber"][0]["key"] == "rubber-addition-firm"
    body = {"keys": ["printed-resin", "rubber-addition-firm"]}
    pair = client.post(f"{API}/compatibility", json=body).json["pairs"][0]
    assert (pair["verdict"], pair["rules"][0]["id"]) == ("fine", "dab-test")


def test_a_dab_is_judged_once(client, dab):
    assert judge(client, dab, "soft").json["result"] == "soft"
    assert_problem(judge(client, dab, "cured"), 409, "judged already")


def test_a_photo_is_kept_small_and_upright_with_nothing_of_the_camera(client, dab):
    """Exif 2.3, tags 0x0112 (orientation 6: turned a quarter), 0x010F (maker), 0x8825 (place)."""
    picture, written = io.BytesIO(), Image.Exif()
    written[0x0112], written[0x010F] = 6, "a camera"
    written.get_ifd(0x8825)[1] = "N"
    taken = Image.new("RGB", (3000, 1500), "grey")
    taken.paste("red", (0, 0, 3000, 100))
    taken.save(picture, "JPEG", exif=written)
    assert b"a camera" in picture.getvalue()
    address = f"{API}/dab-tests/{dab['id']}/photo"
    assert_problem(client.get(address), 404, "no photo")
    sent = client.post(address, data={"file": (io.BytesIO(picture.getvalue()), "dab.png")})
    assert sent.json["has_photo"] is True
    shown = client.get(address)
    assert shown.content_type == "image/jpeg"
    small = Image.open(io.BytesIO(shown.data))
    assert small.size == (800, 1600)
    assert not small.getexif()
    # The camera's upper edge is the right one of a picture that was taken turned.
    red, _, blue = small.getpixel((795, 800))
    assert red > 2 * blue


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"", "no picture"),
        (b"<svg/>", "no picture"),
        (b"\xff\xd8\xff" + bytes(9_000), "no picture"),
    ],
)
def test_what_is_no_photo_is_refused(client, dab, content, said):
    address = f"{API}/dab-tests/{dab['id']}/photo"
    refused = client.post(address, **form_with(content, "dab.jpg"))
    assert_problem(refused, 422, said, "file")


def test_a_photo_of_80_mb_is_too_large(client, dab):
    address = f"{API}/dab-tests/{dab['id']}/photo"
    refused = client.post(address, **form_with(b"\xff\xd8\xff" + bytes(80_000_000), "dab.jpg"))
    assert_problem(refused, 413, "More than 20 MB")


def test_bad_dabs_are_told_and_a_dab_can_be_forgotten(client, dab, supply):
    clay = supply("clay-water")
    nobody = f"{'0' * 8}-0000-4000-8000-{'0' * 12}"
    unknown = client.post(f"{API}/dab-tests", json={"first_id": clay, "second_id": nobody})
    assert_problem(unknown, 404, "no such material")
    assert_problem(judge(client, dab, "tasty"), 422, "'cured', 'soft' or 'stuck'")
    assert client.delete(f"{API}/dab-tests/{dab['id']}").json["deleted"] is True
    assert client.get(f"{API}/dab-tests").json == {"dabs": []}
