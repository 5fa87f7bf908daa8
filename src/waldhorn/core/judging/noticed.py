"""What is known of a motor besides its numbers: what happened to it, what was looked at, what its owner says."""

from collections.abc import Sequence
from datetime import datetime

from waldhorn.core.base.history import Event, History
from waldhorn.core.base.vocabulary import EventKind, FaultKind, GuardKind, HallKind, Look, Sign, Spin, Sweep
from waldhorn.core.judging.evidence import FRESH, Evidence
from waldhorn.core.judging.faults import concerning, ended_by, told_by
from waldhorn.core.measuring import inspection, swap_test

_MOST_BY_SWAPPING = 20.0


def open_findings(known: History) -> dict[str, Look]:
    """The inspection findings that stand: the latest of each item, unless mended or overruled since."""
    latest = {f.item: f for f in sorted(known.inspected, key=lambda f: f.at)}
    lifted: dict[str, datetime] = {}
    for o in known.overruled:
        lifted[o.subject] = max(o.at, lifted.get(o.subject, o.at))
    for e in known.events:
        for item in inspection.mended_by(e):
            lifted[item] = max(e.at, lifted.get(item, e.at))
    return {item: f.state for item, f in latest.items() if item not in lifted or lifted[item] < f.at}


def pointing_to(known: History) -> dict[FaultKind, list[Sign]]:
    """What was noticed lately that is no number, by the fault it points to."""
    raised: dict[FaultKind, list[Sign]] = {
        fault: [Sign(state.value)] for fault, state in inspection.suspicion(open_findings(known)).items()
    }
    for sign in _signs(known):
        for fault in told_by(sign):
            raised.setdefault(fault, []).append(sign)
    return raised


def _signs(known: History) -> list[Sign]:
    """Lamps, an uneven sweep, a rough first spin: each as it was seen last."""
    seen = [x.at for part in (known.inspected, known.lamps, known.guard_trips) for x in part]
    seen += [c.at for c in known.checks if c.first_spin or c.sweep]
    since = max(seen, default=None)
    if since is None:
        return []
    since -= FRESH
    found = []
    lamps = [f for f in known.lamps if f.at >= since]
    if lamps and max(lamps, key=lambda f: f.at).kind not in (HallKind.GOOD, HallKind.INCOMPLETE):
        found.append(Sign.LAMPS)
    lately = sorted((c for c in known.checks if c.at >= since), key=lambda c: c.at)
    if [c.sweep for c in lately if c.sweep][-1:] == [Sweep.HUNTED]:
        found.append(Sign.HUNTED)
    erratic = any(g.kind is GuardKind.ERRATIC for g in known.guard_trips if g.at >= since)
    if erratic or [c.first_spin for c in lately if c.first_spin][-1:] == [Spin.ROUGH]:
        found.append(Sign.ROUGH)
    return found


def happened(known: History, judged: Sequence[Evidence]) -> dict[FaultKind, list[EventKind]]:
    """What happened since the oldest baseline in use, by the fault it concerns."""
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
    found = swap_test.odds_of_motor(latest.trials, known.motor.sensored)
    return min(max(found, 1 / _MOST_BY_SWAPPING), _MOST_BY_SWAPPING)


def came_back(known: History) -> bool:
    """Whether its owner sent it back with a complaint since the check before the last."""
    complaints = [e.at for e in known.events if e.event is EventKind.RETURNED]
    checks = sorted(c.at for c in known.checks if c.readings)
    return bool(complaints and checks) and max(complaints) >= (checks[-2] if len(checks) > 1 else checks[-1] - FRESH)
