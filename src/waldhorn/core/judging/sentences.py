"""Sentences: what a judgement says to a person, made last from what was decided. Nothing is decided by them.

One home for the words of the core; the pages have their own for numbers and days.
"""

import math
from collections.abc import Callable, Mapping, Sequence

from waldhorn.core.base.conditions import CONDITIONS, FULL_THROTTLE_PCT
from waldhorn.core.base.vocabulary import FaultKind, NoteKind, Source, State, Verdict
from waldhorn.core.judging.baseline import Baseline
from waldhorn.core.judging.change import Z_SURE, Change
from waldhorn.core.judging.evidence import Evidence, EvidenceKind, Note, u_moved
from waldhorn.core.judging.faults import ENTRY
from waldhorn.core.judging.weighing import Fault
from waldhorn.core.measuring.quantity import Quantity

FAULT_WORDS: Mapping[FaultKind, str] = {FaultKind.NONE: "nothing wrong"} | {k: e.words for k, e in ENTRY.items()}
_MOST_MOVED = 4
_WORTH_SAYING = 0.4  # of the watch limit: a smaller move is not worth a word


def evidence_reason(e: Evidence) -> str:
    """One piece of evidence as one would say it."""
    q = e.quantity
    if e.kind is EvidenceKind.NOT_MEASURED:
        return f"{capital(q.title)} not measured"
    if e.kind is EvidenceKind.RESET_SINCE:
        return f"{capital(q.title)} not measured since a part was replaced or the timing changed"
    if e.kind is EvidenceKind.NOTHING_TO_COMPARE:
        return f"{capital(q.title)} {number(e.now, q)}, nothing yet to compare with"
    if e.kind is EvidenceKind.MAGNET_STRENGTH and e.strengths and e.now is not None:
        by_kv, by_detent = e.strengths
        return f"Magnet strength {1 + e.now / 100:.2f} of what it was: {by_kv:.2f} by KV, {by_detent:.2f} by detent"
    if e.change is None:
        return capital(q.title)
    return _absolute(e, e.change) if e.kind is EvidenceKind.ABSOLUTE else _compared(e, e.change)


def note_words(note: Note, quantity: Quantity) -> str:
    """A note beside a number.

    Parameters
    ----------
    note : Note
    quantity : Quantity
    """
    return _NOTES[note.kind](quantity, *note.values)


def reasons(judged: Sequence[Evidence]) -> str:
    """What moved, the gravest first, then what did not; nothing is as it was that was not read, was dropped, or whose
    runs disagree."""
    judged = [e for e in judged if e.kind is not EvidenceKind.MAGNET_STRENGTH or in_question(e)]
    moved = [e for e in judged if e.change and (e.state in (State.PAST, State.WATCH) or has_moved(e))]
    moved.sort(key=lambda e: e.change.headroom if e.change else 1.0)
    steady = [e for e in judged if e not in moved and says_so(e)]
    same = [e.quantity.title for e in steady]
    if not moved and len(steady) == len(judged) <= 3:
        return ". ".join(evidence_reason(e) for e in judged) + "."
    said = ". ".join(evidence_reason(e) for e in moved[:_MOST_MOVED]) + "." if moved else ""
    own = all(e.reference is None or e.reference.source in (Source.OWN, Source.TRANSLATED) for e in steady)
    how = ("as it was" if len(same) == 1 else "as they were") if own else "as they should be"
    still = capital(f"{listed(same)} {how}.") if same else ""
    return f"{said} {still}".strip()


def in_question(e: Evidence) -> bool:
    """Whether the magnets are in question: their strength has fallen."""
    return e.change is not None and e.change.value < 0 and has_moved(e)


def says_so(e: Evidence) -> bool:
    """Whether a quantity was read lately and its runs agree, so that it may be said to be as it was."""
    return (e.residual is not None or e.has(NoteKind.IN_PARTS)) and not e.has(NoteKind.RUNS_DIFFER)


