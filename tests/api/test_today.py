"""Today and the days to come: what is put into them, planned, ticked off, and what then moves."""

from datetime import datetime, timedelta

import pytest
from icalendar import Calendar

from api.conftest import API, START, assert_problem


def put(client, **told):
    return client.post(f"{API}/days/jobs", json={"zone": "UTC", **told})


def tick(client, task, what="done", **told):
    return client.post(f"{API}/days/ticks", json={"task": task, "what": what, **told})


def at(text):
    return datetime.fromisoformat(text)


def test_nothing_is_planned_at_first(client):
    told = client.get(f"{API}/days").json
    assert (told["now"], told["following"], told["to_come"], told["jobs"]) == ([], None, [], [])
    assert told["planned"]


def test_a_cast_is_rolled_cures_by_itself_and_is_finished(client, clock, sheet):
    wish = {"paint": "water-based", "cut_outs": 2}
    told = put(client, kind="cast", title="Dome one", sheet_id=sheet["id"], finish=wish).json
    assert told["standing"] == "best"
    first = told["now"][0] if told["now"] else told["following"]
    assert first["title"].startswith("Seat the mould")
    names = [one["title"] for one in (*told["now"], *told["to_come"])]
    assert "Prime it thin" in names
    # The workshop is open from eight to seven, every day: nothing for hands stands outside.
    for one in (*told["now"], *told["to_come"]):
        if one["hands"]:
            assert 8 <= at(one["starts"]).hour < 19
    clock.now = at(first["starts"])
    rolling = tick(client, first["id"], "begun").json
    assert rolling["now"][0]["begun"]
    clock.now = at(first["ends"])
    rolled = tick(client, first["id"]).json
    assert [one["title"] for one in rolled["setting"]] == ["It cures in the mould"]
    assert rolled["setting"][0]["starts"] == clock.now.isoformat().replace("+00:00", "Z")
    # Nothing offers to take it out before it has cured.
    assert rolled["following"]["title"].startswith("Take it out")
    assert not rolled["following"]["may_begin"]
    clock.now = at(rolled["setting"][0]["ends"])
    out = client.get(f"{API}/days").json
    assert (out["now"] or [out["following"]])[0]["may_begin"]


def test_a_late_start_moves_what_follows_and_says_why(client, clock):
    put(client, kind="own", title="Cut gauze", minutes=60)
    told = put(client, kind="own", title="Mix clay", minutes=60).json
    order = [*told["now"], *told["to_come"]]
    first, second = order[0], order[1]
    assert at(second["starts"]) >= at(first["ends"])
    clock.now = at(first["starts"]) + timedelta(minutes=30)
    (moved,) = tick(client, first["id"], "begun").json["moves"]
    assert (moved["title"], moved["by"]) == ("Mix clay", "Cut gauze")
    assert at(moved["now"]) - at(moved["was"]) == timedelta(minutes=30)
    assert "hands" in moved["why"]
    clock.now = at(first["ends"]) + timedelta(minutes=30)
    done = tick(client, first["id"]).json
    assert [one["title"] for one in (*done["now"], *done["to_come"])] == ["Mix clay"]
    assert at((done["now"] or done["to_come"])[0]["starts"]) >= clock.now
    # What is done wholly is off the days.
    assert [one["title"] for one in done["jobs"]] == ["Mix clay"]


def test_what_was_ticked_by_mistake_is_taken_back(client, clock):
    told = put(client, kind="own", title="Cut gauze", minutes=60).json
    task = (told["now"] or told["to_come"])[0]["id"]
    clock.now = START + timedelta(hours=1)
    tick(client, task, "begun")
    back = tick(client, task, "undone").json
    assert not (back["now"] or back["to_come"])[0]["begun"]
    assert_problem(tick(client, task, "undone"), 409, "not begun yet")


def test_a_mould_is_built_in_its_windows_and_a_due_date_that_is_passed_is_told(
    client, piece, resin
):
    body = {
        "name": "Dome glove", "piece_id": piece["id"], "rubber_wall_m": 0.009, "life_casts": 40,
        "rubber_id": resin("rubber-addition-firm")["id"], "shell_id": resin("shell-bandage")["id"],
    }  # fmt: skip
    mould = client.post(f"{API}/moulds", json=body).json
    due = (START + timedelta(hours=3)).isoformat()
    told = put(client, kind="mould", title="Glove", mould_id=mould["id"], due=due).json
    coats = [one for one in (*told["now"], *told["to_come"]) if "rubber" in one["title"]]
    assert coats
    assert all(one["latest"] for one in coats)
    assert all(at(one["starts"]) <= at(one["latest"]) for one in coats)
    (job,) = told["jobs"]
    assert job["late_s"] > 0
    assert_problem(client.delete(f"{API}/moulds/{mould['id']}"), 409, "in the days to come")
    left = client.delete(f"{API}/days/jobs/{job['id']}").json
    assert (left["jobs"], left["to_come"]) == ([], [])


