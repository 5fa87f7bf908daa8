"""Which pattern of detent peaks means what: the energy model, held against its worked examples."""

from math import lcm
from statistics import median

import pytest
from hypothesis import given
from hypothesis import strategies as st

from made import NOW, full, history
from waldhorn.core.base.history import Motor
from waldhorn.core.base.vocabulary import NoteKind
from waldhorn.core.judging.verdict import judge
from waldhorn.core.measuring import cogging
from waldhorn.core.measuring.cogging import pattern, tells_magnets

STRENGTHS = st.floats(0.7, 1.1)


def one_weak(poles, strength=0.8):
    return [strength] + [1.0] * (poles - 1)


def spread(peaks):
    return 100 * (max(peaks) - min(peaks)) / median(peaks)


def test_where_poles_divide_the_slots_one_weak_magnet_weakens_all_positions_alike():
    peaks = pattern(12, one_weak(4))
    assert len(peaks) == 12
    assert spread(peaks) == pytest.approx(0, abs=1e-6)
    assert median(peaks) == pytest.approx(0.91, abs=1e-9)


def test_where_they_do_not_it_shows_in_the_spread_and_not_in_the_median():
    peaks = pattern(12, one_weak(14))
    assert len(peaks) == 84
    assert max(peaks) == pytest.approx(1.67, rel=0.03)  # the shape of an edge is not given: see EDGE
    assert spread(peaks) == pytest.approx(118, rel=0.06)
    assert median(peaks) == pytest.approx(1.0, abs=0.005)


@given(st.sampled_from([(9, 6), (12, 8), (12, 10), (12, 14), (9, 8), (12, 4)]), st.data())
def test_with_a_sound_stator_the_pattern_repeats_whatever_the_magnets(winding, data):
    slots, poles = winding
    peaks = pattern(slots, data.draw(st.lists(STRENGTHS, min_size=poles, max_size=poles)))
    period = lcm(slots, poles) // slots
    assert peaks == pytest.approx(peaks[period:] + peaks[:period], rel=1e-6)


def test_once_per_turn_needs_rotor_and_stator_off_centre():
    off = {(r, s): spread(pattern(12, [1.0] * 4, r, s)) for r in (0.0, 0.2) for s in (0.0, 0.2)}
    assert off[0.2, 0.0] == pytest.approx(0, abs=1e-6)
    assert off[0.0, 0.2] == pytest.approx(0, abs=1e-6)
    assert off[0.2, 0.2] > 5


@pytest.mark.parametrize(("slots", "poles", "tells"), [(12, 4, False), (12, 6, False), (9, 6, True), (12, 14, True)])
def test_where_unequal_magnets_make_unequal_peaks(slots, poles, tells):
    assert tells_magnets(slots, poles) == tells
    assert (spread(pattern(slots, one_weak(poles))) > 1) == tells


def test_a_variation_that_cannot_mean_magnets_is_no_witness():
    uneven = (17.6, 18.9, 18.1, 18.4) * 3
    by_poles = {}
    for poles in (4, 14):
        motor = Motor("VS-07", "Skerry 36", poles=poles, slots=12, poles_known_by="counted", sensored=True)
        checks = (full(1), full(15), full(120, peaks=uneven))
        found = {e.quantity.name: e for e in judge(history(*checks, motor=motor), NOW).evidence}
        by_poles[poles] = found["detent_variation"]
    assert by_poles[4].residual is None
    assert by_poles[4].has(NoteKind.ALIKE_WHATEVER)
    assert by_poles[14].residual
    assert not by_poles[14].has(NoteKind.ALIKE_WHATEVER)
    assert cogging.EDGE == 0.7
