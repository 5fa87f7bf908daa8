"""In and out: the three tables, bad rows, the same file twice, and there and back."""

import csv
import json
from datetime import datetime, timedelta
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from made import NOW, full, history
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor
from waldhorn.core.judging.remedies import Prices
from waldhorn.core.judging.verdict import judge
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.exchange import staging
from waldhorn.exchange.backup import backup
from waldhorn.exchange.documents import take_in
from waldhorn.exchange.exporting import export_tables, schemas
from waldhorn.exchange.importing import import_tables, write_rejected
from waldhorn.exchange.judgement import LEAST_PROBABILITY, to_json
from waldhorn.exchange.rows import TABLES, EventsRow, ReadingsRow, column_names
from waldhorn.exchange.staging import import_staged
from waldhorn.pit.writing import Writing
from waldhorn.store import limits_and_prices, motors
from waldhorn.store.engine import open_store
from waldhorn.store.models import clock

DOCS = Path(__file__).parents[2] / "docs"
MOTORS = "tag,model,kind,poles,label_kv\nVS-01,Skerry 36,inrunner,4,3450\n"
READINGS = "motor,check,at,measure,value,unit,run,throttle_pct\n"


def quiet(name, done, size):
    assert 0 <= done <= size


def bring_in(store, folder, skip_bad=False, **tables):
    files = []
    for name, text in tables.items():
        files.append(folder / f"{name}.csv")
        files[-1].write_text(text, encoding="utf-8")
    return import_staged(store, Writing(clock()), files, quiet, skip_bad, dry_run=False)


def everything(store):
    with store.reading() as session:
        return backup(session)["tables"]


def test_every_listed_measure_is_stored_in_its_own_unit(store, tmp_path):
    rows = "".join(
        f"VS-01,a,2026-05-02T10:00:00+02:00,{m},{(x.low + x.high) / 2},{x.unit},1,100\n" for m, x in MEASURES.items()
    )
    outcome = bring_in(store, tmp_path, motors=MOTORS, readings=READINGS + rows)
    assert (outcome.stored["readings"], outcome.rejected) == (len(MEASURES), [])
    assert {r["measure"] for r in everything(store)["reading"]} == set(MEASURES)


@pytest.mark.parametrize(
    ("measure", "value", "unit", "stored"),
    [
        ("gap", 0.01, "in", 0.254),
        ("detent_peak", 100, "g·cm", 9.80665),
        ("detent_peak", 1, "oz·in", 7.06155),
        ("temperature", 110, "°F", 43.3333),
        ("no_load_current", 2310, "mA", 2.31),
        ("rpm", 25.12, "krpm", 25120),
    ],
)
def test_other_units_are_converted(store, tmp_path, measure, value, unit, stored):
    row = f"VS-01,a,2026-05-02T10:00:00+02:00,{measure},{value},{unit},1,100\n"
    bring_in(store, tmp_path, motors=MOTORS, readings=READINGS + row)
    assert everything(store)["reading"][0]["value"] == pytest.approx(stored, rel=1e-5)


@pytest.mark.parametrize(
    ("row", "column", "says"),
    [
        ("VS-99,a,2026-05-02T10:00:00+02:00,kv,3400,,1,100", "motor", "no motor “VS-99”"),
        ("VS-01,a,2026-05-02T10:00:00,kv,3400,,1,100", "at", "no offset"),
        ("VS-01,a,yesterday,kv,3400,,1,100", "at", "not a time"),
        ("VS-01,a,2026-05-02T10:00:00+02:00,loudness,80,,1,100", "measure", "not one of"),
        ("VS-01,a,2026-05-02T10:00:00+02:00,kv,fast,,1,100", "value", "not a number"),
        ("VS-01,a,2026-05-02T10:00:00+02:00,kv,inf,,1,100", "value", "not a number"),
        ("VS-01,a,2026-05-02T10:00:00+02:00,kv,3400,dB,1,100", "unit", "not a unit of"),
        ("VS-01,a,2026-05-02T10:00:00+02:00,supply_volts,900,V,1,100", "value", "outside"),
        ("VS-01,a,2026-05-02T10:00:00+02:00,kv,3400,,1,109", "throttle_pct", "less than or equal to 100"),
        ("VS-01,a,2026-05-02T10:00:00+02:00,kv,,,1,100", "value", "is empty"),
        ("VS-01,a,2026-05-02T10:00:00+02:00,kv,3400,,1,100,x,y", "row", "has 10 cells"),
        ('VS-01,"a,2026', "row", "cannot be read"),
    ],
)
def test_a_bad_row_is_named_and_nothing_is_stored(store, tmp_path, row, column, says):
    good = "VS-01,a,2026-05-02T10:00:00+02:00,kv,3400,,1,100\n"
    outcome = bring_in(store, tmp_path, motors=MOTORS, readings=f"{READINGS}{good}{row}\n")
    sentence = outcome.rejected[0].sentences()[0]
    assert sentence.startswith(f"{tmp_path / 'readings.csv'}:3: {column}: ")
    assert says in sentence
    assert everything(store)["motor"] == []


