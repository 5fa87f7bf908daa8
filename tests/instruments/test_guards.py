"""Guards stand on the host's clock and the commanded throttle: nothing an instrument says of itself resets them."""

import math
from dataclasses import replace

import pytest

from waldhorn.core.base.vocabulary import GuardKind
from waldhorn.instruments.guards import FULL_HOLD_S, HAND_S, PART_HOLD_S, Guards
from waldhorn.instruments.line_protocol import Hello, Sample
from waldhorn.instruments.safety_envelope import SafetyEnvelope

FAST = Sample(0.0, 100.0, 7.4, 2.2, 25_000.0)
AT_REST = Sample(0.0, 0.0, 8.4, 0.0, 0.0)


def guarded(pct=100.0, **limits):
    guards = Guards(SafetyEnvelope(**limits))
    guards.command(pct, 0.0)
    return guards


def trips(guards, samples, rate_hz=20.0):
    """When which guard tripped, the host hearing so many samples a second."""
    found = []
    for i, sample in enumerate(samples, 1):
        if trip := guards.heard(sample, i / rate_hz):
            found.append((i / rate_hz, trip.kind))
    return found


@pytest.mark.parametrize(
    ("kind", "sample"),
    [
        (GuardKind.CURRENT, replace(FAST, amps=30.0)),
        (GuardKind.HEAT, replace(FAST, motor_c=61.0)),
        (GuardKind.VOLTS, replace(FAST, volts=9.0)),
        (GuardKind.SPEED, replace(FAST, rpm=30_001.0)),
    ],
)
def test_each_limit_trips_once_however_long_it_is_passed(kind, sample):
    samples = [replace(sample, t=i / 20) for i in range(1200)]
    found = trips(guarded(max_a=20.0, max_v=8.4, rated_rpm=30_000), samples)
    assert [k for _, k in found] == [kind]
    assert found[0][0] < 1.0


@pytest.mark.parametrize(
    "told",
    [
        lambda i: {"pct": 99.9 if i % 2 else 100.0},
        lambda i: {"t": 3.0},
        lambda i: {"t": -i / 20},
        lambda i: {"pct": 0.0},
        lambda i: {"rpm": 25_000.0 * (1 + 0.4 * (i % 2))},
    ],
    ids=["throttle jitters", "clock stands still", "clock runs backwards", "says it is off", "speed wanders"],
)
@pytest.mark.parametrize("wrong", [{"amps": 50.0}, {"motor_c": 200.0}])
def test_nothing_it_says_of_itself_keeps_a_guard_from_tripping(told, wrong):
    samples = [replace(FAST, **({"t": i / 20} | wrong | told(i))) for i in range(1200)]
    found = trips(guarded(max_a=5.0), samples)
    assert len(found) == 1
    assert found[0][0] <= 1.0


def test_amps_that_pass_the_limit_every_other_sample_trip_too():
    samples = [replace(FAST, amps=50.0 if i % 2 else 1.0) for i in range(200)]
    assert [k for _, k in trips(guarded(max_a=20.0), samples)] == [GuardKind.CURRENT]


def test_a_rush_of_amps_after_a_step_and_single_spikes_do_not_trip():
    rush = [replace(FAST, amps=30.0 if i < 9 else 2.0) for i in range(60)]
    spikes = [
        replace(FAST, amps=30.0 if i % 5 == 0 else 2.0, rpm=31_000.0 if i % 5 == 0 else 25_000.0) for i in range(180)
    ]
    assert trips(guarded(), rush) == []
    assert trips(guarded(rated_rpm=30_000), spikes) == []


@pytest.mark.parametrize("rate_hz", [10, 20, 1000])
def test_the_time_above_a_limit_counts_not_the_number_of_samples(rate_hz):
    samples = [replace(FAST, amps=30.0) for _ in range(2 * rate_hz)]
    [(at, _)] = trips(guarded(), samples, rate_hz)
    assert 0.6 < at <= 0.7


@pytest.mark.parametrize(("pct", "share", "most"), [(100, 1.0, FULL_HOLD_S), (50, 1.0, PART_HOLD_S), (30, 0.4, 10.0)])
def test_a_setting_is_held_no_longer_than_it_may_be(pct, share, most):
    guards = guarded(pct, hold_share=share)
    assert guards.tick(most) is None
    trip = guards.tick(most + 0.1)
    assert (trip.kind, trip.words) == (GuardKind.HOLD, f"{pct} % held for {most:.0f} s, {most:.0f} s are enough")


