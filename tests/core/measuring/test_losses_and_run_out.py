"""Where the no-load current goes, how a motor runs out, what a drill tells: acceptance values, and what is refused."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from made import NOW, day, history
from waldhorn.core.base import traces
from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Check, Reading
from waldhorn.core.base.vocabulary import NoteKind
from waldhorn.core.judging.verdict import judge
from waldhorn.core.measuring import back_emf, coast_down, losses
from waldhorn.core.measuring.back_emf import Waveform
from waldhorn.core.measuring.coast_down import CoastDown
from waldhorn.core.measuring.losses import Losses, NoLoad
from waldhorn.core.measuring.observations import all_groups
from waldhorn.core.motors import identification
from waldhorn.core.predicting import constants
from waldhorn.core.predicting.constants import Constants, Row

SPEEDS = (6000, 12000, 18000, 25000)
AS_BUILT = Losses(3.00e-3, 1.00e-6, 1.5e-10, 0, 0, 0)
KV = 3430


def points(of, decimals=6):
    return [NoLoad(n, round(losses.current(of, n, KV), decimals)) for n in SPEEDS]


def test_the_currents_of_known_losses_are_those_of_the_worked_example():
    assert [round(p.amps, 4) for p in points(AS_BUILT)] == [1.3245, 1.6140, 1.9461, 2.3872]


def test_losses_come_back_from_rounded_amps():
    found = losses.fit([*points(AS_BUILT, 2), points(AS_BUILT, 2)[-1]], KV)
    assert found.friction == pytest.approx(2.97e-3, rel=0.03)
    assert found.per_speed == pytest.approx(1.03e-6, rel=0.2)
    assert found.per_square == pytest.approx(1.46e-10, rel=0.35)


@pytest.mark.parametrize("speeds", [SPEEDS, (6000, 13000, 19000, 26000)])
def test_what_four_speeds_do_not_tell_is_said_and_holds_what_windage_does(speeds):
    line = losses.fit([NoLoad(n, losses.current(AS_BUILT, n, KV)) for n in speeds], KV)
    off = (abs(line.friction - AS_BUILT.friction), abs(line.per_speed - AS_BUILT.per_speed))
    assert (line.windage_friction, line.windage_per_speed) == (
        pytest.approx(off[0], rel=0.5),
        pytest.approx(off[1], rel=0.5),
    )
    windless = Losses(AS_BUILT.friction, AS_BUILT.per_speed, 0.0, 0, 0, 0)
    five = losses.fit([NoLoad(n, losses.current(windless, n, KV)) for n in (*speeds, speeds[-1])], KV)
    assert (five.windage_friction, five.windage_per_speed) == (0.0, 0.0)


FULL = Conditions(rig="bench", method="loaded-supply", throttle_pct=100.0, motor_c=25.0)


def spun_up(number, of=AS_BUILT, meter="motor", throttles=(24, 48, 72, 100), wild=1.0):
    """A check spun up by settings, each a run of its own as they are captured live; of known losses."""
    readings = []
    for run, (rpm, pct) in enumerate(zip(SPEEDS, throttles, strict=True), 1):
        under = replace(FULL, throttle_pct=float(pct), meter=meter if pct < 100 else "")
        amps = losses.current(of, rpm, KV) * (wild if run == 3 else 1.0)
        for measure, value in (("supply_volts", 25000 / KV), ("no_load_current", amps), ("rpm", rpm)):
            readings.append(Reading(measure, value, day(number), run, under))
    return Check(f"c{number}", day(number), tuple(readings))


def changed(friction=1.0, speed=1.0):
    return Losses(friction * AS_BUILT.friction, speed * AS_BUILT.per_speed, AS_BUILT.per_square, 0, 0, 0)


def parts(check):
    groups = all_groups(history(check))
    return {n: [g.value for g in groups[n]] for n in ("friction", "speed_loss")}


def test_a_check_spun_up_by_settings_tells_friction_and_what_grows_with_the_speed():
    line = losses.fit(points(AS_BUILT), KV)
    found = parts(spun_up(1))
    assert found["friction"] == [pytest.approx(1e3 * line.friction, rel=1e-6)]
    assert found["speed_loss"] == [pytest.approx(1e6 * line.per_speed, rel=1e-6)]
    assert found["friction"][0] == pytest.approx(2.85, rel=0.05)


def test_the_supplys_amps_tell_nothing_at_part_throttle_but_volts_set_by_the_supply_do():
    assert parts(spun_up(1, meter="supply")) == parts(spun_up(1, meter="")) == {"friction": [], "speed_loss": []}
    by_volts = spun_up(1, meter="", throttles=(100, 100, 100, 100))
    set_by_supply = tuple(
        replace(r, value=SPEEDS[r.run - 1] / KV) if r.measure == "supply_volts" else r for r in by_volts.readings
    )
    assert parts(replace(by_volts, readings=set_by_supply)) == parts(spun_up(1))


def test_one_odd_point_makes_the_parts_doubtful_and_half_a_fit_is_none():
    exact, odd = (all_groups(history(spun_up(1, wild=w)))["friction"] for w in (1.0, 1.12))
    assert odd[0].observations[0].u_further > 3 * exact[0].observations[0].u_further
    assert parts(spun_up(1, wild=4.0))["friction"] == []


def judged(*checks):
    return {e.quantity.name: e for e in judge(history(*checks), NOW).evidence}


def test_the_current_is_weighed_by_its_parts_where_they_are_told():
    before = (spun_up(1), spun_up(15))
    found = judged(*before, spun_up(120, changed(friction=1.7)))
    assert found["friction"].change.value == pytest.approx(74, abs=3)
    assert abs(found["speed_loss"].change.value) < 1
    assert found["no_load_current"].change.value == pytest.approx(32, abs=1)
    assert found["no_load_current"].residual is None
    assert found["no_load_current"].has(NoteKind.IN_PARTS)
    assert found["friction"].residual
    assert found["speed_loss"].residual


def test_the_current_stays_the_witness_where_only_it_has_a_past():
    before = tuple(
        replace(c, readings=tuple(r for r in c.readings if r.conditions.throttle_pct == 100.0))
        for c in (spun_up(1), spun_up(15))
    )
    found = judged(*before, spun_up(120, changed(speed=3.5)))
    assert found["no_load_current"].residual
    assert found["speed_loss"].residual is None


@pytest.mark.parametrize(("grown", "fault"), [({"friction": 1.7}, "worn_bearing"), ({"speed": 3.0}, "shorted_turn")])
def test_the_fault_is_named_by_how_the_current_grows(grown, fault):
    found = judge(history(spun_up(1), spun_up(15), spun_up(120, changed(**grown))), NOW)
    assert next(f for f in found.faults if f.fault != "none").names == (fault,)


def test_four_points_leave_windage_out():
    assert losses.fit(points(AS_BUILT), KV).per_square == 0.0


@pytest.mark.parametrize(
    ("changed", "ratios"),
    [((1.7, 1.0), [1.57, 1.47, 1.39, 1.32]), ((1.0, 3.5), [1.43, 1.70, 1.87, 1.98])],
    ids=["bearing", "shorted loop"],
)
def test_a_fault_raises_the_current_with_a_slope_of_its_own(changed, ratios):
    now = Losses(AS_BUILT.friction * changed[0], AS_BUILT.per_speed * changed[1], AS_BUILT.per_square, 0, 0, 0)
    grown = [a.amps / b.amps for a, b in zip(points(now), points(AS_BUILT), strict=True)]
    assert [round(g, 2) for g in grown] == ratios


@pytest.mark.parametrize(
    "speeds", [(), (6000,), (6000, 12000, 24000), (6000, 6000, 12000, 24000), (12000, 15000, 18000, 25000)]
)
def test_too_few_speeds_or_too_near_ones_are_refused_in_words(speeds):
    with pytest.raises(InputError, match="read four or more, the fastest four times the slowest"):
        losses.fit([NoLoad(n, 1.5) for n in speeds], KV)


@given(
    st.floats(300, 4000),
    st.floats(0.05, 2.0),
    st.floats(8_000, 40_000),
)
def test_a_run_out_is_found_again_from_its_trace(friction, loss, start):
    true = CoastDown(friction, loss, start)
    stop = coast_down.time_to_stop(true)
    trace = [(t, coast_down.speed_at(true, t)) for t in np.linspace(0, 0.95 * stop, 60)]
    found = coast_down.fit(trace)
    assert coast_down.time_to_stop(found) == pytest.approx(stop, rel=0.01)
    assert found.start_rpm == pytest.approx(start, rel=0.01)


def test_a_heavier_friction_stops_it_sooner_and_it_stands_then():
    free, worn = CoastDown(1250, 0.54, 25_000), CoastDown(2000, 0.54, 25_000)
    assert coast_down.time_to_stop(worn) < coast_down.time_to_stop(free)
    assert coast_down.speed_at(worn, 10) == 0.0
    assert coast_down.time_to_stop(CoastDown(1000, 1e-12, 9549.3)) == pytest.approx(1.0, rel=1e-3)
    assert coast_down.time_to_stop(free, 12_500) < coast_down.time_to_stop(free)


@pytest.mark.parametrize(("alone", "with_disc"), [(1000.0, 1000.0), (900.0, 1000.0), (1000.0, 0.0)])
def test_a_disc_that_does_not_slow_the_run_out_tells_no_inertia(alone, with_disc):
    with pytest.raises(InputError, match="it must slow less than without"):
        coast_down.inertia_by_disc(3e-6, alone, with_disc)


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("0,25000\n0.1,22400", [(0.0, 25000.0), (0.1, 22400.0)]),
        ("t;n\n0;25000\n0,1;22400", [(0.0, 25000.0), (0.1, 22400.0)]),
        ("0\t25000\n\n0,1\t22400", [(0.0, 25000.0), (0.1, 22400.0)]),
        ("0 25000\n0.1 22400 extra", [(0.0, 25000.0), (0.1, 22400.0)]),
    ],
)
def test_a_trace_is_read_however_it_is_written(text, found):
    assert traces.read_trace(text) == found


@pytest.mark.parametrize("text", ["0 25000\nx y", "0 25000\n0.1", "0 25000\n0.1 nan"])
def test_a_line_that_is_no_pair_is_named(text):
    with pytest.raises(InputError, match="line 2"):
        traces.read_trace(text)


def test_equal_phases_are_balanced_and_a_short_phase_is_named():
    assert back_emf.unbalance_pct(Waveform(1000, 1.7, 1.7, 1.7)) == 0
    assert back_emf.weak_phase(Waveform(1000, 1.7, 1.7, 1.7)) is None
    for phase, volts in {"A": (0.95, 1.0, 0.95), "B": (0.95, 0.95, 1.0), "C": (1.0, 0.95, 0.95)}.items():
        assert back_emf.weak_phase(Waveform(1000, *volts))[0] == phase
    assert back_emf.weak_phase(Waveform(1000, 1.0, 0.99, 0.93)) is None  # two stand apart: no single phase


@pytest.mark.parametrize("volts", [(0, 1, 1), (1, -1, 1)])
def test_leads_that_give_nothing_are_refused(volts):
    with pytest.raises(InputError, match="look at the leads"):
        back_emf.peak_kv(Waveform(1000, *volts))


def test_what_a_motor_is_made_of():
    assert identification.motor_constant(920, 0.11) == pytest.approx(31.3, rel=0.005)
    assert identification.turns(1150, 920, 14) == pytest.approx(11.2)
    assert identification.other_connection(920)[0] == pytest.approx(1593, rel=0.005)
    for kv, ohm in ((0, 0.1), (900, 0)):
        with pytest.raises(InputError):
            identification.motor_constant(kv, ohm)


@pytest.mark.parametrize(
    ("name", "can", "length", "fits"),
    [("2212", 27.8, None, {"stator": True, "can": False}), ("2830", 27.8, 30, {"stator": False, "can": True}),
     ("2830", 27.8, 55, {"stator": False, "can": False}), ("Heron 28", None, None, {"stator": None, "can": None}),
     ("no digits", 28, None, {}), ("123", 28, None, {})],
)  # fmt: skip
def test_a_size_name_is_read_both_ways(name, can, length, fits):
    assert {s.of: s.fits for s in identification.read_size(name, can, length)} == fits


def test_the_best_current_is_the_best():
    one = Constants(0.11, 920, 0.55, 0, 0)
    best, share = constants.best_current(one, 11.1)
    for amps in (0.9 * best, 1.1 * best):
        assert constants.shaft_power(one, 11.1, amps) / (11.1 * amps) < share
    assert constants.shaft_power(one, 11.1, best) / (11.1 * best) == pytest.approx(share)
    assert one.torque_constant == pytest.approx(60 / (2 * math.pi * 920))


def test_the_uncertainty_of_constants_is_that_of_many_fits():
    rng, rows = (
        np.random.default_rng(5),
        [(11.1, 0.55, 10156), (7.4, 0.47, 6760), (10.8, 9.0, 9025), (10.4, 14.0, 8151)],
    )
    fits = [
        constants.fit([Row(v + 0.05 * float(rng.standard_normal()), a, n) for v, a, n in rows], 0.55, u_volts=0.05)
        for _ in range(400)
    ]
    spread = float(np.std([f.resistance_ohm for f in fits]))
    assert fits[0].u_resistance == pytest.approx(spread, rel=0.12)
