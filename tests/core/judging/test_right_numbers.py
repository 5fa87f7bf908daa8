"""Numbers reckoned by hand from the formulas, each against the function that states it."""

import math
import random

import pytest

from made import NOW, PULL, day, history
from waldhorn.core.base import units
from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Check, Motor, Reading
from waldhorn.core.base.vocabulary import HallKind
from waldhorn.core.measuring import (
    detent,
    end_bell,
    flywheel,
    gap,
    hall,
    load,
    outliers,
    poles,
    speed_ripple,
    thermal,
    timing,
)
from waldhorn.core.measuring.end_bell import TimingPull
from waldhorn.core.measuring.kv import at_reference_temperature
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import groups_of
from waldhorn.core.motors import ratings

ROUND = [0, 60, 120, 180, 240, 300]


def shifted(run_out=0.0, oval=0.0, spot=None, angles=ROUND):
    gaps = [
        0.6 + run_out / 2 * math.cos(math.radians(a - 40)) + oval / 2 * math.cos(2 * math.radians(a)) for a in angles
    ]
    return [g + 0.3 if i == spot else g for i, g in enumerate(gaps)]


class TestGap:
    def test_a_bent_shaft_is_run_out_alone(self):
        found = gap.fit(ROUND, shifted(0.16))
        assert (found.run_out_mm, found.opens_at_deg) == (pytest.approx(0.16), pytest.approx(40))
        assert (found.spot, found.oval) == (None, False)

    def test_an_oval_part_opens_twice(self):
        found = gap.fit(ROUND, shifted(0.02, oval=0.2))
        assert found.oval_mm == pytest.approx(0.2)
        assert found.oval
        assert found.run_out_mm == pytest.approx(0.02)

    @pytest.mark.parametrize("place", range(6))
    def test_a_single_spot_is_told_with_six_readings(self, place):
        assert gap.fit(ROUND, shifted(0.05, spot=place)).spot == place

    @pytest.mark.parametrize("count", [4, 5])
    def test_with_fewer_nothing_is_claimed(self, count):
        angles = [360 * i / count for i in range(count)]
        found = gap.fit(angles, shifted(0.05, spot=1, angles=angles))
        assert (found.spot, found.oval_mm, found.oval) == (None, None, False)


class TestHall:
    TWICE_ROUND = ["101", "100", "110", "010", "011", "001"] * 3

    def test_a_state_missed_once_is_no_finding(self):
        seen = self.TWICE_ROUND[:2] + self.TWICE_ROUND[3:]
        assert hall.judge_states(seen).kind is HallKind.GOOD
        assert hall.judge_states(seen[::-1]).direction == -1

    def test_a_state_missed_twice_at_the_same_place_is_one(self):
        seen = [s for i, s in enumerate(self.TWICE_ROUND) if i not in (2, 8)]
        assert hall.judge_states(seen).kind is not HallKind.GOOD


class TestPoles:
    @pytest.mark.parametrize(("true", "called", "slower"), [(28, 26, 0.06), (42, 40, 0.04), (14, 12, 0.06)])
    def test_a_drill_slowed_by_its_motor_settles_nothing_wrong(self, true, called, slower):
        reference, unknown = 1000 * 4 / 120, 1000 * (1 - slower) * true / 120
        assert poles.from_reference([unknown, unknown], [reference, reference], 4).poles is not called

    def test_however_well_repeats_agree_two_motors_are_not_nearer_than_their_drag(self):
        f = 1000 * 42 / 120
        assert poles.from_reference([f] * 5, [1000 * 4 / 120] * 5, 4).poles is None
        assert poles.from_tachometer([f, f], [1000.0, 1000.0]).poles == 42

    def test_ten_poles_in_an_inrunner_are_unusual_not_impossible(self):
        assert "unusual" in poles.odd_count(10, Motor("x", kind="inrunner"))
        assert "no sense" not in poles.odd_count(10, Motor("x", kind="inrunner"))

    @pytest.mark.parametrize("count", [0, -4, 7])
    def test_a_count_that_cannot_be_is_refused(self, count):
        for what in (
            lambda: poles.speed(100.0, count),
            lambda: poles.kv_rebased(3400, count, 4),
            lambda: poles.kv_rebased(3400, 4, count),
            lambda: timing.mechanical(20.0, count),
        ):
            with pytest.raises(InputError, match="pairs"):
                what()


