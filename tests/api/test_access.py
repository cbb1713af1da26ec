"""Who may come in, and what each may do there: every address as everybody."""

import json
from datetime import timedelta
from typing import Any
from uuid import uuid4

import pytest
from flask.testing import FlaskClient
from sqlalchemy import text

from api.conftest import API, Clock, QueueInThisThread, assert_problem
from mildhusk.api import live
from mildhusk.api.access import right_for, unknown_operations
from mildhusk.api.app import create_app
from mildhusk.api.common import backstage

OWNERS, MAKERS, NEW = "the first of many", "second of several", "a third one, newer"

# Written down beside the application's own table, so that no slip in one is in both.
ANYBODY = {
    "GET /health", "GET /ready", "GET /now", "GET /calendar/{secret}.ics", "GET /access",
    "POST /sign-in", "POST /invitations/welcome", "POST /invitations/accept",
}  # fmt: skip
ONLY_WORKED_OUT = {
    "POST /buying", "POST /catalyst", "POST /chain", "POST /compatibility", "POST /cure",
    "POST /days/board/tries", "POST /mix/follow", "POST /moulds/preview", "POST /pieces/{id}/fit",
    "POST /pieces/{id}/rim", "POST /quantities", "POST /sheets/choices", "POST /sheets/preview",
    "POST /sheets/schools", "POST /sheets/settle", "POST /sheets/{id}/wall",
    "POST /taping/model.glb", "POST /taping/preview", "POST /practice", "POST /practice/{id}/roll",
    "PUT /access/password", "POST /sign-out",
    # Of a mould, a pour or a sheet as it is kept: what anybody sees who looks at it.
    "POST /moulds/{id}/plan", "POST /moulds/{id}/study", "POST /pours/{id}/wall",
    "POST /sheets/{id}/charges", "POST /sheets/{id}/motions", "POST /taping/file",
}  # fmt: skip
AT_THE_BENCH = {
    "POST /days/ticks", "POST /dab-tests", "POST /dab-tests/{id}/photo",
    "POST /dab-tests/{id}/result", "POST /devices/{id}/start", "POST /devices/{id}/stop",
    "POST /moulds/{id}/events", "PUT /moulds/{id}/checks", "POST /pours", "PUT /pours/{id}/cast",
    "POST /pours/{id}/close", "POST /pours/{id}/coats/{coat}/turning", "POST /pours/{id}/faults",
    "PUT /pours/{id}/machine", "PUT /pours/{id}/mould", "PUT /pours/{id}/note",
    "PUT /pours/{id}/offcuts", "POST /pours/{id}/pictures", "POST /pours/{id}/readings",
    "POST /pours/{id}/readings.csv", "DELETE /pours/{id}/scale", "PUT /pours/{id}/scale",
    "POST /pours/{id}/scale/press", "POST /pours/{id}/steps", "DELETE /pours/{id}/steps/last",
    "PUT /pours/{id}/trimmed", "PUT /pours/{id}/finish", "PUT /faults/{id}", "DELETE /jobs/{id}",
}  # fmt: skip
MAKERS_GETS = {"GET /trail"}
OWNERS_OWN = {
    "GET /archive.zip", "POST /archive", "POST /archive/tries", "GET /accounts",
    "POST /accounts/first", "PUT /accounts/{id}", "DELETE /accounts/{id}", "POST /invitations",
    "DELETE /invitations/{id}", "DELETE /signed-in/{id}",
}  # fmt: skip


def browser(client: FlaskClient) -> FlaskClient:
    """Another browser, which has none of the cookies of the first."""
    made = client.application.test_client()
    made.environ_base["HTTP_X_MILD_HUSK"] = "page"
    return made


def sign_in(at: FlaskClient, name: str, password: str, address: str = "127.0.0.1") -> Any:
    body = {"name": name, "password": password}
    return at.post(f"{API}/sign-in", json=body, environ_base={"REMOTE_ADDR": address})


def invited(owner: FlaskClient, **asked: Any) -> str:
    made = owner.post(f"{API}/invitations", json=asked)
    assert made.status_code == 201, made.text
    return str(made.json["secret"])


def accept(client: FlaskClient, secret: str, **who: str) -> FlaskClient:
    """A browser that came in by an invitation."""
    made = browser(client)
    answer = made.post(f"{API}/invitations/accept", json={"secret": secret, **who})
    assert answer.status_code == 200, answer.text
    return made


