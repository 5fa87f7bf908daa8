"""The pages without a browser: guards, refusals, and how many statements they run."""

import html
import re
import sqlite3
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from datetime import datetime, timedelta
from functools import partial
from pathlib import Path
from urllib.parse import unquote

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import event

from made import NOW
from routes import changing
from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.history import Motor, Reading
from waldhorn.pit.judging import judging
from waldhorn.pit.motors import machines
from waldhorn.store import motors, readings
from waldhorn.web.app import create_app
from waldhorn.web.common import guard


@pytest.fixture
def client(demo_store):
    with TestClient(create_app(demo_store), base_url="http://127.0.0.1:8700", follow_redirects=False) as client:
        client.get("/help")
        client.headers[guard.HEADER] = client.cookies[guard.COOKIE]
        yield client


def wrongs(page):
    return dict(re.findall(r'id="wrong-([a-z_]+)"[^>]*>([^<]+)<', page.text))


@pytest.fixture
def bench(client):
    """The path of the check that the demo left open on the bench."""
    return client.post("/motors/VS-07/checks").headers["location"].split("?")[0]


PAGES = (
    "/", "/motors/VS-11", "/motors/new", "/motors/VS-11/facts", "{bench}", "{bench}?step=look", "{bench}/live",
    "/machines/Marten", "/limits", "/help", "/settings", "/instruments", "/bring-in", "/paper/rack",
    "/find", "/find?q=nothing+at+all", "/find?do=Set+the+timing", "/compare", "/rigs", "/identify", "/?by=machine",
    "/motors/VS-01/predict", "/motors/VS-01/second-hand", "/motors/VS-11/sheet", "/motors/VS-11/paper/report",
)  # fmt: skip


@pytest.mark.long
@pytest.mark.parametrize("path", PAGES)
def test_every_page_is_strict_and_brings_nothing_from_outside(client, bench, path):
    page = client.get(path.format(bench=bench))
    assert page.status_code == 200
    policy = page.headers["content-security-policy"]
    assert "unsafe" not in policy
    assert "default-src 'none'" in policy
    assert not re.findall(r'(?:src|href|action)="(?:https?:)?//', page.text)
    assert not re.findall(r"<script(?![^>]*src=)|\sstyle=|\son[a-z]+=", page.text)


def test_a_change_without_the_token_is_refused(client):
    for headers in ({guard.HEADER: ""}, {guard.HEADER: "x" * 43}):
        assert client.post("/motors/VS-11/checks", headers=headers).status_code == 403


def test_every_change_is_behind_the_token(client):
    client.headers[guard.HEADER] = ""
    answers = {path: client.post(path).status_code for path in changing(client.app)}
    assert set(answers.values()) == {403}


@pytest.mark.parametrize(
    ("host", "status"),
    [
        ("127.0.0.1:8700", 200),
        ("localhost:8700", 200),
        ("[::1]:8700", 200),
        ("pit.example", 400),
        ("", 400),
        ("localhost", 400),
        ("127.0.0.1:8701", 400),
        ("127.0.0.1:8700.pit.example", 400),
        ("127.0.0.1:8700@pit", 400),
    ],
)
def test_only_known_hosts_are_served(client, host, status):
    assert client.get("/help", headers={"host": host}).status_code == status


def test_a_body_that_is_too_large_is_refused(client):
    assert client.post("/motors/new", data={"note": "x" * 300_000}).status_code == 413


def test_bad_facts_get_a_sentence_beside_each_field_and_are_kept(client):
    typed = {"tag": "VS-01", "poles": "7", "slots": "x", "label_kv": "0", "model": '<b>"&', "mass_g": "1e5000"}
    page = client.post("/motors/new", data=typed)
    assert page.status_code == 422
    assert set(wrongs(page)) == {"tag", "poles", "slots", "label_kv", "mass_g"}
    assert "&lt;b&gt;&#34;&amp;" in page.text


