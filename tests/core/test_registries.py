"""The registries as truth tables: each written down here once more, from bench practice and not from the code."""

from dataclasses import replace

import pytest

from made import NOW, PULL, day, history, pulls
from waldhorn.core.base import conditions
from waldhorn.core.base.conditions import Conditions, comparable
from waldhorn.core.base.history import Event
from waldhorn.core.base.vocabulary import FAULTS, GRAVE, EventKind, FaultKind, Look, Verdict
from waldhorn.core.judging.faults import ENTRY, SIGNATURES, after_weight, ended_by, signs_in
from waldhorn.core.judging.hands import SENSES, telling
from waldhorn.core.judging.remedies import Prices
from waldhorn.core.judging.verdict import judge
from waldhorn.core.measuring import inspection
from waldhorn.core.measuring.measures import JUDGED, QUANTITIES
from waldhorn.core.measuring.observations import reset_times

TIMING = {"timing_mean", "timing_spread"}
HEAT = {"temperature", "heat_per_energy"}
LOSSES = {"no_load_current", "friction", "speed_loss"}
ROTOR = {
    "kv", "detent_peak", "detent_force", "detent_variation", "magnet_unevenness", "vibration", "run_out",
    "noise_avg", *HEAT, "speed_ripple", "magnet_strength", *TIMING, *LOSSES,
}  # fmt: skip
RESETS = {
    EventKind.BEARINGS_REPLACED: {"noise_avg", *LOSSES, "speed_ripple", "vibration", *HEAT},
    EventKind.ROTOR_REPLACED: ROTOR,
    EventKind.SHAFT_REPLACED: {"run_out", "vibration", "noise_avg", "speed_ripple"},
    EventKind.TIMING_CHANGED: {"kv", *LOSSES, "timing_mean", *HEAT, "noise_avg"},
    EventKind.SENSOR_BOARD_REPLACED: {
        *TIMING, *LOSSES, "sensor_level_spread", "kv", "noise_avg", *HEAT,
    },
    EventKind.REWOUND: set(JUDGED),
}  # fmt: skip
# In this order: watch, act, one repeat, relative, which way is bad.
LIMITS = {
    "magnet_strength": (3, 6, 0.5, False, -1),
    "kv": (3, 6, 0.5, True, 0),
    "detent_peak": (6, 12, 5, True, -1),
    "detent_force": (6, 12, 5, True, -1),
    "detent_variation": (30, 60, 20, True, 1),
    "no_load_current": (15, 30, 3, True, 1),
    "friction": (25, 60, 4, True, 1),
    "speed_loss": (40, 150, 5, True, 1),
    "speed_ripple": (0.5, 1.5, 0.06, False, 1),
    "timing_spread": (2, 4, 0.5, False, 1),
    "timing_mean": (2, 4, 0.5, False, 0),
    "noise_avg": (3, 6, 1, False, 1),
    "temperature": (8, 15, 1.5, False, 1),
    "heat_per_energy": (30, 60, 10, True, 1),
    "run_out": (0.08, 0.15, 0.014, False, 1),
    "vibration": (1, 2, 0.5, False, 1),
    "magnet_unevenness": (50, 100, 10, True, 1),
    "sensor_level_spread": (50, 100, 10, True, 1),
    "resistance_imbalance": (2, 4, 0.3, False, 1),
}
ON_THE_VALUE = {"speed_ripple", "timing_spread", "run_out", "resistance_imbalance"}
COLUMNS = (
    "kv", "no_load_current", "speed_ripple", "timing_mean", "timing_spread", "noise_avg", "detent_peak",
    "detent_variation", "temperature", "run_out", "vibration", "friction", "speed_loss", "resistance_imbalance",
    "heat_per_energy",
)  # fmt: skip
SIGNS = {
    FaultKind.DEMAGNETISED_ROTOR: (6, 5, 0, 0, 0, 0, -12, 0, 1, 0, 0, -4, -9, 0, 2),
    FaultKind.CRACKED_MAGNET: (2, 5, 1.5, 0, 3, 4, -5, 60, 3, 0, 2, 8, 2, 0, 15),
    FaultKind.WORN_BEARING: (-0.15, 30, 1.2, 0, 0, 6, 0, 0, 8, 0, 1, 60, 4, 0, 19),
    FaultKind.BENT_SHAFT: (-0.05, 12, 0.8, 0, 0.5, 5, 0, 40, 3, 0.15, 2, 4, 20, 0, 8),
    FaultKind.SHORTED_TURN: (4, 80, 0.6, 0, 1, 1, 0, 0, 25, 0, 0, 0, 160, 4.3, 51),
    FaultKind.TIMING_MOVED: (2, 22, 0, 4, 0, 0.5, 0, 0, 8, 0, 0, 20, 20, 0, 27),
    FaultKind.FAILING_SENSOR: (0, 0, 1, 2, 4, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0),
    FaultKind.BAD_JOINT: (-0.3, 0, 0, 0, 0, 0, 0, 0, 2, 0, 0, 0, 0, 5, 14),
}
FORBIDS = {"leads", "screws", "windings", "magnets", "bell_seam", "wrap", "retention"}
SHORTENS = {"screws", "windings", "bearings"}
SAME = {
    "kv": {"method", "rig", "throttle_pct", "timing_set_deg"},
    "no_load_current": {"rig", "throttle_pct", "supply_v", "timing_set_deg", "motor_c"},
    "friction": {"rig", "timing_set_deg", "motor_c"},
    "speed_loss": {"rig", "timing_set_deg", "motor_c"},
    "speed_ripple": {"rig", "throttle_pct"},
    "timing_mean": {"rig", "timing_set_deg"},
    "timing_spread": {"rig"},
    "noise_avg": {"rig", "placement", "distance_cm", "meter", "throttle_pct", "supply_v"},
    "temperature": {"rig", "throttle_pct", "timing_set_deg", "supply_v"},
    "heat_per_energy": {"rig", "throttle_pct", "timing_set_deg", "supply_v"},
    "detent_peak": {"rig"},
    "detent_force": {"rig", "lever"},
    "detent_variation": {"rig"},
    "run_out": set(),
    "vibration": {"throttle_pct", "placement"},
    "magnet_unevenness": {"rig"},
    "sensor_level_spread": {"rig"},
    "resistance_imbalance": set(),
}
APART = [
    ("rig", "green bench", "blue bench"),
    ("method", "loaded-supply", "drill"),
    ("throttle_pct", 100.0, 99.0),
    ("placement", "stand", "car"),
    ("distance_cm", 50.0, 49.0),
    ("meter", "phone", "class 2"),
    ("supply_v", 7.4, 7.2),
    ("timing_set_deg", 20.0, 20.5),
    ("motor_c", 25.0, 36.0),
    ("on_shaft", "nothing", "pinion"),
    ("lever", "short arm", "long arm"),
]
CLOSE = [
    ("rig", "Green bench", "green bench"),
    ("throttle_pct", 100.0, 99.6),
    ("distance_cm", 50.0, 49.6),
    ("supply_v", 7.4, 7.26),
    ("timing_set_deg", 20.0, 20.2),
    ("motor_c", 25.0, 34.9),
    ("meter", "phone", ""),
    ("motor_c", 25.0, None),
]


