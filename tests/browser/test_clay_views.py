"""Melted clay from its cast sheet to the bench: nothing to mix, and cautions of its own."""

import pytest

from browser.lookup import fetch, post

pytestmark = pytest.mark.browser


@pytest.fixture
def clay_sheet(address):
    clay = next(one for one in fetch(address, "/castables")["castables"] if "clay" in one["name"])
    piece = next(one for one in fetch(address, "/pieces")["pieces"] if "bust" in one["name"])
    wish = {**fetch(address, "/workshop")["first_wish"], "school": "clay", "wall_m": 0.008}
    body = {"name": "To carve on", "piece_id": piece["id"], "material_id": clay["id"], "wish": wish}
    return post(address, "/sheets", body)


def test_the_sheet_of_a_melt_has_one_part_and_says_so(person, clay_sheet):
    person.go(f"/sheets/{clay_sheet['id']}")
    person.sees("Clay to melt")
    person.sees("Minutes and seconds from when the pot comes off the heat")
    page = person.text()
    for word in ("A and B", "A meets B", "isocyanate", "Resin to mix"):
        assert word not in page
    # Every coat is the same share of what is melted.
    plan = clay_sheet["plan"]
    shown = float(person.figure("total_charge").split()[0].replace(",", ""))
    assert shown == pytest.approx(1e3 * sum(one["charge_kg"] for one in plan["coats"]), abs=0.1)
    assert person.complaints() == []
    person.clicks("[data-figure=total_charge] button")
    person.sees("Why: Clay to melt")
    assert person.console_errors() == []


def test_a_melt_is_poured_at_the_bench_without_mixing(person, address, clay_sheet):
    person.go(f"/sheets/{clay_sheet['id']}/pour")
    person.sees("Hot clay burns skin and sticks")
    person.presses("Start a pour")
    person.sees("Weigh the clay")
    assert person.complaints() == []
    person.presses("It is weighed")
    person.sees("Take the pot off the heat")
    person.presses("Off the heat: start the clock")
    person.sees("Pour it round the rim first, not hotter than told")
    person.presses("It is in the mould")
    person.sees("Keep it turning")
    assert "roll until it gels" not in person.text()
    person.presses("It runs no more")
    pour = fetch(address, "/pours")["pours"][0]["id"]

    def set_coat():
        coat = fetch(address, f"/pours/{pour}")["coats"][0]
        return coat if coat["gelled_at"] else None

    coat = person.until(set_coat, "the coat set")
    planned = clay_sheet["plan"]["coats"][0]["charge_kg"]
    assert (coat["a_kg"], coat["b_kg"]) == (pytest.approx(planned, abs=1e-4), 0.0)
    assert person.console_errors() == []
