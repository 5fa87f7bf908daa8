"""Sentences: what a judgement says to a person, made last from what was decided. Nothing is decided by them.

One home for the words of the core; the pages have their own for numbers and days.
"""

import math
from collections.abc import Callable, Mapping, Sequence

from waldhorn.core.answer import Answer, Case, Cause
from waldhorn.core.baseline import Baseline
from waldhorn.core.change import SURE, Z_SURE, Change
from waldhorn.core.conditions import WORDS as CONDITION_WORDS
from waldhorn.core.evidence import Evidence, EvidenceKind, Note, u_moved
from waldhorn.core.faults import Fault, presence
from waldhorn.core.hypotheses import SIGNATURES
from waldhorn.core.measures import JUDGED, QUANTITIES, Quantity
from waldhorn.core.vocabulary import EventKind, FaultKind, NoteKind, SetUp, Source, State, Verdict

# What is done about each fault, in words, and the part it is done to.
REMEDY_WORDS: Mapping[FaultKind, str] = {
    FaultKind.DEMAGNETISED_ROTOR: "the magnets have weakened",
    FaultKind.CRACKED_MAGNET: "a magnet is cracked or loose",
    FaultKind.WORN_BEARING: "replace the bearings",
    FaultKind.BENT_SHAFT: "replace the shaft or bell",
    FaultKind.SHORTED_TURN: "a turn is shorted",
    FaultKind.TIMING_MOVED: "set the timing back and tighten the end bell",
    FaultKind.FAILING_SENSOR: "replace the sensor board",
}
FAULT_WORDS: Mapping[FaultKind, str] = {
    FaultKind.NONE: "nothing wrong",
    FaultKind.DEMAGNETISED_ROTOR: "weakened magnets",
    FaultKind.CRACKED_MAGNET: "a cracked or loose magnet",
    FaultKind.WORN_BEARING: "worn bearings",
    FaultKind.BENT_SHAFT: "a bent shaft or bell",
    FaultKind.SHORTED_TURN: "a shorted turn",
    FaultKind.TIMING_MOVED: "moved timing",
    FaultKind.FAILING_SENSOR: "a failing sensor",
}
PART_WORDS: Mapping[FaultKind, str] = {
    FaultKind.DEMAGNETISED_ROTOR: "weak magnets",
    FaultKind.CRACKED_MAGNET: "a loose magnet",
    FaultKind.WORN_BEARING: "bearings",
    FaultKind.BENT_SHAFT: "shaft or bell",
    FaultKind.SHORTED_TURN: "a shorted turn",
    FaultKind.TIMING_MOVED: "timing",
    FaultKind.FAILING_SENSOR: "sensor board",
}
# What is wrong with the set-up, as one asks for it to be made anew.
ANEW_WORDS: Mapping[SetUp, str] = {
    SetUp.SUPPLY: "check supply, controller and timing setting, and repeat",
    SetUp.CLAMP: "clamp it again and repeat",
    SetUp.LEVER: "set lever and scale anew and repeat",
    SetUp.SWEEP: "start the sweep anew and repeat",
    SetUp.GAUGE: "seat the gauge anew and repeat",
    SetUp.OHMMETER: "clip the leads anew and repeat",
    SetUp.PROBE: "set the probe anew and repeat",
}
# What a repair was to bring, where it did not.
AS_BEFORE_WORDS: Mapping[EventKind, tuple[str, str]] = {
    EventKind.BEARINGS_REPLACED: ("the bearings were replaced", "the bearings"),
    EventKind.ROTOR_REPLACED: ("the rotor was replaced", "the rotor"),
    EventKind.SHAFT_REPLACED: ("the shaft was replaced", "the shaft"),
    EventKind.SENSOR_BOARD_REPLACED: ("the sensor board was replaced", "the sensor board"),
    EventKind.TIMING_CHANGED: ("the timing was set", "the timing"),
    EventKind.REWOUND: ("it was rewound", "the winding"),
}
GRAVE_WORDS = {EventKind.CRASH: "crashed", EventKind.DUNKED: "dunked", EventKind.OVERHEATED: "overheated"}
LOOK_ELSEWHERE = "sensor cable, controller, pack, gearing"
_OFTEN = {1: "", 2: ", twice", 3: ", three times", 4: ", four times"}
_MOST_MOVED = 4
_WORTH_SAYING = 0.4  # of the watch limit: a smaller move is not worth a word


