"""How quickly a motor follows the throttle, from a trace with noise on it."""

import numpy as np
import pytest

from waldhorn.core.base.errors import InputError
from waldhorn.core.measuring.flywheel import response


def test_noise_on_a_ramp_adds_nothing_to_the_response():
    at = np.arange(0, 0.26, 0.01)
    rng = np.random.default_rng(3)
    found = [response(at, 8000 + 2184 * at + rng.normal(0, 20, len(at))) for _ in range(300)]
    assert np.mean(found) == pytest.approx(2184, rel=0.02)
    assert np.std(found) < 100


def test_a_step_between_plateaus_is_read_from_its_slope_alone():
    at = np.arange(0, 3, 0.01)
    course = np.interp(at, [0, 1, 1.5, 2, 2.25], [6000, 6000, 9000, 9000, 6000])  # 6,000 rpm/s up, 12,000 down
    noisy = course + np.random.default_rng(4).normal(0, 15, len(at))
    assert response(at, noisy) == pytest.approx(9000, rel=0.02)


def test_a_trace_without_a_step_is_refused():
    with pytest.raises(InputError, match="no step in this trace"):
        response([0, 1, 2, 3], [5000, 5000, 5000, 5000])
