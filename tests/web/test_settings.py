"""Settings: units for typing and showing, who signs, what a class allows, backups by themselves."""

import os
import shutil
from datetime import UTC, datetime, timedelta

import pytest
from fastapi.testclient import TestClient

from made import NOW, day
from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Check, History, Motor, Reading
from waldhorn.core.base.units import AS_STORED, Notation, read_number
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.exchange.backup import backup
from waldhorn.pit.settings.pit import over_the_rules
from waldhorn.store import backups, cached_verdicts, motors, pit, readings
from waldhorn.store.engine import open_store
from waldhorn.store.pit import Pit
from waldhorn.web.app import create_app
from waldhorn.web.common import guard, words
from waldhorn.web.screens.bring_in import routes as bring_in

AMERICAN_FORM = {"temperature": "degF", "torque": "oz·in", "length": "in"}
AMERICAN = Notation(**AMERICAN_FORM)


@pytest.fixture
def client(demo_store):
    with TestClient(create_app(demo_store), base_url="http://127.0.0.1:8700", follow_redirects=False) as client:
        client.get("/help")
        client.headers[guard.HEADER] = client.cookies[guard.COOKIE]
        yield client


def kept(client, **typed):
    return client.post("/settings", data={"theme": "auto", **typed})


@pytest.mark.parametrize(
    ("said", "shown"),
    [
        ("43 °C", "109 °F"),
        ("20 to 30 °C", "68 to 86 °F"),
        ("43.0 ± 0.5 °C", "109.4 ± 0.9 °F"),
        ("43 °C ± 5 °C", "109 °F ± 9 °F"),
        ("−10 °C and 7.0616 N·mm", "14 °F and 1.0000 oz·in"),
        ("25.40 mm wide", "1.00 in wide"),
        ("surface, °C", "surface, °F"),
        ("16 mm², 3 mm/s, 12 K", "16 mm², 3 mm/s, 12 K"),
    ],
)
def test_a_number_with_its_unit_is_said_in_the_units_of_the_pit(said, shown):
    assert words.in_units_of_the_pit(AMERICAN, said) == shown


def test_only_words_are_said_in_other_units():
    assert words.in_units_of_the_pit(AMERICAN, 43.0) == 43.0
    assert words.in_units_of_the_pit(AS_STORED, "43 °C") == "43 °C"


def test_bare_numbers_are_taken_in_the_units_of_the_pit_and_a_unit_is_always_understood():
    assert read_number("110", "heat", "temperature", -60, 400, AMERICAN) == pytest.approx(43.33, abs=0.01)
    assert read_number("43 °C", "heat", "temperature", -60, 400, AMERICAN) == 43.0
    assert AMERICAN.written(43.0, "temperature") == "109.4"
    with pytest.raises(InputError, match="heat 900 °F is above 752"):
        read_number("900", "heat", "temperature", -60, 400, AMERICAN)
    with pytest.raises(InputError, match=r"could be 12\.4 or 12400"):
        read_number("12,400", "rpm", "speed", 0, 50_000, AMERICAN)
    assert read_number("12,400", "rpm", "speed", 0, 50_000, Notation(decimal_comma=True)) == 12.4


def test_a_step_takes_and_shows_what_the_pit_writes(client, demo_store):
    assert kept(client, **AMERICAN_FORM).headers["location"] == "/settings?kept=1"
    check = client.post("/motors/VS-04/checks", data={"plan": "full"}).headers["location"]
    page = client.get(f"{check}?step=setup").text
    assert "motor temperature, °F" in page
    setup = {"rig": "pit box", "method": "loaded-supply", "motor_c": "75.2", "ambient_c": "68"}
    assert client.post(f"{check}/steps/setup", data=setup).status_code < 400
    with demo_store.reading() as session:
        row = readings.check_row(session, check.rpartition("/")[2])
        assert (row.motor_c, row.ambient_c) == (pytest.approx(24), pytest.approx(20))
    page = client.get(f"{check}?step=setup").text
    assert 'value="75.2"' in page
    kept(client)
    assert 'value="24"' in client.get(f"{check}?step=setup").text


def test_paper_is_sold_in_millimetres_and_the_book_gives_no_digit_that_was_not_typed(client, demo_store):
    kept(client, **AMERICAN_FORM)
    check = client.post("/motors/VS-04/checks", data={"plan": "full"}).headers["location"].partition("?")[0]
    client.post(
        f"{check}/steps/setup", data={"rig": "pier", "method": "loaded-supply", "motor_c": "77", "ambient_c": "72"}
    )
    client.post(f"{check}/steps/pull", data={"volts": "7.4", "amps": "2", "rpm": "25000"})
    assert "motor 77 °F, air 72.0 °F" in client.get("/motors/VS-04/book").text
    assert "label, 62 × 29 mm" in client.get("/motors/VS-04/paper/label").text


