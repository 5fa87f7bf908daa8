"""What is told of a motor without a label, from what was seen of it and the motors of the rack."""

import pytest

from waldhorn.pit.motors import identification

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
        "label_kv": "3430",
        "poles": "4",
        "kind": "inrunner",
        "poles_known_by": "counted",
    }
