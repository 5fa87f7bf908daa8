"""Cases made by hand, each with what a good technician says to it; and what must hold whatever was read."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from made import BEARING, NOW, SOUND, WORN, day, full, history, siblings
from waldhorn.core.base.history import CrossTried, Motor
from waldhorn.core.base.vocabulary import CONDEMNED, FaultKind, NoteKind, Ran
from waldhorn.core.judging.evidence import default_repeatability
from waldhorn.core.judging.verdict import JudgingContext, judge
from waldhorn.core.rigs.repeatability import Spread

PAST = (full(0), full(14))
PULLS_ONLY = ("wander", "timing", "noise", "surface", "peaks")
ONLY_GAPS = {"gaps": (0.60, 0.72, 0.60, 0.48), "leave": (*PULLS_ONLY, "kv", "volts", "amps")}
PEAKS = SOUND["peaks"]
RANK = ("keep", "watch", "unproven", "repair", "retire")


def said(*checks, past=PAST, judging_context=None, motor=None, events=()):
    return judge(history(*past, *checks, events=events, motor=motor), NOW, judging_context)


def reason_of(found, name):
    return next(e for e in found.evidence if e.quantity.name == name)


CASES = {
    "one detent peak of 29 among twelve": ([full(30, peaks=(*PEAKS[:5], 29.0, *PEAKS[6:]))], "keep", "Keep."),
    "peak to peak ten times in one run": ([full(30, wander=(0.2, 2.0))], "unproven", "take a third"),
    "two runs that have nothing in common": (
        [full(30, kv=(3400, 2900), amps=(2.2, 4.4), noise=(81, 93))], "unproven", "take a third"),
    "no amps": ([full(30, amps=0.0)], "unproven", "no-load current 0.00 A, was 2.00: a slip?"),
    "amps typed as milliamps": ([full(30, amps=2000.0)], "unproven", "no-load current 2000.00 A, was 2.00: mA?"),
    "detent ten times": ([full(30, peaks=tuple(10 * p for p in PEAKS))], "unproven", "decimal point or g·cm?"),
    "a phase typed 2.78": ([full(30, timing=(2.78, 19.7, 20.0))], "unproven", "start anew"),
    "worn exactly to the limit, five runs": (
        [full(30, runs=5, noise=87.0, amps=2.6, wander=1.4, surface=52.0)], "repair", "replace the bearings"),
    "worn exactly to the limit, one run": (
        [full(30, runs=1, noise=87.0, amps=2.6, wander=1.4, surface=52.0)], "repair", "replace the bearings"),
    "detent 15 % weaker, alone": (
        [full(30, peaks=tuple(0.85 * p for p in PEAKS))], "unproven", "set the lever anew"),
    "loose clamp": ([full(30, noise=88.0, wander=1.5)], "unproven", "gap at four clock positions would settle it"),
    "hotter by 12 K, alone": ([full(30, surface=56.0)], "watch", "runs 12 K hotter"),
    "hotter by 16 K, alone": ([full(30, surface=60.0)], "unproven", "winding resistance of the three pairs"),
    "noise 9 dB up, alone": ([full(30, noise=90.0)], "unproven", "gap at four clock positions would settle it"),
    "the instrument set to 6 poles": ([full(30, kv=3400 * 4 / 6)], "unproven", "is the instrument set to its poles?"),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_what_is_said(name):
    checks, verdict, words = CASES[name]
    found = said(*checks)
    assert (found.verdict, words in found.headline) == (verdict, True), found.headline


def test_a_single_check_with_nothing_to_compare():
    found = said(full(30), past=())
    assert (found.verdict, "first look" in found.headline) == ("unproven", True)
    assert "have nothing to compare with yet" in found.reason
    assert "Would not have shown: weakened magnets" in found.reason
    assert found.check_by.runs > 0  # no test of today would tell: it has to run first


def test_two_pulls_and_nothing_to_compare_them_with_are_no_keep():
    assert said(full(30, leave=PULLS_ONLY), past=()).verdict == "unproven"


def test_siblings_stand_in_for_a_past_if_they_were_read_alike():
    assert said(full(30), past=(), judging_context=siblings()).verdict == "keep"
    elsewhere = siblings(under={"rig": "elsewhere"})
    assert said(full(30), past=(), judging_context=elsewhere).verdict == "unproven"


def test_a_timing_moved_before_it_was_ever_read_is_named_as_what_cannot_show():
    one_kind = siblings(leave=("timing",))
    found = said(full(30), past=(), judging_context=one_kind)
    assert found.verdict == "keep"
    assert "A timing that moved before it was ever read would not show." in found.reason


def test_a_first_look_finds_a_worn_bearing_among_good_siblings():
    found = said(full(30, **BEARING), past=(), judging_context=siblings())
    assert (found.verdict, found.faults[0].fault) == ("repair", "worn_bearing")


def test_a_motor_that_came_in_worn_is_held_against_its_model():
    found = said(full(30, **BEARING), past=(full(0, **BEARING), full(14, **BEARING)), judging_context=siblings())
    assert found.verdict == "repair"
    assert any(n.kind is NoteKind.WORSE_THAN_MODEL for n in reason_of(found, "noise_avg").notes)


def test_after_a_crash_pulls_alone_clear_nothing():
    found = said(full(30, leave=PULLS_ONLY), events=((29, "crash"),))
    assert found.verdict == "unproven"
    assert found.headline == "Unproven: crashed 30 May: gauge the gap and look at the magnets."
    assert found.next_step == "gap"


def test_overheated_and_faster_asks_for_the_detent_first():
    found = said(full(30, kv=3672.0, amps=2.18, leave=PULLS_ONLY), events=((29, "overheated"),))
    assert (found.verdict, found.next_step) == ("unproven", "detent")


def test_bearings_replaced_and_as_loud_as_before():
    worn = (full(30, **WORN), full(36, **WORN), full(40, **WORN))
    found = said(*worn, events=((33, "bearings_replaced"),))
    assert found.headline.startswith("Unproven: the repair did not help: no-load current and noise as before")
    assert "Not the bearings, or not done" in found.headline
    assert said(full(30, **WORN), full(36), full(40), events=((33, "bearings_replaced"),)).verdict == "keep"


def test_retired_worn_and_returned_fine():
    back = (full(30, **WORN), full(40))
    found = said(*back, events=((31, "retired"), (39, "returned")))
    assert "retired on 1 June and measures fine now. What was done to it?" in found.headline
    assert said(*back, events=((31, "retired"), (35, "bearings_replaced"))).verdict == "keep"


def test_a_warm_motor_is_let_cool_before_it_is_pulled_again():
    kv_at_60 = 3400 / (1 - 0.0011 * 35)
    warm = full(
        30, kv=kv_at_60, amps=2.6, under={"motor_c": 60.0}, leave=("wander", "timing", "surface", "peaks"), noise=88.0
    )
    found = said(warm)
    assert any(n.kind is NoteKind.BROUGHT for n in reason_of(found, "no_load_current").notes)
    assert "let it cool" in (found.next_test or "") or found.next_step != "pull"


def test_timing_readings_of_a_sensorless_motor_are_ignored_and_said_so():
    motor = Motor("x", kind="outrunner", sensored=False, label_kv=3450, poles=4, poles_known_by="counted")
    found = said(full(30, timing=(35.0, 20.0, 10.0)), motor=motor)
    assert found.verdict == "keep"
    assert reason_of(found, "timing_mean").notes[0].kind is NoteKind.SENSORLESS
    assert found.next_step != "timing"


def test_another_voltage_does_not_compare():
    found = said(full(30, volts=11.1, noise=87.0, amps=2.6, surface=60.0))
    assert found.verdict == "keep"
    for name in ("noise_avg", "no_load_current", "temperature"):
        assert reason_of(found, name).change is None
        assert reason_of(found, name).notes[-1].values[0] == "supply_v"


def test_a_gap_that_stays_when_the_gauge_is_seated_anew_is_the_shaft():
    thrice = [full(d, **ONLY_GAPS) for d in (30, 34, 38)]
    assert said(thrice[0], past=()).verdict == "unproven"
    found = said(*thrice, past=())
    assert found.headline == "Repair: replace the shaft or bell."


def test_a_slow_creep_is_called_before_its_limit_with_when_it_will_pass():
    creeping = [full(4 * i, name=f"k{i}", noise=81 + 0.6 * i) for i in range(10)]
    found = said(*creeping, past=())
    assert found.verdict == "watch"
    assert "noise creeps since" in found.headline
    assert "past its limit in about" in found.headline


def test_more_of_the_same_makes_it_no_surer_of_nothing():
    sure = [said(full(30, runs=n, noise=90.0)).faults for n in (2, 3, 5, 9)]
    nothing = [next(f.probability for f in faults if f.fault is FaultKind.NONE) for faults in sure]
    assert max(nothing) - nothing[0] < 0.001
    assert nothing[-1] <= nothing[0]


def test_a_swap_that_clears_the_motor_lowers_what_is_thought_of_it():
    h = history(*PAST, full(30, noise=87.0))
    tried = CrossTried("c30", Ran.POORLY, Ran.WELL, Ran.POORLY, Ran.WELL, None, day(31))
    cleared = replace(h, crossed=(tried,))
    accused = replace(h, crossed=(replace(tried, own_bench=Ran.POORLY, known_machine=Ran.WELL),))
    odds = [1 - judge(x, NOW).faults[0].probability for x in (cleared, h, accused)]
    assert odds == sorted(odds)
    assert odds[0] < odds[1] < odds[2]


BAD_WAY = {"noise": (81.0, 1.5), "amps": (2.0, 0.2), "wander": (0.2, 0.3), "surface": (44.0, 3.0)}


@pytest.mark.parametrize("what", [*BAD_WAY, "peaks", "gaps", "timing", "spread"])
def test_a_worse_reading_never_gives_a_milder_answer(what):
    ranks = []
    for step in range(14):
        if what == "peaks":
            changed = {"peaks": tuple(p * (1 - 0.025 * step) for p in PEAKS)}
        elif what == "gaps":
            changed = {"gaps": (0.6, 0.6 + 0.012 * step, 0.6, 0.6 - 0.012 * step)}
        elif what == "timing":
            changed = {"timing": tuple(t + 0.6 * step for t in SOUND["timing"])}
        elif what == "spread":
            changed = {"timing": (20.3 + 0.6 * step, 19.7, 20.0)}
        else:
            start, each = BAD_WAY[what]
            changed = {what: start + each * step}
        ranks.append(RANK.index(said(full(30, **changed)).verdict))
    assert ranks == sorted(ranks)
    assert ranks[0] < ranks[-1]


@settings(max_examples=15, deadline=None)
@given(st.sampled_from(sorted(BAD_WAY)), st.floats(0, 1.6), st.floats(0.1, 0.6))
def test_a_worse_reading_of_a_worn_motor_never_gives_a_milder_answer(what, worn, more):
    start = {k: v + worn * {"noise": 6, "amps": 0.6, "wander": 1.2, "surface": 8}[k] for k, (v, _) in BAD_WAY.items()}
    worse = start | {what: start[what] + more * {"noise": 6, "amps": 0.6, "wander": 1.2, "surface": 8}[what]}
    milder, graver = (RANK.index(said(full(30, **v)).verdict) for v in (start, worse))
    assert graver >= milder


@settings(max_examples=15, deadline=None)
@given(st.floats(-3, 14), st.floats(-0.3, 1.2), st.floats(0, 2.5))
def test_a_set_up_gone_wrong_never_condemns(louder, hunting, hotter):
    clamped = said(full(30, noise=81 + louder, wander=0.2 + max(0, hunting)))
    supplied = said(full(30, surface=44 + 10 * hotter, amps=2.0 * (1 + 0.2 * hotter)))
    assert not {clamped.verdict, supplied.verdict} & CONDEMNED


@settings(max_examples=15, deadline=None)
@given(st.floats(1, 3), st.sampled_from([{}, WORN, {"noise": 90.0}, {"amps": 2.8}]))
def test_a_wider_repeatability_never_raises_any_sureness(wider, changed):
    def wide(rig, quantity):
        usual = default_repeatability(rig, quantity)
        return Spread(usual.run * wider, usual.visit * wider)

    sharp, blunt = (
        said(full(30, **changed)),
        said(full(30, **changed), judging_context=JudgingContext(repeatability=wide)),
    )
    for a, b in zip(sharp.evidence, blunt.evidence, strict=True):
        if a.change and b.change:
            assert abs(b.change.p_past_act - 0.5) <= abs(a.change.p_past_act - 0.5) + 1e-9
    if sharp.verdict in ("keep", *CONDEMNED) and blunt.verdict == sharp.verdict:
        assert blunt.confidence <= sharp.confidence + 1e-3
    assert RANK.index(blunt.verdict) <= max(RANK.index(sharp.verdict), RANK.index("unproven"))


@settings(max_examples=10, deadline=None)
@given(st.floats(82, 100))
def test_a_reading_marked_odd_never_raises_the_sureness_of_a_fault(level):
    check = full(30, runs=3, noise=(88.0, 88.2, level), amps=2.6)
    aside = tuple(replace(r, accepted=False) if r.measure == "noise_avg" and r.run == 3 else r for r in check.readings)
    two = full(30, runs=2, noise=(88.0, 88.2), amps=2.6)
    third = [
        said(replace(check, readings=aside)),
        said(
            replace(check, readings=tuple(r for r in check.readings if not (r.measure == "noise_avg" and r.run == 3)))
        ),
    ]
    assert third[0].p_fault_act == pytest.approx(third[1].p_fault_act, abs=1e-12)
    assert third[0].p_fault_act == pytest.approx(said(two).p_fault_act, abs=0.05)


@pytest.mark.parametrize(("kv", "as_well"), [(3502, False), (3536, True)])
def test_what_may_be_wrong_besides_a_worn_bearing_is_tested_first(kv, as_well):
    found = said(full(30, kv=kv, leave=("peaks",), **BEARING))
    assert found.verdict == "repair"
    assert ("Perhaps weakened magnets as well" in found.headline) == as_well
    assert ("full-throttle pull" in (found.next_test or "")) == as_well
    assert said(full(30, leave=("peaks",), **BEARING)).next_test is None


def test_a_fact_that_nobody_said_is_asked_for_where_it_alone_stands_between():
    motor = Motor("VS-07", "Skerry 36", label_kv=3450, poles=4, poles_known_by="counted", slots=12, sensored=None)
    checks = [full(d, leave=("timing", "wander"), gaps=(0.6,) * 4) for d in (0, 14, 30)]
    found = judge(history(*checks, motor=motor), NOW)
    assert found.verdict == "unproven"
    [asked] = [a for a in found.asks if a.why == "fact"]
    assert (asked.step, asked.blocks) == ("sensored", False)
    sensorless = judge(history(*checks, motor=replace(motor, sensored=False)), NOW)
    assert (sensorless.verdict, [a for a in sensorless.asks if a.why == "fact"]) == ("keep", [])
