"""Load rows side by side: one load by its one name, thrust brought to one volts, curves, crossings, hover."""

import math
from dataclasses import replace
from datetime import timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from made import day
from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Check, History, Motor, Reading
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.core.comparing import load_words, loads
from waldhorn.core.comparing.loads import LoadRead, ThrottleCurve, crossing, difference, differences, hover
from waldhorn.core.measuring import load
from waldhorn.core.measuring.propellers import propeller
from waldhorn.core.predicting.constants import Constants, shaft_power
from waldhorn.core.predicting.operating_point import faster_at


def row(motor="A", on="6 x 4.5", **read):
    named = propeller(on)
    return LoadRead(
        motor,
        named.name,
        on,
        "",
        read.pop("cells", 3),
        read.pop("pct", 100.0),
        read.pop("at", None),
        named.diameter,
        sure=named.sure,
        **read,
    )


SPELLINGS = {
    "5 x 4.5": '5x4.5 · 5 x 4.5 · 5045 · 5×4,5 · 5"x4.5" · 5x4.5 prop · 5 by 4.5 · 5*4.5 · 5.0x4.5 · 5 x 4.5 x 2'
    " · 5045 two blade",
    "5 x 4.5 x 3": "50453 · 5045x3 · 5045 x 3 · 5045 x3 · 5045-3 · 5045 tri · 5045 three-blade · 5x4.5x3"
    " · 5 x 4.5 3 blade · 5,0x4,5x3 · Tri 5045",
    "3 x 3 x 4": "3030x4 · 30304 · 3x3x4 · 3030 quad",
    "4 x 4 x 3": "4040x3",
    "5 x 4 x 4": "5040 x 4 · 50404",
    "5.1 x 4.7": "5147 · 5.1x4.7",
    "5.1 x 4.3 x 3": "51433",
    "10 x 4.5": "10x4.5 · 1045",
    "12 x 6": "12x6 · 1260",
    "6 x 4.5": "6x4.5 4S · 6x4.5, 4s",
    "9 x 4.5 sf": "9x4.5 SF",
    "127 x 114 mm": "127x114 mm",
    "three-blade green": "tri-blade green",
    "two-blade green": "two blade green",
    "green": "green",
    "four-blade": "quad prop",
    "rubber wheel": "Rubber  Wheel",
    "60 mm wheel": "60 mm wheel",
}


@pytest.mark.parametrize(
    ("written", "name"), [(w, name) for name, ways in SPELLINGS.items() for w in ways.split(" · ")]
)
def test_one_propeller_has_one_name(written, name):
    assert propeller(written).name == name
    assert propeller(name).name == name  # its name is a way to write it


def test_cells_behind_a_propeller_are_the_pack_and_what_is_not_sure_is_said():
    assert (propeller("5045 4S").name, propeller("5045 4S").cells) == ("5 x 4.5", 4)
    assert (propeller("1045").name, propeller("1045").sure) == ("10 x 4.5", False)
    said = load_words.rests_on([], [row(on="1045")])
    assert said == ["“1045” is read as 10 x 4.5."]


def test_rows_are_read_from_a_history_with_what_they_were_on():
    def one(measure, value, run, **under):
        return Reading(measure, value, day(0), run, Conditions(**under), Purpose.LOAD)

    full = {"on_shaft": "6x4.5", "throttle_pct": 100.0, "pack": "blue", "cells": 3.0}
    half = full | {"throttle_pct": 50.0}
    readings = (
        one("load_volts", 11.1, 1, **full), one("load_current", 20, 1, **full), one("load_watts", 240, 1, **full),
        one("thrust", 900, 1, **full), one("thrust", 300, 1, **half),
        replace(one("thrust", 5, 2, **full), accepted=False),
        Reading("no_load_current", 2, day(0)),
    )  # fmt: skip
    found = loads.rows_of(History(Motor("A"), (Check("c", day(0), readings),)))
    assert [(r.propeller, r.source, r.throttle_pct, r.thrust_g, r.watts) for r in found] == [
        ("6 x 4.5", "3S", 100.0, 900, 240),
        ("6 x 4.5", "3S", 50.0, 300, None),
    ]
    assert found[0].grams_per_watt == pytest.approx(3.75)


def test_watts_shown_count_where_peaks_were_not_at_one_moment():
    assert load.power(load.LoadRow("", load_v=11.1, amps=20, watts=225)) == pytest.approx(222)
    assert load.power(load.LoadRow("", load_v=11.1, amps=20, watts=240)) == 240
    shown = row(volts=11.1, amps=20, watts_shown=240, watts=240)
    [said] = load_words.rests_on([], [shown])
    assert "240 W shown, volts × amps 222 W" in said