def evidence_reason(e: Evidence) -> str:
    """One piece of evidence as one would say it."""
    q = e.quantity
    if e.kind is EvidenceKind.NOT_MEASURED:
        return f"{_capital(q.title)} not measured"
    if e.kind is EvidenceKind.RESET_SINCE:
        return f"{_capital(q.title)} not measured since a part was replaced or the timing changed"
    if e.kind is EvidenceKind.NOTHING_TO_COMPARE:
        return f"{_capital(q.title)} {_number(e.now, q)}, nothing yet to compare with"
    if e.kind is EvidenceKind.MAGNET_STRENGTH and e.strengths and e.now is not None:
        by_kv, by_detent = e.strengths
        return f"Magnet strength {1 + e.now / 100:.2f} of what it was: {by_kv:.2f} by KV, {by_detent:.2f} by detent"
    if e.change is None:
        return _capital(q.title)
    return _absolute(e, e.change) if e.kind is EvidenceKind.ABSOLUTE else _compared(e, e.change)


def note_words(note: Note, quantity: Quantity) -> str:
    """A note beside a number."""
    return _NOTES[note.kind](quantity, *note.values)


def headline(case: Case, answer: Answer) -> str:
    """The answer as a sentence."""
    return _HEADLINES[answer.cause](case, answer)


def reason(case: Case, answer: Answer) -> str:
    """The reasons of an answer, in numbers."""
    if answer.cause in _REASONS:
        return _REASONS[answer.cause](case, answer)
    return reasons(case.judged)


def reasons(judged: Sequence[Evidence]) -> str:
    """What moved, the gravest first, then what did not."""
    moved = [e for e in judged if e.change and (e.state in (State.PAST, State.WATCH) or has_moved(e))]
    moved.sort(key=lambda e: e.change.headroom if e.change else 1.0)
    same = [e.quantity.title for e in judged if e not in moved]
    if not moved and len(judged) <= 3:
        return ". ".join(evidence_reason(e) for e in judged) + "."
    said = ". ".join(evidence_reason(e) for e in moved[:_MOST_MOVED]) + "." if moved else ""
    still = _capital(f"{_list(same)} as {'it was' if len(same) == 1 else 'they were'}.") if same else ""
    return f"{said} {still}".strip()


def brief(case_verdict: Verdict, judged: Sequence[Evidence]) -> str:
    """The two gravest reasons, for a glance; a motor in which nothing has moved says so."""
    moved = [e for e in judged if e.change and (e.state in (State.PAST, State.WATCH) or has_moved(e))]
    moved = [e for e in moved if e.kind is not EvidenceKind.MAGNET_STRENGTH]
    moved.sort(key=lambda e: e.change.headroom if e.change else 1.0)
    if moved:
        return ". ".join(evidence_reason(e) for e in moved[:2]) + "."
    if case_verdict is Verdict.KEEP:
        return "Nothing has moved."
    return reasons([e for e in judged if e.kind is not EvidenceKind.MAGNET_STRENGTH]) if judged else ""


def has_moved(e: Evidence) -> bool:
    """Whether a change is worth a word: beyond its own uncertainty and a good part of the watch limit."""
    if e.change is None:
        return False
    if e.quantity.absolute:
        return e.change.p_past_watch >= 0.5
    watch = (e.limits or e.quantity.limits).watch
    return abs(e.change.value) >= max(Z_SURE * e.change.u, _WORTH_SAYING * watch)


def by_limits(verdict: Verdict, worst: Evidence | None) -> str:
    """Why the limits alone answer as they do."""
    if worst is None:
        return "Nothing to judge by yet."
    return "Nothing is near a limit." if verdict is Verdict.KEEP else f"{evidence_reason(worst)}."


def fault_name(fault: Fault) -> str:
    """A fault or a pair of them, in the trade's words."""
    return " and ".join(FAULT_WORDS[f] for f in fault.names)


def signed(delta: float, quantity: Quantity, u: float = 0.0) -> str:
    """A change with its sign and unit, as one writes it: no finer than its uncertainty."""
    decimals = 1 if quantity.relative else max(1, quantity.decimals)
    if u > 0:
        decimals = min(decimals, max(0, -math.floor(math.log10(u))))
    if quantity.relative and abs(delta) >= 10:
        decimals = 0  # nobody reads a bearing's current to a tenth of a percent
    return f"{delta:+.{decimals}f} {quantity.change_unit}".replace("-", "−").replace(" °", "°")


