"""What every step of the run stores, says, refuses and undoes."""

import io
from datetime import timedelta

import numpy as np
import pytest
import soundfile
from sqlalchemy import select

from made import NOW
from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.history import Motor
from waldhorn.core.measuring import coast_down
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.pit.bench import checks, pictures, signing, sounds, stepper, timing_setting, undoing
from waldhorn.pit.bench import view as bench
from waldhorn.pit.bench.context import load
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.bench.steps.pull import PullFields
from waldhorn.pit.motors import book, facts
from waldhorn.store import drafts, findings, rigs
from waldhorn.store import motors as motor_store
from waldhorn.store import readings as reading_store
from waldhorn.store.changes import not_undone
from waldhorn.store.models import CheckRow, ReadingRow, StepState

FACTS = {"tag": "VS-01", "label_kv": "3450", "poles": "4", "poles_known_by": "assumed", "slots": "12", "mass_g": "178"}
RIG = {"rig": "green bench", "method": "loaded-supply", "motor_c": "24", "ambient_c": "22"}
PULL = {"volts": "7.4", "amps": "2", "rpm": "25160", "throttle_pct": "100"}


@pytest.fixture
def check(session):
    facts.take_in(session, FACTS, NOW)
    found = checks.open_check(session, motor_store.find(session, "VS-01"), NOW, "full")
    take(session, found, "setup", **RIG)
    return found


def ctx_of(session, check, minutes=0.0):
    return load(session, check.id, NOW + timedelta(minutes=minutes), with_fleet=True)


def take(session, check, name, minutes=0.0, **typed):
    checks.take_step(session, ctx_of(session, check, minutes), STEPS[name], typed)


def look(session, check, step=""):
    ctx = ctx_of(session, check)
    chosen = stepper.next_step(ctx, step)
    return bench.view(ctx, checks.typed_so_far(session, ctx, chosen), chosen.name)


def rows(session):
    return session.scalars(select(ReadingRow).where(not_undone(ReadingRow)).order_by(ReadingRow.id)).all()


def stored(session):
    return [(r.measure, round(r.value, 3)) for r in rows(session)]


def figures(view):
    return {f.title: f.value for f in view.figures}


@pytest.mark.parametrize("name", [n for n, s in STEPS.items() if any(a.required for a in s.fields.asks().values())])
def test_a_step_names_what_is_still_to_come(session, check, name):
    asked = {n for n, a in STEPS[name].fields.asks().items() if a.required}
    with pytest.raises(InputErrors) as refused:
        take(session, check, name)
    assert set(refused.value.by_field) >= asked - set(STEPS[name].habits(ctx_of(session, check)))
    assert all("is still to come" in refused.value.by_field[n] for n in asked & set(refused.value.by_field))


def test_the_full_check_goes_through_the_steps_in_the_order_technicians_work(session, check):
    order = [s.name for s in stepper.planned(ctx_of(session, check))]
    assert order == [
        "setup",
        "look",
        "gap",
        "detent",
        "sensors",
        "poles",
        "first_spin",
        "pull",
        "timing",
        "noise",
        "heat",
        "answer",
    ]
    for step in order[1:-1]:
        assert look(session, check).step.name == step
        checks.skip(session, ctx_of(session, check), STEPS[step])
    assert look(session, check).step.name == "answer"


def test_a_gap_is_stored_by_its_clock_angle_and_undone(session, check):
    take(session, check, "gap", gaps="0,62 0.60 0.50 0.52", angles="0 90 180 270")
    assert stored(session) == [("gap", 0.62), ("gap", 0.6), ("gap", 0.5), ("gap", 0.52)]
    assert figures(look(session, check, "gap").view)["run-out"] == pytest.approx(0.144, abs=1e-3)
    assert undoing.undo(session, check.motor_id, NOW) == "gap taken"
    assert stored(session) == []
    assert look(session, check, "gap").typed["gaps"] == "0,62 0.60 0.50 0.52"


def test_detent_on_a_lever_is_stored_as_torque_and_the_lever_remembered(session, check):
    take(session, check, "detent", unit="g on the lever", lever_mm="30", peaks="62.5 63 62")
    assert stored(session)[0] == ("detent_peak", 18.387)
    found = look(session, check, "detent")
    assert (found.typed["unit"], found.typed["lever_mm"]) == ("g on the lever", "30")
    assert figures(found.view)["in g·cm"] == pytest.approx(187.5)


def test_grams_on_a_lever_of_unknown_length_stay_grams_and_say_what_they_compare_with(session, check):
    take(session, check, "detent", unit="g on the lever", lever="the bent spoke", peaks="62.5 63 62")
    [first, *_] = rows(session)
    assert (first.measure, first.value, first.lever) == ("detent_force", 62.5, "the bent spoke")
    found = look(session, check, "detent")
    assert found.typed["lever"] == "the bent spoke"
    assert figures(found.view)["median"] == 62.5
    assert "in g·cm" not in figures(found.view)
    assert found.view.words[0] == "Force on a lever of unknown length: compares with “the bent spoke” only."


def test_a_level_on_the_stand_is_not_one_in_the_hand_because_the_last_was(session, check):
    levels = {"background": "50", "full": "80"}
    take(session, check, "noise", **levels, placement="stand", distance_cm="12")
    signing.hang_back(session, ctx_of(session, check))
    again = checks.open_check(session, motor_store.find(session, "VS-01"), NOW + timedelta(days=1), "full")
    take(session, again, "setup", **RIG | {"rig": "kitchen"})
    assert look(session, again, "noise").typed["placement"] == "stand"
    take(session, again, "noise", **levels, placement="hand", distance_cm="30", meter="phone")
    signing.hang_back(session, ctx_of(session, again))
    third = checks.open_check(session, motor_store.find(session, "VS-01"), NOW + timedelta(days=2), "full")
    take(session, third, "setup", **RIG)
    usual = look(session, third, "noise").typed
    assert (usual["placement"], usual["distance_cm"], usual.get("meter")) == ("stand", "12", None)
    take(session, third, "setup", **RIG | {"rig": "kitchen"})
    usual = look(session, third, "noise").typed
    assert (usual["placement"], usual["distance_cm"], usual["meter"]) == ("hand", "30", "phone")


