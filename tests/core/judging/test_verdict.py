"""The answer from KV and no-load current."""

import random
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from made import NOW, PULL, day, history, pulls
from waldhorn.core.base.history import Motor
from waldhorn.core.base.vocabulary import FaultKind, NoteKind, Source
from waldhorn.core.judging.baseline import Baseline
from waldhorn.core.judging.evidence_sources import Residual
from waldhorn.core.judging.faults import SIGNATURES
from waldhorn.core.judging.pole_question import question
from waldhorn.core.judging.remedies import Prices
from waldhorn.core.judging.sentences import note_words
from waldhorn.core.judging.verdict import JudgingContext, judge
from waldhorn.core.judging.weighing import faults_of, presence, weigh
from waldhorn.core.judging.worth import Deciding, value_of_information

ACT = {
    "kv": 6, "no_load_current": 30, "speed_ripple": 1.5, "timing_mean": 4, "timing_spread": 4, "noise_avg": 6,
    "temperature": 15, "detent_peak": 12, "detent_variation": 60, "run_out": 0.15, "vibration": 2,
    "resistance_imbalance": 4,
}  # fmt: skip
GOOD = ((7.4, 2.0, 25160), (7.4, 2.02, 25180))
BEFORE = (pulls(0, *GOOD), pulls(14, *GOOD))


def answer(*runs, events=(), motor=None, **more):
    return judge(history(*BEFORE, pulls(40, *runs, **more), events=events, motor=motor), NOW)


def evidence(judged, name):
    return next(e for e in judged.evidence if e.quantity.name == name)


def test_an_unchanged_motor_is_kept():
    found = answer((7.4, 2.01, 25170), (7.4, 2.0, 25150))
    assert (found.verdict, found.headline, found.by_limits, found.next_test) == ("keep", "Keep.", "keep", None)
    assert found.confidence > 0.9
    assert "KV the same as in May" in found.reason


def test_a_fifth_more_current_asks_for_the_test_that_settles_it():
    found = answer((7.4, 2.45, 25160), (7.4, 2.44, 25160))
    assert (found.verdict, evidence(found, "no_load_current").state) == ("unproven", "watch")
    assert "Draws 22 % more than in May" in found.reason
    assert found.next_test


def test_past_a_limit_these_two_only_ask_for_the_test_that_settles_it():
    found = answer((7.4, 2.9, 25160), (7.4, 2.9, 25160))
    assert found.verdict == "unproven"
    assert evidence(found, "no_load_current").state == "past"
    assert found.next_test.startswith(("noise at the lowest setting", "gap at four"))
    assert found.check_by.runs == 1


def test_a_fast_motor_that_was_overheated_is_asked_for_its_detent():
    found = answer((7.4, 2.05, 26950), (7.4, 2.05, 26950), events=((30, "overheated"),))
    assert found.verdict == "unproven"
    assert found.faults[0].fault == "demagnetised_rotor"
    assert "detent" in found.next_test


def test_near_a_limit_it_says_how_many_more_pulls_would_settle_it():
    current = evidence(answer((7.4, 2.2, 25160)), "no_load_current")
    assert current.state == "unproven"
    assert 1 <= (current.change.further_runs or current.change.further_visits) <= 6


def test_a_crash_makes_a_small_rise_suspicious():
    runs = ((7.4, 2.18, 25160), (7.4, 2.18, 25160))
    assert answer(*runs).verdict == "keep"
    assert answer(*runs, events=((30, "crash"),)).faults[1].probability > answer(*runs).faults[1].probability


def test_a_pole_setting_is_asked_about_before_anything_else():
    found = answer((7.4, 2.9, 12580), (7.4, 2.9, 12590))
    assert found.headline == "Unproven: is the instrument set to its poles?"
    assert "the instrument seems to be set to 8 poles, the motor has 4" in found.reason
    assert found.next_test == "count the poles"


