"""A store of the first edition opens, with every number where it belongs, and judges as it did."""

import sqlite3
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path

import pytest
from sqlalchemy import func, select

from waldhorn.core.base.vocabulary import Purpose
from waldhorn.pit.judging import judging
from waldhorn.store import motors, readings
from waldhorn.store.engine import open_store
from waldhorn.store.models import (
    CheckDraftRow,
    CheckRow,
    EventRow,
    FlywheelTraceRow,
    HallLampsRow,
    InspectionRow,
    OverruleRow,
    PoleCountRow,
    ReadingRow,
    SignedRow,
    StepStateRow,
    TimingGoalRow,
)

DUMP = Path(__file__).with_name("first_edition.sql")
NOW = datetime(2026, 9, 13, 14, 0, tzinfo=UTC)
KEPT = {
    SignedRow: 4, CheckRow: 7, EventRow: 2, InspectionRow: 13, HallLampsRow: 6, PoleCountRow: 1, OverruleRow: 1,
    TimingGoalRow: 6, FlywheelTraceRow: 6, CheckDraftRow: 1,
}  # fmt: skip


@pytest.fixture
def first(tmp_path):
    file = tmp_path / "first.db"
    with closing(sqlite3.connect(file)) as database:
        database.executescript(DUMP.read_text(encoding="utf-8"))
        before = database.execute("SELECT measure, value, run, accepted FROM reading ORDER BY id").fetchall()
    store = open_store(file)
    with store.reading() as session:
        yield session, before
    store.close()


def test_every_reading_is_kept_with_its_value(first):
    session, before = first
    rows = session.execute(select(ReadingRow.measure, ReadingRow.value, ReadingRow.run, ReadingRow.accepted)).all()
    assert sorted(map(tuple, rows)) == sorted((m, v, r, bool(a)) for m, v, r, a in before)


@pytest.mark.long
@pytest.mark.parametrize(
    ("where", "values"),
    [
        ({"purpose": Purpose.FIRST_SPIN, "measure": "rpm"}, {3150.0}),
        ({"purpose": Purpose.COOLING}, {36.0}),
        ({"purpose": Purpose.TIMING_PULL, "measure": "no_load_current"}, {2.2}),
        ({"throttle_pct": 50.0, "measure": "supply_volts"}, {3.7}),
        ({"throttle_pct": 100.0, "measure": "supply_volts"}, {7.4, 11.1}),
        ({"distance_cm": 10.0, "measure": "noise_background"}, {58.0}),
        ({"on_shaft": "two-blade 42", "measure": "rest_volts"}, {7.9}),
        ({"aside_reason": "clip slipped", "measure": "supply_volts"}, {7.4}),
    ],
)
def test_what_stood_in_notes_has_a_place_of_its_own(first, where, values):
    found = first[0].scalars(select(ReadingRow).filter_by(**where)).all()
    assert {r.value for r in found} == values


def test_peaks_know_their_place_and_gaps_their_angle(first):
    session, _ = first
    peaks = select(ReadingRow.position).where(ReadingRow.measure == "detent_peak").distinct()
    gaps = select(ReadingRow.angle_deg).where(ReadingRow.measure == "gap").distinct()
    assert sorted(session.scalars(peaks)) == list(range(1, 1 + len(session.scalars(peaks).all())))
    assert sorted(session.scalars(gaps)) == [0, 90, 180, 270]


def test_every_finding_has_a_table_of_its_own(first):
    session, _ = first
    assert {table: session.scalar(select(func.count()).select_from(table)) for table in KEPT} == KEPT
    assert {r.state for r in session.scalars(select(InspectionRow))} == {"ok", "doubt", "bad"}
    assert {(r.step, r.state) for r in session.scalars(select(StepStateRow))} == {
        ("look", "done"),
        ("poles", "skipped"),
    }
    assert {r.lever_mm for r in session.scalars(select(CheckRow)) if r.lever_unit} == {30.0}
    assert session.scalar(select(PoleCountRow)).poles == 14
    assert session.scalar(select(OverruleRow)).reason == "only dirt"
    assert [c.stopped_because for c in session.scalars(select(CheckRow)) if c.stopped_because] == ["called to the heat"]


@pytest.mark.parametrize(
    ("tag", "verdict", "fault"),
    [("VS-01", "unproven", "none"), ("VS-02", "repair", "worn_bearing"), ("VS-03", "unproven", "none")],
)
def test_its_motors_are_judged(first, tag, verdict, fault):
    session, _ = first
    known, judged = judging.judge_motor(session, motors.ids_by_tag(session)[tag.casefold()], NOW)
    assert (judged.verdict, judged.faults[0].fault) == (verdict, fault)
    assert len(known.checks) == len(readings.history(session, motors.find(session, tag).id).checks)