@pytest.fixture
def owner(client: FlaskClient) -> FlaskClient:
    """The browser of the owner of a workshop that is open no more."""
    made = browser(client)
    answer = made.post(f"{API}/accounts/first", json={"name": "Ilse", "password": OWNERS})
    assert answer.status_code == 200, answer.text
    return made


@pytest.fixture
def everybody(client: FlaskClient, owner: FlaskClient) -> dict[str, FlaskClient]:
    made = {"stranger": browser(client), "owner": owner}
    for role in ("maker", "apprentice", "guest"):
        secret = invited(owner, role=role)
        made[role] = accept(client, secret, name=f"A {role}", password=MAKERS)
    made["tablet"] = accept(client, invited(owner, role="tablet", name="By the sink"))
    return made


def operations(client: FlaskClient) -> list[tuple[str, str]]:
    document = client.application.api_doc
    return [
        (method.upper(), address.removeprefix(API))
        for address, methods in document["paths"].items()
        for method in methods
    ]


def may(role: str, operation: str) -> bool:
    """Whether somebody may ask that, by the rules as the owner would say them."""
    if operation in ANYBODY or role == "owner":
        return True
    if role == "stranger" or operation in OWNERS_OWN:
        return False
    if role == "maker":
        return True
    if operation in AT_THE_BENCH:
        return role in ("apprentice", "tablet")
    reads = operation.startswith("GET ") and operation not in MAKERS_GETS
    return reads or operation in ONLY_WORKED_OUT


def test_every_address_as_everybody(client, everybody):
    """None is left out: they are those of the OpenAPI document."""
    asked = operations(client)
    named = ANYBODY | ONLY_WORKED_OUT | AT_THE_BENCH | OWNERS_OWN | MAKERS_GETS
    assert named <= {" ".join(one) for one in asked}
    assert unknown_operations(client.application.api_doc) == []
    refused = {"stranger": 401}
    wrong = []
    for method, address in asked:
        operation = f"{method} {address}"
        if operation == "POST /sign-out":
            continue
        path = address.replace("{id}", str(uuid4())).replace("{coat}", "1")
        for role, at in everybody.items():
            answer = at.open(f"{API}{path}", method=method, json=None if method == "GET" else {})
            is_refused = answer.status_code == refused.get(role, 403)
            if is_refused == may(role, operation):
                wrong.append((role, operation, answer.status_code, answer.text[:80]))
            assert answer.status_code < 500, (operation, role, answer.text)
    assert wrong == []
    assert len(asked) > 200


def test_the_document_says_what_an_address_asks_for(client):
    paths = client.application.api_doc["paths"]
    assert paths[f"{API}/sheets/{{id}}"]["delete"]["x-right"] == "make"
    assert paths[f"{API}/pours/{{id}}/steps"]["post"]["x-right"] == "pour"
    assert paths[f"{API}/sign-in"]["post"]["x-right"] == "anybody"
    assert right_for("HEAD", "/archive.zip") == right_for("GET", "/archive.zip") == "own"
    assert right_for("PATCH", "/of/tomorrow") == "make"


def test_an_apprentice_pours_and_prices_and_deletes_nothing(sheet, everybody):
    apprentice, guest = everybody["apprentice"], everybody["guest"]
    pour = apprentice.post(f"{API}/pours", json={"sheet_id": sheet["id"]})
    assert pour.status_code == 201
    price = apprentice.put(f"{API}/workshop/hour-rate", json={"hour_rate": "1"})
    assert_problem(price, 403, "may pour")
    assert_problem(apprentice.delete(f"{API}/sheets/{sheet['id']}"), 403, "nothing else")
    assert_problem(guest.post(f"{API}/pours", json={"sheet_id": sheet["id"]}), 403, "may look")
    assert guest.get(f"{API}/sheets/{sheet['id']}").status_code == 200


def test_the_calendars_address_is_told_to_makers_alone(everybody):
    """Whoever has it reads the days with no sign-in, also after they were removed."""
    path = everybody["owner"].post(f"{API}/days/calendar", json={}).json["path"]
    assert everybody["maker"].get(f"{API}/days/calendar").json["path"] == path
    for role in ("apprentice", "tablet", "guest"):
        assert everybody[role].get(f"{API}/days/calendar").json["path"] is None
    assert everybody["stranger"].get(path).status_code == 200
    assert everybody["stranger"].get(f"{path[:-8]}wrong.ics").status_code == 404


