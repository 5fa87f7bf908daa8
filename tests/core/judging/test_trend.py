"""Trends, prices, what is forgotten, and what counts as now."""

from dataclasses import replace
from datetime import timedelta

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from made import NOW, PULL, day, history, pulls
from waldhorn.core.base.history import Check, Event, Inspected, Overruled, Reading
from waldhorn.core.base.vocabulary import EventKind, Look, NoteKind
from waldhorn.core.judging.baseline import segments
from waldhorn.core.judging.evidence import default_repeatability
from waldhorn.core.judging.remedies import Prices
from waldhorn.core.judging.sentences import note_words
from waldhorn.core.judging.trend import CONFIDENCE, crossing, of_segment, slope
from waldhorn.core.judging.verdict import JudgingContext, judge
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import groups_of
from waldhorn.core.measuring.quantity import Limits
from waldhorn.core.rigs.repeatability import Spread

AMPS = QUANTITIES["no_load_current"]


def season(*amps: float, events=(), every: float = 10):
    checks = [pulls(every * i, (7.4, a, 25_160), (7.4, a, 25_160), name=f"c{i}") for i, a in enumerate(amps)]
    return history(*checks, events=events)


def trend(h):
    parts = segments(groups_of(h, AMPS), h.events, AMPS)
    return of_segment(parts[-1], h.events, AMPS, AMPS.limits, Spread(3.0, 0.5))


def loud(number: float, level: float, rig: str = "bench") -> Check:
    at = day(number)
    stand = replace(PULL, rig=rig, placement="stand")
    return Check(f"n{number}", at, tuple(Reading("noise_avg", level, at, run, stand) for run in (1, 2)))


def test_under_four_points_there_is_no_forecast():
    assert trend(season(2.0, 2.05, 2.1)) is None


@pytest.mark.parametrize(
    ("amps", "kind"),
    [
        ((2.0, 2.05, 2.1, 2.15), "steady"),  # four in a row come by chance once in twelve
        ((2.0, 2.05, 2.1, 2.15, 2.2), "creep"),
        ((2.0, 2.05, 2.04, 2.15, 2.2), "steady"),
        ((2.0, 2.05, 2.04, 2.1, 2.09, 2.15, 2.2, 2.25), "creep"),
    ],
)
def test_a_creep_is_called_when_chance_would_hardly_make_it(amps, kind):
    assert trend(season(*amps)).kind == kind


def test_the_level_is_the_true_median_of_an_even_number():
    found = trend(season(2.0, 2.1, 2.2, 2.3, 2.4, 2.5))
    # six points on a line: 25 % above the first, 5 % every ten days; the baseline is the mean of the first two
    assert found.watch.likely == 0
    assert found.act.likely == pytest.approx(10 * (30 - (2.5 / 2.05 - 1) * 100) / (0.1 / 2.05 * 100), rel=1e-6)


def test_a_creep_says_when_it_crosses():
    found = trend(season(2.0, 2.1, 2.2, 2.3, 2.4, 2.5))
    assert (found.kind, found.axis, found.points) == ("creep", "days", 6)
    assert found.slope == pytest.approx(0.5, abs=0.03)  # 5 % of 2 A every ten days
    assert found.act.earliest <= found.act.likely
    assert found.act.likely == pytest.approx((30 - 20) / 0.5, abs=4)


def test_runs_are_the_axis_where_they_are_logged():
    events = tuple((10 * i - 1, "run") for i in range(1, 6))
    found = trend(season(2.0, 2.1, 2.2, 2.3, 2.4, 2.5, events=events))
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


def test_the_creep_brings_the_next_check_forward():
    slow, fast = (judge(season(*a), NOW).check_by for a in ((2.0, 2.0, 2.0, 2.0, 2.0), (2.0, 2.02, 2.1, 2.2, 2.29)))
    assert fast.date < slow.date


def worn(amps=2.9, noise=90.0):
    h = season(2.0, 2.0)
    last = pulls(40, (7.4, amps, 25_160), (7.4, amps, 25_160), name="last")
    noisy = loud(40, noise)
    now = replace(last, readings=last.readings + noisy.readings)
    return replace(h, checks=(*h.checks, loud(0, 81.0), loud(10, 81.2), now))


def test_prices_decide_between_repair_retire_and_running_on():
    answers = {
        judge(worn(2.6, 87.0), NOW, JudgingContext(prices=Prices(*p))).verdict: p
        for p in ((1, 0.3, 1.5), (1, 2.0, 1.5), (1, 0.3, 0.1))
    }
    assert answers == {"repair": (1, 0.3, 1.5), "retire": (1, 2.0, 1.5), "watch": (1, 0.3, 0.1)}