def test_a_zero_where_none_can_be_is_asked_about(session, check):
    with pytest.raises(InputErrors) as refused:
        take(session, check, "pull", **PULL | {"amps": "0"})
    assert refused.value.by_field == {"amps": "0 A was not read: leave it empty"}
    take(session, check, "gap", gaps="0 0.1 0 0.1")
    assert [v for _, v in stored(session)] == [0, 0.1, 0, 0.1]


def test_the_timing_of_a_controller_is_noted_and_shown_at_the_shaft(session, check):
    take(session, check, "setup", **RIG | {"timing_set_deg": "15"})
    take(session, check, "pull", **PULL)
    take(session, check, "setup", **RIG | {"timing_set_deg": "25"})
    take(session, check, "pull", **PULL | {"rpm": "26000"})
    assert {r.timing_set_deg for r in rows(session)} == {15.0, 25.0}
    assert look(session, check, "setup").view.words == ("25° electrical are 12.5° at the shaft.",)


def test_pulls_of_two_meters_make_no_line_and_are_compared_by_the_pair_at_hand(session, check):
    goal = {"target": "2.6", "tolerance": "0.05", "resolution": "1"}
    for at, amps in (("20", "2.0"), ("24", "2.4")):
        take(session, check, "set_timing", setting=at, amps=amps, meter="clamp", **goal)
    for at, amps in (("24", "2.8"), ("28", "3.4")):
        take(session, check, "set_timing", setting=at, amps=amps, idle="0.2", meter="analyser", **goal)
    view = look(session, check, "set_timing").view
    assert [(p.setting_deg, round(p.amps, 2)) for p in view.pulls] == [(24, 2.8), (28, 3.4)]  # as typed
    assert view.words[0] == "2 pulls by clamp stand apart: it shows 0.86 ± 0.02 of this one."
    assert "2.6 A by clamp = 3.03 ± 0.06 A by analyser for this motor." in view.words
    assert "0.2 A of the 3.4 are the controller's own." in view.words
    typed = look(session, check, "set_timing").typed
    assert (typed["meter"], typed["idle"]) == ("analyser", "0.2")
    assert ("idle_current", 0.2) in stored(session)


def test_a_target_of_one_rig_is_reached_on_another_only_by_pulls_at_one_setting_on_both(session, check):
    goal = {"target": "6.5", "tolerance": "0.05", "resolution": "1"}
    for at, amps in (("10", "2.60"), ("22", "9.20")):
        take(session, check, "set_timing", setting=at, amps=amps, meter="hand meter", **goal)
    take(session, check, "set_timing", setting="16", amps="4.7", meter="analyser", **goal)
    unknown = look(session, check, "set_timing").view
    assert (unknown.proposal, unknown.target) == (None, None)
    said = "6.5 A was set by hand meter: pull at one setting by both, then it is known by analyser."
    assert said in unknown.words
    for at, amps in (("10", "1.88"), ("22", "6.62")):
        take(session, check, "set_timing", setting=at, amps=amps, meter="analyser", **goal)
    known = look(session, check, "set_timing").view
    assert "6.5 A by hand meter = 4.69 ± 0.09 A by analyser for this motor." in known.words
    assert (known.proposal.reached, known.proposal.setting_deg) == (True, 16)


def test_two_pulls_of_one_setting_that_do_not_agree_are_asked_about(session, check):
    for amps in ("2.0", "2.6"):
        take(session, check, "set_timing", setting="24", amps=amps, target="2.6", tolerance="0.05", resolution="1")
    words = look(session, check, "set_timing").view.words
    assert words[0] == "At 24° 2.00 and 2.60 A: pull once more, set the wrong aside."


def test_a_peak_apart_is_set_aside_and_counts_no_more(session, check):
    take(session, check, "detent", unit="N·mm", peaks="18.2 18.6 18.1 18.9 29 18.3")
    checks.set_outliers_aside(session, ctx_of(session, check), STEPS["detent"])
    aside = [r for r in rows(session) if not r.accepted]
    assert [(r.value, r.aside_reason) for r in aside] == [(29.0, "stands apart from the other peaks")]
    with pytest.raises(InputError, match="no peak stands apart"):
        checks.set_outliers_aside(session, ctx_of(session, check), STEPS["detent"])


def test_lamps_become_a_finding_that_the_judge_weighs(session, check):
    take(session, check, "sensors", states="101 100 110 111 101 100", turned="not noted")
    assert ctx_of(session, check).lamps().kind == "stuck"
    named = {f.fault: f.probability for f in look(session, check).judgement.faults if not f.also}
    assert named["failing_sensor"] > 5 * named["cracked_magnet"]


def test_exchanged_wires_are_found_by_the_direction_of_an_earlier_check(session, check):
    take(session, check, "sensors", states="101 100 110 010 011 001", turned="clockwise")
    check.open = False
    later = checks.open_check(session, motor_store.find(session, "VS-01"), NOW + timedelta(days=1), "only:sensors")
    take(session, later, "setup", minutes=1440, **RIG)
    take(session, later, "sensors", minutes=1500, states="001 011 010 110 100 101", turned="clockwise")
    assert ctx_of(session, later).lamps().kind == "swapped"


def test_the_reference_motor_stays_on_the_drill_for_the_day_and_is_not_read_again_by_that(session, check):
    take(session, check, "poles", frequency_hz="116.8 116.5", reference_hz="33.4 33.3", reference_poles="4")
    facts.take_in(session, FACTS | {"tag": "VS-02"}, NOW)
    other = checks.open_check(session, motor_store.find(session, "VS-02"), NOW, "full")
    take(session, other, "setup", **RIG)
    shown = look(session, other, "poles").typed
    assert (shown["reference_hz"], shown["reference_poles"]) == ("33.4 33.3", "4")
    before = len(rows(session))
    take(session, other, "poles", counted="4", **{n: shown[n] for n in ("reference_hz", "reference_poles")})
    assert len(rows(session)) == before
    take(session, other, "poles", frequency_hz="66.7", **{n: shown[n] for n in ("reference_hz", "reference_poles")})
    assert len(rows(session)) == before + 3
    tomorrow = load(session, other.id, NOW + timedelta(days=1), with_fleet=True)
    assert STEPS["poles"].habits(tomorrow) == {}


