"""A run sheet that is typed in later: its date is its check's."""

from datetime import timedelta

import pytest

from made import BY, NOW
from waldhorn.core.base.history import Motor
from waldhorn.pit.bench import run_sheets
from waldhorn.pit.motors import facts, motor_page
from waldhorn.pit.writing import Writing, changing
from waldhorn.store import cached_verdicts, motors, readings

SHEET = {
    "setup-1-rig": "pier",
    "setup-1-method": "loaded-supply",
    "pull-1-volts": "7.4",
    "pull-1-amps": "2.2",
    "pull-1-rpm": "25500",
    "pull-1-throttle_pct": "100",
}


@pytest.fixture
def on_bench(store):
    """A motor that lies on the bench since this morning; its open check."""
    with store.writing() as session:
        facts.add(session, Motor("A-1", poles=4), NOW - timedelta(days=90))
    return motor_page.open_check(store, Writing(NOW - timedelta(hours=2)), "A-1", "quick")[0]


def type_in(store, at):
    with changing(store, BY) as session:
        row = motors.find(session, "A-1")
        return run_sheets.take_sheet(session, row.tag, SHEET | {"at": at}, NOW)


def read(store):
    """The checks, each with its day, whether it is open and how many readings it has."""
    with store.reading() as session:
        pages = readings.book(session, motors.find(session, "A-1").id)
        return {check.id: (check.at, check.open, {r.at for r in rows}) for check, rows in pages}


def test_a_sheet_of_another_day_is_a_check_of_its_own(store, on_bench):
    day = NOW - timedelta(days=40)
    own = type_in(store, day.isoformat())
    assert own != on_bench
    assert read(store) == {own: (day, False, {day}), on_bench: (NOW - timedelta(hours=2), True, set())}
    with store.reading() as session:
        motor_id = motors.find(session, "A-1").id
        assert cached_verdicts.open_checks(session, [motor_id]) == {motor_id: on_bench}


@pytest.mark.parametrize("at", ["", (NOW - timedelta(hours=1)).isoformat()])
def test_a_sheet_of_today_goes_on_with_what_lies_on_the_bench(store, on_bench, at):
    assert type_in(store, at) == on_bench
    [(_, is_open, times)] = read(store).values()
    assert is_open
    assert times == {NOW - timedelta(hours=1) if at else NOW}
