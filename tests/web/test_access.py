"""Who is let in from another device, and what each role may do there."""

import logging
import re

import argon2
import pytest
from starlette.testclient import TestClient

from routes import changing, example, routes_of
from waldhorn.core.base.history import Motor
from waldhorn.pit.settings import seats as pit
from waldhorn.store import api_keys, motors, seats
from waldhorn.store.models import ChangeRow
from waldhorn.store.seats import Role
from waldhorn.web.app import create_app
from waldhorn.web.common import guard
from waldhorn.web.common.access import SEAT_COOKIE
from waldhorn.web.common.pages import now
from waldhorn.web.common.rates import Rates

FROM_OUTSIDE = "http://127.0.0.2:8700"
PHRASES = {role: f"the {role} of this pit" for role in Role}


@pytest.fixture
def app(store, monkeypatch):
    monkeypatch.setattr(seats, "_hasher", lambda: argon2.PasswordHasher(1, 8, 1))  # quick, and no less right
    with store.writing() as session:
        motors.add(session, [Motor("VS-01", owner="Anna Winter"), Motor("VS-02", owner="Bo")])
        for role, phrase in PHRASES.items():
            pit.set_passphrase(session, role, phrase, now())
    app = create_app(store)
    app.state.limits.strangers = Rates(1e6, 10**6)  # how often one may ask has a test of its own
    return app


@pytest.fixture
def device(app):
    """A browser on another device, or several of them."""

    def another(address: str = "10.0.0.7") -> TestClient:
        return TestClient(app, base_url=FROM_OUTSIDE, client=(address, 50_000), follow_redirects=False)

    return another


def joined(client: TestClient, role: Role, name: str = "JK") -> TestClient:
    assert tried(client, PHRASES[role], name).status_code == 303
    client.get("/help")
    client.headers[guard.HEADER] = client.cookies[guard.COOKIE]
    return client


def tried(client: TestClient, phrase: str, name: str = "JK", **more: str):
    client.headers.pop(guard.HEADER, None)
    token = re.search(r'name="csrf_token" value="([^"]+)"', client.get("/join").text)
    return client.post("/join", data={"csrf_token": token[1], "name": name, "passphrase": phrase, **more})


def test_the_machine_itself_needs_no_seat_and_does_everything(app):
    with TestClient(app, base_url="http://127.0.0.1:8700") as here:
        assert here.get("/").status_code == 200
        assert "let nobody in as look" in here.get("/settings").text


def test_without_a_seat_there_is_the_page_where_one_joins_and_nothing_else(device):
    client = device()
    answer = client.get("/motors/VS-01?as_of=2026-05-01")
    assert (answer.status_code, answer.headers["location"]) == (
        303,
        "/join?back=%2Fmotors%2FVS-01%3Fas_of%3D2026-05-01",
    )
    assert client.get("/join").status_code == 200
    assert "VS-01" not in client.get("/join").text
    assert "Not encrypted: whoever is in this network can read along" in client.get("/join").text
    assert client.get("/static/mark.svg").status_code == 200
    assert client.get("/", headers={"hx-request": "true"}).status_code == 401
    assert client.get("/events?screen=a").status_code == 303
    for path in changing(client.app):
        if path not in ("/join", "/leave"):
            assert client.post(path).status_code == 401, path


def test_a_seat_is_a_signed_cookie_of_this_site_for_thirty_days(device, store):
    client = device()
    answer = tried(client, PHRASES[Role.TECHNICIAN], back="/motors/VS-01")
    assert answer.headers["location"] == "/motors/VS-01"
    said = next(c for c in answer.headers.get_list("set-cookie") if c.startswith(SEAT_COOKIE))
    assert "HttpOnly" in said
    assert "SameSite=lax" in said
    assert "Max-Age=2592000" in said
    assert "Secure" not in said  # it was asked over plain HTTP
    assert client.get("/").status_code == 200
    with store.reading() as session:
        assert [(s.name, s.role) for s in seats.standing(session, now())] == [("JK", Role.TECHNICIAN)]


def test_over_tls_both_cookies_go_over_tls_only(app):
    client = TestClient(app, base_url="https://127.0.0.2:8700", follow_redirects=False)
    answer = tried(client, PHRASES[Role.TECHNICIAN])
    assert all("Secure" in c for c in answer.headers.get_list("set-cookie") if "Max-Age=0" not in c)
    assert "Secure" in client.get("/").headers["set-cookie"]


