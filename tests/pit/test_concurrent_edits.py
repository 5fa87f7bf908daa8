"""Two people at one form: fields only one touched both stand, of the others both values are shown."""

import pytest

from made import NOW
from waldhorn.core.base.errors import InputErrors
from waldhorn.core.base.history import Motor
from waldhorn.pit.bench import checks
from waldhorn.pit.bench.context import load
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.motors import facts as pit_motors
from waldhorn.store import motors

SHOWN = {"rig": "green bench", "method": "fixed-volt", "motor_c": "22"}


@pytest.fixture
def check(session):
    motor_id = pit_motors.add(session, Motor("VS-01"), NOW)
    check = checks.open_check(session, motors.get(session, motor_id), NOW)
    take(session, check.id, SHOWN, {})
    return check.id


def take(session, check_id, typed, shown):
    checks.take_step(session, load(session, check_id, NOW), STEPS["setup"], typed, shown)


def test_what_only_one_touched_both_stands(session, check):
    take(session, check, SHOWN | {"motor_c": "24"}, SHOWN)
    take(session, check, SHOWN | {"ambient_c": "19"}, SHOWN)
    stands = load(session, check, NOW).check
    assert (stands.motor_c, stands.ambient_c) == (24, 19)


def test_what_both_touched_is_shown_with_both_values_and_one_is_taken(session, check):
    take(session, check, SHOWN | {"motor_c": "24"}, SHOWN)
    with pytest.raises(InputErrors) as refused:
        take(session, check, SHOWN | {"motor_c": "31"}, SHOWN)
    assert refused.value.by_field["motor_c"].theirs == "24"
    assert "Enter keeps yours" in refused.value.by_field["motor_c"]
    assert load(session, check, NOW).check.motor_c == 24
    take(session, check, SHOWN | {"motor_c": "31"}, SHOWN | {"motor_c": "24"})  # drawn again with what stands now
    assert load(session, check, NOW).check.motor_c == 31


def draft(session, check, form, **typed):
    return checks.keep_draft(session, check, "pull", {"run": "1"} | typed, form)


def test_a_draft_keeps_what_either_typed_into_a_field_of_its_own(session, check):
    draft(session, check, "a", volts="7.4", amps="")
    draft(session, check, "b", volts="", amps="2.1")
    ctx = load(session, check, NOW)
    assert checks.typed_so_far(session, ctx, STEPS["pull"]) == {"volts": "7.4", "amps": "2.1"}


def test_a_draft_says_what_was_typed_into_the_same_field_elsewhere(session, check):
    assert draft(session, check, "a", volts="7") == {}
    assert draft(session, check, "a", volts="7.4") == {}  # one's own earlier keys are nobody else's
    assert draft(session, check, "b", volts="7.2") == {"volts": "also typed here: 7.4"}
    assert draft(session, check, "b", volts="7.4") == {}
