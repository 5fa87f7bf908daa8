"""What is told of a motor without a label, from what was seen of it and the motors of the rack."""

import pytest

from made import NOW
from waldhorn.core.base.errors import InputErrors
from waldhorn.pit.motors import facts, identification
from waldhorn.store import motors, readings

SKERRY = {"kv": 3430.0, "ohm": 16.0, "mass_g": 178.0, "slots": 12.0, "poles": 4.0}


@pytest.fixture
def told(demo_store):
    def tell(kind="inrunner", **seen):
        with demo_store.reading() as session:
            return identification.tell(session, {"kind": kind}, seen)

    return tell


@pytest.mark.parametrize(
    ("ohm", "words"), [(16, "as its mass promises"), (9, "strong for its mass"), (30, "weak for its mass")]
)
def test_it_is_held_against_motors_of_about_its_mass(told, ohm, words):
    found = told(**SKERRY | {"ohm": ohm})
    assert any(words in said for said in found.said)
    assert bool(found.odd) == (words == "weak for its mass")


@pytest.mark.parametrize("mass_g", [20, 900, None])
def test_without_its_like_strength_by_mass_is_not_said(told, mass_g):
    found = told(**{n: v for n, v in (SKERRY | {"mass_g": mass_g}).items() if v is not None})
    assert "Its motor constant is 22.0 mN·m/√W." in found.said
    assert found.odd == []


def test_siblings_are_of_its_kind_near_in_kv_and_mass_and_of_its_slots_and_poles(told):
    assert {m.model for m, _ in told(**SKERRY).siblings} == {"Skerry 36"}
    assert told(kind="outrunner", **SKERRY).siblings == []
    assert told(**SKERRY | {"poles": 6.0}).siblings == []
    assert told(**SKERRY | {"mass_g": 230.0}).siblings == []


def test_what_is_not_known_yet_is_worth_measuring_in_its_order(told):
    assert [words.split()[0] for words in told(kv=3430.0, slots=12.0).next] == ["count", "measure", "weigh", "measure"]
    assert told(kv=3430.0, poles=4.0).facts == {
        "read_kv": "3430",
        "poles": "4",
        "kind": "inrunner",
        "poles_known_by": "counted",
    }


def test_all_that_was_worked_out_is_handed_on_and_kv_by_the_drill_is_its_first_reading(session):
    typed = {"size": "28-26", "kind": "outrunner"}
    handed = identification.tell(session, typed, {"can_mm": 27.9, "length_mm": 26.0, "kv": 1015.0, "ohm": 84.0}).facts
    assert handed == {
        "can_mm": "27.9", "length_mm": "26", "read_kv": "1015", "read_mohm": "84", "variant": "28-26",
        "kind": "outrunner",
    }  # fmt: skip
    assert identification.tell(session, {"size": "22.5x12.5"}, {"can_mm": 28.2}).facts == {
        "stator_mm": "22.5", "stator_length_mm": "12.5", "can_mm": "28.2", "variant": "22.5x12.5",
    }  # fmt: skip
    facts.take_in(session, handed | {"tag": "BX-1"}, NOW)
    row = motors.find(session, "BX-1")
    assert (row.label_kv, row.variant) == (None, "28-26")
    [check] = readings.history(session, row.id).checks
    assert {(r.measure, r.value, r.conditions.method) for r in check.readings} == {
        ("kv", 1015.0, "back-emf"), ("winding_resistance_ab", 84.0, "back-emf"),
    }  # fmt: skip


def test_nonsense_in_what_was_read_is_said_beside_its_field(session):
    with pytest.raises(InputErrors) as refused:
        facts.take_in(session, {"tag": "BX-1", "read_kv": "fast"}, NOW)
    assert list(refused.value.by_field) == ["read_kv"]


def test_why_slots_and_poles_cannot_be_is_said(session):
    odd = identification.tell(session, {}, {"slots": 12.0, "poles": 12.0}).odd
    assert odd[0].startswith("12 slots with 12 poles cannot be: each pole pair meets its teeth in 2 positions")