@pytest.mark.long
@pytest.mark.parametrize(
    ("path", "typed"),
    [
        ("/motors/VS-11/events", {"event": "x"}),
        ("/motors/VS-11/events", {"event": "run", "count": "9" * 400}),
        ("{bench}/steps/pull", {"volts": "0", "amps": "∞", "rpm": "NaN"}),
        ("{bench}/steps/setup", {"rig": "r" * 400, "motor_c": "900"}),
        ("{bench}/sign", {"verdict": "burn", "signed_by": ""}),
        ("{bench}/steps/pull/runs/1/aside", {"reason": ""}),
        ("{bench}/steps/pull/runs/77/back", {}),
        ("{bench}/steps/gap", {"gaps": "0.6 0.6 0.6", "angles": "0 90"}),
        ("{bench}/steps/detent", {"unit": "g on the lever", "peaks": "60 0"}),
        ("{bench}/steps/detent", {"unit": "stones", "peaks": "0 -1"}),
        ("{bench}/steps/sensors", {"states": "10"}),
        ("{bench}/steps/sensors", {"states": "<b>"}),
        ("{bench}/steps/poles", {"counted": "7"}),
        ("{bench}/steps/poles", {"shaft_rpm": "1000"}),
        ("{bench}/steps/timing", {"a": "1e9", "b": "", "c": "x"}),
        ("{bench}/steps/noise", {"background": "70", "full": "71"}),
        ("{bench}/steps/heat", {"surface_c": "-400"}),
        ("{bench}/steps/set_timing", {"setting": "20", "amps": "0"}),
        ("{bench}/steps/load", {"what": "", "load_v": "7"}),
        ("{bench}/steps/flywheel", {"trace": "0,1\n0,2\n0,3", "inertia": "1e-4", "at_rpm": "2"}),
        ("{bench}/steps/look", {"shaft": "wobbly"}),
        ("{bench}/steps/detent/outliers", {}),
        ("{bench}/stop", {"reason": ""}),
        ("{bench}/overrule", {"subject": "magnets"}),
        ("{bench}/plan", {"plan": "everything"}),
        ("{bench}/rebase", {}),
        ("{bench}/timing-event", {}),
        ("{bench}/pictures/shaft", {"picture": "no file"}),
        ("/machines/Marten", {"way": "ear"}),
        ("/rigs/green bench", {"measures": "volts"}),
        ("/rigs/green bench/name", {"name": " "}),
        ("/rigs/green bench/name", {"name": "PIER BENCH"}),
        ("/rigs/green bench/study", {"motor-VS-01": "VS-01", "motor-XX": "XX", "visits": "0", "measure": "smell"}),
        ("/limits/uses", {"use": "speed", "weighs-kv": "much"}),
        ("/limits/sets", {"class": "one-design", "within-kv": "-1"}),
        ("/compare/put", {"tags": "VS-01,VS-03", "machines": "2", "machine": "A"}),
        ("/compare/put", {"tags": "VS-01,VS-03", "machine": "A,B"}),
        ("/motors/VS-18/undo", {}),
    ],
)
def test_nonsense_is_answered_with_a_sentence(client, bench, path, typed):
    page = client.post(path.format(bench=bench), data=typed)
    assert page.status_code == 422
    assert "Traceback" not in page.text
    assert wrongs(page) or 'class="wrong"' in page.text


@pytest.mark.parametrize(
    "path", ["/motors/none", "/checks/999999", "/checks/x", "/nowhere", "/checks/99999999999999999999999"]
)
def test_what_is_not_there_is_said(client, path):
    page = client.get(path)
    assert page.status_code == 404
    assert "Back to the rack" in page.text


def test_a_failure_is_a_page_without_a_trace(demo_store, monkeypatch):
    monkeypatch.setattr("waldhorn.web.screens.rack.routes.pit.view", lambda *a: 1 / 0)
    app = create_app(demo_store)
    page = TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False).get("/")
    assert page.status_code == 500
    assert "ZeroDivision" not in page.text
    assert "Nothing stored was lost" in page.text


def statements(store, ask):
    """How many statements the store runs while `ask` is answered."""
    seen = []
    listener = lambda conn, cursor, statement, *rest: seen.append(statement)  # noqa: E731 -- removed by identity
    event.listen(store.engine, "before_cursor_execute", listener)
    try:
        assert ask().status_code in (200, 303)
    finally:
        event.remove(store.engine, "before_cursor_execute", listener)
    return len(seen)


def add_motors(store, count):
    """Motors with a full-throttle run each, judged."""
    under = Conditions("green bench", "loaded-supply", 100.0)
    with store.writing() as session:
        ids = motors.add(session, [Motor(f"X-{i:03}", "Skerry 36", label_kv=3450, poles=4) for i in range(count)])
        checks = readings.check_ids(session, ((i, "a", NOW, under) for i in ids))
        for measure, value in (("supply_volts", 7.4), ("no_load_current", 2.3), ("rpm", 25000)):
            readings.add(session, ((checks[i, "a"], Reading(measure, value, NOW, 1, under)) for i in ids))
        motors.touch(session, ids)
        judging.settle(session, NOW)


