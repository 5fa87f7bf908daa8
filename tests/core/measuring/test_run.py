"""The computations of the run: against values worked out by hand, at their edges, and by their properties."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from waldhorn.core.base import explain, units
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor
from waldhorn.core.measuring import (
    detent,
    end_bell,
    flywheel,
    gap,
    hall,
    inspection,
    load,
    machine,
    magnets,
    noise,
    poles,
    speed_ripple,
    thermal,
    timing,
)
from waldhorn.core.measuring.end_bell import TimingPull

CLOCK = [0.0, 55.0, 130.0, 200.0, 310.0]


def lean(angle: float, run_out: float, towards: float) -> float:
    return 0.6 + run_out / 2 * math.cos(math.radians(angle - towards))


class TestGap:
    @given(st.floats(0, 0.5), st.floats(0, 359))
    def test_a_leaning_rotor_is_found_whatever_the_angles(self, run_out, towards):
        fitted = gap.fit(CLOCK, [lean(a, run_out, towards) for a in CLOCK])
        assert fitted.run_out_mm == pytest.approx(run_out, abs=1e-9)
        if run_out > 1e-3:
            assert math.cos(math.radians(fitted.opens_at_deg - towards)) == pytest.approx(1, abs=1e-6)
        assert fitted.worst_mm < 1e-9

    def test_one_loose_magnet_is_told_apart_from_run_out(self):
        angles = [45.0 * i for i in range(8)]
        fitted = gap.fit(angles, [0.6] * 3 + [0.4] + [0.6] * 4)
        assert fitted.spot == 3
        assert fitted.run_out_mm == pytest.approx(0.1)  # 2·(2/8)·0.2: the first harmonic of one spike

    @pytest.mark.parametrize(
        ("angles", "gaps", "words"),
        [
            ([0, 90, 180], [0.6] * 3, "at least 4"),
            ([0, 0, 180, 180], [0.6] * 4, "around the clock"),
            ([0, 90, 180, 270], [0.6, 0.6, -0.1, 0.6], "cannot be"),
            ([0, 90], [0.6] * 4, "one gap an angle"),
        ],
    )
    def test_what_shows_no_run_out_is_refused(self, angles, gaps, words):
        with pytest.raises(InputError, match=words):
            gap.fit(angles, gaps)

    def test_equal_gaps_are_no_run_out(self):
        assert gap.fit(CLOCK, [0.6] * 5).run_out_mm == pytest.approx(0, abs=1e-12)


class TestDetent:
    def test_a_lever_on_a_scale(self):
        # 62.5 g at 30 mm: 0.0625 kg · 9.80665 m/s² · 30 mm = 18.387 N·mm
        assert detent.torque(62.5, 30) == pytest.approx(18.38747, rel=1e-6)

    def test_an_off_centre_rotor_shows_once_per_turn(self):
        peaks = [18 * (1 + 0.2 * math.cos(2 * math.pi * k / 12 - math.pi / 3)) for k in range(12)]
        run = detent.summarise(peaks, 12)
        assert run.once_per_turn_pct == pytest.approx(20, rel=0.02)
        assert run.leans_to_deg == pytest.approx(60)
        assert run.turns == 1

    def test_unequal_magnets_show_at_every_second_position(self):
        run = detent.summarise([19.0, 17.0] * 6, 12)
        assert run.alternating_pct == pytest.approx(100 / 18, rel=1e-6)
        assert run.once_per_turn_pct == pytest.approx(0, abs=1e-9)

    def test_under_a_turn_no_harmonics_are_claimed(self):
        assert detent.summarise([18.0, 18.2, 18.1, 18.3], 12).once_per_turn_pct is None

    def test_turning_ever_faster_is_flagged(self):
        assert detent.summarise([17.0, 17.4, 17.9, 18.3, 18.8, 19.4, 19.9]).rising
        assert not detent.summarise([18.0, 18.4, 17.9, 18.3, 18.1, 18.4, 18.0]).rising

    @given(st.permutations([18.1, 18.3, 18.2, 18.4, 29.0, 18.2, 18.0]))
    def test_the_order_of_peaks_changes_neither_centre_nor_outlier(self, peaks):
        run = detent.summarise(peaks)
        assert run.median_nmm == pytest.approx(18.2)
        assert [peaks[i] for i in run.outliers] == [29.0]

    @given(st.floats(0.1, 1000), st.sampled_from(["N·mm", "g·cm", "oz·in"]))
    def test_units_there_and_back(self, torque, unit):
        assert units.to_stored(units.from_stored(torque, unit, "torque"), unit, "torque") == pytest.approx(torque)

    def test_no_peak_and_a_zero_are_refused(self):
        for peaks in ([], [18.0, 0.0]):
            with pytest.raises(InputError):
                detent.summarise(peaks)

    def test_a_loss_of_strength_shows_equally_in_both_ways(self):
        b = 0.93
        assert magnets.strength_from_detent(18.4 * b**2, 18.4) == pytest.approx(b)
        assert magnets.strength_from_kv(3400 / b, 3400) == pytest.approx(b)


class TestHall:
    def test_six_in_order_either_way_is_good(self):
        assert hall.judge_states(hall.ORDER).direction == 1
        assert hall.judge_states(hall.ORDER[::-1]).direction == -1
        assert hall.judge_states([s for s in hall.ORDER * 2 for _ in range(3)]).kind == "good"

    @pytest.mark.parametrize("place", [0, 1, 2])
    @pytest.mark.parametrize("lamp", "01")
    def test_a_stuck_sensor_is_named(self, place, lamp):
        states = [s[:place] + lamp + s[place + 1 :] for s in hall.ORDER * 2]
        found = hall.judge_states(states)
        assert (found.kind, found.sensors) == ("stuck", "ABC"[place])
        assert ("high" if lamp == "1" else "low") in found.words

    @pytest.mark.parametrize("place", [0, 1, 2])
    def test_an_inverted_sensor_is_named(self, place):
        states = [s[:place] + str(1 - int(s[place])) + s[place + 1 :] for s in hall.ORDER]
        assert (hall.judge_states(states).kind, hall.judge_states(states).sensors) == ("inverted", "ABC"[place])

    def test_exchanged_wires_show_against_the_turning(self):
        swapped = [s[0] + s[2] + s[1] for s in hall.ORDER]
        assert hall.judge_states(swapped).kind == "good"  # nothing in the lamps alone tells it
        assert hall.judge_states(swapped, turned=1).kind == "swapped"

    def test_lamps_that_change_together_out_of_order_are_named(self):
        found = hall.judge_states(["101", "110", "100", "010", "011", "001", "101", "110"])
        assert (found.kind, found.sensors) == ("swapped", "BC")

    def test_missing_states_are_named(self):
        found = hall.judge_states(["101", "100", "110"])
        assert (found.kind, found.seen) == ("incomplete", 3)
        assert "010, 011, 001" in found.words

    def test_lamps_that_are_none_are_refused(self):
        for text in ("10", "1o1", "2"):
            with pytest.raises(InputError):
                hall.read_states(text)


class TestPoles:
    @pytest.mark.parametrize("count", [2, 4, 8, 14, 28])
    def test_two_frequencies_at_one_drill_speed_are_enough(self, count):
        f_ref, f = 1000 * 4 / 120, 1000 * count / 120
        assert poles.from_reference([f, f * 1.002], [f_ref, f_ref * 0.999], 4).poles == count

    def test_at_fourteen_poles_six_percent_of_drill_speed_is_a_coin_toss(self):
        found = poles.from_tachometer([116.7, 116.7 * 1.12], [1000.0, 940.0])
        assert found.poles is None
        assert "read both again" in found.words

    @given(st.floats(10, 2000), st.floats(0.2, 5))
    def test_scale_changes_nothing(self, f, scale):
        plain = poles.from_reference([f], [50.0], 4)
        assert poles.from_reference([f * scale], [50.0 * scale], 4).poles == plain.poles

    def test_probabilities_are_those_of_the_formula(self):
        found = poles.from_tachometer([100.0], [1000.0])  # exactly 12, read once against a tachometer
        u = math.hypot(0.01, 0.003)
        ten = math.exp(-0.5 * (math.log(10 / 12) / u) ** 2)
        assert found.candidates[0].probability == pytest.approx(1 / (1 + ten), rel=1e-6)

    def test_a_count_that_makes_no_sense_is_said(self):
        assert "no sense" in poles.odd_count(28, Motor("x", kind="inrunner"))
        assert "two edges" in poles.odd_count(12, Motor("x", kind="inrunner"))
        assert poles.odd_count(14, Motor("x", kind="outrunner")) == ""

    def test_nothing_and_zero_are_refused(self):
        for f, ref, count in (([], [1.0], 4), ([1.0], [], 4), ([0.0], [1.0], 4), ([1.0], [1.0], 3)):
            with pytest.raises(InputError):
                poles.from_reference(f, ref, count)


class TestTiming:
    @given(st.floats(1, 40), st.floats(0.02, 0.12), st.floats(0.8, 6))
    def test_a_target_is_reached_in_a_few_pulls_and_never_far_beyond_them(self, start, c, target):
        current = lambda setting: 1.5 * math.exp(c * (setting - 20))  # noqa: E731 -- the motor, in a line
        pulls, setting = [TimingPull(start, current(start))], start
        for _ in range(60):
            found = end_bell.propose(pulls, target, 0.02 * target, 0.5)
            if found.reached:
                break
            low, high = min(p.setting_deg for p in pulls), max(p.setting_deg for p in pulls)
            assert low - 5 - 1e-9 <= found.setting_deg <= high + 5 + 1e-9
            setting = found.setting_deg
            pulls.append(TimingPull(setting, current(setting)))
        assert found.reached
        assert abs(math.log(current(found.setting_deg) / target)) <= max(0.021, 0.5 * c + 1e-9)

    def test_between_two_pulls_it_interpolates_in_the_logarithm(self):
        found = end_bell.propose([TimingPull(20, 2.0), TimingPull(30, 4.0)], math.sqrt(8), 0.01, 0.1)
        assert found.setting_deg == pytest.approx(25.0)

    def test_no_pull_and_no_target_are_refused(self):
        for pulls, target in (([], 3.0), ([TimingPull(20, 2.0)], 0.0)):
            with pytest.raises(InputError):
                end_bell.propose(pulls, target, 0.05)

    def test_the_knee_of_a_known_curve(self):
        # rpm = 24000 + 120 θ, I = 2 e^(0.05 θ): 120 / (0.1 e^(0.05 θ)) = 600 at θ = ln 2 / 0.05
        made = [TimingPull(t, 2 * math.exp(0.05 * t), 24_000 + 120 * t) for t in (0, 10, 20)]
        assert end_bell.knee(made, 600) == pytest.approx(math.log(2) / 0.05, abs=0.1)
        assert end_bell.knee(made, 5000) is None
        assert end_bell.knee(made[:2], 600) is None
        without = [*made, TimingPull(15, 6.0, None), TimingPull(5, 0.0, 30_000)]  # no rpm, and no current
        assert end_bell.knee(without, 600) == end_bell.knee(made, 600)

    def test_electrical_and_mechanical(self):
        assert timing.mechanical(28, 14) == 4


class TestNoise:
    @given(st.floats(40, 110), st.floats(3.5, 60))
    def test_own_level_and_background_add_up_to_what_was_read(self, level, above):
        own = noise.without_background(level, level - above).level_db
        assert 10 * math.log10(10 ** (own / 10) + 10 ** ((level - above) / 10)) == pytest.approx(level)

    def test_near_the_hall_it_is_a_bound_and_hardly_known_and_far_from_it_the_hall_is_negligible(self):
        near, at, below = (noise.without_background(level, 70) for level in (72, 70, 65))
        assert [one.bound for one in (near, at, below)] == [True] * 3
        assert near.level_db < 72
        assert below.level_db < 65
        assert 1 < noise.without_background(90, 70).u_db < noise.without_background(75, 70).u_db < near.u_db < at.u_db
        assert not noise.without_background(73, 70).bound
        assert noise.without_background(80, 70).negligible
        assert not noise.without_background(80, 76).negligible


class TestThermal:
    @given(st.floats(5, 60), st.floats(60, 2000), st.floats(-5, 35))
    def test_cooling_is_found_again_from_points_on_its_curve(self, excess, tau, ambient):
        seconds = [0.0, tau / 4, tau / 2]
        surface = [ambient + excess * math.exp(-t / tau) for t in seconds]
        found = thermal.fit_cooling(seconds, surface, ambient)
        assert found.tau_s == pytest.approx(tau, rel=1e-6)
        left = thermal.seconds_until(found, ambient)
        assert found.at(left) <= ambient + 3 + 1e-6

    def test_a_motor_that_does_not_cool_or_one_reading_is_refused(self):
        with pytest.raises(InputError, match="does not cool"):
            thermal.fit_cooling([0, 60], [40, 41], 20)
        with pytest.raises(InputError, match="two readings"):
            thermal.fit_cooling([0, 60], [40, 20.2], 20)


class TestLoad:
    def test_a_flywheel_at_constant_torque(self):
        # 2e-4 kg·m² speeding up by 600 rpm/s = 20π rad/s²: 4π mN·m
        t = [i / 10 for i in range(21)]
        assert flywheel.torque(2e-4, t, [600 * x for x in t], 600) == pytest.approx(4 * math.pi)

    def test_response_is_the_mean_slope_up_and_down(self):
        assert flywheel.response([0, 1, 3], [1000, 4000, 1000]) == pytest.approx(2250)

    @pytest.mark.parametrize(("seconds", "rpm"), [([0, 1], [0, 1]), ([0, 0, 1], [0, 1, 2]), ([0, 1, 2], [0, 1])])
    def test_a_trace_that_is_none_is_refused(self, seconds, rpm):
        with pytest.raises(InputError):
            flywheel.response(seconds, rpm)

    def test_rows(self):
        row = load.LoadRow("x", 12.6, 11.1, 20, 222, 9000, 900)
        assert load.watts_mismatch(row) == pytest.approx(0)
        assert load.sag(12.6, 11.1) == pytest.approx(11.905, abs=1e-3)
        assert load.running_current(20) == (11, 16)


class TestMachineAndTheRest:
    def test_none_stands_clear_when_all_shake_alike(self):
        found = machine.rank({"a": 2, "b": 2.5, "c": 2})
        assert (found.culprit, found.words) == (None, "None stands clear of the others.")

    @given(st.permutations([("a", 1.0), ("b", 4.5), ("c", 1.5), ("d", 1.0)]))
    def test_the_order_of_spinning_changes_nothing(self, values):
        assert machine.rank(dict(values), suspect="c").culprit == "b"

    def test_an_accelerometer_compares_by_ratio(self):
        assert machine.rank({"a": 0.10, "b": 0.16}, metered=True).culprit == "b"
        assert machine.rank({"a": 0.10, "b": 0.12}, metered=True).culprit is None

    def test_the_checklist_fits_the_motor(self):
        names = {
            k: {i.name for i in inspection.items_for(Motor("x", kind=k, sensored=False))}
            for k in ("inrunner", "outrunner")
        }
        assert names["inrunner"] - names["outrunner"] == {"wrap"}
        assert names["outrunner"] - names["inrunner"] == {"bell_seam", "face_gap"}

    def test_the_wander_of_a_motor_that_stands_is_refused(self):
        with pytest.raises(InputError, match="must be above 0"):
            speed_ripple.wander(10, 0)
        assert speed_ripple.wander(0, 1000) == 0

    def test_an_explanation_is_read_from_the_function_itself(self):
        found = explain.explain(noise.without_background, {"level_db": 80.0, "background_db": 74.0})
        assert found.formula.startswith("L = 10·log10(10^(Lm/10) − 10^(Lb/10)); with q = 10^(−Δ/10)")
        assert found.inputs[0].what == "float, dB, with the motor running"
        assert found.source.startswith("ISO 3744")