class TestDetent:
    def test_only_a_single_high_peak_is_a_wire(self):
        even = [18.0 + 0.1 * (i % 3) for i in range(12)]
        assert outliers.outliers([*even[:5], 26.0, *even[6:]]) == (5,)
        assert outliers.outliers([*even[:5], 9.0, *even[6:]]) == ()
        assert outliers.outliers([*even[:5], 26.0, 27.0, *even[7:]]) == ()

    def test_panel_and_judge_leave_out_the_same_peak(self):
        peaks = [18.0, 18.4, 18.1, 18.3, 18.2, 29.0, 18.1, 18.3]
        run = detent.summarise(peaks)
        readings = tuple(
            Reading("detent_peak", p, day(0), 1, Conditions("bench", motor_c=25.0), position=i)
            for i, p in enumerate(peaks, 1)
        )
        [group] = groups_of(history(Check("a", day(0), readings)), QUANTITIES["detent_peak"])
        [varies] = groups_of(history(Check("a", day(0), readings)), QUANTITIES["detent_variation"])
        assert (group.value, group.n) == (run.median_nmm, 4)
        assert varies.value == pytest.approx(detent.scatter([p for p in peaks if p < 20]))

    def test_the_scatter_does_not_grow_with_the_peaks_as_the_range_does(self):
        chance = random.Random(7)
        few, many = ([[chance.gauss(18, 0.5) for _ in range(n)] for _ in range(300)] for n in (5, 24))
        middle = lambda what, runs: sorted(map(what, runs))[150]  # noqa: E731
        assert middle(detent.variation, many) / middle(detent.variation, few) == pytest.approx(3.90 / 2.33, rel=0.1)
        assert middle(detent.scatter, many) / middle(detent.scatter, few) == pytest.approx(1, abs=0.12)


class TestTiming:
    def test_growth_shrinks_towards_the_usual_when_pulls_lie_close(self):
        near, far = ([TimingPull(20, 2.0), TimingPull(20 + d, 2.0 * math.exp(0.09 * d))] for d in (2.5, 10))
        # u of the slope is 0.03/√(d²/2): 0.017 and 0.0042 against 0.02
        for pulls, d in ((near, 2.5), (far, 10)):
            weight, usual = (d**2 / 2) / 0.03**2, 1 / 0.02**2
            assert end_bell.growth(pulls) == pytest.approx((0.09 * weight + 0.05 * usual) / (weight + usual))
        assert 0.05 < end_bell.growth(near) < 0.075 < end_bell.growth(far) < 0.09

    def test_pulls_under_two_degrees_apart_show_nothing_and_the_next_is_set_two_away(self):
        pulls = [TimingPull(20, 2.0), TimingPull(21, 2.6)]
        assert end_bell.growth(pulls) == 0.05
        found = end_bell.propose([TimingPull(20, 2.0)], 2.08, 0.02)
        assert found.setting_deg == 22
        assert "2° apart" in found.words

    def test_a_pull_of_no_amps_is_refused(self):
        for pulls in ([TimingPull(20, 0.0)], [TimingPull(20, 2.0), TimingPull(25, 0.0)]):
            with pytest.raises(InputError, match="0 A"):
                end_bell.growth(pulls)
            with pytest.raises(InputError, match="0 A"):
                end_bell.propose(pulls, 3.0, 0.05)


class TestHeat:
    def test_the_worked_example_of_a_run(self):
        rise = thermal.rise_of_run(47, 22, 34, 60, 420)
        assert rise == pytest.approx(14.60, rel=0.005)
        resistance = thermal.thermal_resistance(rise, 999, 60, 420)
        assert resistance == pytest.approx(6.59, rel=0.005)
        assert 420 / resistance == pytest.approx(63.8, rel=0.005)
        assert thermal.rise_per_energy(rise, 999) == pytest.approx(14.61, rel=0.005)

    def test_copper(self):
        assert thermal.copper_resistance(16.19, 38) == pytest.approx(17.0, rel=0.005)

    def test_a_motor_that_started_warm_is_judged_without_it(self):
        at, under = day(0), Conditions("bench", "loaded-supply", ambient_c=22.0)
        cold = Check("a", at, (Reading("temperature", 40.0, at, 1, under),))
        warm = Check(
            "b", at, (Reading("temperature", 48.0, at, 1, under), Reading("temperature_before", 30.0, at, 1, under))
        )
        found = groups_of(history(cold, warm), QUANTITIES["temperature"])
        assert [g.value for g in found] == [18.0, pytest.approx(26 - 8 * math.exp(-28 / 420))]

    @pytest.mark.parametrize("quantity", ["temperature", "noise_avg"])
    def test_another_voltage_does_not_compare(self, quantity):
        assert "supply_v" in QUANTITIES[quantity].same