def test_open_until_it_has_an_owner_and_then_no_more(client):
    told = client.get(f"{API}/access").json
    assert told["is_open"]
    assert not told["is_signed_in"]
    assert told["role"] == "owner"
    body = {"name": "  Ilse   Brandt ", "password": OWNERS}
    made = browser(client)
    assert made.post(f"{API}/accounts/first", json=body).status_code == 200
    assert made.get(f"{API}/access").json["name"] == "Ilse Brandt"
    assert_problem(client.get(f"{API}/pieces"), 401, "Sign in")
    assert client.get(f"{API}/access").json["rights"] == []
    assert_problem(made.post(f"{API}/accounts/first", json=body), 409, "owner already")


def test_under_other_names_it_is_open_to_nobody_even_without_an_owner(client):
    at = backstage_of(client)
    app = create_app(
        at.sessions, QueueInThisThread(at.sessions, Clock()), at.workshop_id,
        hosts=("127.0.0.1", "localhost", "husk.example"), clock=at.clock,
    )  # fmt: skip
    made = app.test_client()
    made.environ_base["HTTP_X_MILD_HUSK"] = "page"
    for host in ("localhost", "husk.example"):
        assert_problem(made.get(f"{API}/pieces", headers={"Host": host}), 401, "Sign in")
        first = {"name": "Mallory", "password": OWNERS}
        answer = made.post(f"{API}/accounts/first", json=first, headers={"Host": host})
        assert answer.status_code == 401


def backstage_of(client: FlaskClient) -> Any:
    with client.application.app_context():
        return backstage()


def test_a_cookie_no_script_reads_and_no_other_site_sends(client, owner):
    """OWASP ASVS 4.0.3, 3.4.1 to 3.4.5."""
    answer = sign_in(browser(client), "ilse", OWNERS)
    cookies = answer.headers.getlist("Set-Cookie")
    assert len(cookies) == 2
    for cookie in cookies:
        assert {"HttpOnly", "SameSite=Strict", f"Path={API}"} <= set(cookie.split("; "))
        assert "Secure" not in cookie
    behind_tls = browser(client).post(
        f"{API}/sign-in",
        json={"name": "Ilse", "password": OWNERS},
        headers={"X-Forwarded-Proto": "https"},
    )
    assert all("; Secure" in one for one in behind_tls.headers.getlist("Set-Cookie"))


def test_nothing_that_lets_somebody_in_is_kept_as_it_is(client, owner):
    """What is read off a stolen disk opens nothing: ASVS 2.4.1, RFC 9106."""
    secret = invited(owner, role="guest")
    tokens = [one.value for one in owner._cookies.values()]
    with backstage_of(client).sessions() as session:
        kept = ""
        for table in ("account", "signed_in", "invitation", "known_browser"):
            kept += str(session.execute(text(f"SELECT * FROM {table}")).all())
    assert len(tokens) == 2
    for one in (secret, OWNERS, *tokens):
        assert one not in kept
    assert "$argon2id$v=19$m=65536,t=3,p=4$" in kept


@pytest.mark.parametrize(
    ("name", "password", "field", "said"),
    [
        ("Ilse", "short", "password", "12 to 128"),
        ("Ilse", "ilse ilse ilse", "password", "easy to guess"),
        ("Ilse", "aaaaaaaaaaaab", "password", "easy to guess"),
        # Among the first that are tried: common practice, no source.
        ("Ilse", "password1234", "password", "easy to guess"),
        ("Ilse", "qwertyuiop123", "password", "easy to guess"),
        ("Ilse", "letmeinletmein", "password", "easy to guess"),
        ("Ilse", "x" * 129, "password", "128"),
        (" ", "a good long one", "name", "empty"),
        ("Il\x07se", "a good long one", "name", "cannot be printed"),
    ],
)
def test_a_poor_password_or_name_is_refused(client, name, password, field, said):
    answer = client.post(f"{API}/accounts/first", json={"name": name, "password": password})
    assert_problem(answer, 422, said, field)
    assert client.get(f"{API}/access").json["is_open"]


