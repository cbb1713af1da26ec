"""What happens at the bench is in the days at once: pours, spoilt ones, runs, places, calendars."""

import re
from datetime import datetime, timedelta

import pytest
from icalendar import Calendar

from api.conftest import API, START, assert_problem
from mildhusk.documents.days_files import read_days_json
from mildhusk.services.days.resins import in_other_resins
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import DayPlan
from mildhusk.store.values import DAY_PLANS


def at(text):
    return datetime.fromisoformat(text)


@pytest.fixture
def put(client, sheet, mould):
    def send(title="Dome one", **told):
        body = {
            "kind": "cast", "title": title, "sheet_id": sheet["id"], "mould_id": mould["id"],
            "zone": "UTC", **told,
        }  # fmt: skip
        made = client.post(f"{API}/days/jobs", json=body)
        assert made.status_code == 201, made.text
        return made.json

    return send


@pytest.fixture
def days(client):
    return lambda: client.get(f"{API}/days").json


@pytest.fixture
def pour(client, sheet):
    return client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json


def step(client, pour, coat, name):
    parts = {"parts": {"a": 0.05, "b": 0.045}} if name == "weigh" else {}
    body = {"coat": coat, "step": name, **parts}
    done = client.post(f"{API}/pours/{pour['id']}/steps", json=body)
    assert done.status_code == 200, done.text
    return done.json


def close(client, pour, **ending):
    closed = client.post(f"{API}/pours/{pour['id']}/close", json=ending)
    assert closed.status_code == 200, closed.text


def roll_of(told):
    return next(one for one in (*told["now"], *told["to_come"]) if one["pours"])


@pytest.fixture
def pours(client, sheet):
    return lambda: client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json


def test_a_pour_is_a_cast_of_its_sheet_and_mould(client, clock, put, pours, days):
    put("Dome one")
    put("Dome two")
    pour = pours()
    told = days()
    (rolling,) = (one for one in told["now"] if one["begun"])
    assert (rolling["job_title"], rolling["pour_id"]) == ("Dome one", pour["id"])
    assert at(rolling["starts"]) == START
    # The second waits for the mould, and is told when it may be poured.
    second = next(one for one in told["to_come"] if one["pours"])
    assert second["job_title"] == "Dome two"
    assert at(second["starts"]) >= at(rolling["ends"])


def test_of_two_casts_alike_a_pour_is_the_one_planned_first(client, clock, put, pours, days):
    # The younger is due when one alone can be out: Today tells it first, and is followed.
    put("Dome one")
    (alone,) = days()["jobs"]
    put("Dome two", due=alone["ends"])
    first = roll_of(days())
    assert first["job_title"] == "Dome two"
    pour = pours()
    (rolling,) = (one for one in days()["now"] if one["begun"])
    assert (rolling["job_title"], rolling["pour_id"]) == ("Dome two", pour["id"])


def test_a_slow_coat_moves_when_the_rolling_ends_and_what_follows(client, clock, put, pours, days):
    put(finish={"paint": "water-based", "cut_outs": 1})
    pour = pours()
    planned = roll_of(days())
    coats = len(pour["coats"])
    clock.pass_seconds(60)
    for name in ("weigh", "mix", "pour"):
        step(client, pour, 1, name)
    by_plan = at(roll_of(days())["ends"])
    # The coat takes an hour longer to gel than planned.
    gels = at(pour["started_at"]) + timedelta(hours=2)
    clock.now = gels
    step(client, pour, 1, "gel")
    told = roll_of(days())
    if coats > 1:
        assert at(told["ends"]) > by_plan + timedelta(hours=1)
    out = next(one for one in days()["to_come"] if one["title"].startswith("Take it out"))
    assert at(out["starts"]) > at(planned["ends"]) + timedelta(hours=1)