def settling_words(answer: Answer) -> str:
    """The test that would settle it, and how often; where it was read already, what to make anew first."""
    test = answer.test
    if test is None:
        return ""
    words = test.words + _OFTEN.get(test.times, "")
    if test.cool:
        words = f"let it cool, then {words}"
    return f"{ANEW_WORDS[test.anew]}: {words}" if test.anew else words


def _compared(e: Evidence, found: Change) -> str:
    """The change as one would say it; below its own uncertainty it is no change, or one that cannot be told."""
    quantity, whose = e.quantity, _whose(e.reference)
    more, less, same = quantity.sayings
    if abs(found.value) < Z_SURE * found.u:
        if abs(found.value) < _WORTH_SAYING * (e.limits or quantity.limits).watch:
            return f"{same} as {whose}"
        change = signed(found.value, quantity, found.u)
        doubt = signed(Z_SURE * found.u, quantity, found.u).lstrip("+")
        since = f"since {whose.removeprefix('in ')}" if whose.startswith("in ") else f"against {whose}"
        return f"{_capital(quantity.title)} {change} {since}, give or take {doubt}"
    amount = signed(abs(found.value), quantity, found.u).lstrip("+")
    return f"{(more if found.value > 0 else less).format(amount)} than {whose}"


def _absolute(e: Evidence, found: Change) -> str:
    q, before = e.quantity, e.reference.value if e.reference else e.quantity.typical or 0.0
    said = f"{q.sayings[0].split(' {}')[0]} {_number(e.now, q)}"
    moved = abs((e.now or 0.0) - before) > 2 * u_moved(e)
    whose = _whose(e.reference)
    of = "" if whose == "usual" or whose.startswith("in ") else "with "
    return f"{said}, {_number(before, q)} {of}{whose}" if e.reference and moved else said


def _whose(reference: Baseline | None) -> str:
    if reference is None:
        return "usual"
    if reference.source is Source.OWN and reference.at:
        return f"in {reference.at:%B}"
    if reference.source is Source.MACHINE:
        return "the others of its machine"
    if reference.source is Source.MODEL:
        return f"{reference.n} others of its model" if reference.n else "usual"
    return "its label"


def _number(value: float | None, quantity: Quantity) -> str:
    return "–" if value is None else f"{value:.{quantity.decimals}f} {quantity.unit}".replace(" °", "°")


def _capital(words: str) -> str:
    return words[0].upper() + words[1:]


def _list(names: Sequence[str]) -> str:
    return " and ".join(names) if len(names) < 3 else f"{', '.join(names[:-1])} and {names[-1]}"


def _show(value: object) -> str:
    return f"{value:g}" if isinstance(value, float) else str(value)


_NOTES: Mapping[NoteKind, Callable[..., str]] = {
    NoteKind.TEMPERATURE_ASSUMED: lambda q: "motor temperature not noted, taken as 25 °C",
    NoteKind.BACKGROUND_NOT_NOTED: lambda q: "background not noted",
    NoteKind.NOTED_ONCE: lambda q, name: f"{CONDITION_WORDS[name]} not noted both times",
    NoteKind.NOT_COMPARABLE: lambda q, name, then, now: (
        f"earlier checks do not compare: another {CONDITION_WORDS[name]} ({_show(then)}, {_show(now)})"
    ),
    NoteKind.ONE_CHECK_SINCE_RESET: lambda q: "only one check since the reset",
    NoteKind.RUNS_DIFFER: lambda q, spread: f"the runs differ by {spread:.2g} {q.change_unit}: take another",
    NoteKind.MEASURED_BEFORE: lambda q, at: f"measured on {at.day} {at:%B}, not since",
    NoteKind.KV_AND_DETENT_DISAGREE: lambda q: (
        "KV and detent do not agree: not the magnets alone. Timing, temperature, rig, lever?"
    ),
    NoteKind.WORSE_THAN_MODEL: lambda q: "it came in worse than others of its model: held against them",
    NoteKind.MISREAD: lambda q, value: "no fault carries it so far: unit, meter or decimal point?",
    NoteKind.SENSORLESS: lambda q: "a sensorless motor has no timing to read: not counted",
}


def _stopped(case: Case, answer: Answer) -> str:
    return f"No power: {', '.join(i.title for i in answer.items)}. Mend it first."