# What hands and eyes find: how often at the act limit, and how often for nothing.
HANDS = {
    ("bearings", "worn_bearing"): (0.7, 0.05), ("shaft", "bent_shaft"): (0.8, 0.05),
    ("face_gap", "bent_shaft"): (0.8, 0.05), ("air_gap", "bent_shaft"): (0.6, 0.05),
    ("windings", "shorted_turn"): (0.5, 0.03), ("magnets", "cracked_magnet"): (0.7, 0.01),
    ("end_bell", "timing_moved"): (0.8, 0.03), ("lamps", "failing_sensor"): (0.95, 0.02),
    ("first_spin", "worn_bearing"): (0.8, 0.05), ("sweep", "failing_sensor"): (0.6, 0.05),
    ("by_ear", "worn_bearing"): (0.7, 0.2), ("warmth", "shorted_turn"): (0.6, 0.2),
}  # fmt: skip


def test_what_happened_and_what_was_noticed_weighs_so_much():
    assert [after_weight(EventKind.CRASH, f) for f in (FaultKind.BENT_SHAFT, FaultKind.WORN_BEARING)] == [6, 1]
    found = {(s, str(f)): bad for s in SENSES for f, (bad, _) in telling(s).items()}
    assert {k: found[k] for k in HANDS} == {k: bad for k, (bad, _) in HANDS.items()}
    assert {s: SENSES[s].false_bad for s, _ in HANDS} == {s: false for (s, _), (_, false) in HANDS.items()}


