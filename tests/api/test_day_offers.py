"""Offers: so many casts by a day, with hours, resin and a price that adds up; kept and taken."""

from datetime import datetime, timedelta
from decimal import Decimal

import pytest

from api.conftest import API, START, assert_problem


def at(text):
    return datetime.fromisoformat(text)


@pytest.fixture
def ask(client, sheet, mould):
    def send(casts=2, days=10, **told):
        body = {
            "title": "Domes for the choir", "sheet_id": sheet["id"], "mould_id": mould["id"],
            "casts": casts, "due": (START + timedelta(days=days)).isoformat(), "zone": "UTC",
            **told,
        }  # fmt: skip
        return client.post(f"{API}/days/offers", json=body)

    return send


@pytest.fixture
def lot(client, sheet):
    def buy(grams):
        body = {
            "material_id": sheet["material_id"], "label": "L1", "bought_kg": grams / 1e3,
            "opened_on": "2026-05-20", "expires_on": "2027-06-01", "price": "400.00",
        }  # fmt: skip
        made = client.post(f"{API}/lots", json=body)
        assert made.status_code == 201, made.text

    return buy


def test_the_price_adds_up_as_it_is_shown(client, ask):
    told = ask(margin=0.25).json["answer"]["ways"][0]
    amounts = [Decimal(one["amount"]) for one in told["lines"]]
    assert sum(amounts) == Decimal(told["price"])
    names = [one["text"] for one in told["lines"]]
    assert (names[0], names[-1]) == ("2 casts", "Margin")
    # A quarter on top of all lines before it, to the cent.
    assert amounts[-1] == (sum(amounts[:-1]) / 4).quantize(Decimal("0.01"), "ROUND_HALF_UP")
    assert Decimal(told["each"]) == (Decimal(told["price"]) / 2).quantize(
        Decimal("0.01"), "ROUND_HALF_UP"
    )
    cost = client.get(f"{API}/days/offers").json["offers"][0]
    assert cost["answer"]["ways"][0]["price"] == told["price"]


def test_casts_without_resin_wait_for_it_and_say_what_to_buy(client, ask, lot):
    told = ask(casts=2, delivery_days=4).json["answer"]
    assert told["from_stock"] == 0
    (bought,) = told["buy"]
    assert bought["kits"]
    assert Decimal(bought["cost"]) > 0
    assert at(told["ways"][0]["ends"]) >= START + timedelta(days=4)
    lot(50_000)
    stocked = ask(casts=2, delivery_days=4).json["answer"]
    assert stocked["from_stock"] == 2
    assert stocked["buy"][0]["kits"] == []
    assert at(stocked["ways"][0]["ends"]) < START + timedelta(days=4)


def test_a_day_too_soon_is_answered_with_another_mould_beside(client, ask, lot):
    lot(50_000)
    told = ask(casts=8, days=1).json["answer"]
    plain, second = told["ways"]
    assert plain["in_time"] < 8
    assert (plain["second_mould"], second["second_mould"]) == (False, True)
    assert "Another mould" in [one["text"] for one in second["lines"]]
    assert Decimal(second["price"]) > Decimal(plain["price"])
    assert second["hands_s"] > plain["hands_s"]
    assert any("rubber" in one["name"].lower() for one in told["buy"])


def test_the_finish_costs_hours_and_time(client, ask, lot):
    lot(50_000)
    bare = ask().json["answer"]["ways"][0]
    painted = ask(finish={"paint": "water-based", "cut_outs": 2}).json["answer"]["ways"][0]
    assert painted["hands_s"] > bare["hands_s"] + 2 * 3600
    assert at(painted["ends"]) > at(bare["ends"])
    assert "Finish, by the hour" in [one["text"] for one in painted["lines"]]


def test_a_second_mould_is_one_of_its_own_and_what_is_cast_in_it_waits(client, ask, lot, mould):
    lot(50_000)
    made = ask(casts=3).json
    done = client.post(
        f"{API}/days/offers/{made['id']}/taken", json={"zone": "UTC", "second_mould": True}
    )
    assert done.status_code == 200, done.text
    moulds = client.get(f"{API}/moulds").json["moulds"]
    other, first = sorted(moulds, key=lambda one: one["id"] == mould["id"])
    assert other["name"] == f"{first['name']}, another"
    # Built like the first: what was found of its piece need not be found again.
    alike = ("piece_id", "rubber_name", "shell_name", "life_casts", "studied", "takes")
    assert [other[key] for key in alike] == [first[key] for key in alike]
    assert other["casts_so_far"] == 0
    told = client.get(f"{API}/days").json
    tasks = [*told["now"], *told["to_come"]]
    built = max(at(one["ends"]) for one in tasks if "Another mould" in one["job_title"])
    pours = {one["job_title"]: at(one["starts"]) for one in tasks if one["pours"]}
    first, second, third = sorted(pours)
    assert pours[second] >= built
    # The other two go into the first mould, which need not be built, one after the other.
    earlier, later = sorted((first, third), key=pours.__getitem__)
    assert pours[earlier] < built
    outs = {
        one["job_title"]: at(one["ends"]) for one in tasks if one["title"].startswith("Take it")
    }
    assert pours[later] >= outs[earlier]


def test_an_offer_is_taken_once_and_is_then_in_the_days(client, ask, lot):
    lot(50_000)
    offer = ask(casts=3).json
    address = f"{API}/days/offers/{offer['id']}"
    taken = client.post(f"{address}/taken", json={"zone": "UTC"})
    assert taken.json["taken_at"] is not None
    jobs = client.get(f"{API}/days").json["jobs"]
    assert sorted(one["title"] for one in jobs) == [
        f"Domes for the choir, {n} of 3" for n in (1, 2, 3)
    ]
    assert {at(one["due"]) for one in jobs} == {START + timedelta(days=10)}
    assert_problem(client.post(f"{address}/taken", json={"zone": "UTC"}), 409, "already")
    # What is in the days now is in the way of the next.
    later = ask(casts=3).json["answer"]["ways"][0]
    assert at(later["ends"]) > at(offer["answer"]["ways"][0]["ends"])
    assert client.delete(address).status_code == 200
    assert len(client.get(f"{API}/days").json["jobs"]) == 3


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"casts": 0}, "casts"),
        ({"due": "2026-05-01T12:00:00Z"}, "That day is past"),
        ({"release": "moon-dust", "finish": {"paint": "none"}}, "no release 'moon-dust'"),
    ],
)
def test_what_cannot_be_answered_is_a_sentence_and_nothing_is_kept(client, ask, change, said):
    assert_problem(ask(**change), 422, said)
    assert client.get(f"{API}/days/offers").json["offers"] == []
    assert client.get(f"{API}/days").json["jobs"] == []


def test_a_sheet_with_an_offer_stays(client, ask, sheet):
    offer = ask().json
    address = f"{API}/sheets/{sheet['id']}"
    assert_problem(client.delete(address), 409, "An offer stands on this cast sheet")
    client.delete(f"{API}/days/offers/{offer['id']}")
    assert client.delete(address).status_code == 200


def test_without_a_mould_or_its_study_another_one_is_not_tried_and_that_is_said(client, ask, lot):
    lot(50_000)
    told = ask(casts=8, days=1, mould_id=None).json["answer"]
    assert len(told["ways"]) == 1
    assert told["untried"].startswith("Say in which mould")
    assert ask(casts=1, days=20, mould_id=None).json["answer"]["untried"] == ""
