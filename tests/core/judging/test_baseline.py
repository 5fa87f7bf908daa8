"""Baselines: whose, since when, under which conditions; and KV and current as samples."""

from dataclasses import replace

import pytest

from made import PULL, day, history, pulls
from waldhorn.core.base.conditions import Conditions, comparable, differing
from waldhorn.core.base.history import Check, Event, Motor, Reading
from waldhorn.core.base.vocabulary import EventKind, NoteKind, Source
from waldhorn.core.judging import baseline
from waldhorn.core.judging.baseline import Baseline, of_model, own, segments
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import all_groups, groups_of, last_reset

KV, CURRENT = QUANTITIES["kv"], QUANTITIES["no_load_current"]


def own_kv(h):
    found = groups_of(h, KV)
    return own(found, found[-1:], h.events, KV)


def test_the_baseline_is_the_median_of_the_first_two_checks():
    h = history(
        pulls(0, (7.4, 2, 25160), (7.4, 2, 25308)),
        pulls(7, (7.4, 2, 25234)),
        pulls(14, (7.4, 2, 20000)),
        pulls(21, (7.4, 2, 25000)),
    )
    found, _ = own_kv(h)
    assert found.value == pytest.approx(25234 / 7.4)
    assert (found.n, found.checks, found.at) == (3, 2, day(0))


def test_the_check_being_judged_is_never_part_of_its_own_baseline():
    found, _ = own_kv(history(pulls(0, (7.4, 2, 25160)), pulls(7, (7.4, 2, 24000))))
    assert found.value == pytest.approx(3400)
    assert own_kv(history(pulls(0, (7.4, 2, 25160)))) == (None, ())


def test_a_reset_event_forgets_what_was_before():
    checks = (pulls(0, (7.4, 2, 25160)), pulls(7, (7.4, 2, 27000)), pulls(14, (7.4, 2, 27010)))
    found, _ = own_kv(history(*checks, events=((6, "rotor_replaced"),)))
    assert found.value == pytest.approx(27000 / 7.4)


@pytest.mark.parametrize(
    ("other", "says"),
    [
        (replace(PULL, rig="other"), "rig"),
        (replace(PULL, method="fixed-volt"), "method"),
        (replace(PULL, timing_set_deg=30.0), None),
    ],
)
def test_other_conditions_are_passed_over_and_said(other, says):
    h = history(pulls(0, (7.4, 2, 25160)), pulls(7, (7.4, 2, 25000), conditions=other))
    found, reasons = own_kv(h)
    assert (found is None) == (says is not None)
    assert says is None or reasons[0].condition == says


def test_current_compares_within_two_percent_of_the_voltage():
    base = Conditions(supply_v=7.40)
    assert comparable(CURRENT.same, base, Conditions(supply_v=7.53))
    assert differing(CURRENT.same, base, Conditions(supply_v=7.60)) == ["supply_v"]


def test_the_model_median_leaves_room_for_motors_that_differ():
    peers = [Baseline(v, 2, Source.OWN, conditions=PULL) for v in (3380, 3400, 3420)]
    found = of_model(peers, PULL, KV)
    assert (found.value, found.source) == (3400, "model")
    assert found.u_further > KV.natural_spread
    assert of_model(peers[:1], PULL, KV) is None
    assert of_model(peers, replace(PULL, method="back-emf"), KV) is None


def test_kv_is_made_of_rpm_and_volts_of_the_same_run_and_corrected_to_25_degrees():
    warm = replace(PULL, motor_c=45.0)
    sample = groups_of(history(pulls(0, (7.4, 2, 25160), conditions=warm)), KV)[0].observations[0]
    assert sample.raw == pytest.approx(3400)
    assert sample.value == pytest.approx(3400 * (1 - 0.0011 * 20))


def test_kv_without_a_temperature_says_what_it_assumed():
    sample = groups_of(history(pulls(0, (7.4, 2, 25160), conditions=replace(PULL, motor_c=None))), KV)[0].observations[
        0
    ]
    assert sample.value == sample.raw
    assert sample.u_further == pytest.approx(0.66)
    assert sample.note is NoteKind.TEMPERATURE_ASSUMED


def test_part_throttle_and_set_aside_readings_do_not_count():
    half = pulls(0, (7.4, 1, 12000), conditions=replace(PULL, throttle_pct=50.0))
    aside = Check("c1", day(1), tuple(replace(r, accepted=False) for r in pulls(1, (7.4, 2, 25160)).readings))
    assert groups_of(history(half, aside), KV) == []


