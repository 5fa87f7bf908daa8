"""The API: the same rules and sentences as everywhere, keys for what changes, and nothing stored twice."""

import io
import shutil
import zipfile
from pathlib import Path
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient
from hypothesis import given, settings

from made import NOW
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.store import api_keys, readings, rigs
from waldhorn.store.engine import open_store
from waldhorn.web.api.routes import create_api
from waldhorn.web.app import create_app


@pytest.fixture
def api(demo_store):
    with TestClient(create_app(demo_store), base_url="http://127.0.0.1") as client:
        yield client


@pytest.fixture
def keyed(api, demo_store):
    with demo_store.writing() as session:
        api.headers["Authorization"] = f"Bearer {api_keys.make(session, 'a test', NOW)}"
    return api


READING = {"motor": "VS-01", "check": "api", "at": "2026-05-02T10:00:00+02:00", "measure": "noise_avg", "value": 81.2}


@pytest.mark.long
def test_whoever_is_on_this_machine_may_read(api):
    found = api.get("/api/v1/motors").json()
    assert {"VS-01", "REF-1"} <= {m["tag"] for m in found}
    assert api.get("/api/v1/motors/vs-11").json()["model"] == "Skerry 36"
    judged = api.get("/api/v1/motors/VS-11/judgement").json()
    assert (judged["motor"], judged["verdict"]) == ("VS-11", "repair")
    before = api.get("/api/v1/motors/VS-11/judgement", params={"as_of": "2020-01-01"}).json()
    assert before["verdict"] == "unproven"
    assert {"kv", "rpm", "detent_peak"} & {r["measure"] for r in api.get("/api/v1/motors/VS-11/readings").json()}
    package = zipfile.ZipFile(io.BytesIO(api.get("/api/v1/export").content))
    tables = {f"{t}.csv" for t in ("motors", "events", "readings", "findings", "propellers", "packs")}
    assert tables | {"datapackage.json"} == set(package.namelist())


def test_what_is_not_there_or_cannot_be_is_said_with_its_place(api):
    assert api.get("/api/v1/motors/XX").status_code == 404
    assert api.get("/api/v1/motors/XX").json() == [{"where": "tag", "says": "No motor XX hangs on this rack."}]
    wrong = api.get("/api/v1/motors/VS-11/judgement", params={"as_of": "someday"})
    assert (wrong.status_code, wrong.json()[0]["where"]) == (422, "as_of")


@pytest.mark.parametrize("key", ["", "Bearer ", "Bearer wh_made-up", "Basic eDp5"])
def test_a_change_needs_a_key_that_stands(api, demo_store, key):
    headers = {"Authorization": key} if key else {}
    for path, sent in (
        ("motors", {"tag": "N-1"}),
        ("readings", [READING]),
        ("motors/VS-01/events", {"at": READING["at"], "event": "crash"}),
    ):
        answer = api.post(f"/api/v1/{path}", json=sent, headers=headers)
        assert (answer.status_code, answer.json()[0]["where"]) == (401, "Authorization")


def test_a_key_that_was_withdrawn_opens_nothing(keyed, demo_store):
    assert keyed.post("/api/v1/readings", json=[]).status_code == 201
    with demo_store.writing() as session:
        [key] = api_keys.standing(session)
        api_keys.withdraw(session, key.id, NOW)
    assert keyed.post("/api/v1/readings", json=[]).status_code == 401


def test_the_same_reading_or_the_same_id_twice_stores_once(keyed, demo_store):
    first = keyed.post("/api/v1/readings", json=[READING, READING | {"value": 81.4, "run": 2}])
    assert (first.status_code, first.json()) == (201, {"stored": 2, "ignored": 0})
    assert keyed.post("/api/v1/readings", json=[READING]).json() == {"stored": 0, "ignored": 1}
    same = str(uuid4())
    for value, stored in ((70.0, 1), (71.0, 0)):
        sent = [READING | {"id": same, "value": value, "run": 3}]
        assert keyed.post("/api/v1/readings", json=sent).json()["stored"] == stored


def test_a_rig_that_was_renamed_is_meant_by_its_old_name_too(keyed, demo_store):
    with demo_store.writing() as session:
        rigs.rename(session, "pier bench", "club bench")
    assert keyed.post("/api/v1/readings", json=[READING | {"rig": "Pier Bench"}]).json()["stored"] == 1
    sent = [r for r in keyed.get("/api/v1/motors/VS-01/readings").json() if r["check"] == "api"]
    assert [r["rig"] for r in sent] == ["club bench"]


