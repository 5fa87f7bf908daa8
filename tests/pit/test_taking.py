"""What a live run takes into the check, what it refuses, and how the demo's pit box hides its faults."""

import pytest

from made import BY, NOW
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Inspected, Motor
from waldhorn.core.base.vocabulary import GuardKind, Look
from waldhorn.instruments import capture, line_protocol
from waldhorn.instruments.guards import Tripped
from waldhorn.pit.bench import bench, checks, taking
from waldhorn.pit.bench.context import load
from waldhorn.pit.bench.steps import STEPS
from waldhorn.simulator.clamped import instrument_for
from waldhorn.simulator.season import ENTRIES, PIT_BOX, as_it_is, season
from waldhorn.store import findings, motors
from waldhorn.store import readings as reading_store

FULL = capture.Captured(100, 7.42, 2.31, 25_130.0, 60.0, 24.5, 81.2, 40, True)


@pytest.fixture
def session(store):
    with store.writing() as session:
        motors.add(session, [Motor("PB-1", "Skerry 36", poles=4, label_kv=3450)])
        yield session


@pytest.fixture
def check(session):
    found = checks.open_check(session, motors.find(session, "PB-1"), NOW)
    checks.take_step(session, ctx_of(session, found), STEPS["setup"], {"rig": "bench", "method": "loaded-supply"})
    return found


def ctx_of(session, check):
    return load(session, check.id, NOW)


def take_heard(session, check, heard):
    return taking.take_heard(session, ctx_of(session, check), heard)


def kept(session, check):
    return {(r.measure, r.throttle_pct, r.run): r.value for r in reading_store.of_check(session, check.id)}


def test_a_capture_becomes_a_run_of_its_own(session, check):
    assert take_heard(session, check, FULL) == "100 % captured: 25130 rpm, 2.31 A."
    take_heard(session, check, FULL)
    found = kept(session, check)
    assert found["rpm", 100, 1] == found["rpm", 100, 2] == 25_130
    assert found["noise_avg", 100, 2] == 81.2
    noise = [r.supply_v for r in reading_store.of_check(session, check.id) if r.measure == "noise_avg"]
    assert noise == [7.42, 7.42]
    assert {r.motor_c for r in reading_store.of_check(session, check.id) if r.measure == "rpm"} == {24.5}


def test_an_unsettled_capture_says_so(session, check):
    unsettled = capture.Captured(50, 3.7, 1.2, 12_000.0, 900.0, None, None, 40, False)
    assert "did not settle" in take_heard(session, check, unsettled)
    assert {r.note for r in reading_store.of_check(session, check.id)} == {"unsettled"}


def test_two_captures_at_part_throttle_do_not_finish_full_throttle(session, check):
    half = capture.Captured(50, 3.7, 1.2, 12_500.0, 20.0, 24.5, 73.0, 40, True)
    for _ in range(2):
        take_heard(session, check, half)
    assert not STEPS["pull"].finished(ctx_of(session, check))
    for _ in range(2):
        take_heard(session, check, FULL)
    assert STEPS["pull"].finished(ctx_of(session, check))


def test_only_a_person_writes_down_that_a_first_spin_was_smooth(session, check):
    take_heard(session, check, capture.Captured(15, 0.9, 0.8, 3_100.0, 10.0, 23.0, None, 40, True))
    assert ctx_of(session, check).check.first_spin is None


def test_a_guard_trip_is_evidence(session, check):
    erratic = Tripped(GuardKind.ERRATIC, "speed strays by 20 % at 15 % throttle")
    assert "That is evidence" in take_heard(session, check, erratic)
    swapped = take_heard(session, check, line_protocol.Trouble("phase", "B and C swapped"))
    assert swapped == "The instrument reports: B and C swapped."
    trips = ctx_of(session, check).guard_trips()
    assert [(g.kind, g.detail) for g in trips] == [("erratic", erratic.words), ("instrument", "B and C swapped")]


def test_a_sweep_is_a_run_of_timing(session, check):
    take_heard(session, check, line_protocol.Sweep(27.8, 28.4, 28.1))
    assert kept(session, check) == {
        ("timing_a", None, 1): 27.8,
        ("timing_b", None, 1): 28.4,
        ("timing_c", None, 1): 28.1,
    }


def test_a_closed_check_takes_nothing(store):
    with store.writing() as session:
        motors.add(session, [Motor("PB-1")])
        closed = checks.open_check(session, motors.find(session, "PB-1"), NOW)
        closed.open = False
    assert "closed" in bench.take_heard(store, BY, closed.id, FULL)
    assert "closed" in bench.take_heard(store, BY, "4711", FULL)
    with store.reading() as session:
        assert kept(session, closed) == {}


def test_nothing_spins_before_the_caution_or_with_power_forbidden(session, check):
    with pytest.raises(InputError, match="confirm first"):
        taking.may_spin(ctx_of(session, check))
    taking.confirm_caution(session, ctx_of(session, check))
    taking.may_spin(ctx_of(session, check))
    findings.add(session, [Inspected(check.id, "magnets", Look.BAD, NOW)], None)
    with pytest.raises(InputError, match="no power until it is mended"):
        taking.may_spin(ctx_of(session, check))


def test_the_pit_box_holds_one_good_motor_and_two_that_hide_something():
    found = {tag: as_it_is(tag).condition for tag in PIT_BOX}
    assert [any(getattr(c, n) for n in c.__slots__) for c in found.values()] == [False, True, True]
    assert as_it_is("nobody") is None
    assert instrument_for(Motor("PB-2"), 1).motor.condition == found["PB-2"]


def test_the_same_seed_gives_the_same_season_to_the_last_digit(monkeypatch):
    monkeypatch.setattr("waldhorn.simulator.season.ENTRIES", ENTRIES[8:10])
    one, two = (list(season(NOW.date())) for _ in range(2))
    assert one == two
    assert [len(m.checks) for m in one] == [1, 3]