def asked_of(shown, poles=4, u=1.0, weights=None):
    """The pole question of a motor of 3400 rpm/V whose poles were counted."""
    known = history(motor=Motor("x", label_kv=3400, poles=poles, poles_known_by="counted"))
    kv = evidence(judge(history(pulls(0, *GOOD), pulls(14, *GOOD), pulls(30, *GOOD)), NOW), "kv")
    change = Residual("kv", 100 * (shown / 3400 - 1), u)
    nothing = weigh([Residual(q, 0.0, 0.1 * size) for q, size in ACT.items() if q != "kv"]).weights
    read = replace(kv, now=shown, reference=Baseline(3400, 4, Source.OWN), residual=change)
    return question(known, read, lambda: nothing if weights is None else weights)


def test_no_instrument_is_set_to_more_poles_than_there_are():
    asked = {shown: asked_of(shown) for shown in (227, 219, 13_000, 3500)}
    assert {shown: one and one.poles for shown, one in asked.items()} == {
        227: 60,
        219: None,
        13_000: None,
        3500: None,
    }


def test_with_many_poles_a_change_that_lies_near_some_ratio_is_no_question_of_the_poles():
    """With 28 poles nearly every change of 6 to 25 % lies within 2 % of a ratio: a fault that explains it stands."""
    magnets = weigh([Residual("detent_peak", -24.0, 3.0)]).weights
    for change in (8, 12, 16, 20):
        assert asked_of(3400 * (1 + change / 100), poles=28, u=2.0, weights=magnets) is None
    assert asked_of(3400 * 2, poles=4).poles == 2
    assert asked_of(3400 * 14 / 4, poles=14).on_instrument


def test_a_counted_pole_number_does_not_silence_what_the_instrument_may_be_set_to():
    motor = Motor("x", label_kv=1700, poles=4, poles_known_by="counted")
    for known_by in ("counted", "assumed"):
        found = judge(history(pulls(0, *GOOD), motor=replace(motor, poles_known_by=known_by)), NOW)
        assert found.headline == "Unproven: is the instrument set to its poles?"


def test_the_first_check_stands_against_the_label():
    found = judge(history(pulls(0, *GOOD)), NOW)
    kv = evidence(found, "kv")
    assert (kv.baseline.source, kv.baseline.n, kv.state) == ("label", 0, "unproven")
    assert evidence(found, "no_load_current").state == "no_baseline"


def test_peers_stand_in_for_a_missing_baseline():
    peers = {
        "no_load_current": [
            Baseline(v, 2, Source.OWN, conditions=replace(PULL, supply_v=7.4)) for v in (1.4, 1.5, 1.5, 1.6)
        ]
    }
    current = evidence(judge(history(pulls(0, *GOOD)), NOW, JudgingContext(peers)), "no_load_current")
    assert current.baseline.source == "model"
    assert "more than 4 others of its model" in current.reason


def test_nothing_measured_is_unproven_and_says_what_to_do():
    found = judge(history(), NOW)
    assert (found.verdict, found.next_test, found.check_by) == ("unproven", "full-throttle pull", None)


def test_nothing_measured_since_a_part_was_replaced_is_no_baseline():
    found = judge(history(*BEFORE, events=((20, "rotor_replaced"),)), NOW)
    assert evidence(found, "kv").state == "no_baseline"
    assert "since a part was replaced" in evidence(found, "kv").reason


def test_a_reading_at_another_voltage_says_so_instead_of_comparing():
    found = answer((7.0, 2.4, 23800), (7.0, 2.4, 23800))
    current = evidence(found, "no_load_current")
    assert current.state == "no_baseline"
    assert note_words(current.notes[0], current.quantity).endswith("another voltage (7.4, 7)")
    assert evidence(found, "kv").state == "within"


def test_runs_that_disagree_add_to_the_doubt():
    sure, torn = answer((7.4, 2, 25160), (7.4, 2, 25160)), answer((7.4, 2, 24800), (7.4, 2, 25520))
    assert evidence(torn, "kv").change.u > 2 * evidence(sure, "kv").change.u
    assert evidence(torn, "kv").notes[0].kind is NoteKind.RUNS_DIFFER


