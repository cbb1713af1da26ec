"""The board of days: its lanes and windows, tasks moved by hand, plans kept and compared."""

from datetime import datetime, timedelta

import pytest

from api.conftest import API, START, assert_problem


def at(text):
    return datetime.fromisoformat(text)


@pytest.fixture
def own(client):
    def put(title, minutes=60, **told):
        body = {"kind": "own", "title": title, "minutes": minutes, "zone": "UTC", **told}
        made = client.post(f"{API}/days/jobs", json=body)
        assert made.status_code == 201, made.text

    return put


@pytest.fixture
def board(client):
    return lambda: client.get(f"{API}/days/board").json


def named(board, title):
    return next(one for one in board["tasks"] if one["title"] == title)


def test_nothing_stands_on_an_empty_board(board):
    told = board()
    assert (told["lanes"], told["tasks"]) == ([], [])


def test_lanes_are_people_moulds_and_places_and_windows_are_drawn(client, sheet, board, piece):
    wish = {"paint": "solvent-based", "cut_outs": 1}
    body = {
        "kind": "cast", "title": "Dome", "sheet_id": sheet["id"], "finish": wish, "zone": "UTC"
    }  # fmt: skip
    client.post(f"{API}/days/jobs", json=body)
    told = board()
    lanes = {(one["kind"], one["name"]): one for one in told["lanes"]}
    held = lanes["mould", "mould of 'Dome'"]["blocks"]
    roll = next(one for one in told["tasks"] if one["title"].startswith("Seat the mould"))
    out = next(one for one in told["tasks"] if one["title"].startswith("Take it out"))
    assert [(one["starts"], one["ends"]) for one in held] == [(roll["starts"], out["ends"])]
    booth = lanes["place", "spray booth"]["blocks"]
    assert {one["title"] for one in booth} >= {"Prime it thin", "First coat of colour"}
    assert lanes["alone", "sets, dries"]["blocks"][0]["title"] == "It cures in the mould"
    hours = lanes["person", "You"]["open"]
    assert all(8 <= at(one["starts"]).hour < at(one["ends"]).hour <= 19 for one in hours)
    # A second coat of solvent paint goes on 15 to 60 min after the first, or never.
    first, second = named(told, "First coat of colour"), named(told, "Second coat of colour")
    assert at(second["opens"]) - at(first["ends"]) == timedelta(minutes=15)
    assert at(second["closes"]) - at(first["ends"]) == timedelta(minutes=60)
    assert at(second["opens"]) <= at(second["starts"]) <= at(second["closes"])


def test_a_move_is_tried_before_it_is_made_and_then_stays(client, board, own):
    own("Cut gauze")
    own("Mix clay")
    before = board()
    first, second = before["tasks"]
    body = {"task": second["id"], "starts": first["starts"]}
    tried = client.post(f"{API}/days/board/tries", json=body).json
    assert [(one["kind"], one["by"]) for one in tried["breaks"]] == [("hands", first["id"])]
    assert board()["tasks"] == before["tasks"]
    # The day after, at nine: nothing is in the way.
    nine = (START + timedelta(days=1)).replace(hour=9)
    body = {"task": second["id"], "starts": nine.isoformat()}
    assert client.post(f"{API}/days/board/tries", json=body).json["breaks"] == []
    moved = client.post(f"{API}/days/board/moves", json=body).json
    assert at(named(moved, "Mix clay")["starts"]) == nine
    assert named(moved, "Mix clay")["pinned"]
    assert named(moved, "Cut gauze")["starts"] == first["starts"]
    # It stays there when the days are planned again, until it is freed.
    own("Sweep", 10)
    assert at(named(board(), "Mix clay")["starts"]) == nine
    body = {"task": second["id"], "zone": "UTC"}
    freed = client.post(f"{API}/days/board/freed", json=body).json
    assert not named(freed, "Mix clay")["pinned"]


def test_what_is_moved_onto_another_makes_that_one_move(client, board, own):
    own("Cut gauze", 120)
    own("Mix clay", 120)
    first, second = board()["tasks"]
    body = {"task": second["id"], "starts": first["starts"]}
    moved = client.post(f"{API}/days/board/moves", json=body).json
    stretches = [(at(one["starts"]), at(one["ends"])) for one in moved["tasks"]]
    (a, a_ends), (b, _) = sorted(stretches)
    assert a_ends <= b
    assert a >= START
    # It stays where it was put, and the other makes room.
    assert named(moved, second["title"])["starts"] == first["starts"]


def test_what_was_moved_later_is_moved_back_again(client, board, own):
    own("Cut gauze")
    task = board()["tasks"][0]["id"]
    for day in (4, 2, 3):
        nine = f"2026-06-0{day}T09:00:00Z"
        body = {"task": task, "starts": nine}
        moved = client.post(f"{API}/days/board/moves", json=body).json
        assert named(moved, "Cut gauze")["starts"] == nine


@pytest.mark.parametrize(
    ("change", "status", "said"),
    [
        ({"starts": "2026-05-31T09:00:00Z"}, 422, "That time is past"),
        ({"task": "nobody's"}, 409, "not in the plan any more"),
        ({"person": "Zoe"}, 422, "Zoe cannot do this"),
        ({"starts": "2026-06-02T09:00:00"}, 422, "with its zone"),
    ],
)
def test_what_cannot_be_moved_is_a_sentence(client, board, own, change, status, said):
    own("Cut gauze")
    before = board()
    task = before["tasks"][0]["id"]
    body = {"task": task, "starts": "2026-06-02T09:00:00Z", **change}
    assert_problem(client.post(f"{API}/days/board/moves", json=body), status, said)
    assert board()["tasks"] == before["tasks"]


def test_what_was_begun_stays_where_it_is(client, clock, board, own):
    own("Cut gauze")
    task = board()["tasks"][0]["id"]
    client.post(f"{API}/days/ticks", json={"task": task, "what": "begun", "zone": "UTC"})
    body = {"task": task, "starts": "2026-06-02T09:00:00Z"}
    assert_problem(client.post(f"{API}/days/board/moves", json=body), 409, "begun already")


def test_a_kept_plan_is_compared_with_how_it_went(client, clock, board, own):
    assert_problem(
        client.post(f"{API}/days/kept", json={"name": "Empty"}), 409, "Nothing is planned"
    )
    own("Cut gauze", 60)
    own("Mix clay", 30)
    first, second = board()["tasks"]
    kept = client.post(f"{API}/days/kept", json={"name": "Monday"}).json
    assert kept["tasks"] == 2
    clock.now = at(first["starts"]) + timedelta(minutes=20)
    client.post(f"{API}/days/ticks", json={"task": first["id"], "what": "begun", "zone": "UTC"})
    clock.pass_seconds(75 * 60)
    client.post(f"{API}/days/ticks", json={"task": first["id"], "what": "done", "zone": "UTC"})
    went = client.get(f"{API}/days/kept/{kept['id']}").json["tasks"]
    told = {one["title"]: one for one in went}
    # Begun twenty minutes late, and a quarter of an hour longer at it.
    assert told[first["title"]]["late_s"] == 20 * 60
    assert told[first["title"]]["longer_s"] == 15 * 60
    assert told[second["title"]]["late_s"] is None
    assert [one["name"] for one in client.get(f"{API}/days/kept").json["kept"]] == ["Monday"]
    assert client.delete(f"{API}/days/kept/{kept['id']}").status_code == 200
    assert client.get(f"{API}/days/kept").json["kept"] == []