def test_a_name_in_any_case_and_a_long_password_with_spaces(client, owner):
    at = browser(client)
    assert_problem(sign_in(at, "Ilse", OWNERS.upper()), 401, "do not go together")
    assert_problem(sign_in(at, "Nobody", OWNERS), 401, "do not go together")
    assert sign_in(at, " iLSE ", OWNERS).status_code == 200
    assert at.get(f"{API}/workshop").status_code == 200


def test_guessing_is_slowed_and_cannot_lock_the_owner_out(client, owner, clock):
    thief = browser(client)
    for guess in range(10):
        assert_problem(sign_in(thief, "Ilse", f"guess number {guess}", "10.0.0.9"), 401, "together")
    # Not even with the right one, and not from elsewhere: what is counted is the name.
    answer = sign_in(thief, "Ilse", OWNERS, "10.0.0.9")
    assert_problem(answer, 429, "Try again in 15 min")
    assert 890 <= int(answer.headers["Retry-After"]) <= 900
    assert_problem(sign_in(browser(client), "Ilse", OWNERS, "10.0.0.10"), 429, "too often")
    # Whoever has signed in there before gets in all the same.
    assert owner.post(f"{API}/sign-out", json={}).status_code == 200
    assert_problem(owner.get(f"{API}/workshop"), 401, "Sign in")
    assert sign_in(owner, "Ilse", OWNERS, "10.0.0.9").status_code == 200
    assert owner.get(f"{API}/workshop").status_code == 200
    clock.pass_seconds(15 * 60 + 1)
    assert sign_in(thief, "Ilse", OWNERS, "10.0.0.9").status_code == 200


def test_a_known_browser_is_counted_by_itself(client, owner, clock):
    """A stolen tablet guesses no faster, and holds up nobody else."""
    for guess in range(10):
        assert sign_in(owner, "Ilse", f"guess number {guess}").status_code == 401
    assert_problem(sign_in(owner, "Ilse", OWNERS), 429, "too often")
    assert sign_in(browser(client), "Ilse", OWNERS).status_code == 200


def test_a_browser_of_two_knows_both(client, owner):
    """At the workshop's desk one signs in after the other, and neither is locked out there."""
    piet = accept(client, invited(owner, role="maker"), name="Piet", password=MAKERS)
    for at, name, password in ((owner, "Piet", MAKERS), (piet, "Ilse", OWNERS)):
        assert at.post(f"{API}/sign-out", json={}).status_code == 200
        assert sign_in(at, name, password).status_code == 200
    thief = browser(client)
    for guess in range(10):
        for name in ("Ilse", "Piet"):
            assert sign_in(thief, name, f"guess number {guess}").status_code == 401
    for at in (owner, piet):
        for name, password in (("Ilse", OWNERS), ("Piet", MAKERS)):
            assert sign_in(at, name, password).status_code == 200
    assert sign_in(thief, "Ilse", OWNERS).status_code == 429


def test_one_address_cannot_try_many_names(client, owner):
    thief = browser(client)
    for guess in range(60):
        assert sign_in(thief, f"name {guess}", "something long", "10.0.0.9").status_code == 401
    assert_problem(sign_in(thief, "one more", "something long", "10.0.0.9"), 429, "too often")
    assert sign_in(thief, "one more", "something long", "10.0.0.8").status_code == 401


def test_wrong_guesses_are_forgotten_once_it_was_right(client, owner):
    at = browser(client)
    for _ in range(2):
        for _ in range(9):
            assert sign_in(at, "Ilse", "not that, surely").status_code == 401
        assert sign_in(at, "Ilse", OWNERS).status_code == 200


@pytest.mark.parametrize(
    ("every", "lasts"),
    [(timedelta(hours=12, minutes=1), 0), (timedelta(hours=11), 65)],
    ids=["idle", "however busy"],
)
def test_a_sign_in_ends(owner, clock, every, lasts):
    """12 hours unused, 30 days in any case: 65 times 11 hours are 29.8 days."""
    for _ in range(lasts):
        clock.pass_seconds(every.total_seconds())
        assert owner.get(f"{API}/now").status_code == 200
        assert owner.get(f"{API}/workshop").status_code == 200
    clock.pass_seconds(every.total_seconds())
    assert_problem(owner.get(f"{API}/workshop"), 401, "Sign in")