def test_the_same_setting_commanded_again_does_not_begin_anew():
    guards = guarded(100)
    for second in range(1, 10):
        guards.command(100, float(second))
    assert guards.tick(FULL_HOLD_S + 0.1)


def test_a_speed_that_strays_at_the_lowest_setting_trips_and_at_a_higher_one_does_not():
    samples = [replace(FAST, pct=15.0, rpm=3000 + 600 * (i % 2)) for i in range(60)]
    assert [k for _, k in trips(guarded(15.0), samples)] == [GuardKind.ERRATIC]
    assert trips(guarded(30.0), samples) == []


def test_a_guard_stays_tripped_until_the_motor_is_known_to_stand():
    guards = guarded(max_a=20.0)
    assert trips(guards, [replace(FAST, amps=30.0)] * 40)
    guards.command(0.0, 3.0)
    for i in range(40):
        guards.heard(replace(FAST, pct=0.0, rpm=20_000.0 - 500 * i), 3.0 + i / 20)
    assert guards.tripped
    guards.heard(AT_REST, 5.05)
    assert guards.tripped  # one sample proves nothing
    for i in range(8):
        guards.heard(AT_REST, 5.1 + i / 20)
    assert guards.stands
    assert guards.tripped is None


def test_amps_without_a_turn_are_no_standstill():
    guards = guarded(0.0, max_a=20.0)
    stalled = [replace(AT_REST, amps=30.0)] * 40
    assert [k for _, k in trips(guards, stalled)] == [GuardKind.CURRENT]
    assert not guards.stands


def test_a_hot_motor_that_stands_trips_nothing():
    assert trips(Guards(SafetyEnvelope()), [replace(AT_REST, motor_c=75.0)] * 100) == []


def test_one_that_drives_on_though_told_to_stop_is_said():
    guards = guarded(0.0)
    [(at, kind)] = trips(guards, [replace(FAST, pct=30.0)] * 100)
    assert kind is GuardKind.INSTRUMENT
    assert 2.0 < at < 2.2
    assert "disconnect the pack" in guards.tripped.words


def test_a_throttle_in_the_hand_is_timed_from_when_the_motor_turns():
    guards = Guards(SafetyEnvelope(), by_hand=True)
    for i in range(600):
        assert guards.heard(AT_REST, i / 20) is None
    found = [(i / 20, trip) for i in range(600, 1400) if (trip := guards.heard(replace(FAST, pct=0.0), i / 20))]
    assert [trip.kind for _, trip in found] == [GuardKind.HOLD]
    assert found[0][0] == pytest.approx(30 + PART_HOLD_S, abs=0.2)


def test_full_throttle_in_the_hand_is_timed_from_when_it_was_reached():
    guards, tripped = Guards(SafetyEnvelope(), by_hand=True), []
    for tick in range(400):
        now = tick / 10
        pct = 0 if now < 1 else 15 if now < 8 else 50 if now < 16 else 100
        found = guards.heard(replace(Sample(t=now, volts=7.4, amps=2, rpm=0, pct=0), rpm=150 * pct, pct=pct), now)
        tripped += [(now, found.kind)] if found else []
    assert [kind for _, kind in tripped] == [GuardKind.HOLD]
    assert tripped[0][0] == pytest.approx(16 + FULL_HOLD_S, abs=0.3)


def test_full_throttle_in_the_hand_that_jitters_is_held_all_the_same():
    guards, first = Guards(SafetyEnvelope(), by_hand=True), None
    for tick in range(400):
        now = tick / 10
        sample = Sample(t=now, volts=7.4, amps=2, rpm=15000, pct=80 if tick % 5 == 0 else 100)
        first = first or (guards.heard(sample, now) and now)
    assert first is not None
    assert first < 2 * FULL_HOLD_S


def test_a_setting_that_a_hand_has_to_make_is_given_the_time_for_it():
    guards = Guards(SafetyEnvelope(), by_hand=True)
    guards.command(100, 0.0)
    assert guards.tick(FULL_HOLD_S + HAND_S) is None
    assert guards.tick(FULL_HOLD_S + HAND_S + 0.1).kind is GuardKind.HOLD


def test_what_an_instrument_allows_is_what_the_guards_hold_it_to():
    envelope = SafetyEnvelope().within(Hello("small", True, max_v=4.2, max_a=5.0))
    assert (envelope.max_v, envelope.max_a, envelope.rated_rpm) == (4.2, 5.0, math.inf)
    guards = Guards(envelope)
    guards.command(100, 0.0)
    assert trips(guards, [replace(FAST, volts=3.7, amps=6.0)] * 40)