def test_both_ways_of_judging_stand_beside_each_other():
    found = judge(worn(), NOW)
    assert (found.verdict, found.faults[0].fault, found.by_limits) == ("repair", "worn_bearing", "repair")
    assert found.speaks["noise_avg"] > 2
    assert judge(season(2.0, 2.0, 2.0), NOW).p_fault_act < 0.02 < 0.9 < found.p_fault_act < 1
    lenient = judge(
        worn(), NOW, JudgingContext(limits={"noise_avg": Limits(20, 40), "no_load_current": Limits(100, 200)})
    )
    assert lenient.by_limits == "keep"


def test_another_rig_is_not_compared_and_says_so():
    h = worn()
    elsewhere = tuple(replace(r, conditions=replace(r.conditions, rig="other")) for r in h.checks[-1].readings)
    found = judge(replace(h, checks=(*h.checks[:-1], replace(h.checks[-1], readings=elsewhere))), NOW)
    noise = next(e for e in found.evidence if e.quantity.name == "noise_avg")
    assert (noise.at, noise.has(NoteKind.NO_LINE)) == (h.checks[-2].at, True)
    said = [note_words(note, noise.quantity) for note in noise.notes]
    assert any("what other read has no line to it yet" in words for words in said)


def test_what_was_measured_before_a_crash_no_longer_counts():
    found = judge(history(*season(2.0, 2.0).checks, events=((30, "crash"),)), NOW)
    assert found.headline == "Unproven: crashed 31 May: gauge the gap and first spin."


def test_a_bad_finding_stops_everything_until_it_is_mended_by_name_or_overruled():
    h = season(2.0, 2.0, 2.0)
    bad = replace(h, inspected=(Inspected("c2", "magnets", Look.BAD, day(20)),))
    stopped = "No power before it is mended: magnets."
    assert judge(bad, NOW).headline == stopped
    for event, item in ((EventKind.CLEANED, ""), (EventKind.ROTOR_REPLACED, ""), (EventKind.MENDED, "leads")):
        other = replace(bad, events=(Event(event, day(25), item=item),))
        assert judge(other, NOW).headline == stopped
    mended = replace(bad, events=(Event(EventKind.MENDED, day(25), item="magnets"),))
    assert judge(mended, NOW).headline == "Keep."
    overruled = replace(bad, overruled=(Overruled("c2", "magnets", "only dirt", day(20) + timedelta(hours=1)),))
    found = judge(overruled, NOW)
    assert found.headline == "Unproven: magnets bad: take the detent."  # power is allowed, no more
    again = replace(overruled, inspected=(*bad.inspected, Inspected("c3", "magnets", Look.OK, day(22))))
    assert judge(again, NOW).headline == "Keep."


def test_what_the_eye_saw_raises_the_odds():
    h = season(2.0, 2.0, 2.3)
    seen = replace(h, inspected=(Inspected("c2", "bearings", Look.BAD, day(20)),))
    odds = [next(f.probability for f in judge(x, NOW).faults if f.names == ("worn_bearing",)) for x in (h, seen)]
    assert odds[1] > 1.5 * odds[0]


def test_the_default_repeatability_is_the_registrys():
    usual = QUANTITIES["kv"].repeatability
    assert default_repeatability("any", "kv") == Spread(usual, usual)


def test_a_step_names_an_event_that_is_no_accident_too():
    found = trend(season(2.0, 2.01, 1.99, 2.5, 2.51, 2.49, events=((25, "cleaned"),)))
    assert (found.kind, found.step_event) == ("step", "cleaned")


def test_a_baseline_of_nothing_gives_no_change_to_judge():
    found = judge(season(0.0, 0.0, 2.0), NOW)
    assert next(e for e in found.evidence if e.quantity is AMPS).kind == "nothing_to_compare"


@given(st.lists(st.tuples(st.integers(0, 12), st.integers(-4, 4)), min_size=2, max_size=14))
def test_the_slope_is_sens_as_scipy_has_it(points):
    from scipy.stats import theilslopes  # a second that only this test needs

    xs, changes = [float(x) for x, _ in points], [float(y) for _, y in points]
    assume(len(set(xs)) > 1)
    with np.errstate(invalid="ignore"):
        theirs = theilslopes(changes, xs, CONFIDENCE)
    found = slope(xs, changes)
    assert found[0] == theirs.slope
    if not np.isnan(theirs.low_slope):
        assert found[1:] == (theirs.low_slope, theirs.high_slope)


def test_readings_that_are_all_alike_have_a_slope_of_nothing():
    assert slope([0, 0, 1, 1, 2], [1.0, 1.0, 1.0, 1.0, 1.0]) == (0, 0, 0)
    assert slope([0, 0, 0, 1, 1], [1.0, 1.0, 1.0, 1.0, 3.0]) == (1, 0, 2)
    assert trend(season(2.0, 2.0, 2.0, 2.0, 2.0)).kind == "steady"