def _condemned(case: Case, answer: Answer) -> str:
    sure = [f for f in answer.parts if presence(case.posterior, f).probability >= 0.5]
    words = " and ".join(REMEDY_WORDS[f] for f in sure)
    if answer.cause is Cause.NOT_WORTH_REPAIR:
        return f"Retire: not worth the repair ({words or _either(answer.parts)})."
    if not sure:
        first = next((QUANTITIES[q].test for f in answer.parts for q in SIGNATURES[f] if _untried(case, q)), None)
        then = f" {_capital(first.words)} first." if first else ""
        return f"{answer.verdict.capitalize()}: {_either(answer.parts)}.{then}"
    besides = f" Perhaps {FAULT_WORDS[answer.other]} as well: {settling_words(answer)} first." if answer.other else ""
    return f"{answer.verdict.capitalize()}: {words}.{besides}"


def _either(parts: Sequence[FaultKind]) -> str:
    return " or ".join(PART_WORDS[f] for f in parts)


def _untried(case: Case, quantity: str) -> bool:
    return QUANTITIES[quantity].test is not None and all(e.quantity.name != quantity for e in case.judged)


def _watching(case: Case, answer: Answer) -> str:
    worst = [e for e in case.judged if e.change and e.change.p_past_watch >= SURE and e.residual]
    worst.sort(key=lambda e: e.change.headroom if e.change else 1.0)
    if worst:
        said = evidence_reason(worst[0])
        return f"Watch: {said if said.startswith('KV') else said[0].lower() + said[1:]}."
    leading = next(f for f in case.weighed if f.fault is not FaultKind.NONE)
    return f"Watch: perhaps {fault_name(leading)}, not yet past a limit."


def _telling_apart(case: Case, answer: Answer) -> str:
    other = FAULT_WORDS[answer.other] if answer.other else "nothing wrong"
    return f"Unproven: {settling_words(answer)} would tell {FAULT_WORDS[answer.parts[0]]} from {other}."


def _more_runs(case: Case, answer: Answer) -> str:
    words = answer.test.words if answer.test else "run"
    often = {1: "one more", 2: "two more", 3: "three more"}.get(answer.runs, f"{answer.runs} more")
    return f"Unproven: {words}, {often} would settle it."


def _set_up(case: Case, answer: Answer) -> str:
    return f"Unproven: {settling_words(answer)}."


def _misread(case: Case, answer: Answer) -> str:
    e = answer.about
    return f"Unproven: {_what(e)}: unit, meter or decimal point? Read it again." if e else "Unproven."


def _third_run(case: Case, answer: Answer) -> str:
    if answer.about is None:
        return "Unproven."
    more = "a third" if answer.about.n_now == 2 else "another"
    return f"Unproven: the runs differ ({answer.about.quantity.title}): take {more}."


def _no_better(case: Case, answer: Answer) -> str:
    done, part = AS_BEFORE_WORDS.get(answer.event.event, ("", "")) if answer.event else ("", "")
    what = _list([JUDGED[n.quantity].title for n in case.no_better if n.event == answer.event])
    return f"Unproven: the repair did not help: {what} as before {done}. Not {part}, or not done."


def _not_shown(case: Case, answer: Answer) -> str:
    missing = [FAULT_WORDS[f] for f in answer.parts]
    if case.first_look:
        return "Unproven: a first look, with too little to compare with."
    if len(missing) > 2:
        return "Unproven: nothing seen, but not enough measured to show what could be wrong."
    return f"Unproven: nothing seen, but {_list(missing).replace(' and ', ' or ')} would not have shown."


def _what_was_done(case: Case, answer: Answer) -> str:
    when = f" on {answer.event.at.day} {answer.event.at:%B}" if answer.event else ""
    return f"Unproven: it was retired{when} and measures fine now. What was done to it?"


def _creeping(case: Case, answer: Answer) -> str:
    creeping = [t for t in case.trends if t.creeping_since]
    course = min(creeping, key=lambda t: (t.act.likely if t.act else math.inf, t.quantity), default=None)
    if course is None or course.creeping_since is None:
        return "Watch: creeping."
    since, left = course.creeping_since, course.act.likely if course.act else None
    will = f", past its limit in {_about(left)} {course.axis}" if left is not None else ""
    return f"Watch: {JUDGED[course.quantity].title} creeps since {since.day} {since:%B}{will}."


def _about(count: float) -> str:
    """A forecast count, no finer than a forecast is."""
    return f"about {count:.0f}" if count < 20 else f"about {10 * round(count / 10)}"


def _what(e: Evidence) -> str:
    return f"{_capital(e.quantity.title)} {_number(e.now, e.quantity)}"


