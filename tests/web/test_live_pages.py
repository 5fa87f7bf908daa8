"""The live, limits and machine pages without a browser: what they refuse, and that nothing is lost."""

import re

import pytest
from fastapi.testclient import TestClient

from waldhorn.web.app import create_app
from waldhorn.web.common import guard


@pytest.fixture
def client(demo_store):
    with TestClient(create_app(demo_store), base_url="http://127.0.0.1:8700", follow_redirects=False) as client:
        client.get("/help")
        client.headers[guard.HEADER] = client.cookies[guard.COOKIE]
        yield client


@pytest.fixture
def live(client):
    check = client.post("/motors/PB-1/checks").headers["location"].split("?")[0]
    client.post(f"{check}/steps/setup", data={"rig": "bench", "method": "loaded-supply"})
    return f"{check}/live"


@pytest.mark.long
@pytest.mark.parametrize("what", ["throttle", "sweep", "stop", "again", "dance", ""])
def test_without_an_instrument_nothing_can_be_done(client, live, what):
    answer = client.post(f"{live}/do", data={"what": what, "pct": "15"})
    assert answer.status_code == 422
    assert "no instrument is connected" in answer.text


@pytest.mark.long
@pytest.mark.parametrize("where", ["", "nowhere", "10.1.1.1:99", "127.0.0.1:1", "x" * 900, "/dev/none"])
def test_an_instrument_that_is_none_is_refused_with_a_sentence(client, live, where):
    page = client.post(f"{live}/connect", data={"instrument": where})
    assert page.status_code == 422
    assert re.search(r'id="wrong-instrument"[^>]*>[^<]{20,}<', page.text)


def test_the_simulated_bench_is_started_guarded_and_let_go(client, live):
    assert client.post(f"{live}/connect", data={"instrument": "simulated"}).status_code == 303
    for _ in range(100):
        if 'data-connected="yes"' in client.get(live).text:
            break
    refused = client.post(f"{live}/do", data={"what": "throttle", "pct": "15"})
    assert (refused.status_code, "confirm first" in refused.text) == (422, True)
    assert client.post(f"{live}/caution").status_code == 303
    for asked, said in (("lots", "is not a number"), ("900", "100"), ("37", "is no setting"), ("100", "lowest")):
        refused = client.post(f"{live}/do", data={"what": "throttle", "pct": asked})
        assert (refused.status_code, said in refused.text) == (422, True), refused.text
    assert client.post(f"{live}/do", data={"what": "throttle", "pct": "15"}).status_code == 204
    assert client.post(f"{live}/do", data={"what": "disconnect"}).status_code == 204
    recorded = client.get(f"{live}/recording")
    assert recorded.headers["content-type"].startswith("application/x-ndjson")
    assert b'"hello": "waldhorn-bench"' in recorded.content.splitlines()[0]


def test_the_live_page_of_a_check_that_is_not_there_says_so(client):
    assert client.get("/checks/99999/live").status_code == 404
    assert client.get("/checks/99999/live/recording").content == b""


@pytest.mark.parametrize(
    ("typed", "field"),
    [
        ({"act-kv": "2"}, "watch-kv"),
        ({"watch-noise_avg": "loud"}, "watch-noise_avg"),
        ({"act-run_out": "-1"}, "act-run_out"),
        ({"signed_by": ""}, "signed_by"),
        ({"signed_by": "x" * 61}, "signed_by"),
    ],
)
def test_limits_that_cannot_be_are_refused_beside_their_field(client, typed, field):
    page = client.post("/limits", data={"class": "one-design", "signed_by": "Oda"} | typed)
    assert page.status_code == 422
    assert re.search(rf'id="wrong-{field}"[^>]*>[^<]{{5,}}<', page.text)


def test_the_default_limits_are_no_change_and_a_class_without_motors_has_none_to_shift(client):
    assert client.post("/limits", data={"class": "one-design", "signed_by": "Oda"}).status_code == 303
    assert "the defaults" in client.get("/limits?class=one-design").text
    assert "No motor of this class" in client.post("/limits/what-if", data={"class": "kites", "act-kv": "50"}).text


@pytest.mark.parametrize(
    ("typed", "field"),
    [
        ({"owner": "", "new": "1", "repair": "1", "failure": "1"}, "owner"),
        ({"owner": "Oda", "new": "0", "repair": "1", "failure": "1"}, "new"),
        ({"owner": "Oda", "new": "1", "repair": "cheap", "failure": "1"}, "repair"),
    ],
)
def test_prices_that_cannot_be_are_refused(client, typed, field):
    page = client.post("/limits/prices", data=typed)
    assert page.status_code == 422
    assert re.search(rf'id="wrong-{field}"[^>]*>[^<]{{5,}}<', page.text)


@pytest.mark.long
def test_shaking_is_kept_in_each_motors_history_and_undone(client):
    page = client.get("/machines/camera drone").text
    ids = re.findall(r'id="shakes-([0-9a-f-]{36})"', page)
    typed = {f"shakes-{i}": v for i, v in zip(ids, ("1", "4.5", "1", "1"), strict=True)}
    assert client.post("/machines/camera drone", data=typed | {"way": "hand"}).status_code == 303
    assert 'value="4.5"' in client.get("/machines/camera drone").text
    tag = re.findall(r"(VS-2\d)\s*<span", page)[1]
    assert "Shakes" in client.get(f"/motors/{tag}").text
    client.post(f"/motors/{tag}/undo")
    assert 'value="4.5"' not in client.get("/machines/camera drone").text


def test_a_machine_nobody_knows_is_said(client):
    assert client.get("/machines/none").status_code == 404
    assert client.get("/rigs/none").status_code == 404
    assert client.get("/models/none").status_code == 404


def test_a_day_that_is_none_is_said_beside_its_field(client):
    page = client.get("/motors/VS-11?as_of=yesterday")
    assert page.status_code == 422
    assert "is not a day" in page.text