def test_the_same_load_is_the_same_propeller_and_the_same_pack():
    a = [row(thrust_g=900), row(on="6x4.5x3", thrust_g=980)]
    b = [row("B", cells=4, thrust_g=1200), row("B", on="6045", thrust_g=870)]
    [found] = differences({"A": a, "B": b})
    assert (found.propeller, found.pack, found.thrust_g) == ("6 x 4.5", "3S", -30)


def test_thrust_at_other_volts_follows_from_the_constants_without_rpm():
    motor = Constants(0.11, 920, 0.55, 0, 0)
    rpm = 920 * (10.8 - 9 * 0.11)
    assert rpm == pytest.approx(9025, abs=1)
    assert shaft_power(motor, 10.8, 9.0) == pytest.approx(82.9, abs=0.1)
    # on a pack of 12.6 V and 20 mΩ it lies at 12.37 V
    assert 640 * faster_at(motor, 10.8, 9.0, 12.6 - 0.02 * 11.40) ** 2 == pytest.approx(822, rel=0.005)
    at = {"B": lambda r, volts: faster_at(motor, r.volts, r.amps, volts)}
    found = difference([row(volts=12.372, thrust_g=800)], [row("B", volts=10.8, amps=9.0, thrust_g=640)], at)
    assert (found.thrust_g, round(found.at_equal_volts_g)) == (-160, 22)
    assert found.p > 0.5
    unknown = difference([row(volts=12.372, thrust_g=800)], [row("B", volts=10.8, amps=9.0, thrust_g=640)])
    assert unknown.at_equal_volts_g is None


def test_a_pack_that_was_half_empty_is_not_mixed_with_a_full_one():
    first = [row(volts=7.4, rpm=17500), row(volts=6.8, rpm=16200)]
    second = [row("B", volts=7.41, rpm=17400)]
    assert difference(first, second).rpm == -100


def curve(motor, watts, thrust=(120, 330, 620, 900), on="6 x 4.5"):
    return ThrottleCurve(motor, on, "4S", (25, 50, 75, 100), thrust, watts)


def test_throttle_and_watts_for_a_thrust_and_how_long_a_pack_lasts():
    mine = curve("A", (12, 42, 98, 170))
    assert mine.throttle_at(300) == pytest.approx(46.9, rel=0.005)
    assert mine.watts_at(300) == pytest.approx(37.2, rel=0.005)
    assert (mine.watts_at(120), mine.watts_at(900)) == (12, 170)
    assert hover(mine, 900, 1200, 4, 1.5 * 14.8).minutes == pytest.approx(7.2, rel=0.01)
    with pytest.raises(InputError, match="901 g lies outside what was read"):
        mine.throttle_at(901)
    assert hover(mine, 900, 4800, 4).throttle_pct is None
    with pytest.raises(InputError):
        hover(mine, 900, 0, 4)


def test_curves_cross_where_both_were_read_and_differ_by_more_than_they_can_be_read():
    steep, flat = curve("A", (10, 36, 98, 190)), curve("B", (15, 46, 98, 160))
    found = crossing(steep, flat)
    assert found.at_thrust_g == pytest.approx(620, abs=1)
    assert (found.above, 0 < found.u < 300) == ("B", True)
    assert crossing(flat, steep).at_thrust_g == pytest.approx(found.at_thrust_g, abs=0.5)
    assert crossing(steep, curve("B", (12, 44, 106, 196))) is None
    assert crossing(steep, curve("B", (10.1, 35.9, 98.1, 190.5))) is None
    assert crossing(steep, curve("B", (20, 30, 40, 50), (901, 950, 1000, 1100))) is None
    assert loads.crossings([steep, flat, curve("C", (15, 46, 98, 160), on="5 x 3")])[0].motors == ("A", "B")


