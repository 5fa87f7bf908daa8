"""Questions: what has to be asked, looked at or read before an answer can be believed, first things first.

Each says why it is asked, in ten words or fewer, and at which step it is answered; some stand against *keep*.

References
----------
.. [1] Bench practice.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from types import MappingProxyType

from waldhorn.core.base.history import Reading
from waldhorn.core.base.vocabulary import EventKind, Look, NoteKind, Purpose
from waldhorn.core.judging import demands, plan, slips
from waldhorn.core.judging.case import Case
from waldhorn.core.judging.evidence import Evidence, EvidenceKind, Note
from waldhorn.core.judging.faults import ENTRY
from waldhorn.core.judging.hands import SENSES, Finding
from waldhorn.core.judging.sentences import capital, listed, number, signed
from waldhorn.core.judging.visits import ONE_SITTING
from waldhorn.core.measuring.inspection import ITEMS
from waldhorn.core.measuring.load import LoadRow, power
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.poles import POSSIBLE
from waldhorn.core.motors.ratings import Beyond, beyond
from waldhorn.core.motors.winding import can_be_wound

HAPPENED = {EventKind.CRASH: "Crashed", EventKind.DUNKED: "Dunked", EventKind.OVERHEATED: "Overheated",
            EventKind.RETURNED: "Came back"}  # fmt: skip
UNEXPLAINED = 0.01  # a change that all hypotheses together would show so rarely is explained by none [1]
_WORTH_ASKING = 3.0  # ... of so many of its own uncertainties [1]
_MOST_STALE = 4


class Why(StrEnum):
    """Why something is asked."""

    SLIP = "slip"
    HAND = "hand"
    EVENT = "event"
    STALE = "stale"
    RIG = "rig"
    BASELINE = "baseline"
    SETUP = "setup"
    LABEL = "label"
    FACT = "fact"
    LOAD = "load"


@dataclass(frozen=True, slots=True)
class Question:
    """Something to be asked, in ten words or fewer; `step` answers it, `blocks` says that it stands against keep."""

    why: Why
    says: str
    step: str
    blocks: bool = False
    quantity: str = ""


# What a change that no fault explains most plainly comes of: when it rose, and when it fell [1].
PLAIN_CAUSES: Mapping[str, tuple[str, str]] = MappingProxyType({
    "kv": ("hot motor, more timing, or the meter?", "timing back, supply sagging, or the meter?"),
    "no_load_current": ("more timing, supply, or the meter?", "timing back, supply, or the meter?"),
    "friction": ("cold grease, or the meter?", "warm motor, or the meter?"),
    "speed_loss": ("more timing, or the meter?", "timing back, or the meter?"),
    "noise_avg": ("placement, distance, or the meter?", "placement, distance, or the meter?"),
    "temperature": ("hot start, longer run, or warm air?", "shorter run, wind, or the meter?"),
    "heat_per_energy": ("another spot, or no wind?", "another spot, or wind?"),
    "detent_peak": ("lever, scale, or a cold motor?", "lever, scale, or a hot motor?"),
    "detent_force": ("another lever, or a cold motor?", "another lever, or a hot motor?"),
    "timing_mean": ("end bell turned?", "end bell turned?"),
})  # fmt: skip


def of(case: Case, as_of: datetime) -> tuple[Question, ...]:
    """Everything to be asked, first things first: a fact that is lacking, slips, the baseline, the rig, what hands
    found, what events demand, what nothing explains, what drove it beyond its ratings, what was not read today, the
    label.

    Parameters
    ----------
    case : Case
    as_of : datetime
        Now.

    Returns
    -------
    tuple of Question

    Notes
    -----
    Source: [1]_.
    """
    asked = (
        _lacking,
        _hands,
        _slips,
        _poles,
        _facts,
        _baselines,
        _rigs,
        _demanded,
        _unexplained,
        _set_ups,
        _rated,
        _stale,
        _labels,
    )
    return tuple(q for ask in asked for q in ask(case, as_of))


def _each(case: Case, kind: NoteKind) -> list[tuple[Evidence, Note]]:
    return [(e, n) for e in case.evidence for n in e.notes if n.kind is kind and e.fresh]


def _step(e: Evidence) -> str:
    return e.quantity.test.step if e.quantity.test else "pull"


def _slips(case: Case, as_of: datetime) -> list[Question]:
    found = []
    for e, note in _each(case, NoteKind.SLIP):
        _, before, words = note.values
        own = e.reference is not None and e.reference.checks > 0
        was = f", {'was' if own else 'expected'} {_value(e, before)}" if before else ""
        found.append(
            Question(
                Why.SLIP,
                f"{capital(e.quantity.title)} {number(e.now, e.quantity)}{was}: {words}",
                _step(e),
                True,
                e.quantity.name,
            )
        )
    return found


def _value(e: Evidence, value: float) -> str:
    return f"{value:.{e.quantity.decimals}f}"


def _poles(case: Case, as_of: datetime) -> list[Question]:
    asked = case.poles
    if asked is None:
        return []
    whose = "the instrument set to" if asked.on_instrument else "the motor of"
    return [Question(Why.SETUP, f"KV {asked.shown:.0f}: {whose} {asked.poles} poles?", "poles", True, "kv")]


def _lacking(case: Case, as_of: datetime) -> list[Question]:
    """A fact that nobody said, where knowing it would leave nothing that would not have shown."""
    if case.known.motor.sensored is not None or not case.hidden:
        return []
    if not all(ENTRY[f].sensored_only for f in case.hidden) or not any(e.residual for e in case.judged):
        return []
    return [Question(Why.FACT, "Nobody said whether it has sensors: say so in its facts", "sensored")]


def _facts(case: Case, as_of: datetime) -> list[Question]:
    """Counts out of what the kind can be."""
    motor = case.known.motor
    poles, slots = motor.poles or 0, motor.slots or 0
    said = ""
    if poles and motor.kind in POSSIBLE and poles not in POSSIBLE[motor.kind]:
        said = f"{poles} poles on an {motor.kind or 'unknown kind'}: count again"
    elif poles and slots and not can_be_wound(slots, poles):
        said = f"{slots} slots with {poles} poles cannot be: count again"
    return [Question(Why.SLIP, said, "poles")] if said else []


def _baselines(case: Case, as_of: datetime) -> list[Question]:
    found = []
    for e, note in _each(case, NoteKind.BASELINE_ODD):
        _, odd, agreed, words = note.values
        said = f"{capital(e.quantity.title)} once read {_value(e, odd)}, else {_value(e, agreed)}: {words}"
        found.append(Question(Why.BASELINE, said, _step(e), False, e.quantity.name))
    for e, note in _each(case, NoteKind.BASELINE_IN_DOUBT):
        first, second = note.values
        said = f"{capital(e.quantity.title)} first read {_value(e, first)}, then {_value(e, second)}: which holds?"
        found.append(Question(Why.BASELINE, said, _step(e), e.residual is not None, e.quantity.name))
    return found


def _rigs(case: Case, as_of: datetime) -> list[Question]:
    found = []
    shifted = _each(case, NoteKind.RIG_SUSPECT)
    for rig in dict.fromkeys(n.values[0] for _, n in shifted):
        of_rig = [(e, n) for e, n in shifted if n.values[0] == rig]
        e, note = max(of_rig, key=lambda one: one[1].values[1])
        says = f"{note.values[1]} motors moved alike ({signed(note.values[2], e.quantity)}): check {rig or 'the rig'}"
        found.append(Question(Why.RIG, says, _step(e), True, e.quantity.name))
    parted = [(e, *n.values) for e, n in _each(case, NoteKind.NO_LINE)]
    parted += [(e, *n.values[1:]) for e, n in _each(case, NoteKind.NOT_COMPARABLE) if n.values[0] == "rig"]
    for before in dict.fromkeys(then for _, then, _ in parted):
        e, then, now = next(one for one in parted if one[1] == before)
        says = f"Read on {then} before, {now} now: read five motors on both first"
        found.append(Question(Why.RIG, says, _step(e), False, e.quantity.name))
    return found


def _hands(case: Case, as_of: datetime) -> list[Question]:
    """What eyes and hands found, in the person's words, with the test that settles it; the graver first."""
    found = []
    noticed = [f for f in case.hands if f.state is not Look.OK]
    for one in sorted(noticed, key=lambda f: (f.state is not Look.BAD, -f.at.timestamp())):
        settling = unsettled(case, one)
        if settling:
            says, step = f"{capital(one.words)}: {SENSES[one.sense].ask}", plan.TESTS[settling[0]].step
        elif one.state is Look.BAD or not _tests_of(case, one):
            again = "look" if one.sense in ITEMS else "try"
            says, step = f"{capital(one.words)}: {again} again, or mend it", _looked_at(one)
        else:
            continue
        found.append(Question(Why.HAND, says, step, True))
    return found


