"""The reference motor: when the rig has drifted, and what becomes of what was read on it meanwhile."""

from datetime import timedelta

import numpy as np
import pytest

from made import NOW, day, full, history
from waldhorn.core.base.vocabulary import NoteKind
from waldhorn.core.judging.evidence import default_repeatability
from waldhorn.core.judging.verdict import JudgingContext, judge
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import all_groups
from waldhorn.core.rigs.reference_motor import BASE_READINGS, FAR_OFF, Drifted, charts, drifted, was_out

RIGHT = 81.0
WORN = {"noise": 88.5, "amps": 2.7, "wander": 1.5, "surface": 53.0}


def noise_chart(levels, put_right=None, events=()):
    made = history(*(full(i, noise=level) for i, level in enumerate(levels)), events=events)
    known = {"bench": put_right} if put_right else {}
    found = charts(all_groups(made), made.events, default_repeatability, known)
    return next((c for c in found if c.quantity.name == "noise_avg"), None)


def test_a_chart_needs_a_base_and_one_more():
    assert noise_chart([RIGHT] * BASE_READINGS) is None
    chart = noise_chart([RIGHT] * (BASE_READINGS + 1))
    assert (chart.base, len(chart.times), chart.is_out, drifted(chart)) == (
        pytest.approx(RIGHT, abs=0.1),
        1,
        False,
        [],
    )


def test_a_day_on_which_the_rig_had_drifted_is_out_until_it_was_read_right_again():
    chart = noise_chart([RIGHT] * 4 + [RIGHT + 9] + [RIGHT] * 2)
    assert list(chart.out) == [False, True, False, False]
    [out] = drifted(chart)
    assert (out.since, out.until) == (day(4) - timedelta(hours=12), day(5))
    assert was_out([out], "bench", "noise_avg", day(4)) is out
    assert was_out([out], "bench", "noise_avg", day(5)) is None
    assert was_out([out], "bench", "kv", day(4)) is None
    assert was_out([out], "other", "noise_avg", day(4)) is None


def test_a_slow_drift_is_out_before_one_reading_alone_would_be():
    chart = noise_chart([RIGHT] * 3 + [RIGHT + 0.45 * i for i in range(14)])
    first = int(np.argmax(chart.out))
    assert chart.is_out
    assert abs(chart.changes[first]) < FAR_OFF
    assert drifted(chart)[-1].until is None


def test_once_put_right_the_chart_starts_anew_and_what_was_read_before_stays_in_doubt():
    put_right = day(5) + timedelta(hours=1)
    levels = [RIGHT] * 4 + [RIGHT + 9] * 2
    chart = noise_chart(levels, put_right)
    [out] = drifted(chart, put_right)
    assert (out.since < day(4), out.until) == (True, put_right)
    after = noise_chart([*levels, RIGHT], put_right)
    assert (after.is_out, abs(float(after.averages[-1])) < 0.2) == (False, True)


def test_a_part_replaced_in_the_reference_motor_starts_its_chart_anew():
    levels = [RIGHT] * 4 + [RIGHT + 9] * 4
    assert noise_chart(levels).is_out
    assert not noise_chart(levels, events=((3.5, "bearings_replaced"),)).is_out


def test_a_steady_rig_is_seldom_out():
    rng = np.random.default_rng(3)
    out = [noise_chart(RIGHT + 1.2 * rng.standard_normal(13)).is_out for _ in range(60)]
    assert np.mean(out) <= 0.05


def everything_out(at, until):
    return [Drifted("bench", name, at, until) for name in QUANTITIES]


@pytest.mark.parametrize(
    ("until", "says"), [(None, "Read the reference motor, then"), (day(80), "Read this one again")]
)
def test_what_was_read_on_a_rig_that_was_out_neither_condemns_nor_clears(until, says):
    worn = history(full(0), full(7), full(60, **WORN))
    assert judge(worn, NOW).verdict == "repair"
    found = judge(worn, NOW, JudgingContext(drifted=everything_out(day(59), until)))
    assert (found.verdict, found.by_limits) == ("unproven", "keep")
    assert says in found.headline
    assert all(e.has(NoteKind.RIG_OUT) for e in found.evidence if e.change and e.quantity.name in QUANTITIES)
    sound = judge(history(full(0), full(7), full(60)), NOW, JudgingContext(drifted=everything_out(day(59), until)))
    assert sound.verdict == "unproven"


def test_what_was_read_before_the_rig_drifted_counts_as_ever():
    worn = history(full(0), full(7), full(60, **WORN))
    found = judge(worn, NOW, JudgingContext(drifted=everything_out(day(61), None)))
    assert (found.verdict, found.headline) == (judge(worn, NOW).verdict, judge(worn, NOW).headline)