FINDINGS = "motor,at,finding,item,state,verdict,file\n"


@pytest.mark.parametrize(
    ("row", "says"),
    [
        ("inspection,shaft,splendid,,", "'ok', 'doubt' or 'bad'"),
        ("astonishment,,,,", "not one of inspection"),
        ("first_spin,,wild,,", "'smooth' or 'rough'"),
        ("signed,,,maybe,", "'keep', 'watch'"),
        ("picture,shaft,,,pictures/none.webp", "no picture beside this table"),
        ("picture,shaft,,,../../etc/passwd", "match pattern"),
        ("sound,,,,pictures/none.webp", "no sound beside this table"),
    ],
)
def test_a_finding_that_cannot_be_is_named_and_nothing_is_stored(store, tmp_path, row, says):
    text = f"{FINDINGS}VS-01,2026-05-02T10:00:00+02:00,{row}\n"
    outcome = bring_in(store, tmp_path, motors=MOTORS, findings=text)
    sentence = outcome.rejected[0].sentences()[0]
    assert sentence.startswith(f"{tmp_path / 'findings.csv'}:2: ")
    assert says in sentence
    assert everything(store)["motor"] == []


@pytest.mark.parametrize(
    "at",
    ["5", "+1", "1700000000", "46144.5", "20260502", "2026-05-02", "0001-01-01T00:00:00+01:00",
     "9999-12-31T23:59:59-14:00", "2999-01-01T00:00:00Z", "2026-05-02T10:00:00"],
)  # fmt: skip
def test_what_could_be_read_as_a_time_but_was_not_meant_as_one(at):
    with pytest.raises(ValidationError):
        EventsRow.model_validate({"motor": "VS-01", "at": at, "event": "run"})


@pytest.mark.parametrize("at", ["2026-05-02T10:00:00+02:00", "2026-05-02 10:00Z", "2026-05-02T10:00:00.25+0200"])
def test_times_as_the_format_names_them(at):
    assert EventsRow.model_validate({"motor": "VS-01", "at": at, "event": "run"}).at.year == 2026


@pytest.mark.parametrize("written", ["1_000", "2_1", "1e", "nan", "inf"])
def test_numbers_nobody_writes_on_purpose(written):
    row = {"motor": "VS-01", "at": "2026-05-02T10:00:00Z", "measure": "rpm", "value": written}
    with pytest.raises(ValidationError):
        ReadingsRow.model_validate(row)


def test_skipping_bad_rows_stores_the_good_and_writes_the_bad_aside(store, tmp_path):
    good, bad = (
        "VS-01,a,2026-05-02T10:00:00+02:00,kv,3400,,1,100\n",
        "VS-01,a,2026-05-02T10:00:00+02:00,kv,fast,,1,100\n",
    )
    outcome = bring_in(
        store, tmp_path, skip_bad=True, motors=MOTORS + "VS-02,,inrunner,7,\n", readings=READINGS + bad + good
    )
    assert (outcome.stored["motors"], outcome.stored["readings"]) == (1, 1)
    written = write_rejected(outcome)
    rows = [list(csv.DictReader(file.read_text(encoding="utf-8").splitlines())) for file in written]
    assert "6 or 8" in rows[0][0]["reason"]
    assert rows[1][0]["value"] == "fast"


def test_the_same_files_twice_change_nothing(store, tmp_path):
    tables = {
        "motors": MOTORS,
        "events": "motor,at,event,count\nVS-01,2026-05-01T09:00:00Z,run,5\n",
        "readings": READINGS + 2 * "VS-01,a,2026-05-02T10:00:00+02:00,detent_peak,18.4,,1,\n",
        "findings": "motor,check,at,finding,item,state\nVS-01,a,2026-05-02T10:00:00+02:00,inspection,shaft,doubt\n",
    }
    bring_in(store, tmp_path, **tables)
    before = everything(store)
    outcome = bring_in(store, tmp_path, **tables)
    assert set(outcome.stored.values()) == {0}
    assert outcome.ignored == {"motors": 1, "events": 1, "readings": 2, "findings": 1, "propellers": 0, "packs": 0}
    assert everything(store) == before