def unsettled(case: Case, finding: Finding) -> list[str]:
    """The quantities that would settle a finding and were not read since.

    Parameters
    ----------
    case : Case
    finding : Finding
    """
    read = {e.quantity.name: e.at for e in case.evidence if e.at is not None}
    return [q for q in _tests_of(case, finding) if q not in read or read[q] < finding.at - ONE_SITTING]


def _tests_of(case: Case, finding: Finding) -> list[str]:
    possible = plan.possible(case.known.motor, ())
    return [q for q in SENSES[finding.sense].settled_by if q in possible]


def _looked_at(finding: Finding) -> str:
    if finding.sense in ITEMS:
        return "look"
    return {"lamps": "sensors", "sweep": "timing"}.get(finding.sense, finding.sense)


def _demanded(case: Case, as_of: datetime) -> list[Question]:
    found = []
    for one in demands.unread(case.known, case.evidence, as_of):
        what = HAPPENED[one.event.event] if one.event else ""
        when = f"{what} {one.since.day} {one.since:%B}" if one.event else "A year on the shelf"
        words = listed([d.words for d in one.demands[:2]])
        found.append(Question(Why.EVENT, f"{when}: {words}", one.demands[0].step, True))
    return found


def _unexplained(case: Case, as_of: datetime) -> list[Question]:
    """Changes of a motor against its own past that no fault explains, and that nothing would show of itself."""
    found = []
    for e in unexplained(case):
        if case.poles and e.quantity.name == "kv":
            continue
        rose = e.residual is not None and e.residual.change > 0
        why = PLAIN_CAUSES.get(e.quantity.name, ("set-up or meter?", "set-up or meter?"))[0 if rose else 1]
        moved = signed(e.residual.change if e.residual else 0.0, e.quantity)
        found.append(
            Question(Why.SETUP, f"{capital(e.quantity.title)} {moved}: {why}", _step(e), True, e.quantity.name)
        )
    return found