def brief(case_verdict: Verdict, judged: Sequence[Evidence]) -> str:
    """The two gravest reasons, for a glance; a motor in which nothing has moved says so.

    Parameters
    ----------
    case_verdict : Verdict
    judged : sequence of Evidence
    """
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
    """Why the limits alone answer as they do.

    Parameters
    ----------
    verdict : Verdict
    worst : Evidence or None
        What lies furthest past its limits; None where nothing was compared.
    """
    if worst is None:
        return "Nothing to judge by yet."
    return "Nothing is near a limit." if verdict is Verdict.KEEP else f"{evidence_reason(worst)}."


def fault_name(fault: Fault) -> str:
    """A fault or a pair of them, in the trade's words."""
    return " and ".join(FAULT_WORDS[f] for f in fault.names)


def signed(delta: float, quantity: Quantity, u: float = 0.0) -> str:
    """A change with its sign and unit, as one writes it: no finer than its uncertainty.

    Parameters
    ----------
    delta : float
        In the change unit.
    quantity : Quantity
    u : float
        One standard uncertainty, in the change unit.
    """
    decimals = 1 if quantity.relative else max(1, quantity.decimals)
    if u > 0:
        decimals = min(decimals, max(0, -math.floor(math.log10(u))))
    if quantity.relative and abs(delta) >= 10:
        decimals = 0  # nobody reads a bearing's current to a tenth of a percent
    return f"{delta:+.{decimals}f} {quantity.change_unit}".replace("-", "−").replace(" °", "°")


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
        return f"{capital(quantity.title)} {change} {since}, give or take {doubt}"
    amount = signed(abs(found.value), quantity, found.u).lstrip("+")
    return f"{(more if found.value > 0 else less).format(amount)} than {whose}"


def _absolute(e: Evidence, found: Change) -> str:
    q, before = e.quantity, e.reference.value if e.reference else e.quantity.typical or 0.0
    said = (q.stands or f"{capital(q.title)} {{}}").format(number(e.now, q))
    moved = abs((e.now or 0.0) - before) > 2 * u_moved(e)
    whose = _whose(e.reference)
    of = "" if whose == "usual" or whose.startswith("in ") else "with "
    return f"{said}, {number(before, q)} {of}{whose}" if e.reference and moved else said


def _whose(reference: Baseline | None) -> str:
    if reference is None:
        return "usual"
    if reference.source in (Source.OWN, Source.TRANSLATED) and reference.at:
        return f"in {reference.at:%B}"
    if reference.source is Source.MACHINE:
        return "the others of its machine"
    if reference.source is Source.MODEL:
        return f"{reference.n} others of its model" if reference.n else "usual"
    if reference.source is Source.YARDSTICK:
        return "the pit's yardstick"
    return "the pit's limit" if reference.source is Source.CEILING else "its label"


def number(value: float | None, quantity: Quantity) -> str:
    """A value with its unit, – where there is none.

    Parameters
    ----------
    value : float or None
        In the unit of the quantity.
    quantity : Quantity
    """
    return "–" if value is None else f"{value:.{quantity.decimals}f} {quantity.unit}".replace(" °", "°")


def no_finer(value: float, u: float) -> str:
    """A number in no more digits than its standard uncertainty supports.

    Parameters
    ----------
    value : float
        In any unit.
    u : float
        In the same unit.

    Examples
    --------
    >>> no_finer(239.4, 58), no_finer(1.47, 0.4), no_finer(5.2, 1.3)
    ('240', '1.5', '5')
    """
    place = math.floor(math.log10(u)) if u > 0 else 0
    return f"{round(value, -place):.{decimals_for(u)}f}"


def decimals_for(u: float) -> int:
    """How many decimals a standard uncertainty supports.

    >>> decimals_for(0.04), decimals_for(0.4), decimals_for(40)
    (2, 1, 0)
    """
    return max(0, -math.floor(math.log10(u))) if u > 0 else 0


def capital(words: str) -> str:
    """Words with their first letter large."""
    return words[0].upper() + words[1:]


def listed(names: Sequence[str]) -> str:
    """Names in a row."""
    return " and ".join(names) if len(names) < 3 else f"{', '.join(names[:-1])} and {names[-1]}"


def _show(value: object) -> str:
    return f"{value:g}" if isinstance(value, float) else str(value)


