"""What was stored is said to be stored, and what is sent twice with the same form is stored once."""

import html
import re
from concurrent.futures import ThreadPoolExecutor

import pytest
from sqlalchemy import event
from starlette.testclient import TestClient

from waldhorn.core.base.history import Motor
from waldhorn.pit import writing
from waldhorn.pit.judging import judging
from waldhorn.store import motors, readings
from waldhorn.web.app import create_app
from waldhorn.web.common import guard


@pytest.fixture
def client(store):
    with store.writing() as session:
        motors.add(session, [Motor("VS-01", poles=4)])
    with TestClient(
        create_app(store), base_url="http://127.0.0.1:8700", follow_redirects=False, raise_server_exceptions=False
    ) as client:
        client.get("/help")
        client.headers[guard.HEADER] = client.cookies[guard.COOKIE]
        yield client


@pytest.fixture
def bench(client):
    return client.post("/motors/VS-01/checks").headers["location"]


def form_of(client, page, action):
    """The hidden fields of the form with that action."""
    form = re.search(rf'<form[^>]*action="{re.escape(action)}".*?</form>', client.get(page).text, re.DOTALL)[0]
    hidden = re.findall(r'<input type="hidden" name="(\w+)"[^>]*? value=(["\'])(.*?)\2', form)
    return {name: html.unescape(value) for name, _, value in hidden}


def events(store):
    with store.reading() as session:
        return [e.event for _, e in motors.events_of(session)]


def test_a_form_sent_six_times_at_once_is_stored_once(client, store):
    hidden = form_of(client, "/motors/VS-01", "/motors/VS-01/events")
    with ThreadPoolExecutor(6) as pool:
        posts = [
            pool.submit(
                client.post,
                "/motors/VS-01/events",
                data=hidden | {"event": "crash"},
                headers={"referer": "http://127.0.0.1:8700/motors/VS-01"},
            )
            for _ in range(6)
        ]
        answers = [p.result() for p in posts]
    assert {a.status_code for a in answers} == {303}
    assert {a.headers["location"].partition("#")[0] for a in answers} == {"/motors/VS-01"}
    assert events(store) == ["crash"]


def test_the_same_form_with_something_else_in_it_is_something_else(client, store):
    hidden = form_of(client, "/motors/VS-01", "/motors/VS-01/events")
    for what in ("crash", "dunked", "crash"):
        client.post("/motors/VS-01/events", data=hidden | {"event": what})
    assert events(store) == ["crash", "dunked"]


def test_a_form_that_was_refused_may_be_sent_again(client, store):
    hidden = form_of(client, "/motors/VS-01", "/motors/VS-01/events")
    sent = hidden | {"event": "crash", "count": "x"}
    assert [client.post("/motors/VS-01/events", data=sent).status_code for _ in range(2)] == [422, 422]
    assert events(store) == []


def test_a_reading_taken_by_a_double_click_is_one_run(client, bench, store):
    client.post(f"{bench}/steps/setup", data={"rig": "bench", "method": "loaded-supply"})
    hidden = form_of(client, f"{bench}?step=pull", f"{bench}/steps/pull")
    typed = {"volts": "7.4", "amps": "2.1", "rpm": "25 160"}
    for _ in range(2):
        client.post(f"{bench}/steps/pull/draft", data=hidden | typed)  # a draft is no sending
    answers = [client.post(f"{bench}/steps/pull", data=hidden | typed) for _ in range(2)]
    assert [a.status_code for a in answers] == [303, 303]
    with store.reading() as session:
        assert readings.count(session) == 3


def test_where_judging_fails_after_the_commit_it_is_said_to_be_stored(client, store, monkeypatch):
    def broken(*_, **__):
        raise ZeroDivisionError("a hole in the judge")

    monkeypatch.setattr(writing, "settle_apart", broken)
    answer = client.post("/motors/VS-01/events", data={"event": "crash"})
    assert answer.status_code == 303
    assert events(store) == ["crash"]


def test_where_the_page_after_the_commit_fails_it_is_said_to_be_stored(client, store, monkeypatch):
    monkeypatch.setattr("waldhorn.web.screens.motor.routes.go", lambda *_: 1 / 0)
    answer = client.post("/motors/VS-01/events", data={"event": "crash"})
    assert answer.status_code == 500
    assert "What you sent is stored" in answer.text
    assert "go back and try again" not in answer.text
    assert events(store) == ["crash"]


def test_a_disk_that_fills_up_after_the_commit_is_not_said_to_have_lost_it(client, store, monkeypatch):
    monkeypatch.setattr(writing, "AGAIN_S", 0.01)
    real = judging.settle_apart

    def full(*args, **more):
        file = store.engine.connect()
        pages = file.exec_driver_sql("PRAGMA page_count").scalar()
        file.close()
        event.listen(store.engine, "connect", lambda c, _: c.execute(f"PRAGMA max_page_count={pages}"))
        store.engine.dispose()
        return real(*args, **more)

    monkeypatch.setattr(writing, "settle_apart", full)
    answer = client.post("/motors/VS-01/events", data={"event": "crash", "detail": "x" * 300})
    assert answer.status_code == 303 or "is stored" in answer.text
    assert events(store) == ["crash"]


def test_a_second_signature_is_refused_with_a_sentence(client, bench):
    sign = {"verdict": "unproven", "signed_by": "Oda"}
    assert client.post(f"{bench}/sign", data=sign).status_code == 303
    for path, data in (("sign", sign), ("hang", {}), ("steps/noise/skip", {}), ("stop", {"reason": "x"})):
        again = client.post(f"{bench}/{path}", data=data)
        assert again.status_code == 422
        assert "open a new one on the motor" in again.text


def test_facts_that_two_correct_at_once_both_stand_or_are_both_shown(client):
    shown = form_of(client, "/motors/VS-01/facts", "/motors/VS-01/facts")["as_shown"]
    base = {
        "tag": "VS-01",
        "as_shown": shown,
        "kind": "inrunner",
        "magnet": "neodymium",
        "sensored": "yes",
        "reference": "no",
        "poles": "4",
    }
    assert client.post("/motors/VS-01/facts", data=base | {"owner": "Oda"}).status_code == 303
    assert client.post("/motors/VS-01/facts", data=base | {"label_kv": "3450"}).status_code == 303
    page = client.get("/motors/VS-01/facts").text
    assert 'value="Oda"' in page
    assert 'value="3450"' in page
    sent = {"owner": "Tamo", "mass_g": "170"}
    clash = client.post("/motors/VS-01/facts", data=base | sent)
    assert clash.status_code == 422
    assert "changed meanwhile to “Oda”" in clash.text
    assert 'data-take="Oda"' in clash.text
    assert 'value="Tamo"' in clash.text
    assert 'value="3450"' in clash.text  # what only the other changed is in the form that is shown again
    again = html.unescape(re.search(r"name=\"as_shown\" value='([^']*)'", clash.text)[1])
    kept = base | sent | {"as_shown": again, "label_kv": "3450"}
    assert client.post("/motors/VS-01/facts", data=kept).status_code == 303
    facts = client.get("/motors/VS-01/facts").text
    assert [f'value="{v}"' in facts for v in ("Tamo", "3450", "170")] == [True, True, True]