def test_counted_poles_are_written_into_the_facts_and_undone(session, check):
    take(session, check, "poles", counted="8")
    row = motor_store.find(session, "VS-01")
    assert (row.poles, row.poles_known_by, row.slots) == (8, "counted", 12)
    undoing.undo(session, check.motor_id, NOW)
    session.refresh(row)
    assert (row.poles, row.poles_known_by) == (4, "assumed")


def test_frequencies_that_settle_nothing_change_nothing(session, check):
    take(session, check, "poles", frequency_hz="116.7 124.0", shaft_rpm="1000 940")
    assert ctx_of(session, check).poles().poles is None
    assert motor_store.find(session, "VS-01").poles == 4
    assert not stepper.finished(ctx_of(session, check), STEPS["poles"])


def test_rebasing_brings_every_speed_to_the_true_count_and_back(session, check):
    take(session, check, "pull", p2p="50", **PULL)
    take(session, check, "poles", counted="2")
    assert checks.rebase(session, ctx_of(session, check)) == 2
    assert ("rpm", 50320.0) in stored(session)
    assert ("rpm_p2p", 100.0) in stored(session)
    with pytest.raises(InputError):
        checks.rebase(session, ctx_of(session, check))
    undoing.undo(session, check.motor_id, NOW)
    assert ("rpm", 25160.0) in stored(session)


def test_rough_at_first_spin_closes_the_power(session, check):
    take(session, check, "first_spin", heard="rough", rpm="3100")
    with pytest.raises(InputErrors) as refused:
        take(session, check, "pull", **PULL)
    assert "ran rough" in refused.value.by_field["closed"]
    with pytest.raises(InputError, match="say why"):
        checks.overrule(session, ctx_of(session, check), "first_spin", "")
    checks.overrule(session, ctx_of(session, check), "first_spin", "it was the clamp")
    take(session, check, "pull", **PULL)
    assert ("rpm", 25160.0) in stored(session)


def test_a_first_spin_is_not_a_pull(session, check):
    take(session, check, "first_spin", heard="smooth", rpm="3100")
    assert STEPS["pull"].counted(ctx_of(session, check)) == 0
    take(session, check, "pull", **PULL)
    assert [p.rpm for p in look(session, check, "pull").view.rows] == [25160.0]


def test_part_throttle_does_not_count_as_a_full_pull_but_shows_growth(session, check):
    for pct, amps, rpm in (
        ("25", "0.6", "6290"),
        ("50", "1.1", "12580"),
        ("50 %", "1.1", "12580"),
        ("100", "2", "25160"),
    ):
        take(session, check, "pull", volts="7.4", amps=amps, rpm=rpm, throttle_pct=pct)
    found = look(session, check, "pull")
    assert [p.throttle_pct for p in found.view.rows] == [25.0, 50.0, 50.0, 100.0]
    assert 0.8 < figures(found.view)["current grows with speed"] < 0.95
    kv = next(e for e in found.judgement.evidence if e.quantity.name == "kv")
    assert kv.n_now == 1


def test_the_losses_of_before_stand_beside_those_of_now(session, check):
    def spun(check, minutes):
        take(session, check, "setup", minutes=minutes, **RIG)
        for pct, amps, rpm in (("25", "0.6", "6290"), ("50", "1.1", "12580"), ("75", "1.5", "18870")):
            take(session, check, "pull", minutes, volts="7.4", amps=amps, rpm=rpm, throttle_pct=pct, ammeter="motor")
        take(session, check, "pull", minutes, **PULL, ammeter="motor")
        return STEPS["pull"].view(ctx_of(session, check, minutes), PullFields(), ()).spin_up

    first = spun(check, 0.0)
    assert first.before is None
    signing.hang_back(session, ctx_of(session, check))
    again = checks.open_check(session, motor_store.find(session, "VS-01"), NOW + timedelta(days=20), "full")
    second = spun(again, 28_800.0)
    for part in ("friction", "per_speed"):
        assert getattr(second.before, part) == pytest.approx(getattr(first.now, part), rel=1e-6)


def test_two_sweeps_give_mean_spread_and_mechanical_degrees(session, check):
    take(session, check, "timing", a="27.8", b="28.4", c="28.1", sweep="evenly")
    take(session, check, "timing", a="28", b="28.6", c="28.3", sweep="hunted")
    found = look(session, check, "timing").view
    assert figures(found)["mean"] == pytest.approx(28.3)
    assert figures(found)["at the end bell"] == pytest.approx(14.15)
    assert found.words[0] == "Runs differ by 0.2°."
    assert "hunted" in found.words[1]


def test_the_timing_setter_proposes_and_does_not_touch_what_is_judged(session, check):
    take(session, check, "set_timing", setting="20", amps="2.0", target="3", tolerance="0.05", resolution="1")
    take(session, check, "set_timing", setting="25", amps="2.5", target="3", tolerance="0.05", resolution="1")
    found = look(session, check, "set_timing")
    assert figures(found.view)["next, set"] == 29.0
    assert found.typed["setting"] == "29"
    assert "The target holds for green bench only." in found.view.words
    current = next(e for e in found.judgement.evidence if e.quantity.name == "no_load_current")
    assert current.now is None
    take(session, check, "set_timing", setting="29", amps="3.0", target="3", tolerance="0.05", resolution="1")
    reached = look(session, check, "set_timing")
    assert "leave it at" in figures(reached.view)
    assert "setting" not in reached.typed


def test_writing_a_timing_setting_down_is_undone_with_the_setting(session, check):
    take(session, check, "setup", **RIG, timing_set_deg="20")
    for setting, amps in (("20", "2.0"), ("25", "2.5"), ("29", "3.0")):
        take(session, check, "set_timing", setting=setting, amps=amps, target="3", tolerance="0.05", resolution="1")
    timing_setting.write_down(session, ctx_of(session, check))
    assert ctx_of(session, check).check.timing_set_deg == 29
    assert [e.event for e in ctx_of(session, check).history.events] == ["timing_changed"]
    undoing.undo(session, check.motor_id, NOW)
    assert ctx_of(session, check).check.timing_set_deg == 20
    assert not ctx_of(session, check).history.events


