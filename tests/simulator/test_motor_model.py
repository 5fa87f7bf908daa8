"""The motor behind the simulated bench: its closed forms, and the signs its broken parts give."""

import math
import statistics
from dataclasses import replace

import numpy as np
import pytest

from waldhorn.core.base.errors import InputError
from waldhorn.core.judging.faults import SIGNATURES
from waldhorn.core.measuring import back_emf, coast_down, detent, gap, losses
from waldhorn.core.measuring.back_emf import Waveform
from waldhorn.simulator.dynamics import Dynamics, Supply
from waldhorn.simulator.fault_injection import CAUSES, broken, together
from waldhorn.simulator.motor_model import Build, Condition, MotorModel

BUILD = Build(3430, 0.016, 7.4, 2.25, 4, 12, timing_deg=28, detent_nmm=18.4, noise_db=81)
SOUND = MotorModel(BUILD)
FELT_VARIATION = 12.0  # percent around the turn of a sound motor as a hand with a lever reads it


def signs(condition: Condition) -> dict[str, float]:
    """What a condition changes, in the change units of judging."""
    motor, fresh = MotorModel(BUILD, condition), SOUND
    now, before = motor.spin(7.4), fresh.spin(7.4)
    peaks, peaks_before = motor.detent_peaks(), fresh.detent_peaks()
    clock = [45.0 * i for i in range(8)]
    lean = [gap.fit(clock, [m.gap_mm(a) for a in clock]).run_out_mm for m in (motor, fresh)]
    timing, timing_before = motor.timing(), fresh.timing()
    return {
        "kv": 100 * (now.rpm / before.rpm - 1),
        "no_load_current": 100 * (now.amps / before.amps - 1),
        "speed_ripple": 100 * (now.rpm_p2p / now.rpm - before.rpm_p2p / before.rpm),
        "timing_mean": statistics.fmean(timing) - statistics.fmean(timing_before),
        "timing_spread": max(timing) - min(timing) - max(timing_before) + min(timing_before),
        "noise_avg": motor.sound_db(1) - fresh.sound_db(1),
        "detent_peak": 100 * (statistics.median(peaks) / statistics.median(peaks_before) - 1),
        "detent_variation": 100 * (detent.variation(peaks) - detent.variation(peaks_before)) / FELT_VARIATION,
        "temperature": motor.rise_k() - fresh.rise_k(),
        "run_out": lean[0] - lean[1],
        "vibration": motor.shake_points() - fresh.shake_points(),
    }


@pytest.mark.parametrize("volts", [2.0, 7.4, 12.0])
@pytest.mark.parametrize("warm", [15.0, 25.0, 70.0])
def test_a_steady_spin_balances_voltage_and_torque(volts, warm):
    spin = SOUND.spin(volts, warm)
    assert spin.amps * SOUND.resistance(warm) + SOUND.back_emf(spin.rpm, warm) == pytest.approx(volts, rel=1e-6)
    assert spin.amps == pytest.approx(SOUND.drag_amps(spin.rpm, warm), rel=1e-6)


def test_no_load_speed_is_kv_times_what_the_winding_leaves():
    spin = SOUND.spin(7.4)
    assert spin.rpm == pytest.approx(BUILD.kv * (7.4 - spin.amps * BUILD.resistance_ohm), rel=1e-6)
    assert spin.amps == pytest.approx(BUILD.no_load_a, rel=1e-3)


def test_a_degree_of_timing_multiplies_the_current_and_adds_speed():
    ahead = MotorModel(BUILD, Condition(board_turned_deg=6))
    drag = ahead.drag_amps(20_000, 25) / SOUND.drag_amps(20_000, 25)
    assert drag == pytest.approx(math.exp(0.05 * 6))
    assert ahead.back_emf(1000, 25) == pytest.approx(SOUND.back_emf(1000, 25) / 1.03)


def test_a_warm_magnet_is_weaker_and_the_motor_faster():
    assert SOUND.strength(65) == pytest.approx(1 - 0.0011 * 40)
    assert SOUND.spin(7.4, 65).rpm > SOUND.spin(7.4, 25).rpm


def test_a_stopped_motor_cools_exponentially():
    spinning = Dynamics(SOUND, Supply(7.5), np.random.default_rng(1), ambient_c=20)
    spinning.motor_c = 60.0
    for _ in range(600):
        spinning.advance(0.5)
    assert spinning.motor_c == pytest.approx(20 + 40 * math.exp(-300 / BUILD.cooling_s), rel=1e-6)


def line_of(motor):
    """Friction in N·m and what grows with the speed in N·m·s, from the currents of five settings."""
    spun = [motor.spin(7.4 * share) for share in (0.15, 0.3, 0.5, 0.75, 1)]
    kv = spun[-1].rpm / spun[-1].volts
    found = losses.fit([losses.NoLoad(s.rpm, s.amps) for s in spun], kv, windage=False)
    return found.friction, found.per_speed


@pytest.mark.parametrize(
    ("fault", "friction", "speed"), [("worn_bearing", 1.5, 1.1), ("shorted_turn", 1.0, 2.7), ("bent_shaft", 1.0, 1.3)]
)
def test_a_bearing_holds_at_any_speed_and_a_shorted_loop_brakes_the_more_the_faster(fault, friction, speed):
    before, since = line_of(SOUND), line_of(MotorModel(BUILD, broken(fault)))
    assert (since[0] / before[0], since[1] / before[1]) == pytest.approx((friction, speed), rel=0.08)


