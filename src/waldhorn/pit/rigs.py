"""What each rig is worth: how well it repeats, what rests on it, and how it compares with the others."""

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from statistics import fmean

from sqlalchemy.orm import Session

from waldhorn.core import learning, reference, translation
from waldhorn.core.baseline import Baseline
from waldhorn.core.conditions import comparable
from waldhorn.core.errors import Refusals, Refused
from waldhorn.core.evidence import Repeatability, default_repeatability
from waldhorn.core.history import History
from waldhorn.core.learning import Sums
from waldhorn.core.measures import QUANTITIES, Quantity
from waldhorn.core.observations import all_groups
from waldhorn.core.reference import Drifted, RigChart
from waldhorn.core.repeats import Spread
from waldhorn.pit.judging import repeatability
from waldhorn.store import motors, readings, standings, studies
from waldhorn.store import rigs as store
from waldhorn.store.models import StudyRow
from waldhorn.store.motors import key_of

PAIRED_WITHIN = timedelta(days=30)
SAID = ("what", "connected", "measures", "settings")
AMPS = ("", "motor amps", "supply amps")
LONGEST, LONGEST_NAME = 500, 60
Pair = tuple[float, float]  # what a motor read on one rig and on another
Lines = Mapping[tuple[str, str, str], translation.Translation]  # by rig, other rig and quantity
_EVER = datetime.min.replace(tzinfo=UTC)


@dataclass(frozen=True)
class Repeats:
    """How well a rig repeats one quantity: as it has shown and as it is taken to before, and what that rests on."""

    quantity: Quantity
    shown: Spread
    usual: Spread
    sums: Sums


@dataclass(frozen=True)
class Beside:
    """One quantity on another rig: the same motors on both with the standard uncertainty of a reading here and there,
    and the line between them, or why there is none."""

    other: str
    quantity: Quantity
    pairs: Sequence[Pair]
    u: tuple[float, float]
    fitted: translation.Translation | None
    agreement: translation.Agreement | None
    refused: str = ""

    @property
    def motors(self) -> int:
        """How many were read on both."""
        return len(self.pairs)


@dataclass(frozen=True)
class Charted:
    """What a reference motor says of a rig in one quantity, and when it was out."""

    tag: str
    chart: RigChart
    drifted: list[Drifted]


@dataclass(frozen=True)
class RigView:
    """A rig with its page."""

    use: store.RigUse
    said: store.Described
    repeats: list[Repeats]
    beside: list[Beside]
    charts: list[Charted]
    studies: list[StudyRow]
    reference_tags: list[str]


def view(session: Session, name: str, now: datetime) -> RigView | None:
    """A rig, or None when no reading names it; in a fixed number of statements."""
    found = store.uses(session, name)
    if not found:
        return None
    spreads = standings.rig_spreads(session)
    repeats = [
        Repeats(q, learning.spread(spreads[name, q.name], q.name), default_repeatability(name, q.name),
                spreads[name, q.name])
        for q in QUANTITIES.values() if (name, q.name) in spreads
    ]  # fmt: skip
    said, references = store.described(session, name), _references(session, now)
    known = repeatability(spreads)
    charts = _charts(references, name, known, said.put_right_at)
    return RigView(found[0], said, repeats, _beside(session, name, known, now), charts, studies.of_rig(session, name),
                   [h.motor.tag for h in references])  # fmt: skip


def _references(session: Session, now: datetime) -> list[History]:
    """The histories of the reference motors."""
    ids = motors.reference_ids(session)
    return [h.until(now) for h in readings.histories(session, ids).values()] if ids else []


def _charts(
    references: Sequence[History], name: str, known: Repeatability, put_right_at: datetime | None
) -> list[Charted]:
    put_right = {name: put_right_at} if put_right_at else {}
    return [
        Charted(h.motor.tag, chart, reference.drifted(chart, put_right_at))
        for h in references
        for chart in reference.charts(all_groups(h), h.events, known, put_right)
        if chart.rig == name
    ]


def describe(session: Session, name: str, typed: Mapping[str, str]) -> None:
    """Keep what is said of a rig; raises Refusals."""
    given = {n: typed.get(n, "").strip() for n in SAID}
    wrong = {n: f"this is {len(v)} signs long: {LONGEST} at most" for n, v in given.items() if len(v) > LONGEST}
    if given["measures"] not in AMPS:
        wrong["measures"] = f"“{given['measures']}” is none of {', '.join(a for a in AMPS if a)}"
    if wrong:
        raise Refusals(wrong)
    before = store.described(session, name)
    store.describe(session, name, store.Described(**given, put_right_at=before.put_right_at))