PAGES = (
    "/",
    "/?find=skerry",
    "/motors/VS-11",
    "{bench}",
    "{bench}?step=answer",
    "/limits",
    "/machines",
    "/compare?tags=VS-01,VS-03,VS-06",
    "/rigs",
    "/rigs/green bench",
    "/models/Skerry 36",
)


@pytest.mark.long
def test_a_page_runs_a_fixed_number_of_statements(demo_store, client, bench):
    def counted():
        return {page: statements(demo_store, partial(client.get, page.format(bench=bench))) for page in PAGES}

    before = counted()
    add_motors(demo_store, 150)
    assert counted() == before
    assert max(before.values()) <= 30


@pytest.mark.long
def test_the_rack_is_sent_compressed_and_a_screenful_at_a_time(demo_store, client):
    add_motors(demo_store, 300)
    sent = client.get("/", headers={"accept-encoding": "gzip"})
    assert sent.headers["content-encoding"] == "gzip"
    assert int(sent.headers["content-length"]) < 60_000
    assert sent.text.count('class="hook ') == 40


PULL = {"volts": "7.38", "amps": "2.71", "rpm": "25320", "p2p": "50"}


@pytest.mark.long
def test_a_keystroke_and_an_enter_stay_cheap_however_full_the_store(demo_store, client, bench):
    add_motors(demo_store, 150)
    assert statements(demo_store, lambda: client.post(f"{bench}/steps/pull/draft", data=PULL)) <= 16
    assert statements(demo_store, lambda: client.post(f"{bench}/steps/pull", data=PULL)) <= 31


def test_a_machine_without_a_name_is_none(client):
    sent = client.get("/machines/%20")
    assert (sent.status_code, sent.headers["location"]) == (303, "/machines")


def test_every_machine_is_listed_with_its_motors_the_worst_news_first(demo_store, client):
    with demo_store.reading() as session:
        fleet = machines.fleet_of(session)
    page = client.get("/machines").text
    names = re.findall(r'<h2><a[^>]*href="/machines/([^"]+)"', page)
    assert [unquote(name) for name in names] == list(fleet)
    assert set(fleet) >= {"Heron", "Otter", "camera drone"}
    assert fleet["Otter"][0].verdict == "retire"
    assert page.index("VS-19") < page.index("VS-02")  # both on the Otter, one to retire, one to repair


def test_looking_changes_nothing(demo_store, client, bench):
    def dump():
        with demo_store.reading() as session:
            return list(session.connection().connection.driver_connection.iterdump())

    before = dump()
    for path in (*PAGES, f"{bench}/steps/pull", "/motors/VS-11?as_of=2026-09-01"):
        client.get(path.format(bench=bench))
    assert dump() == before


def test_a_step_asked_for_by_its_own_path_is_the_bench_at_that_step(client, bench):
    assert client.get(f"{bench}/steps/noise").headers["location"] == f"{bench}?step=noise"
    assert client.get(f"{bench}/steps/dance").status_code == 404


def test_a_second_screenful_hangs_on(demo_store, client):
    add_motors(demo_store, 60)
    first, second = client.get("/"), client.get("/?start=40")
    tags = [re.findall(r'class="hook-tag[^"]*">([^<]+)', page.text) for page in (first, second)]
    assert (len(tags[0]), len(tags[1])) == (40, 40)
    assert not set(tags[0]) & set(tags[1])


def test_machines_come_a_screenful_at_a_time_each_once(demo_store, client):
    with demo_store.writing() as session:
        motors.add(session, [Motor(f"M-{i}", machine=f"boat {i}") for i in range(40)])
    named, at = [], "/machines"
    while at:
        shown = client.get(at).text
        named.append(re.findall(r'href="/machines/([^"?]+)"', shown))
        assert "<h1>56 machines." in re.sub(r">\s+", ">", shown)
        at = next(iter(re.findall(r'hx-get="(/machines\?start=\d+)"', shown)), "")
    assert [len(n) for n in named] == [24, 24, 8]
    assert len({n for shown in named for n in shown}) == 56


def test_a_group_that_goes_on_below_is_named_once(demo_store, client):
    add_motors(demo_store, 60)
    first = client.get("/?by=model")
    more = html.unescape(re.search(r'hx-get="([^"]+start=40[^"]*)"', first.text)[1])
    last = re.findall(r'rack-group[^"]*"><h2>([^<]+)', first.text)[-1]
    hung_on, loaded = client.get(more, headers={"hx-request": "true"}), client.get(more)
    assert f"<h2>{last}</h2>" not in hung_on.text
    assert f"<h2>{last}</h2>" in loaded.text  # a page of its own says where one is