def test_the_form_of_a_check_that_was_undone_never_comes_back(session, check):
    ctx = ctx_of(session, check)
    drafts.store_draft(session, check.id, "pull", 1, {"volts": "7.4"})
    while undoing.undo(session, check.motor_id, NOW) != "check opened":
        pass
    again = checks.open_check(session, motor_store.find(session, "VS-01"), NOW, "full")
    assert again.id != ctx.check.id
    assert checks.typed_so_far(session, ctx_of(session, again), STEPS["pull"]).get("volts") is None


def test_noise_too_close_to_the_hall_is_kept_and_said_to_be_a_bound(session, check):
    take(session, check, "noise", background="70", lowest="74", full="72", placement="hand", distance_cm="20")
    assert look(session, check, "noise").view.words == ("Within 3 dB of the hall: full is at most 72 dB.",)
    assert {(r.measure, r.throttle_pct, r.placement, r.distance_cm) for r in rows(session)} == {
        ("noise_background", None, "hand", 20),
        ("noise_avg", 15, "hand", 20),
        ("noise_avg", 100, "hand", 20),
    }


def test_the_first_temperature_is_judged_the_others_show_how_it_cools(session, check):
    take(session, check, "heat", surface_c="62", ambient_c="22")
    take(session, check, "heat", minutes=5, surface_c="42", ambient_c="22", compare_c="30")
    found = look(session, check, "heat")
    assert figures(found.view)["rise"] == 40
    # half the excess is gone in five minutes: τ = 300 s / ln 2; within 3 K of 30 °C after τ·ln(40 / 11)
    assert figures(found.view)["comparable in all"] == pytest.approx(5 / 0.6931 * 1.291, rel=1e-3)
    rise = next(e for e in found.judgement.evidence if e.quantity.name == "temperature")
    assert (rise.now, rise.n_now) == (40, 1)


def test_a_load_row_is_kept_apart_and_figured(session, check):
    take(
        session, check, "load", what="two-blade 42", rest_v="7.9", load_v="7.1", amps="31", watts="220", thrust_g="900"
    )
    found = look(session, check, "load").view
    assert figures(found)["thrust per watt"] == pytest.approx(900 / 220.1)
    assert figures(found)["thrust to mass"] == pytest.approx(900 / 178)
    assert figures(found)["under way, wing or boat only"] == "17.1 to 24.8"
    assert found.words == ()


def test_a_flywheel_trace_from_a_table_with_a_heading(session, check):
    trace = "seconds,rpm\n" + "\n".join(f"{i / 10},{600 * i / 10}" for i in range(21))
    take(session, check, "flywheel", trace=trace, inertia="0.0002", at_rpm="600")
    assert stored(session) == [("flywheel_torque", 12.566), ("response", 600.0)]
    assert ctx_of(session, check).trace().inertia_kgm2 == 0.0002


def test_stopping_passes_the_rest_over_and_keeps_why(session, check):
    with pytest.raises(InputError):
        checks.stop(session, ctx_of(session, check), " ")
    take(session, check, "look", shaft="ok")
    checks.stop(session, ctx_of(session, check), "called to the heat")
    assert look(session, check).step.name == "answer"
    ctx = ctx_of(session, check)
    assert (ctx.check.stopped_because, ctx.step_states()["noise"]) == ("called to the heat", StepState.SKIPPED)
    undoing.undo(session, check.motor_id, NOW)
    assert look(session, check).step.name == "gap"


def test_a_motor_without_power_is_not_turned_by_a_drill_either(session, check):
    take(session, check, "look", magnets="bad")
    with pytest.raises(InputErrors) as refused:
        take(session, check, "poles", frequency_hz="33.1 33.4", shaft_rpm="1000 1002")
    assert "until it is mended: magnets" in refused.value.by_field["frequency_hz"]
    take(session, check, "poles", counted="4")
    checks.overrule(session, ctx_of(session, check, 1), "magnets", "looked again: only dirt")
    checks.take_step(session, ctx_of(session, check, 2), STEPS["poles"], {"frequency_hz": "33.1", "shaft_rpm": "1000"})
    assert [r.value for r in rows(session) if r.measure == "electrical_frequency"] == [33.1]


def test_findings_change_and_come_back_by_undo(session, check):
    take(session, check, "look", shaft="ok", bearings="doubt", bearings_note="gritty")
    take(session, check, "look", shaft="bad", bearings="doubt", bearings_note="gritty")
    undoing.undo(session, check.motor_id, NOW)
    found = {item: (f.state, f.note) for item, f in ctx_of(session, check).inspected().items()}
    assert found == {"shaft": ("ok", ""), "bearings": ("doubt", "gritty")}


def test_a_draft_that_comes_late_is_let_go_and_goes_with_its_check(session, check):
    take(session, check, "pull", **PULL)
    for run, kept in (("1", {}), ("2", {"volts": "9"})):
        checks.keep_draft(session, check.id, "pull", {"volts": "9", "run": run})
        assert checks.typed_so_far(session, ctx_of(session, check), STEPS["pull"]) == kept
    for _ in range(3):
        undoing.undo(session, check.motor_id, NOW)
    assert drafts.of_check(session, check.id) == {}
    again = checks.open_check(session, motor_store.find(session, "VS-01"), NOW, "full")
    assert again.id != check.id
    assert drafts.of_check(session, again.id) == {}


def test_another_list_of_steps_keeps_what_was_done(session, check):
    take(session, check, "gap", gaps="0.6 0.6 0.6 0.61")
    checks.change_plan(session, ctx_of(session, check), "quick")
    assert "gap" in [s.name for s in stepper.planned(ctx_of(session, check))]
    checks.change_plan(session, ctx_of(session, check), "only:noise")
    assert [s.name for s in stepper.planned(ctx_of(session, check))][-2:] == ["noise", "answer"]
    with pytest.raises(InputError, match="no list of steps"):
        checks.change_plan(session, ctx_of(session, check), "only:nothing")


@pytest.mark.parametrize("data", [b"", b"no picture", b"\x89PNG\r\n\x1a\n" + b"0" * 50, b"GIF89a" + b"0" * 99])
def test_what_is_no_picture_is_refused(session, check, data):
    with pytest.raises(InputError, match="no picture"):
        pictures.attach(session, ctx_of(session, check), "shaft", data)


