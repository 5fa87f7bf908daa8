"""Trends, prices, what is forgotten, and what counts as now."""

from dataclasses import replace
from datetime import timedelta

import pytest

from made import NOW, PULL, day, history, pulls
from waldhorn.core.answer import Prices
from waldhorn.core.baseline import RESETS, resets
from waldhorn.core.evidence import default_repeatability
from waldhorn.core.history import Check, Finding, Reading
from waldhorn.core.measures import QUANTITIES, Limits
from waldhorn.core.trend import crossing, of_history
from waldhorn.core.verdict import judge

AMPS = QUANTITIES["no_load_current"]
TABLE = {  # the domain's table of events and what they reset
    "bearings_replaced": {"noise_avg", "no_load_current", "steadiness", "vibration", "temperature"},
    "rotor_replaced": {"kv", "detent_peak", "detent_variation", "rotor_asymmetry", "no_load_current", "vibration",
                       "run_out", "timing_mean", "timing_spread"},
    "shaft_replaced": {"run_out", "vibration", "noise_avg", "steadiness"},
    "timing_changed": {"kv", "no_load_current", "timing_mean", "temperature", "noise_avg"},
    "sensor_board_replaced": {"timing_mean", "timing_spread", "sensor_strength_deviation"},
    "rewound": set(QUANTITIES),
    "cleaned": set(), "run": set(), "crash": set(), "dunked": set(), "overheated": set(),
}  # fmt: skip


def season(*amps: float, events=(), every: float = 10):
    checks = [pulls(every * i, (7.4, a, 25_160), (7.4, a, 25_160), name=f"c{i}") for i, a in enumerate(amps)]
    return history(*checks, events=events)


def trend(h):
    return of_history(h, AMPS, AMPS.limits, 3.0)


def loud(number: float, level: float, rig: str = "bench") -> Check:
    at = day(number)
    stand = replace(PULL, rig=rig, placement="stand")
    return Check(f"n{number}", at, tuple(Reading("noise_avg", level, at, run, stand) for run in (1, 2)))


def test_under_four_points_there_is_no_forecast():
    assert trend(season(2.0, 2.05, 2.1)) is None


def test_a_creep_says_when_it_crosses():
    found = trend(season(2.0, 2.0, 2.1, 2.2, 2.3, 2.4))
    assert (found.kind, found.axis, found.points) == ("creep", "days", 6)
    assert found.slope == pytest.approx(0.5, abs=0.03)  # 5 % of 2 A every ten days
    assert found.act.earliest <= found.act.likely
    assert found.act.likely == pytest.approx((30 - 20) / 0.5, abs=4)


def test_runs_are_the_axis_where_they_are_logged():
    events = tuple((10 * i - 1, "run") for i in range(1, 6))
    found = trend(season(2.0, 2.0, 2.1, 2.2, 2.3, 2.4, events=events))
    assert (found.axis, found.kind) == ("runs", "creep")
    assert found.slope == pytest.approx(5, abs=0.3)


def test_a_step_is_told_from_a_creep_and_knows_its_event():
    found = trend(season(2.0, 2.01, 1.99, 2.5, 2.51, 2.49, events=((25, "crash"),)))
    assert (found.kind, found.step_event, found.step_at) == ("step", "crash", day(25))
    assert found.act is None


def test_noise_is_steady_and_a_reset_starts_a_new_segment():
    assert trend(season(2.0, 2.03, 1.98, 2.01, 2.0)).kind == "steady"
    assert trend(season(2.0, 2.1, 2.2, 2.3, 2.4, events=((25, "bearings_replaced"),))) is None


def test_a_limit_that_is_passed_already_is_crossed_now():
    assert crossing(35, (1, 0.5, 2), 30, 1).likely == 0
    assert crossing(5, (1, -0.5, 2), 30, 1) is None
    assert crossing(-5, (-1, -2, -0.5), 12, -1).likely == 7


@pytest.mark.parametrize("event", sorted(TABLE))
def test_an_event_resets_exactly_what_the_table_says(event):
    assert {q for q in QUANTITIES if resets(event, q)} == TABLE[event]
    assert event in RESETS or not TABLE[event]


def test_the_creep_brings_the_next_check_forward():
    slow, fast = (judge(season(*a), NOW).check_by for a in ((2.0, 2.0, 2.0, 2.0, 2.0), (2.0, 2.0, 2.1, 2.2, 2.29)))
    assert fast.date < slow.date


def worn():
    h = season(2.0, 2.0)
    last = pulls(40, (7.4, 2.9, 25_160), (7.4, 2.9, 25_160), name="last")
    noisy = loud(40, 90.0)
    now = replace(last, readings=last.readings + noisy.readings)
    return replace(h, checks=(*h.checks, loud(0, 81.0), loud(10, 81.2), now))


def test_prices_decide_between_repair_retire_and_running_on():
    answers = {judge(worn(), NOW, prices=Prices(*p)).verdict: p for p in ((1, 0.3, 1.5), (1, 2.0, 1.5), (1, 0.3, 0.1))}
    assert answers == {"repair": (1, 0.3, 1.5), "retire": (1, 2.0, 1.5), "watch": (1, 0.3, 0.1)}


def test_both_ways_of_judging_stand_beside_each_other():
    found = judge(worn(), NOW)
    assert (found.verdict, found.faults[0].fault, found.by_limits) == ("repair", "worn_bearing", "repair")
    assert found.speaks["noise_avg"] > 2
    lenient = judge(worn(), NOW, limits={"noise_avg": Limits(20, 40), "no_load_current": Limits(100, 200)})
    assert lenient.by_limits == "keep"


def test_another_rig_is_not_compared_and_says_so():
    h = worn()
    elsewhere = tuple(replace(r, conditions=replace(r.conditions, rig="other")) for r in h.checks[-1].readings)
    found = judge(replace(h, checks=(*h.checks[:-1], replace(h.checks[-1], readings=elsewhere))), NOW)
    noise = next(e for e in found.evidence if e.quantity.name == "noise_avg")
    assert noise.state == "no_baseline"
    assert "another rig" in noise.notes[0] + noise.notes[-1]


def test_what_was_measured_before_a_crash_no_longer_counts():
    found = judge(history(*season(2.0, 2.0).checks, events=((30, "crash"),)), NOW)
    assert found.headline == "Unproven: crashed since it was last checked."


def test_a_bad_finding_stops_everything_until_it_is_mended():
    h = season(2.0, 2.0, 2.0)
    bad = Finding("c2", "inspect:magnets", "bad", day(20))
    assert judge(replace(h, findings=(bad,)), NOW).headline == "No power: magnets. Mend it first."
    mended = history(*h.checks, events=((25, "rotor_replaced"),))
    assert "No power" not in judge(replace(mended, findings=(bad,)), NOW).headline
    overruled = replace(bad, subject="overruled:magnets", value="only dirt", at=bad.at + timedelta(hours=1))
    assert "No power" not in judge(replace(h, findings=(bad, overruled)), NOW).headline


def test_what_the_eye_saw_raises_the_odds():
    h = season(2.0, 2.0, 2.3)
    seen = replace(h, findings=(Finding("c2", "inspect:bearings", "bad", day(20)),))
    odds = [next(f.probability for f in judge(x, NOW).faults if f.names == ("worn_bearing",)) for x in (h, seen)]
    assert odds[1] > 1.5 * odds[0]


def test_the_default_repeatability_is_the_registrys():
    assert default_repeatability("any", "kv") == QUANTITIES["kv"].repeatability