def test_later_readings_and_events_are_not_known_yet():
    h = history(*BEFORE, pulls(40, (7.4, 2.9, 25160)), events=((41, "rewound"),))
    assert judge(h, day(20)).verdict == "keep"


@settings(max_examples=25)
@given(st.randoms())
def test_the_order_of_what_is_known_changes_nothing(shuffler):
    h = history(*BEFORE, pulls(40, (7.4, 2.5, 25160), (7.4, 2.4, 25000)), events=((30, "crash"), (31, "run")))
    checks = [replace(c, readings=tuple(shuffler.sample(c.readings, len(c.readings)))) for c in h.checks]
    shuffler.shuffle(checks)
    events = list(h.events)
    random.Random(shuffler.random()).shuffle(events)
    assert judge(replace(h, checks=tuple(checks), events=tuple(events)), NOW) == judge(h, NOW)


@pytest.mark.parametrize("fault", sorted(SIGNATURES))
def test_a_fault_that_shows_all_its_signs_is_named(fault):
    sources = [Residual(q, 1.3 * SIGNATURES[fault].get(q, 0.0), 0.1 * size, visits=2) for q, size in ACT.items()]
    found = faults_of(weigh(sources))
    assert (found[0].fault, found[0].also) == (fault, None)
    assert sum(f.probability for f in found) == pytest.approx(1)
    assert presence(weigh(sources), fault).p_act > 0.5


def test_two_faults_at_once_are_named_together():
    both = {q: SIGNATURES["worn_bearing"].get(q, 0.0) + SIGNATURES["demagnetised_rotor"].get(q, 0.0) for q in ACT}
    found = faults_of(weigh([Residual(q, 1.5 * both[q], 0.1 * size) for q, size in ACT.items()]))[0]
    assert set(found.names) == {"worn_bearing", "demagnetised_rotor"}


def test_the_telling_test_is_the_one_on_which_the_suspects_differ():
    between = Deciding(weigh([Residual("no_load_current", 60, 5), Residual("kv", 0.5, 1)]), Prices())
    assert between.of("noise_avg", 1.3) > between.of("detent_peak", 3.0)
    assert between.of("nothing known", 1.0) == 0


def test_a_test_is_worth_what_it_saves():
    costs = np.array([[0.0, 1.2], [0.3, 0.3]])
    seen = np.linspace(-6, 8, 2001)
    density = np.array([np.exp(-0.5 * (seen - m) ** 2) for m in (0.0, 2.0)])
    density /= density.sum(axis=1, keepdims=True)
    assert value_of_information([0.7, 0.3], costs, density) == pytest.approx(0.135, abs=5e-4)
    assert value_of_information([0.7, 0.3], costs, np.eye(2)) == pytest.approx(0.210)


@settings(max_examples=30)
@given(st.floats(-2, 2), st.floats(0.3, 3))
def test_a_healthy_measure_never_raises_a_fault_it_contradicts(shift, u):
    before = weigh([Residual("no_load_current", 25, 4)])
    after = weigh([Residual("no_load_current", 25, 4), Residual("noise_avg", min(shift * u, 0.5), u)])
    assert presence(after, "worn_bearing").probability <= presence(before, "worn_bearing").probability + 1e-9


@settings(max_examples=20)
@given(st.integers(1, 5))
def test_more_of_the_same_evidence_never_lowers_the_confidence_in_the_same_answer(more):
    less, much = answer(*GOOD), answer(*(GOOD * (more + 1)))
    assert (less.verdict, much.verdict) == ("keep", "keep")
    assert much.confidence >= less.confidence - 1e-9


def test_an_impossible_fault_is_never_named():
    found = faults_of(
        weigh([Residual("timing_mean", 5, 0.5)], impossible=(FaultKind.FAILING_SENSOR, FaultKind.TIMING_MOVED))
    )
    named = sum(f.probability for f in found if {"failing_sensor", "timing_moved"} & set(f.names))
    assert named < 1e-6