def put_right(session: Session, name: str, now: datetime) -> None:
    """The rig was put right: the charts of its reference motors start anew."""
    store.describe(session, name, replace(store.described(session, name), put_right_at=now))
    motors.touch(session, motors.reference_ids(session))


def rename(session: Session, name: str, typed: Mapping[str, str], now: datetime) -> str:
    """Give a rig another name; where that is a rig already, both are one from then on, and `sure` must say so. Returns
    the name; raises Refused."""
    new = " ".join(typed.get("name", "").split())
    if not new or len(new) > LONGEST_NAME:
        raise Refused("name", f"give it a name, {LONGEST_NAME} signs at most")
    if new == name:
        raise Refused("name", f"{name} is what it is called")
    there = next((u for u in store.uses(session) if key_of(u.name) == key_of(new) and u.name != name), None)
    if there is not None:
        new = there.name
        if typed.get("sure") != new:
            raise Refused("sure", f"{new} is there already, with {there.readings:,} readings: choose it below to make "
                                  f"{name} and {new} one, which cannot be undone")  # fmt: skip
    touched = readings.motors_on(session, name, _EVER)
    store.rename(session, name, new)
    motors.touch(session, {*touched, *readings.motors_on(session, new, _EVER)})
    return new


def _beside(session: Session, name: str, known: Repeatability, now: datetime) -> list[Beside]:
    return [
        _fitted(name, other, QUANTITIES[quantity], pairs, known)
        for (_, other, quantity), pairs in sorted(_pairs(session, {name}, now).items())
    ]


def lines_between(session: Session, names: AbstractSet[str], known: Repeatability, now: datetime) -> Lines:
    """The lines from each of these rigs to each other, as far as enough motors were read on both."""
    found = {}
    for (here, there, quantity), pairs in _pairs(session, names, now).items():
        line = _fitted(here, there, QUANTITIES[quantity], pairs, known).fitted if there in names else None
        if line is not None:
            found[here, there, quantity] = line
    return found


def _pairs(session: Session, names: AbstractSet[str], now: datetime) -> dict[tuple[str, str, str], list[Pair]]:
    """What motors read on these rigs and on others, by rig, other rig and quantity."""
    pairs: dict[tuple[str, str, str], list[Pair]] = defaultdict(list)
    for of_model in standings.model_baselines(session, None, now).values():
        for by_quantity in of_model.values():
            for quantity, theirs in by_quantity.items():
                for name in names:
                    for other, pair in _pairs_of(QUANTITIES[quantity], name, theirs).items():
                        pairs[name, other, quantity].append(pair)
    return pairs


def _pairs_of(quantity: Quantity, name: str, theirs: Sequence[Baseline]) -> Mapping[str, Pair]:
    """What one motor read on this rig and on each other within thirty days, with no reset between."""
    mine = [b for b in theirs if b.conditions and b.conditions.rig == name]
    same = tuple(n for n in quantity.same if n != "rig")
    found: dict[str, Pair] = {}
    for there in theirs:
        if not there.conditions or there.conditions.rig in ("", name) or there.at is None:
            continue
        for here in mine:
            near = here.at is not None and abs(here.at - there.at) <= PAIRED_WITHIN
            apart = replace(there.conditions, rig=name)
            if near and here.conditions and comparable(same, here.conditions, apart):
                found.setdefault(there.conditions.rig, (here.value, there.value))
    return found


def _fitted(
    here: str, there: str, quantity: Quantity, pairs: Sequence[Pair], known: Repeatability
) -> Beside:  # fmt: skip
    x, y = [p for p, _ in pairs], [q for _, q in pairs]
    u_x, u_y = (_u_of(known, rig, quantity, fmean(read)) for rig, read in ((here, x), (there, y)))
    positive = len(pairs) > 1 and min(*x, *y) > 0
    agreed = translation.agreement(x, y) if positive else None
    try:
        line = translation.fit(x, y, (u_y / u_x) ** 2)
        return Beside(there, quantity, pairs, (u_x, u_y), line, agreed)
    except Refused as refused:
        return Beside(there, quantity, pairs, (u_x, u_y), None, agreed, refused.sentence)


def _u_of(known: Repeatability, rig: str, quantity: Quantity, at: float) -> float:
    """Standard uncertainty of a reading on a rig, in the quantity's unit."""
    spread = known(rig, quantity.name)
    return math.hypot(spread.run, spread.visit) * (abs(at) / 100 if quantity.relative and at else 1.0)