def test_a_cast_that_is_out_leaves_its_finish_to_be_done(client, clock, put, pours, days):
    put(finish={"paint": "water-based", "cut_outs": 1})
    pour = pours()
    for coat in range(1, len(pour["coats"]) + 1):
        for name in ("weigh", "mix", "pour", "gel"):
            clock.pass_seconds(100)
            step(client, pour, coat, name)
    assert [one["title"] for one in days()["setting"]] == ["It cures in the mould"]
    clock.pass_seconds(7200)
    close(client, pour, status="cast", cast_kg=0.08)
    told = days()
    left = [one["title"] for one in (*told["now"], *told["to_come"])]
    assert not any(one["pours"] for one in (*told["now"], *told["to_come"]))
    assert not [one for one in left if one.startswith("Take it out")]
    assert "Prime it thin" in left
    assert told["jobs"][0]["pour_id"] == pour["id"]


def test_a_cast_without_a_finish_is_off_the_days_when_it_is_out(client, clock, put, pours, days):
    put()
    pour = pours()
    for name in ("weigh", "mix", "pour", "gel"):
        step(client, pour, 1, name)
    close(client, pour, status="cast", cast_kg=0.08)
    assert days()["jobs"] == []


def test_what_is_spoilt_is_planned_again_and_says_so(client, clock, put, pours, days):
    put()
    pour = pours()
    step(client, pour, 1, "weigh")
    clock.pass_seconds(600)
    close(client, pour, status="spoilt")
    again = roll_of(days())
    assert again["title"].endswith("the last one was spoilt")
    assert (again["begun"], again["pour_id"]) == (False, None)
    assert at(again["starts"]) >= clock.now.replace(second=0)
    second = pours()
    assert roll_of(days())["pour_id"] == second["id"]


def test_a_tick_that_is_taken_back_is_taken_back_in_the_days(client, clock, put, pours, days):
    put()
    pour = pours()
    for coat in range(1, len(pour["coats"]) + 1):
        for name in ("weigh", "mix", "pour", "gel"):
            step(client, pour, coat, name)
    assert days()["setting"]
    assert client.delete(f"{API}/pours/{pour['id']}/steps/last").status_code == 200
    back = days()
    assert back["setting"] == []
    assert roll_of(back)["begun"]


def test_a_pour_of_another_sheet_ticks_nothing(client, put, pours, days, sheet):
    put()
    body = {key: sheet[key] for key in ("piece_id", "material_id")}
    other = client.post(f"{API}/sheets", json={"name": "Other", "wish": sheet["wish"], **body}).json
    client.post(f"{API}/pours", json={"sheet_id": other["id"]})
    assert not roll_of(days())["begun"]


def test_the_casts_of_a_run_are_put_into_the_days_once(client, sheet, mould, days):
    body = {
        "name": "Chorus", "sheet_id": sheet["id"], "mould_ids": [mould["id"]], "wanted": 3,
        "due_on": "2026-06-05",
    }  # fmt: skip
    run = client.post(f"{API}/runs", json=body).json["run"]
    asked = {"run_id": run["id"], "zone": "Europe/Berlin"}
    told = client.post(f"{API}/days/runs", json=asked).json
    assert sorted(one["title"] for one in told["jobs"]) == [
        "Chorus, 1 of 3", "Chorus, 2 of 3", "Chorus, 3 of 3"
    ]  # fmt: skip
    # The day of the run ends at midnight where it is due.
    assert {one["due"] for one in told["jobs"]} == {"2026-06-05T21:59:00Z"}
    assert_problem(client.post(f"{API}/days/runs", json=asked), 409, "is in the days")
    # They share one mould: none is rolled before the last is out.
    rolls = [one for one in (*told["now"], *told["to_come"]) if one["pours"]]
    outs = [one for one in told["to_come"] if one["title"].startswith("Take it out")]
    for roll, out in zip(rolls[1:], outs, strict=False):
        assert at(roll["starts"]) >= at(out["ends"])
    assert client.delete(f"{API}/runs/{run['id']}").status_code == 200
    assert len(days()["jobs"]) == 3