def test_a_picture_of_nothing_and_too_large_a_one_are_refused(session, check):
    with pytest.raises(InputError, match="nothing to look at"):
        pictures.attach(session, ctx_of(session, check), "sail", b"")
    with pytest.raises(InputError, match="8 MB at most"):
        pictures.plain(b"0" * (pictures.MOST_BYTES + 1))


def test_every_reading_carries_its_conditions(session, check):
    take(session, check, "pull", **PULL)
    take(session, check, "timing", a="27.8", b="28.4", c="28.1", sweep="evenly")
    kept = reading_store.history(session, check.motor_id).checks[0].readings
    assert {(r.conditions.rig, r.conditions.motor_c, r.conditions.ambient_c) for r in kept} == {("green bench", 24, 22)}
    assert {r.conditions.method for r in kept if r.measure == "rpm"} == {"loaded-supply"}


def test_a_screw_that_reaches_the_windings_forbids_power(session, check):
    take(session, check, "look", screw_mm="8", mount_mm="3", thread_mm="4")
    found = ctx_of(session, check).inspected()["screws"]
    assert found.state == "bad"
    assert found.note == "The screw reaches 5.0 mm into 4.0 mm of thread: too long, it can reach the windings."
    assert [c.subject for c in stepper.closed(ctx_of(session, check), STEPS["pull"])] == ["screws"]


@pytest.mark.parametrize(
    ("screw", "words"),
    [
        ("6.5", "The screw reaches 3.5 mm into 4.0 mm of thread."),
        ("4.9", "The screw reaches 1.9 mm into 4.0 mm of thread: it hardly holds."),
        ("7", "The screw reaches 4.0 mm into 4.0 mm of thread."),
    ],
)
def test_a_screw_that_fits_forbids_nothing(session, check, screw, words):
    take(session, check, "look", screw_mm=screw, mount_mm="3", thread_mm="4", screws="ok")
    assert ctx_of(session, check).inspected()["screws"].state == "ok"
    shown = bench.view(ctx_of(session, check), {"screw_mm": screw, "mount_mm": "3", "thread_mm": "4"}, "look")
    assert words in shown.view.words


def test_a_drill_draws_nothing_so_amps_may_stay_empty(session, check):
    take(session, check, "setup", **RIG | {"method": "back-emf"})
    take(session, check, "pull", volts="5.2", rpm="24800")
    assert [m for m, _ in stored(session)] == ["supply_volts", "rpm"]


@pytest.mark.parametrize(
    ("step", "typed", "kept", "says"),
    [
        ("pull", {"rpm": "25160"}, [("rpm", 25160.0)], "Run 1 without volts: no KV from it."),
        ("pull", {"amps": "2.2"}, [("no_load_current", 2.2)], "Run 1 without volts and rpm: no KV from it."),
        ("pull", {"p2p": "50"}, [("rpm_p2p", 50.0)], ""),
        ("noise", {"full": "88"}, [("noise_avg", 88.0)], "Hall not read: full is at most 88 dB."),
        ("noise", {"background": "60"}, [("noise_background", 60.0)], ""),
        ("timing", {"a": "20.5"}, [("timing_a", 20.5)], ""),
        ("resistance", {"ab": "16"}, [("winding_resistance_ab", 16.0)], ""),
        ("heat", {"surface_c": "44"}, [("temperature", 44.0)], ""),
        ("load", {"what": "5x4", "watts": "120", "thrust_g": "600"}, [("load_watts", 120.0), ("thrust", 600.0)], ""),
    ],
)
def test_what_was_read_is_taken_though_something_else_was_not(session, check, step, typed, kept, says):
    stands = {"noise": {"placement": "stand", "distance_cm": "10"}, "timing": {"sweep": "evenly"}}.get(step, {})
    take(session, check, step, **stands | typed)
    assert stored(session) == kept
    shown = bench.view(ctx_of(session, check), {}, step)
    assert says in (*shown.view.words, "")
    with pytest.raises(InputErrors, match="still to come"):
        take(session, check, step, **stands)


@pytest.mark.parametrize("measure", MEASURES)
def test_any_measure_is_taken_alone_where_no_step_asks_for_it(session, check, measure):
    m = MEASURES[measure]
    value = round((m.low + min(m.high, 80)) / 2 + 0.25, 2)  # three digits after a point could be thousands
    take(session, check, "other", measure=measure, value=f"{value:g} {m.unit}", meter="the old one", lever="short arm")
    [row] = reading_store.of_check(session, check.id)
    assert (row.measure, row.value) == (measure, pytest.approx(value))
    assert (row.meter, row.lever, row.rig) == ("the old one", "short arm", ctx_of(session, check).check.rig)
    assert row.method == ("instrument" if measure == "kv" else "")
    with pytest.raises(InputErrors, match="not a number"):
        take(session, check, "other", measure=measure, value="a lot")


def test_another_unit_is_brought_to_the_stored_one(session, check):
    take(session, check, "other", measure="shaft_torque", value="0.31 Nm")
    take(session, check, "other", measure="shaft_torque", value="0.30 Nm")
    assert stored(session) == [("shaft_torque", pytest.approx(310)), ("shaft_torque", pytest.approx(300))]
    assert [r.run for r in reading_store.of_check(session, check.id)] == [1, 2]


def test_a_load_row_keeps_its_throttle_and_pack_for_the_next(session, check):
    take(session, check, "load", what="6x4", load_v="11.1", amps="7", throttle_pct="50", pack="racing", cells="3S")
    [row, *_] = reading_store.of_check(session, check.id)
    assert (row.throttle_pct, row.pack, row.cells) == (50.0, "racing", 3.0)
    assert STEPS["load"].habits(ctx_of(session, check)) == {"pack": "racing", "cells": "3"}


def test_a_load_still_says_what_was_on_the_shaft(session, check):
    with pytest.raises(InputErrors, match="propeller or wheel is still to come"):
        take(session, check, "load", watts="120", thrust_g="600")


def test_a_run_taken_elsewhere_meanwhile_is_the_next_run(session, check):
    take(session, check, "pull", volts="7.4", amps="2.2", rpm="25160", run="1")
    take(session, check, "pull", volts="7.4", amps="2.3", rpm="25190", run="1")
    taken = {r.run: r.value for r in ctx_of(session, check).readings if r.measure == "rpm"}
    assert taken == {1: 25160, 2: 25190}