def test_files_and_sheets_keep_their_own_units(client, demo_store, monkeypatch):
    monkeypatch.setattr(bring_in, "_AT_ONCE_S", 60.0)  # a busy machine may take its time
    kept(client, **AMERICAN_FORM)
    sheet = b"motor;date;temperature\nVS-04;2026-05-02;43\n"
    laid = client.post("/bring-in", files={"files": ("s.csv", sheet)}).headers["location"]
    assert "temperature 43 °C" in client.get(laid).text
    assert client.post(laid).status_code == 200
    with demo_store.reading() as session:
        known = readings.history(session, motors.find(session, "VS-04").id)
    assert 43.0 in [r.value for c in known.checks for r in c.readings if r.measure == "temperature"]


@pytest.mark.parametrize(
    ("typed", "field", "says"),
    [
        ({"temperature": "kelvin"}, "temperature", "none of degC, degF"),
        ({"name": "x" * 61}, "name", "60 at most"),
        ({"max-kv-Heron": "fast"}, "max-kv-Heron", "not a number"),
    ],
)
def test_what_cannot_be_set_is_said_and_nothing_is_kept(client, demo_store, typed, field, says):
    with demo_store.writing() as session:
        motors.find(session, "VS-04").motor_class = "Heron"
    page = kept(client, signer="Ines", **typed)
    assert page.status_code == 422
    assert says in page.text.partition(f'id="wrong-{field}"')[2].partition("</")[0]
    with demo_store.reading() as session:
        assert pit.load(session).signer == ""


def test_who_signs_is_offered_and_what_is_over_the_class_is_said(client, demo_store):
    with demo_store.writing() as session:
        row = motors.find(session, "VS-04")
        row.motor_class = "Heron"
    kept(client, signer="Ines", **{"max-kv-Heron": "3000"})
    with demo_store.reading() as session:
        assert cached_verdicts.who_signs(session) == "Ines"
    page = client.get("/motors/VS-04").text
    assert "class Heron allows 3000: the event&#39;s own rules and its inspection decide" in page
    kept(client, signer="Ines", **{"max-kv-Heron": "9000"})
    assert "its inspection decide" not in client.get("/motors/VS-04").text


def test_a_pack_fuller_than_its_class_allows_is_said_by_the_cell():
    def packed(volts, number, cells=2.0):
        under = Conditions(throttle_pct=100.0, on_shaft="6x4", cells=cells)
        return Check(f"{number}", day(number), (Reading("rest_volts", volts, day(number), 1, under, Purpose.LOAD),))

    rules = Pit("", maxima={"Heron": {"cell_volts": 4.2}})
    motor = Motor("A", motor_class="Heron")
    full = History(motor, (packed(8.4, 0), packed(8.64, 1)))
    assert over_the_rules(rules, full, []) == [
        "Its pack stood at 4.32 V a cell, class Heron allows 4.2: the event's own rules and its inspection decide."
    ]
    assert over_the_rules(rules, History(motor, (packed(8.64, 0), packed(8.4, 1))), []) == []
    assert over_the_rules(rules, History(motor, (packed(8.64, 0, cells=None),)), []) == []


def test_a_backup_beside_the_store_restores(client, demo_store, tmp_path):
    assert client.post("/settings/backup").status_code == 303
    [copy] = backups.copies(demo_store)
    assert copy.file.name in client.get("/settings").text
    restored = open_store(shutil.copy(copy.file, tmp_path / "restored.db"))
    with restored.reading() as there, demo_store.reading() as here:
        assert backup(there) == backup(here)
    restored.close()


def test_a_backup_is_due_when_something_was_written_and_some_hours_have_passed(demo_store):
    first = datetime.now(UTC)
    assert backups.keep_if_due(demo_store, first) is not None
    later = first + backups.EVERY
    assert backups.keep_if_due(demo_store, first + timedelta(hours=1)) is None
    assert backups.keep_if_due(demo_store, later) is None  # nothing was written
    [copy] = backups.copies(demo_store)
    os.utime(copy.file, (0, 0))
    assert backups.keep_if_due(demo_store, later) is not None


def test_the_last_ten_and_one_a_day_for_a_month_are_kept():
    made = [NOW - timedelta(hours=6 * i) for i in range(400)]
    kept = backups.kept(made, NOW)
    assert set(made[:10]) <= kept
    days = {at.date() for at in made if NOW - at <= timedelta(days=31)}
    assert {at.date() for at in kept} == days
    assert len(kept) <= 10 + len(days)
    assert all(max(a for a in made if a.date() == day) in kept for day in days)