def test_a_date_is_changed_and_a_way_out_is_taken_by_one_press(client, clock, put, days):
    told = put(due=(START + timedelta(minutes=30)).isoformat())
    (job,) = told["jobs"]
    assert job["late_s"] > 0
    found = client.get(f"{API}/days/collisions").json["ways_out"]
    later = next(one for one in found if one["kind"] == "a later date")
    body = {"kind": later["kind"], "of": later["of"], "zone": "UTC"}
    freed = client.post(f"{API}/days/changes", json=body).json
    assert freed["jobs"][0]["late_s"] == 0
    assert freed["jobs"][0]["due"] == freed["jobs"][0]["ends"]
    soon = (START + timedelta(hours=1)).isoformat()
    edited = client.put(f"{API}/days/jobs/{job['id']}", json={"due": soon, "zone": "UTC"}).json
    assert edited["jobs"][0]["late_s"] > 0
    gone = {"kind": "a later date", "of": job["id"], "zone": "UTC"}
    client.delete(f"{API}/days/jobs/{job['id']}")
    assert_problem(client.post(f"{API}/days/changes", json=gone), 409, "changed meanwhile")


def test_what_is_late_is_cast_in_a_quicker_resin_at_a_press(client, put, resin, sheet, days):
    slow = client.post(
        f"{API}/sheets",
        json={"name": "Dome", "piece_id": sheet["piece_id"], "wish": sheet["wish"],
              "material_id": resin("pu-medium-rigid")["id"]},
    ).json  # fmt: skip
    out_s = {one["name"]: one["plan"]["out_after_s"] for one in (slow, sheet)}
    assert out_s["Dome in fast rigid"] < 0.5 * out_s["Dome"]
    (job,) = put(sheet_id=slow["id"])["jobs"]
    # Out by the end of today where it sets fast, and not where it takes what the label says.
    due = START + timedelta(seconds=0.5 * (out_s["Dome"] + out_s["Dome in fast rigid"]) + 3600)
    body = {"due": due.isoformat(), "zone": "UTC"}
    assert client.put(f"{API}/days/jobs/{job['id']}", json=body).json["jobs"][0]["late_s"] > 0
    ways = client.get(f"{API}/days/collisions").json["ways_out"]
    (way,) = (one for one in ways if one["kind"] == "another resin")
    assert way["text"].startswith("'Dome' in Fast rigid urethane: out of the mould ")
    # Neither soft nor brittle nor of another chemistry; what is lost beside is told.
    assert "it is less tough" in way["text"]
    assert way["text"].endswith(" kg of it to buy")
    assert at(way["ends"]) <= due
    taken = {"kind": way["kind"], "of": way["of"], "zone": "UTC"}
    (now,) = client.post(f"{API}/days/changes", json=taken).json["jobs"]
    assert (now["id"], now["late_s"]) == (job["id"], 0)
    assert roll_of(days())["sheet_id"] not in (slow["id"], sheet["id"])
    assert_problem(client.post(f"{API}/days/changes", json=taken), 409, "changed meanwhile")
    wrong = {**taken, "of": "the other one"}
    assert_problem(client.post(f"{API}/days/changes", json=wrong), 409, "changed meanwhile")