@pytest.mark.parametrize("back", ["//pit.example/", "/\\pit.example", "https://pit.example", "/join?back=x", ""])
def test_whoever_joins_is_led_nowhere_else(device, back):
    assert tried(device(), PHRASES[Role.LOOK], back=back).headers["location"] == "/"


def test_a_cookie_that_was_not_signed_here_or_is_too_old_is_none(device, store, monkeypatch):
    client = joined(device(), Role.KEEPER)
    good = client.cookies[SEAT_COOKIE]
    said, _, signed = good.rpartition(".")
    forged = f"{said}.{'A' if signed[0] != 'A' else 'B'}{signed[1:]}"  # the last letter has bits that mean nothing
    for bad in (forged, good.split(".")[0], "x", f"{good}.{good}", "\x7f"):
        client.cookies.clear()
        assert client.get("/", headers={"cookie": f"{SEAT_COOKIE}={bad}"}).status_code == 303
    assert client.get("/", headers={"cookie": f"{SEAT_COOKIE}={good}"}).status_code == 200
    with store.reading() as session:
        assert seats.of_cookie(session, good).name == "JK"
        monkeypatch.setattr(seats, "LASTS", -seats.LASTS)
        assert seats.of_cookie(session, good) is None


def test_a_seat_that_was_put_out_opens_nothing_at_once(device, app, store):
    keeper, other = joined(device(), Role.KEEPER), joined(device("10.0.0.8"), Role.TECHNICIAN, "AB")
    assert other.get("/").status_code == 200
    with store.reading() as session:
        seat = next(s for s in seats.standing(session, now()) if s.name == "AB")
    assert keeper.post(f"/settings/seats/{seat.id}/put-out").status_code == 303
    assert other.get("/").status_code == 303
    assert keeper.get("/").status_code == 200


def test_a_new_passphrase_of_a_role_lets_only_that_role_join_anew(device):
    keeper, look = joined(device(), Role.KEEPER), joined(device("10.0.0.8"), Role.LOOK)
    said = keeper.post("/settings/passphrases", data={"role": "look", "make": "yes"}).text
    made = re.search(r'id="phrase">([^<]+)<', said)[1]
    assert look.get("/").status_code == 303
    assert tried(look, PHRASES[Role.LOOK]).status_code == 422
    assert tried(look, made).status_code == 303
    assert keeper.get("/").status_code == 200
    assert keeper.post("/settings/passphrases/look/drop").status_code == 303
    assert tried(look, made).status_code == 422


def test_leaving_gives_the_seat_back(device, store):
    client = joined(device(), Role.LOOK)
    assert client.post("/leave").headers["location"] == "/join"
    assert client.get("/").status_code == 303
    with store.reading() as session:
        assert seats.standing(session, now()) == []


def api_paths(app):
    """Every changing route of the API, from its own table."""
    api = next(r.app for r in app.routes if getattr(r, "path", "") == "/api/v1")
    found = [f"/api/v1{example(r)}" for r in routes_of(api) if r.methods - {"GET", "HEAD"}]
    assert len(found) >= 3
    return found


def test_who_looks_changes_nothing_by_any_route_even_with_a_key(device, store):
    client = joined(device(), Role.LOOK)
    with store.writing() as session:
        key = api_keys.make(session, "script", now())
    paths = [path for path in changing(client.app) if path not in ("/join", "/leave")]
    assert "/checks/1/steps/1/draft" in paths
    for path in [*paths, *api_paths(client.app)]:
        answer = client.post(path, headers={"authorization": f"Bearer {key}"})
        assert answer.status_code == 403, path
    assert client.get("/motors/VS-01").status_code == 200
    assert client.get("/settings").status_code == 200
    assert client.get("/api/v1/motors").status_code == 200


def test_settings_keys_and_seats_are_the_keepers_alone(device):
    keepers = [path for path in changing(device().app) if path.startswith("/settings")]
    assert len(keepers) > 6
    technician = joined(device(), Role.TECHNICIAN)
    for path in keepers:
        assert technician.post(path).status_code == 403, path
    assert technician.post("/motors/VS-01/checks").status_code == 303
    keeper = joined(device("10.0.0.8"), Role.KEEPER)
    assert keeper.post("/settings/backup").status_code == 303