_HEADLINES: Mapping[Cause, Callable[[Case, Answer], str]] = {
    Cause.POWER_FORBIDDEN: _stopped,
    Cause.NOTHING_MEASURED: lambda c, a: "Unproven: nothing to judge by yet.",
    Cause.NOT_SINCE_EVENT: lambda c, a: (
        f"Unproven: {GRAVE_WORDS[a.event.event] if a.event else 'something happened'} since it was last checked."
    ),
    Cause.POLE_SETTING: lambda c, a: "Unproven: pole setting?",
    Cause.CONDEMNED: _condemned,
    Cause.NOT_WORTH_REPAIR: _condemned,
    Cause.TELL_APART: _telling_apart,
    Cause.WORTH_RUNNING_ON: lambda c, a: "Watch: by your prices it is worth running on.",
    Cause.MORE_RUNS: _more_runs,
    Cause.TEST_SETTLES: lambda c, a: f"Unproven: {settling_words(a)} would settle it.",
    Cause.SET_UP: _set_up,
    Cause.NOT_SETTLED: lambda c, a: "Unproven: no test of this bench would settle it.",
    Cause.NOTHING_TO_COMPARE: lambda c, a: "Unproven: a first look, nothing to compare with yet.",
    Cause.MISREAD: _misread,
    Cause.THIRD_RUN: _third_run,
    Cause.NO_BETTER: _no_better,
    Cause.NOT_SHOWN: _not_shown,
    Cause.WHAT_WAS_DONE: _what_was_done,
    Cause.CREEPING: _creeping,
    Cause.WATCHING: _watching,
    Cause.CAME_BACK_SOUND: lambda c, a: "Keep. Fine on the bench: look at the machine.",
    Cause.SOUND: lambda c, a: "Keep.",
}


def _nothing_measured(case: Case, answer: Answer) -> str:
    measured = [e for e in case.evidence if e.now is not None]
    if measured:
        return ". ".join(evidence_reason(e) for e in measured) + "."
    return "No full-throttle pull since it came in, or since a part was replaced."


def _what_showed(case: Case, answer: Answer) -> str:
    """What was measured, what of it has nothing to compare with, and what would not have shown."""
    bare = [e.quantity.title for e in case.evidence if e.kind is EvidenceKind.NOTHING_TO_COMPARE]
    said = [reasons(case.judged)] if case.judged else []
    if bare:
        said.append(_capital(f"{_list(bare)} {'has' if len(bare) == 1 else 'have'} nothing to compare with yet."))
    said.append(f"Would not have shown: {_list([FAULT_WORDS[f] for f in answer.parts])}.")
    return " ".join(said)


def _moved_unseen(case: Case, answer: Answer) -> str:
    """Sound on a first look, but for what no first look shows."""
    said = reasons(case.judged)
    if case.timing_unseen and FaultKind.TIMING_MOVED in case.possible:
        said += " A timing that moved before it was ever read would not show."
    return said


def _not_since(case: Case, answer: Answer) -> str:
    if answer.event is None:
        return ""
    at = answer.event.at
    return f"On {at.day} {at:%B}: {GRAVE_WORDS[answer.event.event]}. Nothing measured since."


def _pole_setting(case: Case, answer: Answer) -> str:
    asked = answer.poles
    if asked is None:
        return ""
    if asked.on_instrument:
        return (
            f"KV {asked.shown:.0f}: the instrument seems to be set to {asked.poles} poles, the motor has "
            f"{asked.on_record}. Set right it would be {asked.kv:.0f}."
        )
    change = f"{100 * (asked.shown / asked.expected - 1):+.0f}".replace("-", "−")
    return (
        f"KV {asked.shown:.0f} is {change} % from {asked.expected:.0f}. "
        f"With {asked.poles} poles instead of {asked.on_record} it would be {asked.kv:.0f}."
    )


_REASONS: Mapping[Cause, Callable[[Case, Answer], str]] = {
    Cause.POWER_FORBIDDEN: lambda c, a: f"Found bad: {', '.join(i.title for i in a.items)}.",
    Cause.NOTHING_MEASURED: _nothing_measured,
    Cause.NOT_SINCE_EVENT: _not_since,
    Cause.NOTHING_TO_COMPARE: _nothing_measured,
    Cause.POLE_SETTING: _pole_setting,
    Cause.NOT_SHOWN: _what_showed,
    Cause.SOUND: _moved_unseen,
    Cause.CAME_BACK_SOUND: lambda c, a: f"{reasons(c.judged)} Next suspects: {LOOK_ELSEWHERE}.",
}
