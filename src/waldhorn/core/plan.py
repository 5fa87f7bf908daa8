"""What to do next: the tests the pit can do, how long each takes, and when to look again."""

from collections.abc import Container, Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from waldhorn.core.history import Motor


@dataclass(frozen=True, slots=True)
class Test:
    """A test of the bench: the quantity it yields, the step that does it, what to do in words, its standard
    uncertainty when done once against an own baseline (change unit), and how long it takes."""

    quantity: str
    step: str
    words: str
    u: float
    seconds: int
    sensored_only: bool = False


TESTS: Mapping[str, Test] = {
    test.quantity: test
    for test in (
        Test("noise_avg", "noise", "noise at step one", 1.3, 40),
        Test("detent_peak", "detent", "detent, cold and unpowered", 3.0, 90),
        Test("timing_mean", "timing", "timing sweep", 0.7, 60, sensored_only=True),
        Test("timing_spread", "timing", "timing sweep", 0.7, 60, sensored_only=True),
        Test("temperature", "heat", "temperature after the standard run", 2.0, 120),
        Test("run_out", "gap", "gap at four clock positions", 0.014, 90),
        Test("steadiness", "pull", "steadiness at full throttle", 0.1, 40),
        Test("kv", "pull", "full-throttle pull", 0.6, 40),
        Test("no_load_current", "pull", "full-throttle pull", 4.0, 40),
    )
}


@dataclass(frozen=True, slots=True)
class CheckBy:
    """Check again after this many runs or on this day, whichever comes first."""

    runs: int
    date: date


def possible(motor: Motor, done: Container[str]) -> list[Test]:
    """The tests that this motor allows and whose quantity is not known yet."""
    return [t for t in TESTS.values() if t.quantity not in done and (motor.sensored or not t.sensored_only)]


_LONGEST: Mapping[str, tuple[int, int]] = {
    "keep": (12, 45), "watch": (4, 14), "unproven": (0, 0), "repair": (0, 0), "retire": (0, 0),
}  # fmt: skip


def check_by(
    verdict: str, checked_on: date, runs_to_act: float | None = None, days_to_act: float | None = None
) -> CheckBy:
    """When a motor is due again.

    Formula: the earlier of half the time to the act limit and the longest (keep 12 runs or 45 days, watch 4 runs or
    14 days, anything else at once)

    Parameters
    ----------
    verdict : one of the five answers
    checked_on : date of its last check
    runs_to_act, days_to_act : float or None, runs or days until the trend crosses an act limit

    Returns
    -------
    CheckBy

    Source: bench practice.

    >>> check_by("watch", date(2026, 9, 12)).runs, check_by("watch", date(2026, 9, 12), 5.0).runs
    (4, 2)
    """
    runs, days = _LONGEST[verdict]
    if runs_to_act is not None:
        runs = min(runs, max(1, int(runs_to_act / 2))) if runs else 0
    if days_to_act is not None:
        days = min(days, max(1, int(days_to_act / 2))) if days else 0
    return CheckBy(runs, checked_on + timedelta(days=days))