def test_heat_takes_out_what_the_motor_started_with(session, check):
    take(session, check, "setup", **RIG | {"motor_c": "30", "ambient_c": "22"})
    assert look(session, check, "heat").typed["before_c"] == "30"
    take(session, check, "heat", surface_c="47", ambient_c="22", before_c="30", energy_j="999")
    found = figures(look(session, check, "heat").view)
    rise = 25 - 8 * 2.71828 ** (-28 / 420)
    assert found["rise of the run"] == pytest.approx(rise, rel=1e-4)
    assert found["for each kilojoule"] == pytest.approx(1000 * rise / 999, rel=1e-4)
    assert next(e for e in look(session, check).judgement.evidence if e.quantity.name == "temperature").now == (
        pytest.approx(rise, rel=1e-4)
    )


def test_noise_and_heat_carry_the_volts_that_were_read(session, check):
    take(session, check, "noise", background="60", full="81", placement="stand", distance_cm="10")
    take(session, check, "pull", volts="7.4", amps="2.2", rpm="25160")
    take(session, check, "heat", surface_c="47", ambient_c="22")
    volts = {r.measure: r.supply_v for r in rows(session) if r.measure in ("noise_avg", "temperature")}
    assert volts == {"noise_avg": None, "temperature": 7.4}


def test_a_load_row_beyond_its_ratings_is_said(session, check):
    motor = motor_store.find(session, "VS-01")
    motor.rated_a, motor.rated_w, motor.rated_rpm = 25, 200, 30_000
    take(session, check, "load", what="two-blade 42", load_v="7.1", amps="31", rpm="18000")
    assert look(session, check, "load").view.words == (
        "31 A is above its rated 25 A.",
        "220 W is above its rated 200 W.",
    )


def test_masses_are_compared_at_one_lead_length(session, check):
    motor = motor_store.find(session, "VS-01")
    motor.lead_mm, motor.lead_awg, motor.motor_class = 160, 14, "one-design"
    trace = "\n".join(f"{i / 10} {600 * i / 10}" for i in range(21))
    take(session, check, "flywheel", trace=trace, inertia="0.0002", at_rpm="600")
    ctx = load(session, check.id, NOW, with_fleet=True)
    assert ctx.fleet["VS-01"][1] == pytest.approx(178 - 0.1 * 3 * 27)


def run_out(friction, seconds=60):
    """A trace of a motor that runs out from 25 000 rpm, 50 values a second."""
    true = coast_down.CoastDown(friction, 1.3e-6 / 2.4e-6, 25_000)
    return "seconds;rpm\n" + "\n".join(f"{t / 50};{coast_down.speed_at(true, t / 50):.0f}" for t in range(seconds))


def test_a_run_out_is_read_from_its_trace_and_held_against_the_one_before(session, check):
    take(session, check, "coast_down", trace=run_out(1250), inertia="24")
    found = dict(stored(session))
    assert found["coast_down_time"] == pytest.approx(1.4, abs=0.01)
    assert (found["friction_torque"], found["loss_slope"]) == pytest.approx((3.0, 1.3), rel=0.02)
    told = bench.view(ctx_of(session, check), {"trace": run_out(1250)}, "coast_down").view
    assert figures(told)["friction per inertia"] == pytest.approx(1250, rel=0.01)
    assert told.words == ("The first of its kind: it is what later ones are held against.",)
    session.get(CheckRow, check.id).open = False
    later = checks.open_check(session, motor_store.find(session, "VS-01"), NOW + timedelta(days=30), "full")
    for seconds, says in (("1.05", "It stops 25 % sooner"), ("1.38", "no more than a stopwatch leaves open")):
        ctx = load(session, later.id, NOW + timedelta(days=30))
        words = bench.view(ctx, {"rpm": "24800", "seconds": seconds}, "coast_down").view.words
        assert says in words[0]


@pytest.mark.parametrize(
    ("typed", "field", "says"),
    [
        ({}, "seconds", "paste a trace"),
        ({"rpm": "25000"}, "seconds", "paste a trace"),
        ({"trace": "0 25000\n0.1 24000"}, "trace", "2 values are too few"),
        ({"trace": "\n".join(f"{t} {25000 - t}" for t in range(20))}, "trace", "slow to half its speed"),
        ({"trace": "0 25000\nfast faster"}, "trace", "line 2, “fast faster”: write seconds and rpm"),
    ],
)
def test_what_is_no_run_out_is_refused(session, check, typed, field, says):
    with pytest.raises(InputErrors) as refused:
        take(session, check, "coast_down", **typed)
    assert says in refused.value.by_field[field]


def test_whose_amps_are_read_is_taken_from_the_rigs_page_and_part_throttle_then_tells_the_losses(session, check):
    rig = ctx_of(session, check).check.rig
    assert STEPS["pull"].habits(ctx_of(session, check))["ammeter"] == "supply"
    rigs.describe(session, rig, rigs.Described(measures="motor amps"))
    habits = STEPS["pull"].habits(ctx_of(session, check))
    assert habits["ammeter"] == "motor"
    for pct, amps in ((15, 1.36), (30, 1.52), (50, 1.73), (100, 2.25)):
        typed = {"volts": f"{0.074 * pct:g}", "amps": f"{amps}", "rpm": f"{252 * pct}", "throttle_pct": f"{pct}"}
        take(session, check, "pull", **(habits | typed))
    shown = figures(look(session, check, "pull").view)
    assert shown["friction"] == pytest.approx(3.35, rel=0.05)
    assert shown["speed-dependent loss"] == pytest.approx(1.1, rel=0.1)


def test_a_known_disc_finds_the_rotors_inertia_and_its_run_out_is_compared_with_none(session, check):
    typed = {"rpm": "25000", "seconds": "3.15", "disc": "30"}
    early = bench.view(ctx_of(session, check), typed, "coast_down").view
    assert early.words == ("Let the bare rotor coast down first, from the same speed.",)
    take(session, check, "coast_down", rpm="25000", seconds="1.4")
    found = bench.view(ctx_of(session, check), typed, "coast_down").view
    assert figures(found)["rotor's inertia"] == pytest.approx(24.0, rel=0.005)
    take(session, check, "coast_down", **typed)
    assert look(session, check, "coast_down").view.rows == [(25000, 1.4)]
    assert "rotor's inertia" not in figures(
        bench.view(ctx_of(session, check), typed | {"rpm": "12000"}, "coast_down").view
    )
    assert "rotor's inertia" not in figures(
        bench.view(ctx_of(session, check), typed | {"seconds": "1"}, "coast_down").view
    )


