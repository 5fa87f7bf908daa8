"""From one rig to another."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from made import NOW, full, history
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.vocabulary import NoteKind, Source
from waldhorn.core.judging.baseline import own_references
from waldhorn.core.judging.evidence import EvidenceKind
from waldhorn.core.judging.verdict import JudgingContext, judge
from waldhorn.core.measuring.observations import all_groups
from waldhorn.core.rigs.calibration import Translation, agreement, fit, translated

X = [1.02, 1.55, 1.98, 2.31, 2.90, 3.42]
Y = [1.31, 1.93, 2.42, 2.86, 3.50, 4.17]


def test_six_motors_on_two_rigs():
    found = fit(X, Y)
    assert (found.k, found.u_k) == pytest.approx((1.187, 0.016), abs=5e-4)
    assert (found.a, found.u_a) == pytest.approx((0.091, 0.028), abs=5e-4)
    told = agreement(X, Y)
    assert (told.ratio, told.low, told.high) == pytest.approx((1.236, 1.184, 1.290), abs=5e-4)


def test_a_translated_reading_is_less_sure_than_it_was():
    found = fit(X, Y)
    value, u = translated(2.0, 0.06, found)
    assert value == pytest.approx(found.a + 2 * found.k)
    by_hand = (found.k * 0.06) ** 2 + found.u_a**2 + 4 * found.u_k**2 + 4 * found.cov + found.residual**2
    assert u == pytest.approx(by_hand**0.5)
    assert u > found.k * 0.06


@given(st.floats(0.5, 2), st.floats(-0.3, 0.3))
def test_a_line_without_error_is_found_and_turned_around(k, a):
    y = [a + k * x for x in X]
    there, back = fit(X, y), fit(y, X) if min(y) > 0 and max(y) >= 1.5 * min(y) else None
    assert (there.k, there.a) == pytest.approx((k, a), abs=1e-9)
    if back:
        assert back.k == pytest.approx(1 / there.k)


def test_the_stated_uncertainty_is_how_far_the_slope_strays():
    rng = np.random.default_rng(4)
    truth = np.linspace(1, 3.5, 8)
    fits = [fit(truth + 0.03 * rng.standard_normal(8), 1.2 * truth + 0.03 * rng.standard_normal(8)) for _ in range(600)]
    spread = np.std([f.k for f in fits])
    assert np.mean([f.u_k for f in fits]) == pytest.approx(spread, rel=0.25)
    assert np.mean([f.k for f in fits]) == pytest.approx(1.2, abs=0.005)


@pytest.mark.parametrize(
    ("x", "y", "words"),
    [
        (X[:4], Y[:4], "4 motors were read on both rigs, 5 are needed"),
        ([2.0, 2.1, 2.2, 2.3, 2.4], Y[:5], "too close together"),
        ([1.0, 2.0, 3.0, 2.0, 1.0], [1.0, 2.0, 1.5, 1.0, 2.0], "says nothing"),
    ],
)
def test_too_little_is_refused_with_what_is_missing(x, y, words):
    with pytest.raises(InputError, match=words):
        fit(x, y)


def test_readings_without_a_partner_are_a_mistake_of_the_caller():
    with pytest.raises(ValueError, match="as many"):
        fit([1.0], [])


LOUDER = Translation(1.1, -2.0, 0.02, 1.5, -0.029, 0.4, 7)
LINES = {("other", "bench", "noise_avg"): LOUDER}
MOVED = (full(0, under={"rig": "other"}), full(7, under={"rig": "other"}), full(60, noise=88.0))


def noise_of(lines, *checks):
    judged = judge(history(*checks), NOW, JudgingContext(lines=lines))
    return next(e for e in judged.evidence if e.quantity.name == "noise_avg")


def test_a_past_read_on_another_rig_is_compared_translated_and_less_surely():
    alone = noise_of({}, *MOVED)
    assert (alone.reference.source, alone.at, alone.has(NoteKind.NO_LINE)) == (Source.OWN, MOVED[1].at, True)
    found = noise_of(LINES, *MOVED)
    assert (found.kind, found.reference.source) == (EvidenceKind.COMPARED, Source.TRANSLATED)
    assert found.reference.value == pytest.approx(1.1 * 81 - 2, abs=0.1)
    assert found.change.value == pytest.approx(88 - (1.1 * 81 - 2), abs=0.2)
    assert [n.values for n in found.notes if n.kind is NoteKind.TRANSLATED] == [("other",)]
    here = noise_of({}, full(0), full(7), full(60, noise=88.0))
    assert found.change.u > here.change.u
    assert found.reason.endswith("in May")


def test_its_own_past_on_this_rig_goes_before_a_translated_one():
    found = noise_of(LINES, *MOVED[:2], full(20), full(27), full(60))
    assert found.reference.source is Source.OWN


def test_a_line_in_the_other_direction_or_of_another_quantity_translates_nothing():
    for place in (("bench", "other", "noise_avg"), ("other", "bench", "kv"), ("third", "bench", "noise_avg")):
        assert noise_of({place: LOUDER}, *MOVED).has(NoteKind.NO_LINE)


def test_a_translated_past_is_no_baseline_to_others():
    groups = all_groups(history(*MOVED))
    kept = own_references(groups, [])["noise_avg"]
    assert {(b.conditions.rig, b.source) for b in kept} == {("other", Source.OWN), ("bench", Source.OWN)}
