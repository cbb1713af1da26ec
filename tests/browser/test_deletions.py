"""What is deleted on its own page is not asked for again: nothing fails behind the maker's back."""

import pytest

from browser.lookup import fetch, post

pytestmark = pytest.mark.browser
A_BOWL = {
    "stations": [{"height_m": 0.02, "girth_m": 0.3}, {"height_m": 0.1, "girth_m": 0.45}],
    "top_m": 0.12,
}


def _piece(address, name):
    return post(address, "/pieces/taped", {"name": name, "taping": A_BOWL})


def _mould(address, name):
    listed = fetch(address, "/moulds")["moulds"][0]["id"]
    copied = fetch(address, f"/moulds/{listed}")
    taken = ("piece_id", "rubber_id", "shell_id", "rubber_wall_m", "life_casts")
    return post(address, "/moulds", {"name": name, **{key: copied[key] for key in taken}})


def _resin(address, name):
    listed = fetch(address, "/materials")["materials"][0]["id"]
    sheet = fetch(address, f"/materials/{listed}")["sheet"]
    told = {key: value for key, value in sheet.items() if key != "origin"}
    return post(address, "/materials", {"name": name, "sheet": told})


@pytest.mark.parametrize(
    ("at", "of", "made", "word"),
    [
        ("/pieces", "pieces", _piece, "Delete"),
        ("/moulds", "moulds", _mould, "Delete"),
        ("/shelf", "materials", _resin, "Remove from the shelf"),
    ],
)
def test_what_is_deleted_is_gone_and_not_asked_for_again(person, address, at, of, made, word):
    thing = made(address, f"Short-lived {of}")
    person.go(f"{at}/{thing['id']}")
    person.sees(thing["name"])
    person.until(lambda: "Loading" not in person.text(), "all of it there")
    person.presses(word)
    if word == "Delete":
        person.sees(f"Delete “{thing['name']}”?")
        person.answers("Delete")
    person.until(lambda: person.driver.current_url.endswith(at), "back at the list")
    person.until(
        lambda: thing["id"] not in [one["id"] for one in fetch(address, f"/{of}")[of]], "it is gone"
    )
    # For ten seconds it can be taken back.
    person.sees(f"“{thing['name']}” is deleted.")
    person.presses("Undo")
    person.sees(f"“{thing['name']}” is back.")
    assert thing["id"] in [one["id"] for one in fetch(address, f"/{of}")[of]]
    person.until(lambda: thing["name"] in person.text(), "it in its list")
    assert person.console_errors() == []


def test_what_was_deleted_earlier_comes_back_from_the_workshop(person, address):
    thing = _piece(address, "Long gone")
    post(address, f"/pieces/{thing['id']}", {}, method="DELETE")
    person.go("/workshop")
    person.sees("Deleted in the last 30 days")
    person.clicks("button[aria-label='Restore Long gone']")
    person.until(lambda: "Long gone" not in person.text(), "it has left the list")
    assert thing["id"] in [one["id"] for one in fetch(address, "/pieces")["pieces"]]
    assert person.complaints() == []