def test_more_thrust_is_better_only_where_it_is_not_paid_in_watts():
    a = [row("A", thrust_g=1180, watts=330, volts=11.0), row("A", pct=50, thrust_g=400, watts=60)]
    b = [row("B", thrust_g=1070, watts=390, volts=11.0), row("B", pct=50, thrust_g=380, watts=70)]

    def said(*two):
        by = {rows[0].motor: rows for rows in two}
        rows = [r for mine in two for r in mine]
        return load_words.answer(rows, differences(by), loads.curves(rows))

    assert said(a, b) == "A is the better one on 6 x 4.5 with 3S: 110 g more, and 98 W less for 1070 g."
    hungry = [row("B", thrust_g=1400, watts=700, volts=11.0), row("B", pct=50, thrust_g=400, watts=90)]
    assert said(a, hungry) == "On 6 x 4.5 with 3S B makes 220 g more for 370 W more; for 1180 g A needs 236 W less."
    assert said(a, [row("B", thrust_g=1175)]) == "A and B make the same thrust, as well as it can be read."
    assert said(a) == "A: 1180 g at 330 W, 3.6 g/W on 6 x 4.5 with 3S."
    assert said(a, [row("B", on="7x4", thrust_g=1)]) == "Not on the same propeller and pack yet: nothing to compare."
    turned = said([row("A", rpm=9000, amps=10)], [row("B", rpm=9400, amps=12)])
    assert turned == "On 6 x 4.5 with 3S B turns 400 rpm faster than A for 2.0 A more."


def test_where_two_change_places_between_propellers_is_named():
    a = [row("A", on="4x4.5", thrust_g=640), row("A", on="6x4.5", thrust_g=1180)]
    b = [row("B", on="4x4.5", thrust_g=700), row("B", on="6x4.5", thrust_g=1070)]
    found = differences({"A": a, "B": b})
    assert load_words.crossing_words(found, []) == ["A and B change places near a diameter of 4.7."]
    assert load_words.each(found) == ["On 4 x 4.5 with 3S B makes 60 g more.", "On 6 x 4.5 with 3S A makes 110 g more."]


def test_a_faster_winding_falls_off_more_as_the_load_grows():
    def rows(motor, *speeds):
        on = zip(("6x4", "8x6", "10x7"), (10.0, 22.0, 40.0), speeds, strict=True)
        return [row(motor, on=o, volts=11.0, amps=a, watts=11 * a, rpm=n) for o, a, n in on]

    found = differences({"A": rows("A", 9000, 7000, 5000), "B": rows("B", 9500, 7200, None)})
    assert [d.faster_pct for d in found if d.faster_pct] == pytest.approx([5.405, 2.817], abs=0.001)
    assert loads.closes(found) == pytest.approx(0.479, abs=0.001)
    assert loads.closes(found[:1]) is None
    said = "The lead in speed closes by 48 % from the lightest to the heaviest load."
    assert load_words.crossing_words(found, []) == [said]


STAND = st.floats(-0.88, 0.88)  # of the scatter that a stand is taken to have


@given(st.floats(50, 5000), st.floats(1.0, 1.5), st.lists(STAND, min_size=2, max_size=6), st.booleans())
def test_what_is_better_by_construction_is_never_called_worse(thrust, better, odd, swap):
    """A made-up stand that strays by less than 0.9 sigma, two of them by 1.27 of theirs: never P over 0.9."""
    half = len(odd) // 2

    def read(motor, true, strays):
        return [row(motor, thrust_g=true * (1 + loads.MOUNTING_PCT / 100 * s)) for s in strays]

    good, poor = read("good", thrust * better, odd[:half]), read("poor", thrust, odd[half:])
    found = difference(poor, good) if swap else difference(good, poor)
    for_the_poor = 1 - found.p if swap else found.p
    assert for_the_poor <= 0.9


@given(st.floats(7, 25), st.floats(0.5, 40), st.floats(0.8, 1.2))
def test_bringing_to_other_volts_and_back_is_nothing(volts, amps, share):
    motor = Constants(0.05, 900, 0.3, 0, 0)
    if volts - 3 * amps * 0.05 <= 1 or amps < 1:
        return
    there = faster_at(motor, volts, amps, volts * share)
    assert math.isclose(faster_at(motor, volts, amps, volts), 1, rel_tol=1e-6)
    assert (there > 1) == (share > 1) or math.isclose(share, 1, abs_tol=1e-9)


def test_the_latest_rows_count_and_repeats_tell_how_well():
    many = [row(thrust_g=t, at=day(0) + timedelta(days=i)) for i, t in enumerate((900, 1000, 1100))]
    assert loads.scatter_g(many) == pytest.approx(100)
    assert loads.scatter_g(many[:1]) == pytest.approx(18)
    assert loads.scatter_g([row()]) == 0


def test_differences_stand_by_the_size_of_the_propeller_and_what_has_none_last():
    ons = ("60 mm wheel", "12 x 6", "5 x 4.5", "9 x 4.5")
    read = {m: [row(m, on, thrust_g=grams, watts=200.0) for on in ons] for m, grams in (("A", 900.0), ("B", 950.0))}
    assert [d.propeller for d in differences(read)] == ["5 x 4.5", "9 x 4.5", "12 x 6", "60 mm wheel"]