def test_back_emf_is_a_school_of_its_own():
    driven = replace(PULL, method="back-emf")
    h = history(pulls(0, (7.4, 2, 25160)), pulls(7, (0.2, 0, 1000), conditions=driven))
    assert groups_of(h, KV)[1].value == pytest.approx(1000 / (2**0.5 * 0.2))
    assert own_kv(h)[0] is None


def test_a_kv_read_off_an_instrument_counts_as_it_is():
    h = history(Check("c", day(0), (Reading("kv", 3444, day(0), 1, PULL),)))
    assert groups_of(h, KV)[0].value == 3444


def test_segments_part_where_the_quantity_was_reset():
    h = history(
        pulls(0, (7.4, 2, 25160)),
        pulls(7, (7.4, 2, 25160)),
        pulls(14, (7.4, 2, 26000)),
        events=((10, "timing_changed"), (12, "cleaned")),
    )
    parts = segments(groups_of(h, KV), h.events, KV)
    assert [len(s.groups) for s in parts] == [2, 1]
    assert parts[1].baseline.value == pytest.approx(26000 / 7.4)


def test_own_references_say_from_when_until_when_they_held():
    h = history(pulls(0, (7.4, 2, 25160)), pulls(14, (7.4, 2, 26000)), events=((10, "rewound"),))
    before, after = baseline.own_references(all_groups(h), h.events)["kv"]
    assert (after.value, after.at, after.until) == (pytest.approx(26000 / 7.4), day(14), None)
    assert (before.at, before.until) == (day(0), day(10))


def test_the_last_reset_is_the_latest_before_the_reading():
    events = [Event(EventKind.REWOUND, day(n)) for n in (3, 9, 30)]
    assert last_reset(events, KV, day(10)) == day(9)
    assert last_reset([], KV, day(10)) is None


def test_ferrite_falls_faster_than_samarium():
    ferrite, samarium = (Motor("x", magnet=m) for m in ("ferrite", "samarium-cobalt"))
    hot = pulls(0, (7.4, 2, 25160), conditions=replace(PULL, motor_c=60.0))
    assert groups_of(history(hot, motor=ferrite), KV)[0].value < groups_of(history(hot, motor=samarium), KV)[0].value


def test_what_was_measured_after_an_event_in_the_same_check_counts_as_measured_since():
    before = pulls(14, (7.4, 2, 25160))
    after = tuple(replace(r, at=day(14.1), run=2, value=r.value * 1.1) for r in before.readings)
    one = replace(before, readings=before.readings + after)
    h = history(pulls(0, (7.4, 2, 25160)), one, events=((14.05, "timing_changed"),))
    groups = groups_of(h, CURRENT)
    assert [(g.check, g.at, g.value) for g in groups[1:]] == [("c14", day(14), 2), ("c14", day(14.1), 2.2)]
    assert own(groups, groups[-1:], h.events, CURRENT) == (None, ())


def test_one_check_on_two_rigs_is_two_groups():
    peaks = [
        Reading("detent_peak", value, day(0), 1, Conditions(rig=rig), position=place)
        for rig, value in (("A", 18.1), ("B", 30.1))
        for place in range(1, 5)
    ]
    found = groups_of(history(Check("c", day(0), tuple(peaks))), QUANTITIES["detent_peak"])
    assert {(g.conditions.rig, g.value) for g in found} == {("A", 18.1), ("B", 30.1)}


def test_noise_at_another_distance_or_by_another_meter_is_not_compared():
    near = Conditions(rig="A", placement="stand", distance_cm=10, meter="one")
    for other in (replace(near, distance_cm=50), replace(near, meter="two")):
        assert not comparable(QUANTITIES["noise_avg"].same, near, other)


@pytest.mark.parametrize(
    ("kv", "source"), [(3400, Source.OWN), (3290, Source.OWN), (3260, Source.OWN), (3100, Source.OWN)]
)
def test_of_speed_neither_way_is_wear(kv, source):
    model = Baseline(3400.0, 5, Source.MODEL, 1.0)
    assert baseline.sound(Baseline(kv, 2, Source.OWN), model, QUANTITIES["kv"]).source is source


@pytest.mark.parametrize(
    ("amps", "source"),
    [(2.5, Source.OWN), (3.2, Source.OWN), (3.3, Source.OWN), (3.5, Source.MODEL), (1.5, Source.OWN)],
)
def test_an_own_baseline_that_came_in_worn_beyond_doubt_gives_way_to_the_models(amps, source):
    # 30 % is the limit to act, 4 % what the model's motors differ by: up to 30 + 1.28 · 4 it may still be its own
    model = Baseline(2.5, 5, Source.MODEL, u_further=4.0)
    found = baseline.sound(Baseline(amps, 2, Source.OWN), model, QUANTITIES["no_load_current"])
    assert found.source is source
