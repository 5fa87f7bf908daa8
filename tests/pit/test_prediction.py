"""What a motor's constants rest on, and the load that another motor drove."""

from datetime import timedelta

import pytest
from sqlalchemy import event

from made import NOW
from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Event, Motor, Reading
from waldhorn.core.base.vocabulary import EventKind, Purpose
from waldhorn.core.measuring.end_bell import growth_and_u
from waldhorn.pit.judging import basis
from waldhorn.pit.motors import prediction
from waldhorn.store import motors, readings
from waldhorn.web.common.words import with_band

FULL = Conditions(throttle_pct=100.0)


def known(store, tag="VS-01"):
    with store.reading() as session:
        return basis.bases(session, motors.find(session, tag).id)


def add(store, tag, key, found, at=NOW):
    with store.writing() as session:
        motor_id = motors.find(session, tag).id
        check_id = readings.check_ids(session, [(motor_id, key, at, FULL)])[motor_id, key]
        readings.add(session, ((check_id, r) for r in found))


def test_constants_come_from_pulls_and_load_rows_in_a_fixed_number_of_statements(demo_store):
    counted = []
    event.listen(demo_store.engine, "before_cursor_execute", lambda *_: counted.append(1))
    found = known(demo_store)
    assert len(counted) <= 8
    assert list(found) == ["VS-01", *sorted(set(found) - {"VS-01"}, key=list(found).index)]
    one = found["VS-01"].constants
    assert one.resistance_ohm == pytest.approx(0.0163, rel=0.12)
    assert one.kv == pytest.approx(3400, rel=0.02)


def test_what_was_read_before_the_winding_was_changed_counts_no_more(demo_store):
    with demo_store.writing() as session:
        motor_id = motors.find(session, "VS-01").id
        motors.add_events(session, [(motor_id, Event(EventKind.REWOUND, NOW + timedelta(days=400)))])
    assert known(demo_store)["VS-01"].refused.startswith("no pull at full throttle")


def test_a_motor_that_was_never_under_load_gets_a_guess_wider_than_a_siblings_and_says_what_it_rests_on(demo_store):
    with demo_store.writing() as session:
        motors.add(session, [Motor("N-1", "Skerry 36", label_kv=3450), Motor("N-2", "Unheard of", mass_g=170)])
    found = known(demo_store, "N-1")
    asked = prediction.read({"load": "VS-01|38 x 52 propeller"}, found)
    own, told = prediction.answer(found, "VS-01", asked), prediction.answer(found, "N-1", asked)
    assert own.guessed is None
    assert told.guessed.rests_on[0].startswith("its siblings VS-")
    assert (told.timing, told.windings, told.measured_to_v) == (None, [], 0.0)

    def wide(answer):
        low, high = answer.prediction.band["amps"]
        return high - low

    assert wide(told) > wide(own)
    assert told.prediction.outcome.amps == pytest.approx(own.prediction.outcome.amps, rel=0.1)
    other = known(demo_store, "N-2")
    with pytest.raises(InputError, match="no pull at full throttle"):
        prediction.answer(other, "N-2", prediction.read({"load": "VS-01|38 x 52 propeller"}, other))


def test_a_propeller_between_two_that_were_read_lies_between_them(demo_store):
    found = known(demo_store, "VS-20")
    eight, nine = (w for w in dict.fromkeys(d.what for d in found["VS-20"].driven) if w.startswith(("8", "9")))

    def amps(**typed):
        asked = prediction.read({"volts": "11.1", "inner": "15"} | typed, found)
        return prediction.answer(found, "VS-20", asked)

    low, high = (amps(load=f"VS-20|{what}").prediction.outcome.amps for what in (eight, nine))
    middle = amps(load=f"VS-20|{eight}", diameter="8.5")
    assert low < middle.prediction.outcome.amps < high
    assert middle.asked.what == "A propeller of 8.5"
    assert middle.thrust is None
    at_its_end = amps(load=f"VS-20|{eight}", diameter="9").prediction.outcome.amps
    assert at_its_end == pytest.approx(high, rel=0.01)
    with pytest.raises(InputError, match="12 lies between no two that VS-20 drove: 8 to 9"):
        amps(load=f"VS-20|{eight}", diameter="12")


