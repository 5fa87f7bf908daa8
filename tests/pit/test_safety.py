"""What may be given to a motor: its rated speed against KV × volts, what an instrument allows, and the cautions."""

from dataclasses import replace
from datetime import timedelta

import pytest

from made import NOW, pulls
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import History, Motor
from waldhorn.core.base.vocabulary import GuardKind
from waldhorn.instruments.guards import Guards
from waldhorn.instruments.line_protocol import Hello, Sample
from waldhorn.instruments.safety_envelope import SafetyEnvelope
from waldhorn.pit.bench import checks, signing, stepper, taking
from waldhorn.pit.bench.context import load
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.bench.words import closed_words
from waldhorn.store import motors

PULL = STEPS["pull"]
AT_REST = {"v": 7.4, "rpm": 0.0, "pct": 0.0}
SLOW_ROTOR = Motor("VS-40", "Skerry 36", poles=4, label_kv=3450, rated_rpm=24_000)


@pytest.fixture
def check(session):
    motors.add(session, [SLOW_ROTOR])
    found = checks.open_check(session, motors.find(session, "VS-40"), NOW)
    checks.take_step(session, load(session, found.id, NOW), STEPS["setup"], {"rig": "bench", "method": "loaded-supply"})
    taking.confirm_caution(session, load(session, found.id, NOW))
    return found


def pulled(session, check, volts, rpm):
    checks.take_step(session, load(session, check.id, NOW), PULL, {"volts": volts, "amps": "2.2", "rpm": rpm})
    return load(session, check.id, NOW)


def test_full_throttle_above_the_rated_speed_is_refused_with_the_volts_that_would_be_right(session, check):
    ctx = load(session, check.id, NOW)
    with pytest.raises(InputError, match=r"7\.4 V would turn it 25530 rpm at 100 %, above its rated 24000 rpm.*7\.0 V"):
        taking.may_spin(ctx, 100, AT_REST)
    taking.may_spin(ctx, 75, AT_REST)
    taking.may_spin(ctx, 100, AT_REST | {"v": 6.9})


@pytest.mark.parametrize(("first", "last"), [(8.2, 6.9), (6.9, 8.2)])
def test_the_volts_read_last_are_held_against_the_rated_speed(session, check, first, last):
    ctx = load(session, check.id, NOW)
    read = History(ctx.motor, (pulls(1, (first, 2.2, 20_000)), pulls(2, (last, 2.2, 20_000))))
    assert stepper.ceiling(replace(ctx, history=read)).volts == last


def test_without_volts_or_a_rated_speed_nothing_is_claimed(session, check):
    ctx = load(session, check.id, NOW)
    taking.may_spin(ctx, 100)
    for facts in ({"rated_rpm": None}, {"label_kv": None}):
        taking.may_spin(replace(ctx, motor=replace(ctx.motor, **facts)), 100, AT_REST | {"v": 99.0})


@pytest.mark.parametrize("volts", [7.4, 7.4 * 0.15])
def test_an_instrument_may_read_the_supply_or_the_motor(session, check, volts):
    slow = {"v": volts, "rpm": 3_700.0, "pct": 15.0}
    with pytest.raises(InputError, match=r"7\.4 V would turn it"):
        taking.may_spin(load(session, check.id, NOW), 100, slow)


def test_volts_once_read_close_the_fast_steps_and_a_sentence_opens_them(session, check):
    ctx = pulled(session, check, "7.4", "25 160")
    [shut] = stepper.closed(ctx, PULL)
    assert closed_words(shut).startswith("7.4 V would turn it 25160 rpm")
    assert [s.name for s in STEPS.values() if stepper.closed(ctx, s)] == [
        "pull",
        "noise",
        "coast_down",
        "set_timing",
        "load",
        "flywheel",
        "swap",
    ]
    with pytest.raises(InputError, match="say why"):
        checks.overrule(session, ctx, stepper.RATED_SPEED, "  ")
    checks.overrule(session, ctx, stepper.RATED_SPEED, "sleeve is new, maker says 30 000")
    after = load(session, check.id, NOW)
    assert not stepper.closed(after, PULL)
    taking.may_spin(after, 100, AT_REST)
    assert taking.envelope_of(after).rated_rpm == float("inf")
    assert taking.envelope_of(ctx).rated_rpm == 24_000