def test_what_cannot_be_kept_is_told_with_changes_that_free_it(client):
    assert client.get(f"{API}/days/collisions").json == {"collides": [], "ways_out": []}
    put(client, kind="own", title="Sand the edges", minutes=60)
    assert client.get(f"{API}/days/collisions").json["ways_out"] == []
    # Two hours of work from noon on, due at one: nobody's hours help.
    due = (START + timedelta(hours=1)).isoformat()
    told = put(client, kind="own", title="Prime it", minutes=120, due=due).json
    job = next(one for one in told["jobs"] if one["title"] == "Prime it")
    assert job["late_s"] == 3600.0
    found = client.get(f"{API}/days/collisions").json
    assert found["collides"] == ["'Prime it' of Prime it by 01 Jun 13:00"]
    later = next(one for one in found["ways_out"] if one["kind"] == "a later date")
    assert later["text"] == "Prime it by 01 Jun 14:00 instead of 01 Jun 13:00"


def test_people_are_those_who_work_here_in_their_own_hours(client, clock):
    (alone,) = client.get(f"{API}/days/people").json["people"]
    assert alone["name"] == "You"
    week = [{"weekday": day, "opens_h": 18.0, "closes_h": 22.0} for day in range(7)]
    body = {"people": [{"name": "Ada", "zone": "Europe/Berlin", "hours": week}]}
    assert client.put(f"{API}/days/people", json=body).json["people"][0]["name"] == "Ada"
    told = put(client, kind="own", title="Sand", minutes=90).json
    (task,) = (*told["now"], *told["to_come"])
    assert task["people"] == ["Ada"]
    # Six in the evening in Berlin, in July: 16:00 UTC.
    assert at(task["starts"]).hour >= 16
    # Who was planned for and is gone is planned for no more.
    clock.now = at(task["starts"])
    week_of_bo = {**body["people"][0], "name": "Bo"}
    client.put(f"{API}/days/people", json={"people": [week_of_bo]})
    put(client, kind="own", title="File", minutes=30)
    again = client.post(f"{API}/days/plan", json={}).json
    assert {name for one in (*again["now"], *again["to_come"]) for name in one["people"]} == {"Bo"}
    twice = {"people": [body["people"][0], body["people"][0]]}
    assert_problem(client.put(f"{API}/days/people", json=twice), 422, "one name", "people")


def test_the_days_are_a_calendar(client, sheet):
    put(client, kind="cast", title="Dome one", sheet_id=sheet["id"])
    read = Calendar.from_ical(client.get(f"{API}/days/calendar.ics").data)
    events = {str(one["summary"]): one for one in read.walk("VEVENT")}
    assert str(events["It cures in the mould: Dome one"]["transp"]) == "TRANSPARENT"
    rolled = events["Seat the mould, weigh, roll all coats: Dome one"]
    cures = events["It cures in the mould: Dome one"]
    assert rolled["dtend"].dt == cures["dtstart"].dt


@pytest.mark.parametrize(
    ("told", "status", "said", "field"),
    [
        ({"kind": "cast", "title": "x"}, 422, "by which cast sheet", "sheet_id"),
        ({"kind": "mould", "title": "x"}, 422, "which mould", "mould_id"),
        (
            {"kind": "own", "title": "x", "due": "2026-07-01T12:00:00"},
            422,
            "a time with its zone",
            None,
        ),
        ({"kind": "own", "title": ""}, 422, "", "title"),
        ({"kind": "own", "title": "x", "minutes": 0}, 422, "", "minutes"),
    ],
)
def test_what_cannot_be_put_into_the_days_is_a_sentence(client, told, status, said, field):
    assert_problem(put(client, **told), status, said, field)
    assert client.get(f"{API}/days").json["jobs"] == []


def test_a_tick_of_what_is_not_planned_or_is_to_come_is_refused(client, clock):
    assert_problem(tick(client, "nothing"), 409, "not in the plan")
    told = put(client, kind="own", title="Sand", minutes=90).json
    task = (told["now"] or told["to_come"])[0]["id"]
    later = (clock.now + timedelta(hours=9)).isoformat()
    assert_problem(tick(client, task, at=later), 422, "still to come", "at")
    tick(client, task)
    assert_problem(tick(client, task), 409, "not in the plan any more")


def test_what_is_in_the_days_is_not_deleted_under_them(client, sheet):
    put(client, kind="cast", title="Dome one", sheet_id=sheet["id"])
    refused = client.delete(f"{API}/sheets/{sheet['id']}")
    assert_problem(refused, 409, "take it off them first")