def test_a_slower_resin_is_tried_where_it_takes_hands_for_less_time(client, clock, put, resin):
    """In one thick coat instead of three thin ones, it is out an hour later."""
    fast = resin("pu-fast-rigid")
    slow = {
        **fast["sheet"], "coat_wall_m": 0.004, "working_time_s": 300.0, "gel_s": 480.0,
        "tack_from_s": 900.0, "tack_until_s": 2400.0, "demould_s": 6000.0,
    }  # fmt: skip
    slow.pop("origin")
    made = client.post(f"{API}/materials", json={"name": "Thick and slow", "sheet": slow})
    assert made.status_code == 201, made.text
    put(due=(START + timedelta(minutes=30)).isoformat())
    at_hand = client.application.extensions["mildhusk"]
    with at_hand.sessions.begin() as session:
        transaction = Transaction(session, at_hand.workshop_id, clock(), at_hand.queue)
        row = session.get(DayPlan, at_hand.workshop_id)
        planned = read_days_json(row.days), DAY_PLANS.read(row.plan).plan
        found = in_other_resins(transaction, *planned)
    (way,) = (one for one in found if "Thick and slow" in one.text)
    assert re.match(
        r"'Dome in fast rigid' in Thick and slow: it sets slower, and takes hands for \d+ min less",
        way.text,
    )
    rolls = [
        next(task.duration_s for task in one.tasks if task.id.endswith(": roll"))
        for one in (planned[0], way.days)
    ]
    assert rolls[1] < 0.8 * rolls[0]


def test_a_helper_a_longer_evening_and_a_second_mould_are_made_real(client, put, days):
    put("Dome one")
    mould_place = "mould 'Dome glove'"
    for kind, of in (
        ("a helper", "2026-06-03"), ("evenings", "You"), ("a second mould", mould_place)
    ):  # fmt: skip
        body = {"kind": kind, "of": of, "zone": "Europe/Berlin"}
        assert client.post(f"{API}/days/changes", json=body).status_code == 200
    people = client.get(f"{API}/days/people").json["people"]
    assert [one["name"] for one in people] == ["You", "helper on Wednesday, 03 Jun"]
    assert {one["zone"] for one in people} == {"UTC"}
    assert people[1]["hours"] == []
    assert people[1]["extra"][0]["day"] == "2026-06-03"
    assert {one["evening_h"] for one in people[0]["hours"]} == {22.0}
    assert client.get(f"{API}/days/places").json["places"] == [{"name": mould_place, "count": 2}]
    twice = {"kind": "a helper", "of": "2026-06-03", "zone": "UTC"}
    assert_problem(client.post(f"{API}/days/changes", json=twice), 409, "already")
    for kind, of in (("a helper", "soon"), ("evenings", "Nobody")):
        body = {"kind": kind, "of": of, "zone": "UTC"}
        assert_problem(client.post(f"{API}/days/changes", json=body), 409, "changed meanwhile")
    # Two casts at once where there are two moulds.
    told = put("Dome two")
    board = client.get(f"{API}/days/board").json
    (lane,) = (one for one in board["lanes"] if one["name"] == mould_place)
    assert lane["count"] == 2
    client.put(f"{API}/days/places", json={"name": mould_place, "count": 1, "zone": "UTC"})
    assert client.get(f"{API}/days/places").json["places"] == []
    assert len(told["jobs"]) == 2


@pytest.mark.parametrize("gave_casts", [False, True])
def test_a_cast_waits_for_its_mould_to_be_built(client, put, mould, days, gave_casts):
    if gave_casts:
        event = {"kind": "cast", "note": ""}
        assert client.post(f"{API}/moulds/{mould['id']}/events", json=event).status_code < 300
    put("Dome one")
    body = {"kind": "mould", "title": "Glove", "mould_id": mould["id"], "zone": "UTC"}
    assert client.post(f"{API}/days/jobs", json=body).status_code == 201
    told = days()
    tasks = [*told["now"], *told["to_come"]]
    built = max(at(one["ends"]) for one in tasks if one["job_title"] == "Glove")
    # Of one that gave casts already another is built beside it: its casts go on.
    assert (at(roll_of(told)["starts"]) >= built) is not gave_casts


