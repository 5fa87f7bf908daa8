"""The registries as they were read and approved (`registries.json`), and what follows from their entries."""

from dataclasses import astuple, replace
from pathlib import Path

import pytest

from approved import approve
from made import NOW, PULL, day, history, pulls
from waldhorn.core.base import conditions
from waldhorn.core.base.conditions import Conditions, comparable
from waldhorn.core.base.history import Event
from waldhorn.core.base.vocabulary import FAULTS, GRAVE, EventKind, Look
from waldhorn.core.judging.faults import ENTRY, after_weight
from waldhorn.core.judging.hands import SENSES
from waldhorn.core.judging.remedies import Prices
from waldhorn.core.judging.verdict import judge
from waldhorn.core.measuring import inspection
from waldhorn.core.measuring.measures import JUDGED, MEASURES, QUANTITIES
from waldhorn.core.measuring.observations import reset_times

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


APPROVED = Path(__file__).with_name("registries.json")


def test_the_registries_say_what_was_approved():
    plain = ("title", "unit", "repeatability", "relative", "absolute", "direction", "natural_spread", "worst_means")
    quantities = {
        name: {f: getattr(q, f) for f in plain}
        | {"limits": astuple(q.limits), "same": sorted(q.same), "reset_by": sorted(q.reset_by)}
        for name, q in JUDGED.items()
    }
    faults = {
        fault: {
            "remedy": entry.remedy,
            "ended_by": sorted(entry.ended_by),
            "signature": dict(entry.signature),
            "after": dict(entry.after),
            "found_by": dict(entry.found_by),
        }
        for fault, entry in ENTRY.items()
    }
    found = {
        "measures": {name: (m.dimension, m.low, m.high) for name, m in MEASURES.items()},
        "quantities": quantities,
        "faults": faults,
        "false_alarms": {name: sense.false_bad for name, sense in SENSES.items()},
        "forbidding": [n for n in inspection.ITEMS if inspection.forbidding({n: Look.BAD})],
        "shortening": [n for n in inspection.ITEMS if inspection.hold_share({n: Look.DOUBT}) < 1],
    }
    approve(APPROVED, found)


@pytest.mark.parametrize("fault", FAULTS)
def test_an_entry_names_only_what_is_judged_and_says_all_there_is_to_say(fault):
    entry = ENTRY[fault]
    assert entry.signature.keys() <= QUANTITIES.keys()
    assert entry.either_way | entry.compound | set(entry.model_spreads) <= set(entry.signature)
    assert entry.found_by.keys() <= SENSES.keys()
    assert min(map(len, (entry.words, entry.short, entry.part, entry.remedy_words))) > 3
    assert len(entry.paragraph.split()) > 25


def test_what_makes_a_fault_likelier_is_grave():
    assert {e for e in EventKind if any(after_weight(e, f) > 1 for f in FAULTS)} == set(GRAVE)


@pytest.mark.parametrize("event", EventKind)
@pytest.mark.parametrize("name", QUANTITIES)
def test_a_reset_parts_what_was_measured_before_and_after(event, name):
    happened = history(events=((5, event),)).events
    parted = reset_times(happened, QUANTITIES[name])
    assert parted == ([day(5)] if event in QUANTITIES[name].reset_by else [])


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
    assert not inspection.forbidding({name: Look.DOUBT})
    assert inspection.hold_share({name: Look.DOUBT}) in (0.5, 1)
    assert inspection.hold_share({name: Look.OK}) == 1


@pytest.mark.parametrize("event", EventKind)
def test_only_mending_an_item_lifts_its_ban(event):
    lifted = set(inspection.mended_by(Event(event, NOW)))
    assert not any(inspection.forbidding({item: Look.BAD}) for item in lifted)
    for item in filter(lambda i: inspection.forbidding({i: Look.BAD}), inspection.ITEMS):
        named = inspection.mended_by(Event(event, NOW, item=item))
        assert (item in named) == (event is EventKind.MENDED)


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