def test_the_owners_own_motors_come_first_by_name_or_initials(device):
    for name, first in (("Bo", "VS-02"), ("aw", "VS-01"), ("anna winter", "VS-01"), ("ZZ", "VS-01")):
        rack = joined(device(), Role.LOOK, name).get("/").text
        assert re.search(r'data-tag="([^"]+)"', rack)[1] == first, name
    worked = joined(device(), Role.TECHNICIAN, "Bo").get("/").text
    assert re.search(r'data-tag="([^"]+)"', worked)[1] == "VS-01"


def test_every_change_carries_who_did_it(device, store):
    client = joined(device(), Role.TECHNICIAN, "AB")
    check = client.post("/motors/VS-01/checks").headers["location"].split("?")[0]
    client.post(f"{check}/steps/setup", data={"rig": "bench", "method": "loaded-supply"})
    assert "on the bench: AB" in client.get("/").text
    assert "AB has it on the bench" in client.get("/motors/VS-01").text
    client.post(f"{check}/sign", data={"verdict": "keep", "reason": "new", "signed_by": "AB"})
    with store.reading() as session:
        assert [(a.kind, a.who) for a in session.query(ChangeRow).order_by(ChangeRow.id)] == [
            ("open", "AB"),
            ("set_up", "AB"),
            ("sign", "AB"),
        ]


def test_the_sign_form_is_filled_with_who_sits_there(device):
    client = joined(device(), Role.TECHNICIAN, "AB")
    check = client.post("/motors/VS-01/checks").headers["location"].split("?")[0]
    assert re.search(r'name="signed_by"\s+value="AB"', client.get(f"{check}?step=answer").text)


# passphrases


def test_a_wrong_one_does_not_say_how_close_it_was(device):
    right = PHRASES[Role.TECHNICIAN]
    said = {
        re.search(r'id="wrong-passphrase"[^>]*>([^<]+)', tried(device(f"10.0.0.{n}"), wrong).text)[1].strip()
        for n, wrong in enumerate((right[:-1], right.upper(), f"{right} ", "", "x" * 200), 10)
    }
    assert said == {"This passphrase lets in nobody."}


def test_ten_wrong_ones_slow_their_address_down_and_say_so_and_nobody_else(device, app):
    clock = [1000.0]
    app.state.limits.tries.clock = lambda: clock[0]
    client = device()
    for _ in range(10):
        assert tried(client, "not this one").status_code == 422
    slowed = tried(client, PHRASES[Role.TECHNICIAN])
    assert slowed.status_code == 429
    assert int(slowed.headers["retry-after"]) >= 5
    assert "try again in 6 seconds" in slowed.text
    assert tried(device("10.0.0.8"), PHRASES[Role.TECHNICIAN]).status_code == 303
    clock[0] += 6
    assert tried(client, "not this one").status_code == 422
    clock[0] += 6
    assert tried(client, PHRASES[Role.TECHNICIAN]).status_code == 429  # ten seconds by now
    clock[0] += 5
    assert tried(client, PHRASES[Role.TECHNICIAN]).status_code == 303
    assert app.state.limits.tries.wait_s("10.0.0.7") == 0


def test_nothing_of_a_passphrase_is_kept_shown_or_logged(device, store, caplog):
    caplog.set_level(logging.DEBUG)
    client = device()
    page = tried(client, "wrong but mine", name="")
    assert "wrong but mine" not in page.text
    joined(client, Role.TECHNICIAN)
    assert PHRASES[Role.TECHNICIAN] not in caplog.text
    with store.reading() as session:
        kept = seats.hashes(session)
    assert len(set(kept.values())) == 3


def test_a_passphrase_is_kept_as_argon2id_as_its_standard_recommends(store):
    with store.writing() as session:
        pit.set_passphrase(session, Role.LOOK, "what owners know", now())
        [kept] = seats.hashes(session).values()
    assert kept.startswith("$argon2id$v=19$m=65536,t=3,p=4$")
    assert "owners" not in kept


@pytest.mark.parametrize(("name", "status"), [("", 422), ("  ", 422), ("x" * 25, 422), ("a\x07b", 422), ("Ω K", 303)])
def test_one_says_who_one_is(device, name, status):
    assert tried(device(), PHRASES[Role.LOOK], name=name).status_code == status


# the address a request came in at


@pytest.mark.parametrize("host", ["127.0.0.1:8700", "localhost:8700", "pit.example", "127.0.0.2", "127.0.0.2:8701"])
def test_from_outside_only_the_address_itself_is_a_host(device, host):
    assert device().get("/join", headers={"host": host}).status_code == 400


