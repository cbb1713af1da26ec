"""From a pour to its cast of a mould, and back."""

import pytest

from browser.lookup import fetch

pytestmark = pytest.mark.browser


def test_what_became_of_a_cast_is_written_down_and_seen_at_its_mould(person, address):
    pours = fetch(address, "/pours")["pours"]
    pour = next(one for one in pours if one["status"] == "cast" and "chorus" in one["sheet_name"])
    mould = fetch(address, f"/pours/{pour['id']}")["mould"]
    person.go(f"/log/{pour['id']}")
    person.sees(f"of {mould['name']}")
    person.types("For", "Third lantern carrier")
    person.types("Where it is", "Shelf by the window")
    person.presses("Save")
    person.until(lambda: fetch(address, f"/pours/{pour['id']}")["cast"]["for_whom"], "it is kept")
    assert person.complaints() == []
    person.presses(mould["name"])
    person.sees("Its casts")
    person.sees("Third lantern carrier")
    person.sees("Shelf by the window")
    assert person.complaints() == []
    person.go(f"/sheets/{pour['sheet_id']}/pour")
    person.sees("In the mould")
    person.sees(mould["name"])
    assert person.console_errors() == []
