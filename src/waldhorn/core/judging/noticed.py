"""What is known of a motor besides its numbers: what happened to it, what its owner says. What eyes and hands found is
`hands`."""

from collections.abc import Sequence

from waldhorn.core.base.history import Event, History
from waldhorn.core.base.vocabulary import EventKind, FaultKind
from waldhorn.core.judging.evidence import FRESH, Evidence
from waldhorn.core.judging.faults import concerning, ended_by
from waldhorn.core.measuring import swap_test

_MOST_BY_SWAPPING = 20.0


def happened(known: History, judged: Sequence[Evidence]) -> dict[FaultKind, list[EventKind]]:
    """What happened since the oldest baseline in use, by the fault it concerns.

    Parameters
    ----------
    known : History
    judged : sequence of Evidence
    """
    start = min((e.reference.at for e in judged if e.reference and e.reference.at), default=None)
    events = sorted((e for e in known.events if start is None or e.at >= start), key=lambda e: (e.at, e.event))
    return concerning([e.event for e in events])


def retired_and_nothing_done(known: History) -> Event | None:
    """When it was retired, if it was measured since and no repair is on record after it."""
    retired = max((e for e in known.events if e.event is EventKind.RETIRED), key=lambda e: e.at, default=None)
    if retired is None or not any(c.at > retired.at and c.readings for c in known.checks):
        return None
    mended = any(e.at >= retired.at and ended_by(e.event) for e in known.events)
    return None if mended else retired


def odds_by_swapping(known: History) -> float:
    """How many times likelier the latest swap of motor and controller makes it that something is wrong with the motor;
    no more than a reading would."""
    latest = max(known.crossed, key=lambda c: c.at, default=None)
    if latest is None or any(e.at > latest.at and ended_by(e.event) for e in known.events):
        return 1.0
    found = swap_test.odds_of_motor(latest.trials, known.motor.may_have_sensors)
    return min(max(found, 1 / _MOST_BY_SWAPPING), _MOST_BY_SWAPPING)


def came_back(known: History) -> bool:
    """Whether its owner sent it back with a complaint since the check before the last."""
    complaints = [e.at for e in known.events if e.event is EventKind.RETURNED]
    checks = sorted(c.at for c in known.checks if c.readings)
    return bool(complaints and checks) and max(complaints) >= (checks[-2] if len(checks) > 1 else checks[-1] - FRESH)