def test_a_new_password_signs_the_other_browsers_out(client, owner):
    other = browser(client)
    assert sign_in(other, "Ilse", OWNERS).status_code == 200
    change = {"old": "not it at all", "password": NEW}
    refused = owner.put(f"{API}/access/password", json=change)
    assert_problem(refused, 422, "not your password", "old")
    change["old"] = OWNERS
    assert owner.put(f"{API}/access/password", json=change).status_code == 200
    assert owner.get(f"{API}/workshop").status_code == 200
    assert other.get(f"{API}/workshop").status_code == 401
    assert sign_in(other, "Ilse", OWNERS).status_code == 401
    assert sign_in(other, "Ilse", NEW).status_code == 200


def test_an_invitation_is_good_once_and_for_a_week(client, owner, clock):
    secret = invited(owner, role="maker", name="Piet")
    told = browser(client).post(f"{API}/invitations/welcome", json={"secret": secret}).json
    assert (told["role"], told["name"], told["is_new"]) == ("maker", "Piet", True)
    for bad in ({"name": ""}, {"password": "short"}, {"name": "ILSE"}):
        body = {"secret": secret, "name": "Piet", "password": MAKERS, **bad}
        assert browser(client).post(f"{API}/invitations/accept", json=body).status_code == 422
    piet = accept(client, secret, name="Piet", password=MAKERS)
    assert piet.get(f"{API}/access").json["role"] == "maker"
    again = browser(client).post(
        f"{API}/invitations/accept", json={"secret": secret, "name": "Q", "password": MAKERS}
    )
    assert_problem(again, 404, "was used")
    late = invited(owner, role="guest")
    clock.pass_seconds(7 * 86_400)
    assert_problem(browser(client).post(f"{API}/invitations/welcome", json={"secret": late}), 404,
                   "week")  # fmt: skip


def test_what_is_taken_back_lets_nobody_in(client, owner):
    made = owner.post(f"{API}/invitations", json={"role": "owner"}).json
    assert owner.delete(f"{API}/invitations/{made['id']}").status_code == 200
    body = {"secret": made["secret"]}
    assert browser(client).post(f"{API}/invitations/welcome", json=body).status_code == 404
    assert owner.get(f"{API}/accounts").json["invitations"] == []


def test_whose_password_is_lost_gets_a_link_from_the_owner(client, owner):
    piet = accept(client, invited(owner, role="maker"), name="Piet", password=MAKERS)
    key = next(one["id"] for one in owner.get(f"{API}/accounts").json["accounts"]
               if one["name"] == "Piet")  # fmt: skip
    secret = invited(owner, account_id=key)
    told = browser(client).post(f"{API}/invitations/welcome", json={"secret": secret}).json
    assert (told["name"], told["is_new"]) == ("Piet", False)
    anew = accept(client, secret, password=NEW)
    assert anew.get(f"{API}/access").json["name"] == "Piet"
    assert piet.get(f"{API}/workshop").status_code == 401
    assert sign_in(browser(client), "Piet", MAKERS).status_code == 401
    assert sign_in(browser(client), "Piet", NEW).status_code == 200


def test_one_owner_stays(client, owner):
    people = owner.get(f"{API}/accounts").json["accounts"]
    mine = people[0]["id"]
    assert_problem(owner.put(f"{API}/accounts/{mine}", json={"role": "guest"}), 409, "an owner")
    assert_problem(owner.delete(f"{API}/accounts/{mine}"), 409, "owner first")
    second = accept(client, invited(owner, role="owner"), name="Piet", password=MAKERS)
    assert second.delete(f"{API}/accounts/{mine}").status_code == 200
    assert owner.get(f"{API}/workshop").status_code == 401
    assert second.get(f"{API}/accounts").json["accounts"][0]["is_you"]