class TestFlywheel:
    def test_torque_of_a_bent_curve_is_that_at_the_speed_asked_for(self):
        seconds = [i / 50 for i in range(101)]
        rpm = [9000 * (1 - math.exp(-t)) for t in seconds]
        for at in (2000, 4500, 7000):
            exact = 1e3 * 2e-5 * (9000 - at) * 2 * math.pi / 60
            assert flywheel.torque(2e-5, seconds, rpm, at) == pytest.approx(
                exact, rel=0.005
            )  # a parabola through ± 5 %

    def test_what_it_stores(self):
        assert flywheel.stored_energy(3e-6, 25_000) == pytest.approx(0.5 * 3e-6 * 2617.99**2, rel=1e-4)

    @pytest.mark.parametrize("bad", [0.0, -1.0, math.nan])
    def test_an_inertia_that_is_none_is_refused(self, bad):
        with pytest.raises(InputError, match="above 0"):
            flywheel.torque(bad, [0, 1, 2, 3], [0, 1, 2, 3], 1)

    def test_nan_in_a_trace_is_refused(self):
        with pytest.raises(InputError, match="numbers only"):
            flywheel.torque(1e-4, [0, 1, 2, 3], [0, math.nan, 2, 3], 1)


class TestSteadiness:
    @pytest.mark.parametrize(("rpm", "p2p", "step"), [(25_160, 60, 10), (25_161, 60, 1), (25_160.5, 60.2, 0.1)])
    def test_the_resolution_is_that_of_the_display(self, rpm, p2p, step):
        readings = (Reading("rpm", rpm, NOW, 1, PULL), Reading("rpm_p2p", p2p, NOW, 1, PULL))
        [group] = groups_of(history(Check("a", NOW, readings)), QUANTITIES["speed_ripple"])
        assert group.resolution(0.02) == pytest.approx(100 * step / rpm)

    def test_a_motor_that_stands_still_has_none(self):
        with pytest.raises(InputError, match="above 0"):
            speed_ripple.wander(10, 0)


class TestLoad:
    def test_heat_is_what_the_shaft_does_not_get(self):
        row = load.LoadRow("8x6", load_v=10.8, amps=9.0)
        # 97.2 W in, shaft (10.8 − 0.99)·8.45 = 82.9 W
        assert load.heat(row, 0.11, 0.55) == pytest.approx(97.2 - 82.9, abs=0.05)
        assert load.heat(load.LoadRow("8x6", amps=9.0), 0.11, 0.55) is None

    @pytest.mark.parametrize("mass", [0.0, -1.0, math.nan])
    def test_no_mass_is_refused(self, mass):
        with pytest.raises(InputError, match="above 0"):
            load.thrust_to_mass(900, mass)


@pytest.mark.parametrize("typed", ["1 MΩ", "1 Mohm", "1MOhm"])
def test_a_million_ohms_are_no_winding(typed):
    with pytest.raises(InputError, match="millions of ohms"):
        units.read_number(typed, "winding", "resistance", 0.01, 1e6)
    assert units.read_number(typed.replace("M", "m", 1), "winding", "resistance", 0.01, 1e6) == 1


def test_a_refusal_shows_the_sign_a_person_reads():
    with pytest.raises(InputError, match="°C"):
        units.read_number("warm", "surface", "temperature", -40, 300)


def test_rated_speed():
    ceiling = ratings.Ceiling(24_000, 3450, 7.4)
    assert ceiling.most_volts == pytest.approx(6.957, abs=1e-3)
    assert ratings.no_load_speed(3450, 7.4, 50) == pytest.approx(12_765)


def test_kv_of_a_warm_motor_is_brought_back():
    assert at_reference_temperature(3400, 45, "neodymium") == pytest.approx(3400 * (1 - 0.0011 * 20))
