"""What to do next: the tests the pit can do, how long each takes, and when to look again."""

from collections.abc import Container, Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from waldhorn.core.history import Motor


@dataclass(frozen=True, slots=True)
class Test:
    """A test of the bench: what to do in words, the quantity it yields, its standard uncertainty when done twice
    against an own baseline (change unit), and how long it takes."""

    quantity: str
    words: str
    u: float
    seconds: int
    sensored_only: bool = False
    outrunner_only: bool = False


TESTS: Mapping[str, Test] = {
    test.quantity: test
    for test in (
        Test("noise_avg", "noise at step one", 1.0, 40),
        Test("detent_peak", "detent, cold and unpowered", 3.0, 90),
        Test("timing_mean", "timing sweep", 0.5, 60, sensored_only=True),
        Test("timing_spread", "timing sweep", 0.5, 60, sensored_only=True),
        Test("temperature", "temperature after the standard run", 1.5, 120),
        Test("run_out", "gap at four clock positions", 0.01, 90, outrunner_only=True),
        Test("kv", "full-throttle pull", 0.5, 40),
        Test("no_load_current", "full-throttle pull", 3.0, 40),
    )
}


@dataclass(frozen=True, slots=True)
class CheckBy:
    """Check again after this many runs or on this day, whichever comes first."""

    runs: int
    date: date


def possible(motor: Motor, done: Container[str]) -> dict[str, tuple[float, int]]:
    """The tests that this motor allows and that are not done yet: quantity to (uncertainty, seconds)."""
    return {
        t.quantity: (t.u, t.seconds)
        for t in TESTS.values()
        if t.quantity not in done
        and (motor.sensored or not t.sensored_only)
        and (motor.kind == "outrunner" or not t.outrunner_only)
    }


_LONGEST: Mapping[str, tuple[int, int]] = {"keep": (12, 45), "watch": (4, 14), "unproven": (0, 0)}


def check_by(verdict: str, checked_on: date) -> CheckBy:
    """When a motor is due again.

    Formula: keep 12 runs or 45 days, watch 4 runs or 14 days, unproven at once

    Parameters
    ----------
    verdict : keep, watch or unproven
    checked_on : date of its last check

    Returns
    -------
    CheckBy

    Source: bench practice.

    >>> check_by("watch", date(2026, 9, 12)).runs
    4
    """
    runs, days = _LONGEST[verdict]
    return CheckBy(runs, checked_on + timedelta(days=days))