def test_readings_are_stored_all_or_none(keyed, demo_store):
    with demo_store.reading() as session:
        before = readings.count(session)
    sent = [READING, READING | {"motor": "XX"}, READING | {"value": 900}, READING | {"unit": "stones"}]
    answer = keyed.post("/api/v1/readings", json=sent)
    assert answer.status_code == 422
    assert [w["where"] for w in answer.json()] == ["readings/1/motor", "readings/2/value", "readings/3/unit"]
    odd = keyed.post("/api/v1/readings", json=[READING | {"measure": "smell"}, READING | {"colour": "red"}])
    assert {w["where"] for w in odd.json()} == {"readings/0/measure", "readings/1/colour"}
    assert any("is not one of" in w["says"] for w in odd.json())
    with demo_store.reading() as session:
        assert readings.count(session) == before


def test_motors_and_events_come_in_and_a_tag_is_taken_once(keyed):
    assert keyed.post("/api/v1/motors", json={"tag": "N-1", "poles": 4, "class": "one-design"}).status_code == 201
    assert keyed.get("/api/v1/motors/N-1").json()["class"] == "one-design"
    assert keyed.post("/api/v1/motors", json={"tag": "n-1"}).status_code == 409
    wrong = keyed.post("/api/v1/motors", json={"tag": "N-2", "poles": 7})
    assert (wrong.status_code, wrong.json()[0]["where"]) == (422, "poles")
    event = {"at": "2026-05-02T10:00:00+02:00", "event": "crash"}
    assert keyed.post("/api/v1/motors/N-1/events", json=event).json() == {"stored": 1, "ignored": 0}
    assert keyed.post("/api/v1/motors/N-1/events", json=event).json() == {"stored": 0, "ignored": 1}
    bad = keyed.post("/api/v1/motors/N-1/events", json=event | {"event": "picnic"})
    assert (bad.status_code, bad.json()[0]["where"]) == (422, "event")


def test_it_describes_itself_on_a_page_that_loads_nothing_from_outside(api):
    described = api.get("/api/v1/openapi.json").json()
    assert {
        "/motors",
        "/motors/{tag}",
        "/motors/{tag}/judgement",
        "/motors/{tag}/readings",
        "/motors/{tag}/events",
        "/readings",
        "/export",
    } == set(described["paths"])
    page = api.get("/api/v1/docs").text
    assert "POST /api/v1/readings" in page
    assert "//" not in page.replace("</", "").replace("//-->", "")


@pytest.fixture(scope="module")
def described(demo_file, tmp_path_factory):
    """The API on a copy of the demo, as it describes itself, and a key."""
    import schemathesis  # a second that only these tests need

    store = open_store(Path(shutil.copy(demo_file, tmp_path_factory.mktemp("api") / "demo.db")))
    with store.writing() as session:
        key = api_keys.make(session, "fuzz", NOW)
    yield schemathesis.openapi.from_asgi("/openapi.json", create_api(store)), {"Authorization": f"Bearer {key}"}
    store.close()


@pytest.mark.long
@pytest.mark.parametrize("path", [
    "GET /motors", "GET /motors/{tag}", "GET /motors/{tag}/judgement", "GET /motors/{tag}/readings", "POST /motors",
    "POST /motors/{tag}/events", "POST /readings", "GET /export",
])  # fmt: skip
def test_whatever_is_sent_is_answered_as_described(described, path):
    from schemathesis.checks import response_schema_conformance

    schema, headers = described
    method, place = path.split()
    operation = schema[place][method]
    tried = 0

    @settings(max_examples=25)
    @given(case=operation.as_strategy())
    def fuzz(case):
        nonlocal tried
        tried += 1
        answer = case.call(headers=headers)
        assert answer.status_code < 500, answer.text
        case.validate_response(answer, checks=[response_schema_conformance])

    fuzz()
    assert tried > 0


def test_every_measure_is_taken_alone_and_told_again_to_the_digit(keyed):
    values = {m.name: (m.low + min(m.high, 50)) / 2 + 0.0625 for m in MEASURES.values()}
    sent = [READING | {"measure": n, "value": v, "unit": MEASURES[n].unit, "check": "alone"} for n, v in values.items()]
    assert keyed.post("/api/v1/readings", json=sent).json()["stored"] == len(MEASURES)
    told = keyed.get(f"/api/v1/motors/{READING['motor']}/readings").json()
    assert {r["measure"]: r["value"] for r in told if r["check"] == "alone"} == values