def test_a_cast_is_begun_before_its_resin_expires_or_it_is_told(client, clock, put, sheet, days):
    body = {
        "material_id": sheet["material_id"], "label": "L1", "bought_kg": 40.0,
        "opened_on": "2026-05-20", "expires_on": "2026-06-03",
    }  # fmt: skip
    assert client.post(f"{API}/lots", json=body).status_code == 201
    # Wednesday is the lot's last day; the maker works from Thursday on.
    week = [{"weekday": day, "opens_h": 8, "closes_h": 18} for day in range(7)]
    off = {"name": "Ada", "zone": "UTC", "hours": week, "days_off": ["2026-06-02", "2026-06-03"]}
    client.put(f"{API}/days/people", json={"people": [{**off, "days_off": []}]})
    put("Dome one")
    told = days()
    assert told["expiring"] == []
    assert roll_of(told)["note"].endswith("Its resin, lot L1, expires on 03 Jun.")
    clock.now = START + timedelta(days=1)
    client.put(f"{API}/days/people", json={"people": [off]})
    client.post(f"{API}/days/plan", json={"zone": "UTC"})
    (said,) = days()["expiring"]
    assert said == "Dome one: its resin, lot L1, expires on 03 Jun"


def test_hours_of_one_day_are_kept_with_the_person(client):
    ada = {
        "name": "Ada", "zone": "UTC", "hours": [{"weekday": 0, "opens_h": 8, "closes_h": 12}],
        "extra": [{"day": "2026-06-03", "opens_h": 10, "closes_h": 26, "evening_h": 0}],
    }  # fmt: skip
    kept = client.put(f"{API}/days/people", json={"people": [ada]}).json["people"][0]
    assert kept["extra"] == [{"day": "2026-06-03", "opens_h": 10, "closes_h": 26, "evening_h": 0}]
    assert client.get(f"{API}/days/people").json["people"][0] == kept


def test_what_may_be_begun_meanwhile_is_over_before_hands_are_needed(client, clock, days):
    def own(title, minutes, **more):
        body = {"kind": "own", "title": title, "minutes": minutes, "zone": "UTC", **more}
        assert client.post(f"{API}/days/jobs", json=body).status_code == 201

    own("Mix clay", 30)
    own("Cut gauze", 20)
    own("Sand all edges", 600, interruptible=True)
    told = days()
    first = (told["now"] or [told["following"]])[0]
    named = {one["title"] for one in told["meanwhile"]}
    assert first["title"] not in named
    # Ten hours of sanding can be put down again at any time.
    assert any(one.startswith("Sand all edges") for one in named)
    assert told["ready_at"] is None
    clock.now = START.replace(hour=23)
    shut = days()
    assert at(shut["ready_at"]) == START.replace(day=2, hour=8)


def test_a_calendar_reads_the_days_at_a_secret_address_until_it_is_ended(client, put):
    put()
    assert client.get(f"{API}/days/calendar").json == {"path": None}
    assert_problem(client.get(f"{API}/calendar/none.ics"), 404, "no calendar at this address")
    first = client.post(f"{API}/days/calendar").json["path"]
    assert client.get(f"{API}/days/calendar").json == {"path": first}
    read = client.get(first)
    assert read.content_type == "text/calendar"
    events = Calendar.from_ical(read.data).walk("VEVENT")
    assert any(str(one["summary"]).startswith("Seat the mould") for one in events)
    # A new address ends the old one; each is long enough that nobody guesses it.
    second = client.post(f"{API}/days/calendar").json["path"]
    assert second != first
    assert len(second.rsplit("/", 1)[1]) >= 32
    assert client.get(first).status_code == 404
    assert client.delete(f"{API}/days/calendar").json == {"path": None}
    assert client.get(second).status_code == 404


def test_a_day_is_printed(client, put):
    put(finish={"paint": "water-based", "cut_outs": 1})
    for day in ("", "day=2026-06-02&", "day=2026-12-24&"):
        paper = client.get(f"{API}/days/sheet.pdf?{day}zone=Europe/Berlin")
        assert paper.content_type == "application/pdf"
        assert paper.data.startswith(b"%PDF")
    assert client.get(f"{API}/days/sheet.pdf?day=tomorrow").status_code == 422