@pytest.mark.parametrize("event", EventKind)
def test_what_an_event_resets(event):
    assert {name for name, q in JUDGED.items() if event in q.reset_by} == RESETS.get(event, set())


@pytest.mark.parametrize("event", EventKind)
@pytest.mark.parametrize("name", QUANTITIES)
def test_a_reset_parts_what_was_measured_before_and_after(event, name):
    happened = history(events=((5, event),)).events
    parted = reset_times(happened, QUANTITIES[name])
    assert parted == ([day(5)] if name in RESETS.get(event, set()) else [])


@pytest.mark.parametrize("name", JUDGED)
def test_limits_repeats_and_directions(name):
    q = JUDGED[name]
    assert (q.limits.watch, q.limits.act, q.repeatability, q.relative, q.direction) == (
        *LIMITS[name][:3],
        LIMITS[name][3],
        LIMITS[name][4],
    )
    assert q.absolute == (name in ON_THE_VALUE)


@pytest.mark.parametrize("fault", FAULTS)
def test_signs_and_sizes_of_a_fault_at_its_act_limit(fault):
    assert tuple(SIGNATURES[fault].get(name, 0) for name in COLUMNS) == SIGNS[fault]


@pytest.mark.parametrize("fault", FAULTS)
def test_an_entry_names_only_what_is_judged_and_says_all_there_is_to_say(fault):
    entry = ENTRY[fault]
    assert set(entry.signature) <= set(QUANTITIES)
    assert entry.either_way | entry.compound | set(entry.model_spreads) <= set(entry.signature)
    assert min(map(len, (entry.words, entry.short, entry.part, entry.remedy_words))) > 3
    assert len(entry.paragraph.split()) > 25


def test_what_only_one_fault_moves():
    alone = {n: set(signs_in(n)) for n in ("magnet_unevenness", "sensor_level_spread", "run_out")}
    assert alone == {
        "magnet_unevenness": {FaultKind.CRACKED_MAGNET},
        "sensor_level_spread": {FaultKind.FAILING_SENSOR},
        "run_out": {FaultKind.BENT_SHAFT},
    }
    assert signs_in("resistance_imbalance") == {FaultKind.SHORTED_TURN: 4.3, FaultKind.BAD_JOINT: 5}


@pytest.mark.parametrize("name", QUANTITIES)
def test_what_compares_under_what(name):
    assert set(QUANTITIES[name].same) == SAME[name]


@pytest.mark.parametrize(("field", "left", "right"), APART)
def test_conditions_that_part(field, left, right):
    under = Conditions(**{field: left})
    assert not comparable((field,), under, replace(under, **{field: right}))
    assert conditions.differing((field, "ambient_c"), under, replace(under, **{field: right})) == [field]


@pytest.mark.parametrize(("field", "left", "right"), CLOSE)
def test_conditions_that_do_not_part(field, left, right):
    under = Conditions(**{field: left})
    assert comparable((field,), under, replace(under, **{field: right}))