def unexplained(case: Case) -> list[Evidence]:
    """The changes against a motor's own past that no fault explains; those that are wear if they are anything, and
    those that creep, are said otherwise."""
    found = []
    creeping = {t.quantity for t in case.trends if t.creeping_since}
    for e in case.judged:
        own = e.reference is not None and e.reference.checks > 0
        if e.residual is None or not own or e.limits is None or e.kind is EvidenceKind.ABSOLUTE:
            continue
        r = e.residual
        if abs(r.change) < max(e.limits.watch, _WORTH_ASKING * r.u) or r.quantity in creeping:
            continue
        if e.quantity.direction and e.quantity.direction * r.change > 0:
            continue
        if slips.tail(r.quantity, r.change, r.u, case.without((r.quantity,)).weights) < UNEXPLAINED and (
            slips.tail(r.quantity, r.change, r.u, case.posterior.weights) < UNEXPLAINED
        ):
            found.append(e)
    return found


def _set_ups(case: Case, as_of: datetime) -> list[Question]:
    hot = [(e, n) for e, n in _each(case, NoteKind.HOT_MOTOR)]
    return [
        Question(Why.SETUP, f"It was {n.values[0]:.0f} K warm before: let it cool", _step(e), False, e.quantity.name)
        for e, n in hot
    ]


def _rated(case: Case, as_of: datetime) -> list[Question]:
    """What the last load rows made of it that its maker does not allow: the worst of each kind."""
    driven = [c for c in case.known.checks if any(r.purpose is Purpose.LOAD for r in c.readings)]
    last = max(driven, key=lambda c: c.at, default=None)
    rows: dict[int, list[Reading]] = {}
    for r in last.readings if last else ():
        if r.purpose is Purpose.LOAD and r.accepted:
            rows.setdefault(r.run, []).append(r)
    worst: dict[str, Beyond] = {}
    for run in rows.values():
        by, under = {r.measure: r.value for r in run}, run[0].conditions
        amps, volts = by.get("load_current"), by.get("load_volts")
        watts = power(LoadRow("", None, volts, amps, by.get("load_watts")))
        for one in beyond(case.known.motor, amps, watts, by.get("load_rpm"), under.cells, by.get("temperature")):
            worst[one.unit] = max(worst.get(one.unit, one), one, key=lambda b: b.value)
    return [Question(Why.LOAD, f"Driven beyond what it is made for: {one.short}", "load") for one in worst.values()]


def _stale(case: Case, as_of: datetime) -> list[Question]:
    stale = not_read_today(case)
    if not stale:
        return []
    named = [e.quantity.title for e in stale[:_MOST_STALE]]
    more = len(stale) - len(named)
    words = ", ".join(named) + (f" and {more} more" if more else "")
    return [Question(Why.STALE, f"Not read today: {words}", _step(stale[0]), False, stale[0].quantity.name)]


def not_read_today(case: Case) -> list[Evidence]:
    """What was read before and would compare, but not at the last visit."""
    last = max((e.at for e in case.evidence if e.at is not None), default=None)
    if last is None:
        return []
    return [
        e
        for e in case.evidence
        if e.at is not None
        and last - e.at > ONE_SITTING
        and e.kind is not EvidenceKind.MAGNET_STRENGTH
        and e.quantity.test is not None
        and e.quantity.name in QUANTITIES
        and not e.has(NoteKind.NO_LINE)
    ]


def _labels(case: Case, as_of: datetime) -> list[Question]:
    found = []
    for e in case.judged:
        if not e.against_label or e.change is None or e.limits is None or abs(e.change.value) < e.limits.act:
            continue
        way = "over" if e.change.value > 0 else "under"
        says = f"{e.quantity.title} {abs(e.change.value):.0f} % {way} its label: its label, or the meter"
        found.append(Question(Why.LABEL, says, "poles", False, e.quantity.name))
    return found


def first_blocking(questions: Sequence[Question], *why: Why) -> Question | None:
    """The first that stands against keep, of these reasons where any are named.

    Parameters
    ----------
    questions : sequence of Question
    why : Why
    """
    return next((q for q in questions if q.blocks and (not why or q.why in why)), None)