@pytest.mark.parametrize("path", ["/events?screen=a", "/checks/1/live/stream"])
def test_nobody_listens_from_another_site(app, path):
    with TestClient(app, base_url="http://127.0.0.1:8700") as here:
        for headers in ({"origin": "http://pit.example"}, {"sec-fetch-site": "cross-site"}):
            assert here.get(path, headers=headers).status_code == 403


def test_a_program_reads_from_outside_with_a_key_that_stands(device, store):
    client = device()
    with store.writing() as session:
        key = api_keys.make(session, "script", now())
    assert client.get("/api/v1/motors").status_code == 401
    assert client.get("/api/v1/motors", headers={"authorization": "Bearer wh_x"}).status_code == 401
    assert client.get("/api/v1/motors", headers={"authorization": f"Bearer {key}"}).status_code == 200


# how often


def test_who_asks_too_often_waits_and_nobody_else_does(device, app):
    clock = [0.0]
    app.state.limits.seats = Rates(2.0, 5, lambda: clock[0])
    one, other = joined(device(), Role.TECHNICIAN), joined(device("10.0.0.8"), Role.TECHNICIAN, "AB")
    seen = [one.get("/help").status_code for _ in range(6)]
    assert seen.count(429) >= 1
    refused = one.get("/help")
    assert (refused.status_code, refused.headers["retry-after"]) == (429, "1")
    assert other.get("/help").status_code == 200
    clock[0] += 0.5
    assert [one.get("/help").status_code for _ in range(2)] == [200, 429]


def test_a_stranger_is_refused_before_anything_is_read(device, app, monkeypatch):
    app.state.limits.strangers = Rates(0.001, 3)
    app.state.limits.unread = Rates(0.001, 3)
    client = device()
    asked = []
    monkeypatch.setattr(seats, "of_cookie", lambda *_: asked.append(1))
    forged = {"cookie": f"{SEAT_COOKIE}=forged.x.y"}
    assert [client.get("/", headers=forged).status_code for _ in range(20)][-1] == 429
    assert len(asked) <= 3
    assert device("10.0.0.9").get("/join").status_code == 200


@pytest.mark.parametrize(
    "place",
    ["/\t/127.0.0.3/x", "//evil", "/\\evil", "https://evil/", "/%09/evil", "javascript:x", "/static/x", "/nowhere", ""],
)
def test_only_a_page_of_this_pit_is_handed_over_or_gone_back_to(device, place):
    client = joined(device(), Role.TECHNICIAN)
    assert client.post("/screens/bench", data={"path": place}).status_code == 422
    assert tried(device("10.0.0.9"), PHRASES[Role.LOOK], back=place).headers["location"] == "/"


def test_what_is_handed_over_is_written_by_the_server(device, app):
    client = joined(device(), Role.TECHNICIAN)
    sent = []
    app.state.presence.send = lambda to, path, by: sent.append(path) or 1
    client.post("/screens/bench", data={"path": "/motors/VS 01/book?step=pull&skip=8"})
    assert sent == ["/motors/VS%2001/book?step=pull&skip=8"]


def test_a_device_that_joins_anew_loses_its_former_seat(device, store):
    client = joined(device(), Role.TECHNICIAN)
    former = client.cookies[SEAT_COOKIE]
    joined(client, Role.LOOK, "AB")
    with store.reading() as session:
        assert [row.name for row in seats.standing(session, now())] == ["AB"]
        assert seats.of_cookie(session, former) is None


@pytest.mark.parametrize("name", ["JK\u202e", "J\u200bK", "JK\x07"])
def test_a_name_holds_nothing_that_is_not_seen(device, name):
    answer = tried(device(), PHRASES[Role.LOOK], name)
    assert (answer.status_code, "a name cannot hold U+" in answer.text or "cannot be printed" in answer.text) == (
        422,
        True,
    )


def test_what_a_device_sends_later_stands_under_who_typed_it(device, store):
    client = joined(device(), Role.TECHNICIAN, "AB")
    for typed_by, who in (("JK", "JK, sent by AB"), ("AB", "AB"), ("%E2%80%AEx", "AB"), ("", "AB")):
        client.post(
            "/motors/VS-01/events", data={"event": "cleaned", "detail": typed_by}, headers={"X-Typed-By": typed_by}
        )
        with store.reading() as session:
            assert session.query(ChangeRow).order_by(ChangeRow.id.desc()).first().who == who
