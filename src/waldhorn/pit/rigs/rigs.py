"""What each rig is worth: how well it repeats, what rests on it, and how it compares with the others."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError, InputErrors, NotThere
from waldhorn.core.base.history import History
from waldhorn.core.base.text import key_of
from waldhorn.core.judging.evidence import default_repeatability
from waldhorn.core.judging.sentences import signed
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import all_groups
from waldhorn.core.measuring.quantity import Quantity
from waldhorn.core.rigs import learning, reference_motor
from waldhorn.core.rigs.day_shift import RigShift
from waldhorn.core.rigs.learning import Sums
from waldhorn.core.rigs.reference_motor import Drifted, RigChart
from waldhorn.core.rigs.repeatability import Repeatability, Spread
from waldhorn.pit.judging import between_rigs, view_cache
from waldhorn.pit.judging.between_rigs import Beside
from waldhorn.pit.judging.figures import repeatability
from waldhorn.store import cached_verdicts, motors, readings, studies
from waldhorn.store import rigs as store
from waldhorn.store.models import StudyRow

SAID = ("what", "connected", "measures", "settings")
AMPS = ("", "motor amps", "supply amps")
LONGEST, LONGEST_NAME = 500, 60
_EVER = datetime.min.replace(tzinfo=UTC)


@dataclass(frozen=True)
class Repeats:
    """How well a rig repeats one quantity: as it has shown and as it is taken to before, and what that rests on."""

    quantity: Quantity
    shown: Spread
    usual: Spread
    sums: Sums


@dataclass(frozen=True)
class Charted:
    """What a reference motor says of a rig in one quantity, and when it was out."""

    tag: str
    chart: RigChart
    drifted: list[Drifted]


@dataclass(frozen=True)
class RigView:
    """A rig with its page; `others` are the other rigs."""

    use: store.RigUse
    said: store.Described
    repeats: list[Repeats]
    beside: list[Beside]
    charts: list[Charted]
    studies: list[StudyRow]
    reference_tags: list[str]
    shifts: list[str]
    others: list[str]


@dataclass(frozen=True)
class RigLine:
    """A rig among all: its use, how well it repeats each quantity (as it has shown, weighed with the usual), and the
    quantities it reads its reference motor wrongly in, since when."""

    use: store.RigUse
    repeats: Mapping[str, Spread]
    out: Sequence[Drifted]


def every(session: Session, now: datetime) -> list[RigLine]:
    """Every rig that readings name, the most used first; kept until the store changes, and for a day."""
    return view_cache.until_changed(session, ("rigs", now.date()), lambda: _every(session, now))


def _every(session: Session, now: datetime) -> list[RigLine]:
    spreads = cached_verdicts.rig_spreads(session)
    out = [d for d in store.said_of_rigs(session, now)[0] if d.until is None]
    return [
        RigLine(
            use,
            {q: learning.spread(sums, q) for (name, q), sums in spreads.items() if name == use.name},
            [d for d in out if d.rig == use.name],
        )
        for use in store.uses(session)
    ]


def view(session: Session, name: str, now: datetime) -> RigView:
    """A rig, in a fixed number of statements; raises NotThere when no reading names it."""
    every = store.uses(session)
    found = next((use for use in every if use.name == name), None)
    if found is None:
        raise NotThere(f"No reading names a rig {name}.")
    spreads = cached_verdicts.rig_spreads(session)
    repeats = [
        Repeats(
            q,
            learning.spread(spreads[name, q.name], q.name),
            default_repeatability(name, q.name),
            spreads[name, q.name],
        )
        for q in QUANTITIES.values()
        if (name, q.name) in spreads
    ]
    said, references = store.described(session, name), _references(session, now)
    known = repeatability(spreads)
    charts = _charts(references, name, known, said.put_right_at)
    beside, tags = between_rigs.beside(session, name, known, now), [h.motor.tag for h in references]
    shifts = [_shift_words(s) for s in store.said_of_rigs(session, now)[2] if s.rig == name]
    others = [use.name for use in every if use is not found]
    return RigView(found, said, repeats, beside, charts, studies.of_rig(session, name), tags, shifts, others)


def _shift_words(shift: RigShift) -> str:
    """What the motors of a day moved alike, in a sentence."""
    quantity = QUANTITIES[shift.quantity]
    return (
        f"On {shift.day.day} {shift.day:%B} {shift.motors} motors moved alike in {quantity.title}, by"
        f" {signed(shift.value, quantity, shift.u)}: the rig is suspect until a reference motor is read on it."
    )


def _references(session: Session, now: datetime) -> list[History]:
    """The histories of the reference motors."""
    ids = motors.reference_ids(session)
    return [h.until(now) for h in readings.histories(session, ids).values()] if ids else []


def _charts(
    references: Sequence[History], name: str, known: Repeatability, put_right_at: datetime | None
) -> list[Charted]:
    put_right = {name: put_right_at} if put_right_at else {}
    return [
        Charted(h.motor.tag, chart, reference_motor.drifted(chart, put_right_at))
        for h in references
        for chart in reference_motor.charts(all_groups(h), h.events, known, put_right)
        if chart.rig == name
    ]


def describe(session: Session, name: str, typed: Mapping[str, str]) -> None:
    """Keep what is said of a rig; raises InputErrors."""
    given = {n: typed.get(n, "").strip() for n in SAID}
    wrong = {n: f"this is {len(v)} characters long: {LONGEST} at most" for n, v in given.items() if len(v) > LONGEST}
    if given["measures"] not in AMPS:
        wrong["measures"] = f"“{given['measures']}” is none of {', '.join(a for a in AMPS if a)}"
    if wrong:
        raise InputErrors(wrong)
    before = store.described(session, name)
    store.describe(session, name, store.Described(**given, put_right_at=before.put_right_at))


def put_right(session: Session, name: str, now: datetime) -> None:
    """The rig was put right: the charts of its reference motors start anew."""
    store.describe(session, name, replace(store.described(session, name), put_right_at=now))
    motors.touch(session, motors.reference_ids(session))


def rename(session: Session, name: str, typed: Mapping[str, str]) -> str:
    """Give a rig another name; where that is a rig already, both are one from then on, and `sure` must say so. Returns
    the name; raises InputError."""
    new = " ".join(typed.get("name", "").split())
    if not new or len(new) > LONGEST_NAME:
        raise InputError("name", f"give it a name, {LONGEST_NAME} characters at most")
    if new == name:
        raise InputError("name", f"{name} is what it is called")
    there = next((u for u in store.uses(session) if key_of(u.name) == key_of(new) and u.name != name), None)
    if there is not None:
        new = there.name
        if typed.get("sure") != new:
            raise InputError(
                "sure",
                f"{new} is there already, with {there.readings:,} readings: choose it below to make "
                f"{name} and {new} one, which cannot be undone",
            )
    touched = readings.motors_on(session, name, _EVER)
    store.rename(session, name, new)
    motors.touch(session, {*touched, *readings.motors_on(session, new, _EVER)})
    return new