def busy(demo_store):
    """Another process that writes: its connection holds the lock."""
    other = sqlite3.connect(demo_store.engine.url.database, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    return closing(other)


@pytest.mark.long
def test_a_busy_store_is_said_and_what_was_typed_is_sent_again(client, demo_store):
    demo_store.patience_s = 0.05
    event.listen(demo_store.engine, "connect", lambda c, _: c.execute("PRAGMA busy_timeout=50"))
    demo_store.engine.dispose()
    typed = {"event": "crash", "detail": "into the <buoy>"}
    with busy(demo_store):
        assert client.get("/motors/VS-11").status_code == 200
        page = client.post("/motors/VS-11/events", data=typed)
        part = client.post("/motors/VS-11/events", data=typed, headers={"hx-request": "true"})
    assert (page.status_code, page.headers["retry-after"]) == (503, "1")
    assert 'data-again="1"' in page.text
    assert 'name="detail" value="into the &lt;buoy&gt;"' in page.text
    assert (part.status_code, part.headers["retry-after"]) == (503, "1")
    assert part.text.startswith("Somebody else is writing just now.")
    assert client.post("/motors/VS-11/events", data=typed).status_code == 303
    assert client.get("/motors/VS-11").text.count("into the &lt;buoy&gt;") >= 1


@pytest.mark.long
def test_a_full_disk_is_said_and_keeps_what_was_typed(client, demo_store):
    with demo_store.engine.connect() as one:
        pages = one.exec_driver_sql("PRAGMA page_count").scalar()
    event.listen(demo_store.engine, "connect", lambda c, _: c.execute(f"PRAGMA max_page_count={pages}"))
    demo_store.engine.dispose()
    long = {"event": "crash", "detail": "x" * 400}
    answers = [client.post("/motors/VS-11/events", data=long) for _ in range(60)]
    refused = next(a for a in answers if a.status_code != 303)
    assert refused.status_code == 507
    assert "database or disk is full" in refused.text
    assert "x" * 400 in refused.text
    assert client.get("/motors/VS-11").status_code == 200


def test_an_event_logged_by_two_at_once_stands_once(client):
    typed = {"event": "crash", "at": "2026-05-02 10:30", "detail": "into the wall"}
    with ThreadPoolExecutor(6) as pool:
        answers = list(pool.map(lambda _: client.post("/motors/VS-12/events", data=typed).status_code, range(6)))
    assert set(answers) <= {303, 422}
    assert len(re.findall("<td[^>]*>2 May</td>", client.get("/motors/VS-12").text)) == 1


def test_what_lies_in_the_future_is_said_on_the_motors_page(client, demo_store):
    with demo_store.writing() as session:
        motor_id = motors.find(session, "VS-12").id
        ahead = datetime.now().astimezone() + timedelta(days=3)
        key = (motor_id, "ahead")
        ids = readings.check_ids(session, [(*key, ahead, Conditions("green bench"))])
        readings.add(session, [(ids[key], Reading("noise_avg", 120.0, ahead, 1, Conditions("green bench")))])
        motors.touch(session, [motor_id])
    assert "1 of its checks lies in the future" in client.get("/motors/VS-12").text


def test_a_store_torn_while_the_server_runs_is_a_sentence_on_the_page(client, demo_store):
    demo_store.engine.dispose()
    file = Path(demo_store.engine.url.database)
    torn = bytearray(file.read_bytes())
    torn[4096 : 4096 * 40] = b"\xff" * (4096 * 39)
    file.write_bytes(torn)
    for path in ("/", "/motors/VS-11"):
        page = client.get(path)
        assert page.status_code == 507
        assert "cannot be read or written (" in page.text
        assert "Traceback" not in page.text


def test_the_usual_throttle_settings_are_offered_and_any_other_may_be_typed(client, bench):
    page = client.get(f"{bench}?step=pull").text
    offered = re.search(r'<datalist id="offered-throttle_pct">(.*?)</datalist>', page, re.DOTALL)[1]
    assert re.findall(r'value="(\d+)"', offered) == ["15", "30", "50", "75", "100"]
    assert 'list="offered-throttle_pct"' in page
    typed = {"volts": "7.4", "amps": "1.5", "rpm": "15500", "throttle_pct": "62"}
    assert client.post(f"{bench}/steps/pull", data=typed).status_code == 303


def test_the_empty_rack_offers_three_ways_in(store):
    with TestClient(create_app(store), base_url="http://127.0.0.1") as client:
        page = client.get("/").text
        assert 'href="/bring-in" data-key="i"' in page
        assert 'href="/motors/new"' in page
        assert "make demo" in page
        assert client.get("/static/sample-sheet.csv").status_code == 200