def test_a_role_holds_from_the_next_request_on(client, owner):
    piet = accept(client, invited(owner, role="guest"), name="Piet", password=MAKERS)
    people = owner.get(f"{API}/accounts").json["accounts"]
    key = next(one["id"] for one in people if one["name"] == "Piet")
    rate = {"hour_rate": "31.50"}
    assert piet.put(f"{API}/workshop/hour-rate", json=rate).status_code == 403
    assert owner.put(f"{API}/accounts/{key}", json={"role": "maker"}).json["role"] == "maker"
    assert piet.put(f"{API}/workshop/hour-rate", json=rate).status_code == 200
    assert_problem(owner.put(f"{API}/accounts/{key}", json={"role": "tablet"}), 422, "no tablet")
    assert owner.delete(f"{API}/accounts/{key}").status_code == 200
    assert piet.get(f"{API}/workshop").status_code == 401


def test_a_tablet_stays_for_weeks_and_ends_when_the_owner_says_so(client, owner, clock):
    tablet = accept(client, invited(owner, role="tablet", name="By the sink"))
    told = tablet.get(f"{API}/access").json
    assert (told["name"], told["role"]) == ("By the sink", "tablet")
    assert_problem(tablet.put(f"{API}/access/password", json={"old": "x", "password": NEW}), 409,
                   "account")  # fmt: skip
    clock.pass_seconds(50 * 86_400)
    assert tablet.get(f"{API}/pours").status_code == 200
    assert sign_in(owner, "Ilse", OWNERS).status_code == 200
    browsers = owner.get(f"{API}/accounts").json["signed_in"]
    key = next(one["id"] for one in browsers if one["is_tablet"])
    assert owner.delete(f"{API}/signed-in/{key}").status_code == 200
    assert tablet.get(f"{API}/pours").status_code == 401
    assert_problem(
        owner.post(f"{API}/invitations", json={"role": "tablet"}), 422, "Name the tablet"
    )


def test_who_is_listed_is_known_by_name_and_when_seen(client, owner, clock):
    accept(client, invited(owner, role="guest", name="Uta"), name="Uta", password=MAKERS)
    clock.pass_seconds(600)
    owner.get(f"{API}/workshop")
    told = owner.get(f"{API}/accounts").json
    assert [one["name"] for one in told["accounts"]] == ["Ilse", "Uta"]
    assert [one["is_you"] for one in told["accounts"]] == [True, False]
    assert told["accounts"][0]["seen_at"] > told["accounts"][1]["seen_at"]
    assert [one["name"] for one in told["signed_in"]] == ["Ilse", "Uta"]
    assert [one["is_this"] for one in told["signed_in"]] == [True, False]


def test_nobody_is_invited_before_there_is_an_owner(client):
    assert_problem(client.post(f"{API}/invitations", json={"role": "maker"}), 409, "owner first")
    assert client.get(f"{API}/access").json["is_open"]


def test_what_a_stranger_is_told_is_one_sentence_and_no_row(client, piece, owner):
    for path in ("/pieces", f"/pieces/{piece['id']}", f"/pieces/{uuid4()}", "/live"):
        answer = browser(client).get(f"{API}{path}")
        assert answer.status_code == 401
        assert json.loads(answer.text)["detail"] == "Sign in to this workshop first."


def test_a_made_up_cookie_lets_nobody_in(client, owner):
    for token in ("", "x", "\u00e9", "a" * 4000):
        at = browser(client)
        at.set_cookie("husk-in-0", token, path=API)
        assert at.get(f"{API}/workshop").status_code == 401


def test_an_owner_who_was_made_maker_removes_nobody(client, owner):
    second = accept(client, invited(owner, role="owner"), name="Piet", password=MAKERS)
    people = {one["name"]: one["id"] for one in owner.get(f"{API}/accounts").json["accounts"]}
    assert owner.put(f"{API}/accounts/{people['Piet']}", json={"role": "maker"}).status_code == 200
    assert second.delete(f"{API}/accounts/{people['Ilse']}").status_code == 403


def test_who_is_signed_out_hears_nothing_more(owner, monkeypatch):
    monkeypatch.setattr(live, "_LOOK_S", 0.0)
    monkeypatch.setattr(live, "_QUIET_S", 0.02)
    # Nothing happens here: the rows of a test are told to nobody.
    monkeypatch.setattr(live._Told, "_hear", lambda self: None)
    lines = iter(owner.get(f"{API}/live", buffered=False).response)
    assert b"look-anew" in next(lines)
    assert b"quiet" in next(lines)
    assert owner.post(f"{API}/sign-out", json={}).status_code == 200
    assert list(lines) == []
