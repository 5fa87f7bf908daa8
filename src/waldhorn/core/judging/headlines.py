"""Headlines: an answer as a sentence with its reasons, made last from what was decided. Nothing is decided by them.

The words of single pieces of evidence stand in `sentences`.
"""

import math
from collections.abc import Callable, Mapping, Sequence

from waldhorn.core.base.vocabulary import EventKind, FaultKind, NoteKind, SetUp
from waldhorn.core.judging.answer import Answer, Cause
from waldhorn.core.judging.case import Case
from waldhorn.core.judging.change import SURE
from waldhorn.core.judging.evidence import EvidenceKind
from waldhorn.core.judging.faults import ENTRY, SIGNATURES
from waldhorn.core.judging.questions import Question
from waldhorn.core.judging.sentences import FAULT_WORDS, capital, evidence_reason, fault_name, listed, reasons
from waldhorn.core.measuring.measures import JUDGED, QUANTITIES

# What is wrong with the set-up, as one asks for it to be made anew.
ANEW_WORDS: Mapping[SetUp, str] = {
    SetUp.SUPPLY: "check supply and timing, repeat",
    SetUp.CLAMP: "clamp it again, repeat",
    SetUp.LEVER: "set the lever anew, repeat",
    SetUp.SWEEP: "start anew, repeat",
    SetUp.GAUGE: "seat the gauge anew, repeat",
    SetUp.OHMMETER: "clip anew, repeat",
    SetUp.PROBE: "set the probe anew, repeat",
    SetUp.HAND: "look and feel again",
}
# What a repair was of, where it did not help.
REPAIRED_WORDS: Mapping[EventKind, str] = {
    EventKind.BEARINGS_REPLACED: "the bearings",
    EventKind.ROTOR_REPLACED: "the rotor",
    EventKind.SHAFT_REPLACED: "the shaft",
    EventKind.SENSOR_BOARD_REPLACED: "the sensor board",
    EventKind.TIMING_CHANGED: "the timing",
    EventKind.REWOUND: "the winding",
}
GRAVE_WORDS = {EventKind.CRASH: "crashed", EventKind.DUNKED: "dunked", EventKind.OVERHEATED: "overheated"}
LOOK_ELSEWHERE = "sensor cable, controller, pack, gearing"
_OFTEN = {1: "", 2: ", twice", 3: ", three times", 4: ", four times"}


def headline(case: Case, answer: Answer) -> str:
    """The answer as a sentence.

    Parameters
    ----------
    case : Case
    answer : Answer
    """
    return _HEADLINES[answer.cause](case, answer)


def reason(case: Case, answer: Answer) -> str:
    """The reasons of an answer, in numbers.

    Parameters
    ----------
    case : Case
    answer : Answer
    """
    if answer.cause in _REASONS:
        return _REASONS[answer.cause](case, answer)
    return reasons(case.judged)


def settling_words(answer: Answer) -> str:
    """The test that would settle it, and how often; where it was read already, what to make anew first."""
    test = answer.test
    if test is None:
        return ""
    words = test.words + ("" if test.anew else _OFTEN.get(test.times, ""))
    if test.cool:
        words = f"let it cool, then {words}"
    return f"{ANEW_WORDS[test.anew]}: {words}" if test.anew else words


def _stopped(case: Case, answer: Answer) -> str:
    return f"No power before it is mended: {listed([i.title for i in answer.items])}."


def _condemned(case: Case, answer: Answer) -> str:
    sure = case.sure(answer.parts)
    words = " and ".join(ENTRY[f].remedy_words for f in sure)
    if answer.cause is Cause.NOT_WORTH_REPAIR:
        return f"Retire: not worth the repair ({words or _either(answer.parts)})."
    if not sure:
        first = next((QUANTITIES[q].test for f in answer.parts for q in SIGNATURES[f] if _untried(case, q)), None)
        then = f" {capital(first.words)} first." if first else ""
        return f"{answer.verdict.capitalize()}: {_either(answer.parts)}.{then}"
    besides = f" Perhaps {FAULT_WORDS[answer.other]} as well: {settling_words(answer)} first." if answer.other else ""
    return f"{answer.verdict.capitalize()}: {words}.{besides}"


def _either(parts: Sequence[FaultKind]) -> str:
    return " or ".join(ENTRY[f].part for f in parts)


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


def _rig_out(case: Case, answer: Answer) -> str:
    note = next((n for n in answer.about.notes if n.kind is NoteKind.RIG_OUT), None) if answer.about else None
    rig, still = note.values if note else ("the rig", False)
    first = "Read the reference motor, then this one again." if still else "Read this one again."
    return f"Unproven: {rig} was out when this was read. {first}"


def _lower(says: str) -> str:
    """A sentence after a colon."""
    return says if says[1:2].isupper() or says.startswith("Hall") else says[0].lower() + says[1:]


def _end(question: Question | None) -> str:
    return "" if question is None or question.says.endswith("?") else "."


def _third_run(case: Case, answer: Answer) -> str:
    if answer.about is None:
        return "Unproven."
    more = "a third" if answer.about.n_now == 2 else "another"
    return f"Unproven: the runs differ ({answer.about.quantity.title}): take {more}."


def _no_better(case: Case, answer: Answer) -> str:
    part = REPAIRED_WORDS.get(answer.event.event, "that") if answer.event else "that"
    what = listed([JUDGED[n.quantity].title for n in case.no_better if n.event == answer.event])
    return f"Unproven: the repair did not help: {what} as before. Not {part}, or not done."


def _not_shown(case: Case, answer: Answer) -> str:
    missing = [FAULT_WORDS[f] for f in answer.parts]
    if case.first_look:
        return "Unproven: a first look, with too little to compare with."
    if len(missing) > 2:
        return "Unproven: nothing seen, but not enough measured to show what could be wrong."
    return f"Unproven: nothing seen, but {listed(missing).replace(' and ', ' or ')} would not have shown."


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


_HEADLINES: Mapping[Cause, Callable[[Case, Answer], str]] = {
    Cause.POWER_FORBIDDEN: _stopped,
    Cause.NOTHING_MEASURED: lambda c, a: "Unproven: nothing to judge by yet.",
    Cause.NOT_SINCE_EVENT: lambda c, a: (
        f"Unproven: {GRAVE_WORDS[a.event.event] if a.event else 'something happened'} since it was last checked."
    ),
    Cause.POLE_SETTING: lambda c, a: "Unproven: is the instrument set to its poles?",
    Cause.ASKED: lambda c, a: f"Unproven: {_lower(a.question.says) if a.question else ''}{_end(a.question)}",
    Cause.CONDEMNED: _condemned,
    Cause.NOT_WORTH_REPAIR: _condemned,
    Cause.TELL_APART: _telling_apart,
    Cause.WORTH_RUNNING_ON: lambda c, a: "Watch: by your prices it is worth running on.",
    Cause.MORE_RUNS: _more_runs,
    Cause.TEST_SETTLES: lambda c, a: f"Unproven: {settling_words(a)} would settle it.",
    Cause.SET_UP: _set_up,
    Cause.NOT_SETTLED: lambda c, a: "Unproven: no test of this bench would settle it.",
    Cause.NOTHING_TO_COMPARE: lambda c, a: "Unproven: a first look, nothing to compare with yet.",
    Cause.RIG_OUT: _rig_out,
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
        said.append(capital(f"{listed(bare)} {'has' if len(bare) == 1 else 'have'} nothing to compare with yet."))
    said.append(f"Would not have shown: {listed([FAULT_WORDS[f] for f in answer.parts])}.")
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