@pytest.mark.parametrize("name", inspection.ITEMS)
def test_what_a_finding_forbids_and_shortens(name):
    assert bool(inspection.forbidding({name: Look.BAD})) == (name in FORBIDS)
    assert not inspection.forbidding({name: Look.DOUBT})
    assert inspection.hold_share({name: Look.DOUBT}) == (0.5 if name in SHORTENS else 1)
    assert inspection.hold_share({name: Look.OK}) == 1


@pytest.mark.parametrize("event", EventKind)
def test_only_mending_an_item_lifts_its_ban(event):
    lifted = set(inspection.mended_by(Event(event, NOW)))
    assert not lifted & FORBIDS
    for item in FORBIDS:
        named = inspection.mended_by(Event(event, NOW, item=item))
        assert (item in named) == (event is EventKind.MENDED)


def test_what_is_done_about_each_fault():
    retire = {FaultKind.DEMAGNETISED_ROTOR, FaultKind.CRACKED_MAGNET, FaultKind.SHORTED_TURN}
    assert {f for f, e in ENTRY.items() if e.remedy is Verdict.RETIRE} == retire
    assert {f for f, e in ENTRY.items() if e.remedy is Verdict.REPAIR} == set(FAULTS) - retire


def test_what_makes_which_fault_likelier():
    likelier = {e: {f for f in FAULTS if after_weight(e, f) > 1} for e in EventKind}
    assert {e: found for e, found in likelier.items() if found} == {
        EventKind.CRASH: {
            FaultKind.CRACKED_MAGNET,
            FaultKind.BENT_SHAFT,
            FaultKind.TIMING_MOVED,
            FaultKind.FAILING_SENSOR,
            FaultKind.BAD_JOINT,
        },
        EventKind.DUNKED: {FaultKind.WORN_BEARING, FaultKind.FAILING_SENSOR},
        EventKind.OVERHEATED: {FaultKind.DEMAGNETISED_ROTOR, FaultKind.SHORTED_TURN},
    }
    assert set(GRAVE) == {e for e, found in likelier.items() if found}


def test_what_a_repair_mends():
    assert {e: set(f) for e in EventKind if (f := ended_by(e))} == {
        EventKind.BEARINGS_REPLACED: {FaultKind.WORN_BEARING},
        EventKind.ROTOR_REPLACED: {FaultKind.DEMAGNETISED_ROTOR, FaultKind.CRACKED_MAGNET},
        EventKind.SHAFT_REPLACED: {FaultKind.BENT_SHAFT},
        EventKind.TIMING_CHANGED: {FaultKind.TIMING_MOVED},
        EventKind.SENSOR_BOARD_REPLACED: {FaultKind.FAILING_SENSOR, FaultKind.TIMING_MOVED},
        EventKind.MENDED: {FaultKind.BAD_JOINT},
        EventKind.REWOUND: set(FAULTS),
    }


def test_the_usual_prices():
    assert Prices() == Prices(new=1.0, repair=0.3, failure=1.5)


@pytest.mark.parametrize(
    ("amps", "state"),
    [(2.0, "within"), (2.1, "within"), (2.3, "unproven"), (2.42, "watch"), (2.6, "unproven"), (2.9, "past")],
)
def test_the_state_of_a_change_against_its_limits(amps, state):
    checks = [pulls(d, (7.4, a, 25160), (7.4, a, 25160), name=str(d)) for d, a in ((0, 2.0), (5, 2.0), (10, amps))]
    judged = judge(history(*checks), NOW)
    assert next(e.state for e in judged.evidence if e.quantity.name == "no_load_current") == state


def test_a_reading_at_another_rig_is_another_group():
    other = replace(PULL, rig="other")
    checks = (pulls(0, (7.4, 2, 25160)), pulls(5, (7.4, 3, 25160), conditions=other))
    current = [e for e in judge(history(*checks), NOW).evidence if e.quantity.name == "no_load_current"]
    assert current
    assert all(e.change is None for e in current)