def test_a_load_that_holds_it_near_stall_is_said(demo_store):
    found = known(demo_store)
    usual = prediction.answer(found, "VS-01", prediction.read({"load": "VS-01|38 x 52 propeller"}, found))
    assert prediction.NEARLY_STALLS not in usual.over
    weak = prediction.read({"load": "VS-01|38 x 52 propeller", "inner": "600"}, found)
    assert prediction.NEARLY_STALLS in prediction.answer(found, "VS-01", weak).over


def test_the_pack_is_the_one_that_drove_the_row_where_its_volts_at_rest_were_read(demo_store):
    found = known(demo_store)
    asked = prediction.read({"load": "VS-01|38 x 52 propeller"}, found)
    row = next(d for d in reversed(found["VS-01"].driven) if d.what == "38 x 52 propeller")
    assert asked.pack.rest_v == row.rest_v
    assert asked.pack.inner_ohm == pytest.approx((row.rest_v - row.row.volts) / row.row.amps)
    told = prediction.answer(found, "VS-01", asked).prediction.outcome
    assert (told.amps, told.rpm) == (pytest.approx(row.row.amps, rel=0.02), pytest.approx(row.row.rpm, rel=0.02))
    assert prediction.read({"load": "VS-01|38 x 52 propeller", "inner": "20"}, found).pack.inner_ohm == 0.020


def test_four_wires_stand_in_for_a_row_under_load(demo_store):
    pairs = [Reading(f"winding_resistance_{p}", 16.0, NOW, conditions=FULL) for p in ("ab", "bc", "ca")]
    assert known(demo_store, "VS-07")["VS-07"].constants is None
    add(demo_store, "VS-07", "wires", pairs)
    found = known(demo_store, "VS-07")["VS-07"]
    assert found.constants.resistance_ohm == pytest.approx(0.016)
    asked = prediction.read({"load": "VS-01|38 x 52 propeller"}, known(demo_store, "VS-07"))
    told = prediction.answer(known(demo_store, "VS-07"), "VS-07", asked).prediction
    assert told.band["amps"][0] < told.outcome.amps < told.band["amps"][1]


def test_a_load_that_its_own_motor_cannot_explain_is_refused(demo_store):
    row = {"load_volts": 7.0, "load_current": 4.0, "load_rpm": 22_000.0}
    under = Conditions(on_shaft="paddle")
    found = [Reading(m, v, NOW, conditions=under, purpose=Purpose.LOAD) for m, v in row.items()]
    add(demo_store, "VS-07", "load", found)
    all_known = known(demo_store)
    asked = prediction.read({"load": "VS-07|paddle"}, all_known)
    with pytest.raises(InputError, match="VS-07 drove it, but its own constants are not known"):
        prediction.answer(all_known, "VS-01", asked)


@pytest.mark.parametrize(
    ("typed", "field"),
    [({"load": "VS-99|x"}, "load"), ({}, "load"), ({"gear": "0"}, "gear"), ({"share": "300"}, "share"),
     ({"inner": "-1"}, "inner"), ({"kind": "anchor"}, "kind")],
)  # fmt: skip
def test_what_cannot_be_asked_names_its_field(demo_store, typed, field):
    asked = {"load": "VS-01|38 x 52 propeller"} | typed if field != "load" else typed
    with pytest.raises(InputError) as refused:
        prediction.read(asked, known(demo_store))
    assert refused.value.field == field


@pytest.mark.parametrize(
    ("value", "low", "high", "said"),
    [(11.4031, 11.05, 11.81, "11.4 ± 0.4"), (10228.4, 10085, 10385, "10\u2009230 ± 150"),
     (0.8552, 0.8512, 0.8593, "0.855 ± 0.004"), (226.4, 216, 236, "226 ± 10"), (3409.2, 3399, 3415, "3\u2009409 ± 8")],
)  # fmt: skip
def test_no_more_digits_than_the_band_supports(value, low, high, said):
    assert with_band(value, low, high) == said