def test_a_motor_that_differs_is_left_alone_with_a_warning(store, tmp_path):
    bring_in(store, tmp_path, motors=MOTORS)
    outcome = bring_in(store, tmp_path, motors=MOTORS.replace("3450", "3300"))
    assert "VS-01 is there already and stays as it is: label_kv 3450 here, 3300 there" in outcome.warnings[0]


def test_unknown_columns_are_kept_out_and_named(store, tmp_path):
    outcome = bring_in(store, tmp_path, motors="tag,colour\nVS-01,blue\n")
    assert "colour" in outcome.warnings[0]
    assert outcome.stored["motors"] == 1


@pytest.mark.parametrize("text", ["", "a,b\n1,2\n", "tag,tag\nx,y\n"])
def test_a_file_that_is_no_table_is_refused(store, tmp_path, text):
    with pytest.raises(InputError, match=r"motors\.csv"):
        bring_in(store, tmp_path, motors=text)


@pytest.mark.long
def test_an_export_comes_back_as_the_same_store(few_store, tmp_path):
    with few_store.reading() as session:
        counts = export_tables(session, tmp_path / "out")
    assert counts["motors"] == 6
    fresh = open_store(tmp_path / "fresh.db")
    with fresh.writing() as session:
        outcome = import_tables(session, [tmp_path / "out" / f"{t}.csv" for t in TABLES], quiet)
    assert outcome.stored == counts
    assert counts["findings"] > 5
    own = {"id", "changed_at", "change_id", "motor_id", "check_id"}
    for_bench = own | {"open", "at", "rig", "method", "motor_c", "ambient_c"}
    found = {
        table: own - {"id"}
        for table in ("inspection", "hall_lamps", "step_state", "picture", "sound", "signed_verdict")
    }
    compared = {"motor": own, "event": own, "reading": own, "bench_check": for_bench} | found
    for table, but in compared.items():
        ours, theirs = (
            sorted(json.dumps({k: v for k, v in r.items() if k not in but}) for r in everything(s)[table])
            for s in (few_store, fresh)
        )
        assert ours == theirs, table
    fresh.close()


def test_a_backup_comes_back_whole(few_store, tmp_path):
    file = tmp_path / "backup.json"
    with few_store.reading() as session:
        file.write_text(json.dumps(backup(session)))
    fresh = open_store(tmp_path / "fresh.db")
    with fresh.writing() as session:
        take_in(session, file, NOW)
    assert everything(fresh) == everything(few_store)
    fresh.close()


@pytest.mark.parametrize(
    "text", ["{", "[]", '{"waldhorn_backup": 99}', '{"waldhorn_backup": 3, "tables": {"motor": [{"id": "x"}]}}']
)
def test_what_is_no_backup_is_refused(store, tmp_path, text):
    file = tmp_path / "backup.json"
    file.write_text(text)
    with pytest.raises(InputError, match=r"backup\.json"), store.writing() as session:
        take_in(session, file, NOW)


@settings(max_examples=60)
@given(st.binary(max_size=300))
def test_no_file_can_make_the_import_fail(store, tmp_path, raw):
    file = tmp_path / "readings.csv"
    file.write_bytes(b"motor,at,measure,value\n" + raw)
    with store.writing() as session:
        outcome = import_tables(session, [file], quiet)
        assert outcome.stored["readings"] == 0
        session.rollback()


def test_the_formats_page_names_every_column_and_the_schema_is_the_models_own():
    page = (DOCS / "formats.md").read_text(encoding="utf-8")
    missing = [c for table in TABLES for c in column_names(table) if f"`{c}`" not in page]
    assert not missing
    assert not [m for m in MEASURES if f"`{m}`" not in page]
    assert json.loads((DOCS / "schema.json").read_text(encoding="utf-8")) == schemas()


def test_what_is_dated_ahead_or_before_its_motor_is_warned_about_and_stored(store, tmp_path):
    motors = MOTORS.replace("label_kv", "label_kv,in_service_on").replace("3450", "3450,2026-03-01")
    rows = "VS-01,b,2026-02-02T10:00:00+02:00,noise_avg,81,dB,1,100\n"
    rows += "VS-01,c,2026-05-02T10:00:00+02:00,noise_avg,81,dB,1,100\n"
    events = "motor,at,event\nVS-01,2026-01-05T10:00:00+02:00,crash\n"
    outcome = bring_in(store, tmp_path, motors=motors, events=events, readings=READINGS + rows)
    assert outcome.warnings == [
        "VS-01: 1 of its checks lies before it was in service (2026-03-01): look at the year.",
        "VS-01: 1 of its events lies before it was in service (2026-03-01): look at the year.",
    ]
    assert outcome.stored == {"motors": 1, "events": 1, "readings": 2, "findings": 0, "propellers": 0, "packs": 0}


