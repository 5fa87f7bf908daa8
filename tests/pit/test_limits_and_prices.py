"""Who was right in the end, when technician and tool differed."""

from datetime import timedelta

import pytest

from made import NOW
from waldhorn.core.base.history import Motor
from waldhorn.pit.settings import limits_and_prices
from waldhorn.store import cached_verdicts, motors
from waldhorn.store.models import SignedRow


def signed(session, motor_id, day, said, tool):
    at = NOW + timedelta(days=day)
    session.add(
        SignedRow(
            motor_id=motor_id,
            check_id=None,
            at=at,
            verdict=said,
            tool_verdict=tool,
            reason="",
            signed_by="Oda",
            judgement={},
        )
    )
    session.flush()


@pytest.mark.parametrize(
    ("said", "tool", "later", "tool_right", "technician_right"),
    [
        ("keep", "repair", "repair", 1, 0),
        ("keep", "repair", "keep", 0, 1),
        ("retire", "keep", "retire", 0, 1),
        ("retire", "keep", "watch", 1, 0),
        ("keep", "repair", "unproven", 0, 0),
        ("watch", "keep", "keep", 0, 0),  # both let it run: neither was wrong
    ],
)
def test_the_next_check_says_who_was_right(store, said, tool, later, tool_right, technician_right):
    with store.writing() as session:
        [motor_id] = motors.add(session, [Motor("VS-01")])
        signed(session, motor_id, 0, said, tool)
        before = limits_and_prices.tally(session, cached_verdicts.all_signed(session))
        assert (before.signed, before.differed, before.open) == (1, 1, 1)
        signed(session, motor_id, 10, later, later)
        found = limits_and_prices.tally(session, cached_verdicts.all_signed(session))
    assert (found.signed, found.differed) == (2, 1)
    assert (found.tool_right, found.technician_right) == (tool_right, technician_right)
    assert found.open == 1 - tool_right - technician_right