BEFORE, AFTER = "0.590 0.650 0.681 0.664 0.610 0.550 0.519 0.536", "0.640 0.608 0.571 0.552 0.560 0.592 0.629 0.648"


def test_a_rotor_turned_between_two_series_tells_which_part_is_bent(session, check):
    early = bench.view(ctx_of(session, check), {"gaps": AFTER}, "gap_turned").view
    assert early.words == ("Gauge it as it stands first: that is the step before.",)
    take(session, check, "gap", gaps=BEFORE)
    take(session, check, "gap_turned", gaps=AFTER)
    assert {r.measure for r in rows(session)} == {"gap", "gap_turned"}
    judged = next(
        e
        for e in bench.view(ctx_of(session, check), {}, "gap_turned").judgement.evidence
        if e.quantity.name == "run_out"
    )
    assert (judged.now, judged.raw) == (pytest.approx(0.12, abs=0.002), pytest.approx(0.15, abs=0.03))
    words = look(session, check, "gap_turned").view.words
    assert "0.12 mm turn with the rotor, 0.06 mm stay where they are: shaft or bell, opening towards 114°." in words
    told = bench.view(ctx_of(session, check), {"gaps": BEFORE}, "gap_turned").view.words
    assert "the stator or the mount, not the shaft" in told[-1]
    few = bench.view(ctx_of(session, check), {"gaps": "0.6 0.58 0.62 0.6"}, "gap_turned").view.words
    assert few == ("Six angles or more in both series tell which part is bent.",)
    assert look(session, check, "gap").view.words[0].startswith("Opens towards 97")


def test_a_drill_gives_kv_of_its_own_school_and_names_a_weak_phase(session, check):
    take(session, check, "back_emf", rpm="1000", a="0.3", b="0.292", c="0.292")
    found = dict(stored(session))
    assert found["kv"] == pytest.approx(1000 / 0.2947, rel=1e-3)
    assert {r.method for r in rows(session) if r.measure == "kv"} == {"back-emf"}
    assert "Phase C stands 5.4 % below" in look(session, check, "back_emf").view.words[0]
    assert "back_emf" in [s.name for s in stepper.planned(ctx_of(session, check))]
    with pytest.raises(InputErrors) as refused:
        take(session, check, "back_emf", rpm="1000", a="3", b="0.292", c="0.292")
    assert "one of them was misread" in refused.value.by_field["a"]
    equal = bench.view(ctx_of(session, check), {"rpm": "1000", "a": "0.3", "b": "0.3", "c": "0.3"}, "back_emf").view
    assert figures(equal)["unbalance"] == 0
    assert "give the same" in equal.words[0]


def recorded(kv=3430.0, divided=10.0, weak=1.0):
    """A recording behind a divider as a scope writes it, of four poles turned at 1000 rpm."""
    turns = np.arange(5000) / 5000 * 1000 / 60 * 2
    a, b, c = (1000 / kv / 3**0.5 / divided * np.sin(2 * np.pi * (turns - k / 3)) for k in range(3))
    c = weak * c
    rows = (f"{i / 5000:.4f},{x:.6f},{y:.6f}" for i, (x, y) in enumerate(zip(a - b, b - c, strict=True)))
    return "seconds,ab,bc\n" + "\n".join(rows)


def test_a_recording_gives_the_drills_speed_its_kv_and_what_stands_out(session, check):
    take(session, check, "back_emf", recording=recorded(), divider="10")
    assert dict(stored(session))["kv"] == pytest.approx(3430, rel=0.002)
    words = bench.view(
        ctx_of(session, check), {"recording": recorded(weak=0.9), "divider": "10"}, "back_emf"
    ).view.words
    assert words[0].startswith("Phase C stands 10.")
    assert words[1] == "The drill turned at 1000 rpm, 33 electrical turns a second."
    assert words[2] == "Its 2 pole pairs give the same: no magnet stands out."


@pytest.mark.parametrize(
    ("typed", "field", "says"),
    [
        ({"recording": "0 1 2"}, "recording", "a row a line"),
        ({"recording": "seconds,ab,bc\n0,1"}, "recording", "line 2"),
        ({"recording": "\n".join(recorded().splitlines()[:40])}, "recording", "39 rows are too few"),
        ({"rpm": "1000", "a": "0.3"}, "b", "or paste a recording"),
        ({}, "rpm", "or paste a recording"),
    ],
)
def test_what_is_no_back_emf_is_refused(session, check, typed, field, says):
    with pytest.raises(InputErrors) as refused:
        take(session, check, "back_emf", **typed)
    assert says in refused.value.by_field[field]


# sounds


def hiss(seconds=2.0, rate=48_000, ringing=0.0):
    t = np.arange(int(seconds * rate)) / rate
    hum = 0.2 * np.sin(2 * np.pi * 500 * t) + ringing * np.sin(2 * np.pi * 7000 * t)
    return hum + np.random.default_rng(1).normal(0, 0.05, len(t))


def as_wav(samples, rate=48_000):
    out = io.BytesIO()
    soundfile.write(out, samples, rate, format="WAV")
    return out.getvalue()


@pytest.mark.parametrize(
    ("step", "data", "rate", "says"),
    [
        ("noise", b"", None, "no sound that can be read"),
        ("noise", b"RIFF" + b"0" * 99, None, "no sound that can be read"),
        ("noise", hiss().astype("<f4").tobytes(), 4_000, "4000 values a second"),
        ("noise", hiss().astype("<f4").tobytes(), 0, "no sound that can be read"),
        ("noise", as_wav(np.zeros((90_000, 8)), 48_000), None, "nothing to be heard"),
        ("noise", b"0" * (sounds.MOST_BYTES + 1), None, "8 MB at most"),
        ("pull", as_wav(hiss()), None, "nothing is listened to"),
        ("sail", as_wav(hiss()), None, "nothing is listened to"),
    ],
)
def test_what_is_no_sound_is_refused(session, check, step, data, rate, says):
    with pytest.raises(InputError, match=says):
        sounds.attach(session, ctx_of(session, check), step, data, rate, "")
    assert ctx_of(session, check).found.recordings == []


