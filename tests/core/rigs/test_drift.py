"""Charts that see a creep before a limit does."""

import numpy as np
import pytest

from waldhorn.core.rigs.control_charts import cusum, ewma

SERIES = [0.3, -0.5, 1.1, 0.9, 1.6, 1.4, 2.0, 1.2]


def test_the_average_is_out_at_the_seventh_and_the_sum_at_the_eighth():
    average, total = ewma(SERIES), cusum(SERIES)
    assert (average.out, total.out) == (6, 7)
    assert (average.values[6], average.limits[6]) == pytest.approx((0.994, 0.932), abs=5e-4)
    assert total.values[-1] == pytest.approx(5.2)
    assert (average.is_out, total.is_out, total.since) == (True, True, 2)


def test_a_fall_is_seen_as_a_rise_is():
    assert cusum([-x for x in SERIES]).values[-1] == pytest.approx(-5.2)
    assert ewma([-x for x in SERIES]).out == 6


def test_no_points_are_in():
    assert (ewma([]).out, cusum([]).is_out) == (None, False)


@pytest.mark.long
@pytest.mark.parametrize(
    ("chart", "shift", "runs"),
    [(ewma, 0, 372), (ewma, 1, 8.7), (ewma, 2, 2.7), (cusum, 0, 482), (cusum, 1, 10.3), (cusum, 2, 4.0)],
)
def test_how_long_a_chart_runs_before_it_is_out(chart, shift, runs):
    rng = np.random.default_rng(3)
    series, length = (2000, 4000) if shift == 0 else (4000, 120)
    found = [chart(rng.standard_normal(length) + shift).out for _ in range(series)]
    assert np.mean([length if out is None else out + 1 for out in found]) == pytest.approx(runs, rel=0.05)