def _at(setting: float | None) -> str:
    full = setting is None or setting >= FULL_THROTTLE_PCT - CONDITIONS["throttle_pct"].within
    return "at full throttle" if full else f"at {setting:g} %"


_NOTES: Mapping[NoteKind, Callable[..., str]] = {
    NoteKind.TEMPERATURE_ASSUMED: lambda q: "motor temperature not noted, taken as 25 °C",
    NoteKind.BACKGROUND_NOT_NOTED: lambda q: "background not noted",
    NoteKind.NEAR_THE_HALL: lambda q: "within 3 dB of the hall: it is at most what was read, and hardly known",
    NoteKind.NOTED_ONCE: lambda q, name: f"{CONDITIONS[name].title} not noted both times",
    NoteKind.NOT_COMPARABLE: lambda q, name, then, now: (
        f"earlier checks do not compare: another {CONDITIONS[name].title} ({_show(then)}, {_show(now)})"
    ),
    NoteKind.NO_LINE: lambda q, then, now: (
        f"as read on {then}: what {now} read has no line to it yet, and says nothing either way"
    ),
    NoteKind.ONE_CHECK_SINCE_RESET: lambda q: "only one check since the reset",
    NoteKind.RUNS_DIFFER: lambda q, spread: f"the runs differ by {spread:.2g} {q.change_unit}: take another",
    NoteKind.MEASURED_BEFORE: lambda q, at: f"measured on {at.day} {at:%B}, not since",
    NoteKind.EARLIER_SITTING: lambda q, at: f"read on {at.day} {at:%B}: does not clear it now",
    NoteKind.KV_AND_DETENT_DISAGREE: lambda q: (
        "KV and detent do not agree: not the magnets alone. Timing, temperature, rig, lever?"
    ),
    NoteKind.WORSE_THAN_MODEL: lambda q: "it came in worse than others of its model: held against them",
    NoteKind.SLIP: lambda q, value, before, words: f"no fault carries it so far from {before:.{q.decimals}f}: {words}",
    NoteKind.BASELINE_ODD: lambda q, at, odd, agreed, words: (
        f"read {odd:.{q.decimals}f} on {at.day} {at:%B}, {agreed:.{q.decimals}f} ever since: left out ({words})"
    ),
    NoteKind.BASELINE_IN_DOUBT: lambda q, first, second: (
        f"its first two checks read {first:.{q.decimals}f} and {second:.{q.decimals}f}: less sure"
    ),
    NoteKind.RIG_SUSPECT: lambda q, rig, motors, shift: (
        f"{motors} motors moved alike on {rig or 'this rig'} that day ({signed(shift, q)}): the rig's, not its own"
    ),
    NoteKind.BY_LABEL: lambda q: "a label is the nominal of a series: 5 % either way is ordinary",
    NoteKind.HOT_MOTOR: lambda q, kelvin: f"it was {kelvin:.0f} K above the air before the run: let it cool",
    NoteKind.TRANSLATED: lambda q, rig: f"its past was read on {rig}: translated, and less sure",
    NoteKind.RIG_OUT: lambda q, rig, still: (
        f"the reference motor {'shows' if still else 'showed'} {rig} to be out: neither condemns nor clears"
    ),
    NoteKind.IN_PARTS: lambda q, parts: f"weighed by {parts}",
    NoteKind.ALIKE_WHATEVER: lambda q, slots, poles: (
        f"with {slots} slots and {poles} poles all positions are alike whatever the magnets: not counted"
    ),
    NoteKind.BROUGHT: lambda q, by, then, now, share, u: (
        f"its past brought from {then:.0f} to {now:.0f} {'°C' if by == 'warmth' else '° of timing'}:"
        f" {share:+.1f} ± {u:.1f} %".replace("-", "−")
    ),
    NoteKind.SETTINGS_DIFFER: lambda q, worst, *others: (
        f"{_at(worst)}; {listed([_at(o) for o in others])} it is otherwise: they do not say one thing"
    ),
    NoteKind.SETTINGS_TOGETHER: lambda q, *all_of_them: f"{listed([_at(s) for s in all_of_them])}, weighed together",
    NoteKind.SENSORLESS: lambda q: "a sensorless motor has no timing to read: not counted",
}
