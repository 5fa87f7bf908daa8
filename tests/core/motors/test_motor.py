"""The facts of a motor, its winding, its poles."""

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from waldhorn.core.base.history import Motor
from waldhorn.core.motors.facts import impossible
from waldhorn.core.motors.winding import can_be_wound, layout


@pytest.mark.parametrize(
    ("facts", "field", "says"),
    [
        ({"tag": " "}, "tag", "needs a tag"),
        ({"poles": 7}, "poles", "6 or 8"),
        ({"poles": 62}, "poles", "2 to 60"),
        ({"slots": 10}, "slots", "9, 12"),
        ({"slots": 12, "poles": 12}, "slots", "12 slots with 12 poles cannot carry three phases"),
        ({"label_kv": 0}, "label_kv", "must be above 0"),
        ({"mass_g": -3}, "mass_g", "must be above 0"),
        ({"kind": "sidewinder"}, "kind", "inrunner, outrunner"),
    ],
)
def test_the_impossible_is_named_with_what_would_be_right(facts, field, says):
    assert says in impossible(Motor(**{"tag": "VS-01"} | facts))[field]


def test_a_motor_of_which_only_the_tag_is_known_is_possible():
    assert impossible(Motor("VS-01")) == {}


@given(st.integers(1, 16).map(lambda n: 3 * n), st.integers(1, 20).map(lambda n: 2 * n))
def test_a_winding_is_balanced(slots, poles):
    assume(can_be_wound(slots, poles))
    sides = [side for pair in layout(slots, poles) for side in pair]
    by_phase = {phase: [s.sign for s in sides if s.phase == phase] for phase in "ABC"}
    assert len({len(signs) for signs in by_phase.values()}) == 1
    if slots < 3 * poles:  # every tooth coil goes in on one side and comes out on the other
        assert all(sum(signs) == 0 for signs in by_phase.values())


def test_the_usual_drone_winding_has_its_known_pattern():
    # 12 slots, 14 poles: the teeth go A a b B C c a A B b c C (small letters wound the other way)
    teeth = [right for _, right in layout(12, 14)]
    assert [t.phase for t in teeth] in (
        list("AABBCCAABBCC"),
        list("AACCBBAACCBB"),
        list("ABBCCAABBCCA"),
        list("ACCBBAACCBBA"),
    )
    assert teeth[0].sign == -teeth[6].sign