def test_a_degree_of_timing_is_priced_by_the_motors_own_sweep(demo_store):
    def asked():
        found = known(demo_store)
        return prediction.answer(
            found, "VS-01", prediction.read({"load": f"VS-01|{found['VS-01'].driven[0].what}"}, found)
        )

    usual = asked().timing
    assert not usual.own_sweep
    assert [deg for deg, _ in usual.course] == [-5, -2, 0, 2, 5]
    assert usual.words[0].startswith("No best for economy within 5°: less timing is the more efficient")
    assert usual.words[1].startswith("For top speed, 5° further on: ")
    assert usual.words[1].endswith("beyond that nobody has looked.")
    sweep = [
        Reading(
            measure, value, NOW, run, Conditions(throttle_pct=100.0, timing_set_deg=deg), purpose=Purpose.TIMING_PULL
        )
        for run, (deg, amps, rpm) in enumerate(((20.0, 2.0, 25_000), (26.0, 3.6, 26_200), (32.0, 6.4, 27_500)), 1)
        for measure, value in (("no_load_current", amps), ("rpm", rpm))
    ]
    add(demo_store, "VS-01", "swept", sweep)
    own = asked().timing
    assert own.own_sweep
    assert own.degree["rpm"][1] < usual.degree["rpm"][1] / 4
    assert own.degree["amps"][0] > usual.degree["amps"][0]
    assert own.words[1].endswith("a degree more is a quarter hotter than now.")


def test_pulls_at_several_timings_are_the_price_of_a_degree_and_not_one_motor(demo_store):
    later = NOW + timedelta(days=400)
    turned = [
        Reading(measure, value, later, run, Conditions("green bench", throttle_pct=100.0, timing_set_deg=deg))
        for run, (deg, amps, rpm) in enumerate(((10.0, 1.2, 24_000), (16.0, 1.6, 24_700), (22.0, 2.2, 25_400)), 1)
        for measure, value in (("supply_volts", 7.4), ("no_load_current", amps), ("rpm", rpm))
    ]
    add(demo_store, "VS-01", "turned", turned, later)
    found = known(demo_store)["VS-01"]
    assert (found.timing_deg, [r.amps for r in found.measured.rows if r.rpm == 25_400]) == (22.0, [2.2])
    assert not [r for r in found.measured.rows if r.rpm in (24_000, 24_700)]
    assert [p.setting_deg for p in found.sweep][-3:] == [10, 16, 22]
    assert growth_and_u(found.sweep[-3:])[0] == pytest.approx(0.0505, abs=0.001)


def test_a_motor_without_sensors_is_priced_by_the_timing_of_its_controller(demo_store):
    found = known(demo_store, "VS-24")
    told = prediction.answer(found, "VS-24", prediction.read({"load": f"VS-24|{found['VS-24'].driven[0].what}"}, found))
    assert told.timing is not None
    assert not told.timing.own_sweep
    assert told.timing.degree["amps"][0] > 0


def test_the_same_motor_wound_otherwise_turns_the_same_propeller(demo_store):
    def windings():
        found = known(demo_store)
        asked = prediction.read({"load": f"VS-01|{found['VS-01'].driven[0].what}"}, found)
        return prediction.answer(found, "VS-01", asked)

    told = windings()
    mine = told.prediction.outcome
    assert [w.turns for w in told.windings] == [None] * 4
    assert [round(w.kv / 3400, 1) for w in told.windings] == [0.8, 0.9, 1.1, 1.2]
    amps = [w.outcome.amps for w in told.windings]
    assert amps == sorted(amps)
    assert amps[1] < mine.amps < amps[2]
    with demo_store.writing() as session:
        row = motors.find(session, "VS-01")
        row.turns, row.rated_a = 4.0, mine.amps + 1
    wound = windings().windings
    assert [w.turns for w in wound] == [6, 5, 3, 2]
    assert [round(w.kv / 3400, 2) for w in wound] == [0.67, 0.8, 1.33, 2.0]
    assert [bool(w.over) for w in wound] == [False, False, True, True]


def test_others_that_drove_the_same_come_with_their_curve_and_what_was_read(demo_store):
    found = known(demo_store)
    what = found["VS-01"].driven[0].what
    told = prediction.answer(found, "VS-01", prediction.read({"load": f"VS-01|{what}"}, found))
    with_rows = [b for b in told.beside if b.measured]
    assert with_rows
    for beside in with_rows:
        near = min(beside.curve, key=lambda point: abs(point[0] - beside.measured[0][0]))
        assert near[1].amps == pytest.approx(beside.measured[0][1], rel=0.35)
