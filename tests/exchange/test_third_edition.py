"""The third edition of the files: new measures, what a row was on, facts of one's own, places, and there and back."""

import json
import zipfile
from datetime import timedelta

import pytest

from made import NOW
from waldhorn.core.base.errors import InputErrors
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.core.motors import own_facts
from waldhorn.exchange import exporting, mapping, sheets
from waldhorn.exchange.importing import import_tables
from waldhorn.exchange.rows import TABLES
from waldhorn.pit.motors import book, facts
from waldhorn.pit.motors.book import Asked
from waldhorn.store import fleet, motors
from waldhorn.store.engine import open_store

FACTS = "tag,model,rated_cells,stator_mm,stator_length_mm,shaft_mm,variant,wire,laminations_mm,magnet_grade"
MOTORS = f"""{FACTS},x_colour,x_batch_no
T-1,Skerry 36,3,22,8,3.17,B,0.3 mm,0.2,N52,red,
T-2,Skerry 36,,,,,,,,,,7
"""
EVENTS = """motor,at,event,machine,position
T-1,2026-05-01T10:00:00+02:00,fitted,Marten,left
T-1,2026-06-01T10:00:00+02:00,removed,Marten,left
T-2,2026-06-01T10:00:00+02:00,put_away,,
"""
UNDER = "load_volts,11.1,V,50,6x4,racing pack,3,12.5,,,load"
READINGS = f"""motor,check,at,measure,value,unit,throttle_pct,on_shaft,pack,cells,pack_mohm,spot,lever,purpose
T-1,c,2026-05-02T10:00:00+02:00,{UNDER}
T-1,c,2026-05-02T10:00:00+02:00,temperature,55,degC,,,,,,stator,,standard
T-1,c,2026-05-02T10:00:00+02:00,detent_force,42,g,,,,,,,short arm,standard
"""


def bring_in(store, folder, **tables):
    folder.mkdir(exist_ok=True)
    for name, text in tables.items():
        (folder / f"{name}.csv").write_text(text, encoding="utf-8")
    with store.writing() as session:
        return import_tables(session, [folder / f"{t}.csv" for t in tables], lambda *_: None)


def test_all_of_it_comes_in_and_goes_out_the_same(store, tmp_path):
    outcome = bring_in(store, tmp_path / "in", motors=MOTORS, events=EVENTS, readings=READINGS)
    assert (outcome.rejected, outcome.warnings) == ([], [])
    assert {t: outcome.stored[t] for t in ("motors", "events", "readings")} == {"motors": 2, "events": 3, "readings": 3}
    with store.reading() as session:
        one = motors.to_motor(motors.find(session, "T-1"))
        exporting.export_tables(session, tmp_path / "out")
        exporting.package(session, tmp_path / "out.zip")
    assert (one.rated_cells, one.stator_mm, one.shaft_mm, one.magnet_grade) == (3, 22.0, 3.17, "N52")
    assert own_facts.read(one.own) == {"colour": "red"}
    fresh = open_store(tmp_path / "fresh.db")
    with fresh.writing() as session:
        import_tables(session, [tmp_path / "out" / f"{t}.csv" for t in TABLES], lambda *_: None)
    with fresh.reading() as session:
        exporting.export_tables(session, tmp_path / "again")
    fresh.close()
    for table in ("motors", "events", "readings"):
        ours, theirs = ((tmp_path / place / f"{table}.csv").read_text() for place in ("out", "again"))
        assert ours == theirs, table
    assert "x_batch_no,x_colour" in (tmp_path / "out/motors.csv").read_text().splitlines()[0]
    described = json.loads(zipfile.ZipFile(tmp_path / "out.zip").read("datapackage.json"))
    assert {"name": "x_colour", "type": "string"} in described["resources"][0]["schema"]["fields"]


def test_a_column_that_is_neither_known_nor_ones_own_is_kept_out_and_named(store, tmp_path):
    outcome = bring_in(store, tmp_path / "in", motors="tag,colour,x_,x_Größe\nT-1,red,a,b\n")
    assert outcome.stored["motors"] == 1
    assert "colour, x_, x_Größe" in outcome.warnings[0]


def test_what_a_row_was_on_is_in_the_book(store, tmp_path):
    bring_in(store, tmp_path / "in", motors=MOTORS, readings=READINGS)
    [visit] = book.look(store, "T-1", NOW, Asked()).visits
    under = {u for s in visit.steps for line in s.lines for u in line.under}
    assert {
        "6x4",
        "50 %",
        "pack racing pack",
        "3 cells",
        "pack of 12.5 mΩ",
        "at the stator",
        "on “short arm”",
    } <= under


@pytest.mark.parametrize(
    "measure", ["shaft_torque", "shaft_power", "efficiency", "detent_force", "gap_span", "idle_current"]
)
def test_the_new_measures_stand_alone(store, tmp_path, measure):
    unit = MEASURES[measure].unit
    rows = f"motor,at,measure,value,unit\nT-1,2026-05-02T10:00:00+02:00,{measure},4.25,{unit}\n"
    outcome = bring_in(store, tmp_path / "in", motors="tag\nT-1\n", readings=rows)
    assert outcome.stored["readings"] == 1
    with store.reading() as session:
        [row] = exporting.readings_of(session, motors.find(session, "T-1").id)
    assert (row["measure"], row["value"], row["unit"]) == (measure, 4.25, unit)


