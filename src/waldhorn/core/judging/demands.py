"""Demands: what an event asks to be read before a motor is kept again, and how soon it is to be looked at after that.

References
----------
.. [1] Bench practice.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from types import MappingProxyType

from waldhorn.core.base.history import Event, History
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.core.judging.evidence import Evidence
from waldhorn.core.judging.visits import ONE_SITTING
from waldhorn.core.measuring.inspection import ITEMS
from waldhorn.core.measuring.measures import QUANTITIES


@dataclass(frozen=True, slots=True)
class Demand:
    """A test an event demands, in words: any of these quantities read since, or any of these looked at (items of the
    checklist, `first_spin`, `swap`); from `after` on, where it is to be done later."""

    words: str
    step: str
    quantities: tuple[str, ...] = ()
    looked: tuple[str, ...] = ()
    after: timedelta = timedelta()


@dataclass(frozen=True, slots=True)
class Aftermath:
    """What an event demands, how soon the motor is due again after it, and the repairs that make it void."""

    demands: tuple[Demand, ...]
    days: int
    runs: int
    void_by: frozenset[EventKind] = frozenset({EventKind.REWOUND})


_BEARINGS = Demand("turn the bearings by hand", "look", looked=("bearings",))
_SWAP = Demand("swap motor and controller", "swap", looked=("swap",))
AGAIN_FROM = timedelta(days=2)  # water shows in a bearing after days [1]
STORED = timedelta(days=365)
AFTERMATH: Mapping[EventKind, Aftermath] = MappingProxyType({
    EventKind.CRASH: Aftermath(
        (
            Demand("gauge the gap", "gap", ("run_out",)),
            Demand("first spin", "first_spin", ("kv", "no_load_current"), ("first_spin",)),
            Demand("look at the magnets", "look", ("detent_peak",), ("magnets",)),
        ),
        days=14, runs=4, void_by=frozenset({EventKind.REWOUND}),
    ),
    EventKind.DUNKED: Aftermath(
        (
            _BEARINGS,
            Demand("listen", "noise", ("noise_avg",)),
            Demand("turn the bearings by hand again", "look", looked=("bearings",), after=AGAIN_FROM),
        ),
        days=7, runs=2, void_by=frozenset({EventKind.REWOUND, EventKind.BEARINGS_REPLACED}),
    ),
    EventKind.OVERHEATED: Aftermath(
        (
            Demand("read the winding resistance", "resistance", ("resistance_imbalance",)),
            Demand("full-throttle pull", "pull", ("kv",)),
            Demand("take the detent", "detent", ("detent_peak",)),
        ),
        days=14, runs=4,
    ),
})  # fmt: skip
# What a complaint is about, by its words, and the test that answers it.
COMPLAINTS: Sequence[tuple[str, Demand]] = (
    (r"loud|nois|scream|rattl|whin|grind", Demand("listen", "noise", ("noise_avg",))),
    (r"hot|heat|warm|smok|smell", Demand("read the heat", "heat", ("temperature",))),
    (
        r"stutter|cogg|cut|jerk|hesitat|sensor",
        Demand("watch the Hall lamps", "sensors", ("timing_spread",), ("lamps",)),
    ),
    (r"slow|weak|power|punch|amps|drain", Demand("full-throttle pull", "pull", ("kv", "no_load_current"))),
    (r"shak|vibrat|wobbl|bent", Demand("gauge the gap", "gap", ("run_out",))),
)
STORED_DEMANDS = (_BEARINGS, Demand("first spin", "first_spin", ("kv", "no_load_current"), ("first_spin",)))


@dataclass(frozen=True, slots=True)
class Unread:
    """What an event demands that was not read since: the event (None: it lay for a year), when, and the demands."""

    event: Event | None
    since: datetime
    demands: tuple[Demand, ...]


def unread(known: History, evidence: Sequence[Evidence], as_of: datetime) -> tuple[Unread, ...]:
    """What events demand that was not read since, the latest event first.

    Parameters
    ----------
    known : History
    evidence : sequence of Evidence
        Of every quantity, to see when each was read last.
    as_of : datetime
        Now: a demand for later is not asked earlier.

    Returns
    -------
    tuple of Unread
        Only of demands this motor allows.

    Notes
    -----
    Source: [1]_.
    """
    read = {e.quantity.name: e.at for e in evidence if e.at is not None}
    looked = _looked(known)
    found = []
    for event, demands in _demanding(known):
        left = tuple(
            d
            for d in demands
            if _possible(d, known) and as_of >= event.at + d.after and not _done(d, event.at, read, looked)
        )
        now = {d.looked for d in left if not d.after}
        left = tuple(d for d in left if not d.after or d.looked not in now)  # the first look comes first
        if left:
            found.append(Unread(event, event.at, left))
    if stored := _stored(known):
        left = tuple(d for d in STORED_DEMANDS if not _done(d, stored, read, looked))
        if left:
            found.append(Unread(None, stored, left))
    return tuple(sorted(found, key=lambda u: u.since, reverse=True))


def due_after(known: History, last: datetime) -> tuple[int, int] | None:
    """How many runs and days a motor may have before it is due again, by what happened to it last; None by nothing.

    An event counts as long as its days have not gone by at the last check.

    Parameters
    ----------
    known : History
    last : datetime
        When it was checked last.
    """
    held = [AFTERMATH[e.event] for e in _grave(known) if last - e.at <= timedelta(days=2 * AFTERMATH[e.event].days)]
    return (min(a.runs for a in held), min(a.days for a in held)) if held else None


def _grave(known: History) -> list[Event]:
    """The events with an aftermath that no repair has made void."""
    events = [e for e in known.events if e.event in AFTERMATH]
    return [e for e in events if not any(o.event in AFTERMATH[e.event].void_by and o.at >= e.at for o in known.events)]


def _demanding(known: History) -> list[tuple[Event, Sequence[Demand]]]:
    """Every event that demands something; of each kind the latest, with what it demands."""
    latest: dict[EventKind, Event] = {}
    for e in sorted(_grave(known), key=lambda e: e.at):
        latest[e.event] = e
    found: list[tuple[Event, Sequence[Demand]]] = [(e, AFTERMATH[k].demands) for k, e in latest.items()]
    returned = [e for e in known.events if e.event is EventKind.RETURNED and e.detail.strip()]
    if returned:
        last = max(returned, key=lambda e: e.at)
        named = [d for words, d in COMPLAINTS if re.search(words, last.detail, re.IGNORECASE)]
        found.append((last, (_SWAP, *named)))
    return found


def _stored(known: History) -> datetime | None:
    """When it came back from a year on the shelf, if the last check is the first since."""
    at = sorted([c.at for c in known.checks], reverse=True)
    busy = [e.at for e in known.events if e.event is EventKind.RUN]
    if len(at) < 2:
        return None
    before = next((t for t in at[1:] if at[0] - t > ONE_SITTING), None)
    if before is None or at[0] - before < STORED or any(before < t < at[0] - ONE_SITTING for t in busy):
        return None
    return at[0] - ONE_SITTING


def _possible(demand: Demand, known: History) -> bool:
    """Whether this motor has what is to be read or looked at."""
    motor = known.motor
    tests = [QUANTITIES[q].test for q in demand.quantities]
    by_test = any(t is not None and (motor.may_have_sensors or not t.sensored_only) for t in tests)
    by_look = any(
        name in ("first_spin", "swap")
        or (name == "lamps" and motor.may_have_sensors)
        or (name in ITEMS and ITEMS[name].applies(motor))
        for name in demand.looked
    )
    return by_test or by_look


def _done(
    demand: Demand, since: datetime, read: Mapping[str, datetime], looked: Mapping[str, Sequence[datetime]]
) -> bool:
    start = since + demand.after
    times = [read[q] for q in demand.quantities if q in read]
    times += [t for name in demand.looked for t in looked.get(name, ())]
    return any(t >= start for t in times)


def _looked(known: History) -> dict[str, list[datetime]]:
    """When each was looked at."""
    found: dict[str, list[datetime]] = {}
    for f in known.inspected:
        found.setdefault(f.item, []).append(f.at)
    found["lamps"] = [f.at for f in known.lamps]
    found["swap"] = [c.at for c in known.crossed]
    found["first_spin"] = [c.at for c in known.checks if c.first_spin]
    return found
