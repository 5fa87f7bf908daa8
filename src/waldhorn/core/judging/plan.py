"""What to do next: the tests the pit can do, how long each takes, and when to look again."""

from collections.abc import Container, Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from waldhorn.core.base.history import Motor
from waldhorn.core.base.vocabulary import Verdict
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.quantity import BenchTest

TESTS: Mapping[str, BenchTest] = {q.name: q.test for q in QUANTITIES.values() if q.test}


@dataclass(frozen=True, slots=True)
class CheckBy:
    """Check again after this many runs or on this day, whichever comes first."""

    runs: int
    date: date


def possible(motor: Motor, idle: Container[str]) -> dict[str, BenchTest]:
    """The tests that this motor allows and whose quantity would tell something, by quantity.

    Parameters
    ----------
    motor : Motor
    idle : container of str
        Quantities that would tell nothing.
    """
    return {n: t for n, t in TESTS.items() if n not in idle and (motor.may_have_sensors or not t.sensored_only)}


_LONGEST: Mapping[Verdict, tuple[int, int]] = {
    Verdict.KEEP: (12, 45), Verdict.WATCH: (4, 14), Verdict.UNPROVEN: (1, 7), Verdict.REPAIR: (1, 7),
    Verdict.RETIRE: (1, 7),
}  # fmt: skip


def check_by(
    verdict: Verdict,
    checked_on: date,
    runs_to_act: float | None = None,
    days_to_act: float | None = None,
    after: tuple[int, int] | None = None,
) -> CheckBy:
    """When a motor is due again.

    Parameters
    ----------
    verdict : one of the five answers
    checked_on : date of its last check
    runs_to_act, days_to_act : float or None
        Runs or days until the trend crosses an act limit.
    after : tuple of int, optional
        Runs and days by which it is due after what happened to it.

    Returns
    -------
    CheckBy

    Notes
    -----
    Formula: the earlier of half the time to the act limit and the longest (keep 12 runs or 45 days, watch 4 runs or
    14 days, anything else before a second run or in a week), or what happened to it asks for

    Source: bench practice.

    Examples
    --------
    >>> check_by(Verdict.WATCH, date(2026, 9, 12)).runs, check_by(Verdict.WATCH, date(2026, 9, 12), 5.0).runs
    (4, 2)
    """
    runs, days = _LONGEST[verdict]
    if after is not None:
        runs, days = min(runs, after[0]), min(days, after[1])
    if runs_to_act is not None:
        runs = min(runs, max(1, int(runs_to_act / 2)))
    if days_to_act is not None:
        days = min(days, max(1, int(days_to_act / 2)))
    return CheckBy(runs, checked_on + timedelta(days=days))