def sheet_of(tmp_path, text):
    file = tmp_path / "sheet.csv"
    file.write_text(text, encoding="utf-8")
    [sheet] = sheets.read(file)
    return list(mapping.apply(sheet, mapping.guessed(sheet), NOW))


def test_amps_beside_a_propeller_are_a_load_and_keep_their_throttle_and_pack(tmp_path):
    text = "motor,date,prop,throttle,V,A,W,thrust gf,rpm,cells\nT-1,2026-05-02,6x4,50,11.1,7.5,83,310,7400,3S\n"
    [row] = sheet_of(tmp_path, text)
    assert row.wrong == []
    assert {r["measure"]: float(r["value"]) for r in row.readings} == {
        "load_volts": 11.1, "load_current": 7.5, "load_watts": 83, "thrust": 310, "load_rpm": 7400,
    }  # fmt: skip
    assert all(
        (r["purpose"], r["on_shaft"], r["throttle_pct"], r["cells"]) == ("load", "6x4", "50", "3") for r in row.readings
    )


def test_amps_without_one_are_not_and_a_sensor_is_no_current(tmp_path):
    [row] = sheet_of(tmp_path, "motor,V,A,rpm,rpm peak to peak,Sensor A,dB peak\nT-1,7.4,2.2,25160,50,3.1,92\n")
    assert {r["measure"]: float(r["value"]) for r in row.readings} == {
        "supply_volts": 7.4, "no_load_current": 2.2, "rpm": 25160, "rpm_p2p": 50, "noise_peak": 92,
    }  # fmt: skip
    assert all(r.get("purpose", "standard") == "standard" for r in row.readings)


def test_units_of_a_persons_own_writing(tmp_path):
    [row] = sheet_of(tmp_path, "motor,torque Nm,thrust (N)\nT-1,0.31,6.5\n")
    found = {r["measure"]: float(r["value"]) for r in row.readings}
    assert found["shaft_torque"] == pytest.approx(310)
    assert found["thrust"] == pytest.approx(6.5 / 9.80665 * 1000)


def test_fitting_one_takes_off_what_sat_there_and_is_undone_on_each(store, tmp_path):
    bring_in(store, tmp_path / "in", motors="tag,machine,position\nT-1,Marten,left\nT-2,,\n")
    with store.writing() as session:
        row = motors.find(session, "T-2")
        with pytest.raises(InputErrors, match="name the machine"):
            facts.add_event(session, row, {"event": "fitted"}, NOW)
        facts.add_event(session, row, {"event": "fitted", "machine": "Marten", "position": "left"}, NOW)
    with store.reading() as session:
        found = {t: motors.find(session, t) for t in ("T-1", "T-2")}
        assert {t: (r.machine, r.position) for t, r in found.items()} == {"T-1": ("", ""), "T-2": ("Marten", "left")}
        told = [(str(e.event), e.machine, e.position) for _, e in motors.events_of(session)]
    assert sorted(told) == [("fitted", "Marten", "left"), ("removed", "Marten", "left")]


def test_a_machine_says_who_sits_there_since_when_and_accuses_nobody_who_came_later_or_left(store, tmp_path):
    shaken = "motor,check,at,measure,value,unit,throttle_pct,placement\n" + "".join(
        f"{tag},c,2026-05-0{day}T10:00:00Z,vibration,{v},points,15,machine\n"
        for tag, day, v in (("T-1", 1, 4), ("T-2", 1, 3), ("T-3", 1, 1))
    )
    bring_in(
        store,
        tmp_path / "in",
        motors="tag,machine,position\nT-1,Marten,left\nT-2,,\nT-3,Marten,right\n",
        readings=shaken,
    )
    with store.writing() as session:
        row = motors.find(session, "T-2")
        facts.add_event(session, row, {"event": "fitted", "machine": "Marten", "position": "left"}, NOW)
    with store.reading() as session:
        held = [(s.tag, s.position, s.since, s.until) for s in fleet.seats(session, "Marten")]
        shaking = fleet.latest_vibration(session, {"Marten"}, NOW + timedelta(days=1))["Marten"]
        assert list(shaking) == [motors.find(session, "T-3").id]
    assert held == [("T-2", "left", NOW, None), ("T-3", "right", None, None), ("T-1", "left", None, NOW)]


def test_every_measure_comes_in_alone_from_a_sheet_with_its_own_unit(tmp_path):
    values = {m.name: (m.low + min(m.high, 50)) / 2 + 0.25 for m in MEASURES.values()}
    lines = (f"T-1,2026-05-02,{n},{v:.2f},{MEASURES[n].unit}" for n, v in values.items())
    rows = sheet_of(tmp_path, "motor,date,measure,value,unit\n" + "\n".join(lines) + "\n")
    assert [row.wrong for row in rows if row.wrong] == []
    found = {r["measure"]: float(r["value"]) for row in rows for r in row.readings}
    assert found == pytest.approx({n: round(v, 2) for n, v in values.items()})
