"""What leads weigh, and dates that can hardly be right."""

from datetime import datetime, timedelta

import pytest

from waldhorn.core.base.history import Motor
from waldhorn.core.motors.dating import odd_dates
from waldhorn.core.motors.leads import LEADS, REFERENCE_MM, WIRE_G_PER_M, comparable_mass, mass_at_one_length

NOON = datetime.fromisoformat("2026-06-01T12:00:00+02:00")


@pytest.mark.parametrize("gauge", WIRE_G_PER_M)
def test_two_motors_that_differ_in_their_leads_only_weigh_the_same(gauge):
    bare, per_mm = 150.0, LEADS * WIRE_G_PER_M[gauge] / 1000
    short, long = (mass_at_one_length(bare + per_mm * mm, mm, gauge) for mm in (20, 200))
    assert short == pytest.approx(long)
    assert short == pytest.approx(bare + per_mm * REFERENCE_MM)


def test_a_thicker_wire_weighs_more():
    by_gauge = [WIRE_G_PER_M[g] for g in sorted(WIRE_G_PER_M)]
    assert by_gauge == sorted(by_gauge, reverse=True)


@pytest.mark.parametrize(("length", "gauge"), [(None, 14), (90, None), (90, 15), (90, 0)])
def test_leads_that_are_not_known_are_not_guessed(length, gauge):
    assert mass_at_one_length(178, length, gauge) is None
    assert comparable_mass(178, length, gauge) == 178


def test_nothing_odd_is_nothing_said():
    assert odd_dates(Motor("x", in_service_on="2026-03-01"), [NOON - timedelta(days=3), NOON], NOON) == []
    assert odd_dates(Motor("x"), [datetime.fromisoformat("1999-01-01T00:00:00+00:00")], NOON) == []


def test_what_lies_ahead_and_what_lies_before_are_told_apart_and_counted():
    motor = Motor("x", in_service_on="2026-03-01")
    times = [NOON + timedelta(days=1), NOON + timedelta(hours=1), NOON, NOON - timedelta(days=200)]
    ahead, early = odd_dates(motor, times, NOON, "events")
    assert ahead == "2 of its events lie in the future (first 2026-06-01 13:00): left out of the answer until then."
    assert early == "1 of its events lies before it was in service (2026-03-01): look at the year."


def test_the_day_it_came_into_service_is_not_before_it():
    at = datetime.fromisoformat("2026-03-01T06:00:00+02:00")
    assert odd_dates(Motor("x", in_service_on="2026-03-01"), [at], NOON) == []