def test_a_shorted_loop_is_missing_from_its_phase_in_resistance_and_in_back_emf():
    motor = MotorModel(BUILD, broken("shorted_turn"))
    whole, ohms = SOUND.winding_pairs(), motor.winding_pairs()
    assert ohms[1] == pytest.approx(whole[1])
    assert ohms[0] == ohms[2] < 0.97 * whole[0]
    phase, below = back_emf.weak_phase(Waveform(1000, *motor.back_emf_pairs(1000)))
    assert (phase, 5 < below < 12) == ("A", True)
    assert back_emf.unbalance_pct(Waveform(1000, *SOUND.back_emf_pairs(1000))) == pytest.approx(0, abs=1e-4)
    drilled, powered = back_emf.peak_kv(Waveform(1000, *SOUND.back_emf_pairs(1000))), BUILD.kv
    assert drilled == pytest.approx(powered, rel=1e-3)


def test_magnets_warm_after_the_case():
    spinning = Dynamics(SOUND, Supply(7.5), np.random.default_rng(1), ambient_c=20)
    spinning.pct = 100
    for _ in range(200):
        spinning.advance(0.1)
    assert 20 < spinning.magnet_c < spinning.motor_c - 0.5
    spinning.pct = 0
    for _ in range(400):
        spinning.advance(1)
    assert spinning.magnet_c == pytest.approx(spinning.motor_c, abs=2)


@pytest.mark.parametrize("fault", ["none", "worn_bearing"])
def test_a_motor_that_is_let_go_runs_out_by_its_own_friction(fault):
    motor = MotorModel(BUILD, broken(fault))
    spinning = Dynamics(motor, Supply(7.5), np.random.default_rng(1), ambient_c=25)
    spinning.pct = 100
    for _ in range(100):
        spinning.advance(0.02)
    spinning.release()
    trace = [(tick.t, tick.rpm) for _ in range(300) if (tick := spinning.advance(0.01)).rpm > 100]
    found = coast_down.fit(trace)
    friction, speed = line_of(motor)
    assert found.friction_per_inertia * BUILD.inertia_kgm2 == pytest.approx(friction, rel=0.05)
    assert found.loss_per_inertia * BUILD.inertia_kgm2 == pytest.approx(speed, rel=0.1)


def test_speed_settles_with_the_electromechanical_time_constant():
    spinning = Dynamics(SOUND, Supply(7.5, inner_ohm=0), np.random.default_rng(1))
    tau = spinning.time_constant_s()
    spinning.pct = 100
    spinning.advance(tau)
    assert spinning.rpm == pytest.approx((1 - math.exp(-1)) * SOUND.spin(7.5, 22.0).rpm, rel=1e-3)


def test_a_pack_sags_under_load():
    assert Supply(8.0, 0.01).under(20) == pytest.approx(7.8)


def test_the_lamps_step_through_six_states_pole_pairs_times_a_turn():
    seen = [SOUND.hall(k / 720) for k in range(720)]
    changes = [b for a, b in zip(seen, seen[1:] + seen[:1], strict=True) if a != b]
    assert len(changes) == 6 * BUILD.poles // 2
    assert set(changes) == {"101", "100", "110", "010", "011", "001"}


@pytest.mark.parametrize("fault", sorted(CAUSES))
def test_a_fault_gives_its_signs_to_within_their_spread(fault):
    found = signs(broken(fault))
    assert abs(found.pop("detent_variation")) < 30  # four poles in twelve slots tell nothing of single magnets
    for quantity, expected in SIGNATURES[fault].items():
        if quantity in found and abs(expected) >= 0.5 * LARGE[quantity]:
            assert found[quantity] == pytest.approx(expected, rel=0.4), quantity
    for quantity, value in found.items():
        if quantity not in SIGNATURES[fault]:
            assert abs(value) < 0.4 * LARGE[quantity], quantity


LARGE = {
    "kv": 6, "no_load_current": 30, "speed_ripple": 1.5, "timing_mean": 4, "timing_spread": 4, "noise_avg": 6,
    "detent_peak": 12, "detent_variation": 60, "temperature": 15, "run_out": 0.15, "vibration": 2,
}  # fmt: skip


def test_one_weak_magnet_shows_in_the_peaks_of_fourteen_poles_and_not_in_their_median():
    build = replace(BUILD, poles=14)
    weak, sound = (MotorModel(build, condition).detent_peaks() for condition in (broken("cracked_magnet"), Condition()))
    assert detent.scatter(weak) > 1.4 * detent.scatter(sound)
    assert statistics.median(weak) == pytest.approx(statistics.median(sound), rel=0.02)


def test_causes_add_up_and_an_unknown_fault_is_refused():
    both = together(broken("worn_bearing"), broken("demagnetised_rotor"))
    assert (both.roughness, both.magnet_loss) == (1.0, CAUSES["demagnetised_rotor"]["magnet_loss"])
    with pytest.raises(InputError, match="no fault"):
        broken("gremlins")
    scattered = [broken("worn_bearing", rng=np.random.default_rng(i)).roughness for i in range(40)]
    assert min(scattered) < 0.8 < 1.2 < max(scattered) <= 1.4


def test_more_poles_more_natural_positions():
    assert len(MotorModel(replace(BUILD, poles=14)).detent_peaks()) == 84
