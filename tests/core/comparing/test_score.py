"""The score of a fleet: over its mean, by weights and mass, with its uncertainty, what is missing said."""

import pytest

from waldhorn.core.comparing.score import Read, score_of, scores

TWO = {
    "A": {"flywheel_torque": Read(0.31, 0.0093), "efficiency": Read(81, 0.8)},
    "B": {"flywheel_torque": Read(0.26, 0.0078), "efficiency": Read(79, 0.8)},
}
MASSES = {"A": 52.0, "B": 49.5}


def test_a_score_of_two_by_hand():
    best, other = scores(TWO, MASSES)
    assert (best.motor, best.rank, other.rank) == ("A", 1, 2)
    assert (best.before_mass, other.before_mass) == (pytest.approx(105.0, abs=0.05), pytest.approx(95.0, abs=0.05))
    assert (best.score, other.score) == (pytest.approx(102.5, abs=0.05), pytest.approx(97.4, abs=0.05))
    # half of 0.0093/0.285 and half of 0.8/80, together
    assert best.u == pytest.approx(100 * ((0.0093 / 0.285) ** 2 + (0.8 / 80) ** 2) ** 0.5 / 2 * 50.75 / 52, rel=1e-6)


def test_weights_choose_and_what_is_missing_is_said():
    only_efficiency = scores(TWO, {}, {"efficiency": 2.0})
    assert [round(s.score, 2) for s in only_efficiency] == [101.25, 98.75]
    three = TWO | {"C": {"efficiency": Read(90, 1)}, "D": {}}
    found = {s.motor: s for s in scores(three, {})}
    assert found["C"].missing == ("torque",)
    assert found["C"].rank == 1
    assert set(found) == {"A", "B", "C"}


def test_what_only_one_has_compares_nothing():
    assert scores({"A": {"response": Read(9, 0)}, "B": {"efficiency": Read(80, 0)}}, {}) == []
    assert score_of("A", {"A": {"response": 1.0}}, {"A": None}) is None
    assert scores({"A": {"response": Read(0, 0)}, "B": {"response": Read(0, 0)}}, {}) == []