def test_a_bad_screw_overruled_once_holds_for_every_step_and_the_next_check_until_it_is_found_again(session, check):
    bad = {"screws": "bad", "screws_note": "two of four stripped"}
    checks.take_step(session, load(session, check.id, NOW), STEPS["look"], bad)
    assert [c.subject for c in stepper.closed(load(session, check.id, NOW), STEPS["load"])] == ["screws"]
    checks.overrule(session, load(session, check.id, NOW), "screws", "two hold it, load test only")
    ctx = load(session, check.id, NOW)
    assert [s.name for s in STEPS.values() if stepper.closed(ctx, s)] == []
    signing.hang_back(session, ctx)
    later = NOW + timedelta(days=1)
    again = checks.open_check(session, motors.find(session, "VS-40"), later)
    assert stepper.closed(load(session, again.id, later), STEPS["load"]) == []
    checks.take_step(session, load(session, again.id, later), STEPS["look"], bad)
    assert stepper.closed(load(session, again.id, later), STEPS["load"])


def stream(**at):
    usual = {"pct": 100.0, "volts": 7.4, "amps": 2.2, "rpm": 25_000.0}
    return [Sample(t=0.05 * i, **(usual | at)) for i in range(60)]


def tripped(envelope, samples):
    guards = Guards(envelope)
    guards.command(100, 0.0)
    return next((f for s in samples if (f := guards.heard(s, s.t))), None)


@pytest.mark.parametrize(
    ("at", "kind", "words"),
    [
        ({"rpm": 25_001.0}, GuardKind.SPEED, "25001 rpm is above the rated 25000 rpm"),
        ({"volts": 8.5}, GuardKind.VOLTS, "8.5 V is above this bench's 8.4 V"),
        ({"amps": 12.1}, GuardKind.CURRENT, "12.1 A is above this bench's 12 A"),
        ({"motor_c": 60.5}, GuardKind.HEAT, "60 °C is above 60 °C"),
        ({}, None, ""),
    ],
)
def test_a_guard_stops_what_is_beyond_the_instrument_or_the_rotor(at, kind, words):
    envelope = SafetyEnvelope(rated_rpm=25_000).within(Hello("bench", True, 8.4, 12.0))
    found = tripped(envelope, stream(**at))
    assert (found.kind, found.words) == (kind, words) if kind else found is None


def test_a_single_reading_above_the_rated_speed_is_no_reason_to_stop():
    samples = [replace(s, rpm=26_000.0) if i % 10 == 0 else s for i, s in enumerate(stream())]
    assert tripped(SafetyEnvelope(rated_rpm=25_500), samples) is None


@pytest.mark.parametrize(
    ("step", "said"),
    [
        ("setup", "pack last"),
        ("setup", "lithium pack"),
        ("setup", "Mains supplies"),
        ("look", "pacemakers"),
        ("gap", "pacemakers"),
        ("poles", "pacemakers"),
        ("poles", "drill chuck"),
        ("first_spin", "pack last"),
        ("pull", "fuse"),
        ("pull", "burst"),
        ("load", "fuse"),
        *((step, "Propeller and pinion off") for step in ("first_spin", "pull", "timing", "set_timing", "noise")),
        *((step, "clamped, eyes protected") for step in ("first_spin", "pull", "timing", "set_timing", "noise")),
        ("noise", "hearing protection"),
        ("heat", "Hot surfaces"),
    ],
)
def test_a_caution_stands_at_the_step_where_it_matters(step, said):
    assert said in STEPS[step].caution