def test_a_sound_is_kept_as_one_channel_of_flac_and_undone(session, check):
    both = np.stack([hiss(), np.zeros(96_000)], axis=1)
    sounds.attach(session, ctx_of(session, check), "noise", as_wav(both), None, "half, 10 cm")
    [kept] = ctx_of(session, check).recordings("noise")
    assert (kept.note, ctx_of(session, check).recordings("coast_down")) == ("half, 10 cm", [])
    samples, rate = soundfile.read(io.BytesIO(findings.sound(session, kept.id).flac))
    assert (samples.shape, rate) == ((96_000,), 48_000)
    assert samples == pytest.approx(hiss(), abs=1e-4)
    undoing.undo(session, check.motor_id, NOW)
    assert ctx_of(session, check).found.recordings == []
    assert findings.sound(session, kept.id) is None


@pytest.mark.parametrize(
    ("ringing", "says"), [(0.0, "The same shape as on"), (0.2, "4 to 12 kHz, where bearings ring, stands 1")]
)
def test_a_sound_is_held_against_the_first_of_an_earlier_check(session, check, ringing, says):
    sounds.attach(session, ctx_of(session, check), "noise", as_wav(hiss()), None, "")
    signing.hang_back(session, ctx_of(session, check))
    with pytest.raises(InputError, match="this check is closed"):
        sounds.attach(session, ctx_of(session, check), "noise", as_wav(hiss()), None, "")
    with pytest.raises(InputError, match="this check is closed"):
        pictures.attach(session, ctx_of(session, check), "shaft", b"")
    minutes = 30 * 24 * 60
    later = checks.open_check(session, motor_store.find(session, "VS-01"), NOW + timedelta(minutes=minutes), "full")
    sounds.attach(session, ctx_of(session, later, minutes), "noise", as_wav(hiss(ringing=ringing)), None, "")
    heard = sounds.heard(session, ctx_of(session, later, minutes), "noise")
    assert [r.check for r in heard.recordings] == [later.id, check.id]
    assert says in heard.words[-1]
    assert len(heard.curve.line) == len(heard.curve.before) == 23
    slow = hiss(ringing=ringing)[::3]
    sounds.attach(session, ctx_of(session, later, minutes), "noise", as_wav(slow, 16_000), None, "")
    assert "4 to 7 kHz" in sounds.heard(session, ctx_of(session, later, minutes), "noise").words[-1]


def test_the_first_sound_has_nothing_before_it_and_one_too_loud_is_told(session, check):
    sounds.attach(session, ctx_of(session, check), "noise", as_wav(np.sign(hiss())), None, "")
    heard = sounds.heard(session, ctx_of(session, check), "noise")
    assert heard.words == ["Too loud for the microphone: further away, or with its gain down."]
    assert heard.curve.before == []
    for _ in range(sounds.MOST_SOUNDS - 1):
        sounds.attach(session, ctx_of(session, check), "noise", as_wav(hiss(1.0)), None, "")
    with pytest.raises(InputError, match="that is enough"):
        sounds.attach(session, ctx_of(session, check), "noise", as_wav(hiss()), None, "")


def test_under_what_it_was_read_the_last_time_is_one_key_away_and_warmth_is_not(session, check):
    take(session, check, "setup", **RIG)
    take(session, check, "load", what="5045x3", load_v="14.1", amps="30", pack="red 1300", cells="4")
    under = {"placement": "hand", "distance_cm": "12", "motor_c": "31", "meter": "phone"}
    take(session, check, "other", measure="shaft_power", value="92", **under)
    check.open = False
    later = checks.open_check(session, motor_store.find(session, "VS-01"), NOW + timedelta(days=1), "only:load")
    take(session, later, "setup", minutes=1440, **RIG)
    seen = look(session, later, "load")
    assert (seen.as_before, seen.typed["pack"], seen.typed["cells"]) == ({"what": "5045x3"}, "red 1300", "4")
    assert look(session, later, "other").as_before == {"placement": "hand", "distance_cm": "12", "meter": "phone"}
    take(session, later, "setup", minutes=1440, **RIG | {"rig": "pier"})
    assert look(session, later, "load").as_before == {}


def test_a_motor_whose_poles_are_known_is_read_as_the_reference_on_its_own_page(session, check):
    facts_of = motor_store.find(session, "VS-01")
    assert (facts_of.poles, facts_of.poles_known_by) != (None, "")
    take(session, check, "poles", frequency_hz="77.3 77.1")
    assert {(r.purpose, r.note) for r in rows(session)} == {("reference", f"reference, {facts_of.poles} poles")}
    [line] = book._lines(rows(session), {}, "")
    assert line.under[0] == f"reference, {facts_of.poles} poles"
    assert ctx_of(session, check).poles().poles == facts_of.poles
    [other] = motor_store.add(session, [Motor("BX-1")])
    check.open = False
    next_one = checks.open_check(session, motor_store.get(session, other), NOW + timedelta(minutes=5), "only:poles")
    typed = look(session, next_one, "poles").typed
    assert (typed["reference_hz"], typed["reference_poles"]) == ("77.3 77.1", str(facts_of.poles))


@pytest.mark.parametrize(
    ("pairs", "says"),
    [
        (
            ("37.5", "40.1", "37.4"),
            "Both pairs at A 6.4 % lower than on 12 September: a turn of phase A is shorted. No more power.",
        ),
        (("43.6", "40.0", "43.5"), "Both pairs at A 8.9 % higher than on 12 September: the lead or joint A."),
        (("40.1", "40.0", "39.9"), None),
    ],
)
def test_pairs_are_held_against_their_own_past_by_sign(session, check, pairs, says):
    take(session, check, "resistance", ab="40", bc="40", ca="40", winding_c="24")
    check.open = False
    later = checks.open_check(session, motor_store.find(session, "VS-01"), NOW + timedelta(days=9), "only:resistance")
    ab, bc, ca = pairs
    take(session, later, "resistance", minutes=9 * 1440, ab=ab, bc=bc, ca=ca, winding_c="24")
    assert look(session, later, "resistance").view.words == ((says,) if says else ())