def test_a_check_in_the_future_is_said_where_it_is_left_out(store, tmp_path):
    ahead = (datetime.now().astimezone() + timedelta(days=3)).isoformat(timespec="seconds")
    outcome = bring_in(store, tmp_path, motors=MOTORS, readings=f"{READINGS}VS-01,a,{ahead},noise_avg,81,dB,1,100\n")
    assert [w.split(" (")[0] for w in outcome.warnings] == ["VS-01: 1 of its checks lies in the future"]
    assert outcome.warnings[0].endswith("left out of the answer until then.")


@pytest.mark.long
def test_staged_or_not_the_same_is_stored(tmp_path):
    (tmp_path / "motors.csv").write_text(MOTORS, encoding="utf-8")
    rows = "".join(
        f"VS-01,{i % 7},2026-05-0{1 + i % 7}T10:00:00+02:00,noise_avg,{80 + i % 3},dB,{1 + i % 4},100\n"
        for i in range(60)
    )
    (tmp_path / "readings.csv").write_text(READINGS + rows, encoding="utf-8")
    files = [tmp_path / "motors.csv", tmp_path / "readings.csv"]
    stores = [open_store(tmp_path / f"{name}.db") for name in ("staged", "plain")]
    for _ in range(2):
        outcome = import_staged(stores[0], Writing(clock()), files, quiet, skip_bad=False, dry_run=False)
        with stores[1].writing() as session:
            plain = import_tables(session, files, quiet)
        assert (outcome.stored, outcome.ignored) == (plain.stored, plain.ignored)
    written = []
    for store in stores:
        with store.reading() as session:
            export_tables(session, tmp_path / "again")
        written.append([(f.name, f.read_bytes()) for f in sorted((tmp_path / "again").glob("*.csv"))])
        store.close()
    assert written[0] == written[1]


def test_a_dry_run_stores_nothing(store, tmp_path):
    (tmp_path / "motors.csv").write_text(MOTORS, encoding="utf-8")
    outcome = import_staged(store, Writing(clock()), [tmp_path / "motors.csv"], quiet, skip_bad=False, dry_run=True)
    assert outcome.stored["motors"] == 1
    assert everything(store)["motor"] == []


def test_a_motor_taken_in_meanwhile_is_not_stored_twice(store, tmp_path, monkeypatch):
    """Between reading the files and taking them over somebody takes in the same motor: it is read once more."""
    (tmp_path / "motors.csv").write_text(MOTORS, encoding="utf-8")
    (tmp_path / "readings.csv").write_text(
        READINGS + "VS-01,a,2026-05-02T10:00:00+02:00,noise_avg,81,dB,1,100\n", encoding="utf-8"
    )
    stage, tries = staging._stage, []

    def meanwhile(*given):
        outcome = stage(*given)
        if not tries:
            with store.writing() as session:
                motors.add(session, [Motor("vs-01")])
        tries.append(outcome)
        return outcome

    monkeypatch.setattr(staging, "_stage", meanwhile)
    files = [tmp_path / "motors.csv", tmp_path / "readings.csv"]
    outcome = import_staged(store, Writing(clock()), files, quiet, skip_bad=False, dry_run=False)
    assert len(tries) == 2
    assert (outcome.stored["motors"], outcome.ignored["motors"], outcome.stored["readings"]) == (
        1,
        0,
        1,
    )  # facts filled
    assert [m["tag"] for m in everything(store)["motor"]] == ["vs-01"]


def test_a_backup_of_before_the_share_of_faulty_motors_takes_the_usual_one(tmp_path):
    prices = {"owner": "Oda", "new": 1, "repair": 0.5, "failure": 2}
    file = tmp_path / "older.json"
    file.write_text(json.dumps({"waldhorn_backup": 3, "tables": {"owner_prices": [prices]}}))
    store = open_store(tmp_path / "new.db")
    with store.writing() as session:
        take_in(session, file, NOW)
    with store.reading() as session:
        assert limits_and_prices.prices(session)["Oda"] == Prices(1, 0.5, 2)
    store.close()


def test_the_json_of_an_answer_leaves_out_what_is_less_likely_than_one_in_a_thousand():
    judged = judge(history(full(0), full(14), full(30, noise=88.0)), NOW)
    told = to_json(judged)["faults"]
    assert len(told) < len(judged.faults)
    assert all(f["probability"] >= LEAST_PROBABILITY for f in told if f["fault"] != "none")
    assert [f["fault"] for f in told].count("none") == 1
    assert sum(f["probability"] for f in told) > 0.99
