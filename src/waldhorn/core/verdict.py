"""The answer: keep, watch or unproven, with its reasons in numbers.

A pure function of what is known of a motor. KV and no-load current share the supply, the controller and the
timing, so between them they can clear a motor or raise a question, but never condemn one: past a limit, the
honest answer is *unproven* with the test that would settle it.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from waldhorn.core import baseline as base
from waldhorn.core import faults, plan, poles, repeats
from waldhorn.core.baseline import Baseline, Group
from waldhorn.core.change import Z_SURE, Change, RunUncertainty, assess, difference
from waldhorn.core.history import History
from waldhorn.core.measures import QUANTITIES, Limits, Quantity

WANDER = 0.25  # one sigma of a sound motor's own drift, as a share of its watch limit (bench practice)
LABEL_TOLERANCE_PCT = 3 / math.sqrt(3)  # "within 3 % is ordinary", read as a rectangle

Peers = Mapping[str, Sequence[Baseline]]  # quantity name to the own baselines of the model's other motors
Repeatability = Callable[[str, str], float]  # (rig, quantity name) to one standard deviation, change unit


@dataclass(frozen=True, slots=True)
class Evidence:
    """One quantity now against its baseline; see docs/formats.md for the fields."""

    quantity: Quantity
    state: str
    reason: str
    now: float | None = None
    raw: float | None = None
    n_now: int = 0
    baseline: Baseline | None = None
    change: Change | None = None
    limits: Limits | None = None
    repeatability: float = 0.0
    notes: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Judgement:
    """The answer for one motor at one time."""

    motor: str
    as_of: datetime
    verdict: str
    confidence: float
    headline: str
    reason: str
    evidence: tuple[Evidence, ...]
    faults: tuple[faults.Fault, ...]
    by_limits: str
    next_test: str | None
    next_seconds: int | None
    check_by: plan.CheckBy | None


def default_repeatability(rig: str, quantity: str) -> float:
    """The repeatability assumed of a rig that has not shown its own yet, change unit."""
    return QUANTITIES[quantity].repeatability


def judge(
    history: History,
    as_of: datetime,
    peers: Peers | None = None,
    repeatability: Repeatability = default_repeatability,
    limits: Mapping[str, Limits] | None = None,
) -> Judgement:
    """Judge a motor from everything known up to a time.

    Parameters
    ----------
    history : History, readings and events in any order
    as_of : datetime; later checks and events are not looked at
    peers : own baselines of the other motors of the model, by quantity
    repeatability : s_r of a rig for a quantity, change unit
    limits : limits by quantity where they differ from the default

    Returns
    -------
    Judgement

    Source: bench practice; see `change`, `baseline` and `faults` for the formulas.
    """
    known = History(
        history.motor,
        tuple(c for c in history.checks if c.at <= as_of),
        tuple(e for e in history.events if e.at <= as_of),
    )
    evidence = tuple(
        _evidence(known, q, (peers or {}).get(q.name, ()), repeatability, (limits or {}).get(q.name, q.limits))
        for q in QUANTITIES.values()
    )
    return _judgement(known, as_of, evidence)


def _evidence(
    known: History, quantity: Quantity, peers: Sequence[Baseline], repeatability: Repeatability, limits: Limits
) -> Evidence:
    found = base.groups(known, quantity)
    since = base.last_reset(known.events, quantity.name, found[-1].at) if found else None
    later_reset = (
        any(base.resets(e.event, quantity.name) and e.at > found[-1].at for e in known.events) if found else False
    )
    if not found or later_reset:
        why = "not measured since a part was replaced or the timing changed" if later_reset else "not measured"
        return Evidence(
            quantity,
            "no_baseline",
            f"{quantity.title.capitalize() if quantity.title.islower() else quantity.title} {why}",
            limits=limits,
        )
    now = found[-1]
    s_r = repeatability(now.conditions.rig, quantity.name)
    runs = repeats.agreement([s.value for s in now.samples], s_r, quantity.relative)
    reference, passed_over = base.own(found, now, known.events, quantity)
    reference = reference or base.of_model(peers, now.conditions, quantity) or base.of_label(known, quantity)
    notes = tuple(dict.fromkeys([s.said for s in now.samples if s.said] + [_not_compared(w) for w in passed_over]))
    if since is not None and reference is not None and reference.source == "own" and reference.checks == 1:
        notes += ("only one check since the reset",)
    if reference is None or (quantity.relative and reference.value == 0):
        title = quantity.title[0].upper() + quantity.title[1:]
        reason = f"{title} {_number(runs.centre, quantity)}, nothing yet to compare with"
        return Evidence(
            quantity,
            "no_baseline",
            reason,
            runs.centre,
            now.samples[-1].raw,
            len(now.samples),
            None,
            None,
            limits,
            s_r,
            notes,
        )
    return _compared(quantity, now, runs, reference, limits, s_r, notes + reference.said)


def _compared(
    quantity: Quantity,
    now: Group,
    runs: repeats.Agreement,
    reference: Baseline,
    limits: Limits,
    s_r: float,
    notes: tuple[str, ...],
) -> Evidence:
    delta = difference(runs.centre, reference.value, quantity.relative)
    extra = (reference.extra_u**2 + max(s.extra_u for s in now.samples) ** 2) ** 0.5
    if runs.ask_again:
        extra = (extra**2 + (runs.spread / 2) ** 2) ** 0.5  # the runs disagree: that is what is known
        notes += (f"the runs differ by {runs.spread:.2g} {quantity.change_unit}: take another",)
    n_base = reference.n if reference.source == "own" else 0
    u_of_runs = RunUncertainty(s_r, quantity.resolution, len(now.samples), n_base, extra)
    found = assess(delta, u_of_runs.after(0), limits, quantity.direction, u_of_runs)
    reason = _in_words(quantity, found, reference)
    return Evidence(
        quantity,
        found.state,
        reason,
        runs.centre,
        now.samples[-1].raw,
        len(now.samples),
        reference,
        found,
        limits,
        s_r,
        notes,
    )


@dataclass(frozen=True, slots=True)
class _Answer:
    verdict: str
    headline: str
    reason: str
    next_test: str | None = None
    next_seconds: int | None = None


def _judgement(known: History, as_of: datetime, evidence: tuple[Evidence, ...]) -> Judgement:
    judged = [e for e in evidence if e.change is not None]
    witnesses = [_witness(e, e.change) for e in judged if e.change]
    weighed = tuple(faults.weigh(witnesses, _happened(known, judged)))
    answer = _answer(known, evidence, judged, weighed)
    last = max((c.at for c in known.checks), default=None)
    return Judgement(
        motor=known.motor.tag,
        as_of=as_of,
        verdict=answer.verdict,
        confidence=_confidence(answer.verdict, weighed, judged),
        headline=answer.headline,
        reason=answer.reason,
        evidence=evidence,
        faults=weighed,
        by_limits=_by_limits({e.state for e in judged}),
        next_test=answer.next_test,
        next_seconds=answer.next_seconds,
        check_by=plan.check_by(answer.verdict, last.date()) if last else None,
    )


def _witness(e: Evidence, found: Change) -> faults.Witness:
    """A change as evidence of faults: sound motors wander a little, and a label is only near what was built."""
    wander = WANDER * (e.limits or e.quantity.limits).watch
    label = LABEL_TOLERANCE_PCT if e.baseline and e.baseline.source == "label" else 0.0
    return faults.Witness(e.quantity.name, found.value, math.hypot(found.u, wander, label))


def _answer(
    known: History, evidence: Sequence[Evidence], judged: Sequence[Evidence], weighed: Sequence[faults.Fault]
) -> _Answer:
    if not judged:
        return _unproven(_nothing(evidence), plan.TESTS["kv"], "Unproven: nothing to judge by yet.")
    if setting := _pole_question(known, evidence):
        return _Answer("unproven", "Unproven: pole setting?", setting, "count the poles", 60)
    states, reasons = {e.state for e in judged}, _reasons(judged)
    test = _test(known, weighed, {e.quantity.name for e in judged})
    again = next((e.change.further_runs for e in judged if e.change and e.change.further_runs), None)
    if "past" not in states and "unproven" in states and again:
        pulls = plan.TESTS["kv"]
        words = f"{again} more {pulls.words}{'s' if again > 1 else ''}"
        return _Answer("unproven", f"Unproven: {words} would settle it.", reasons, words, again * pulls.seconds)
    sound = next(f.probability for f in weighed if f.fault == "none")
    if states & {"past", "unproven"} or ("watch" not in states and sound < 0.5):
        return _unproven(reasons, test or plan.TESTS["kv"])
    if "watch" in states:
        following = (test.words, test.seconds) if test else (None, None)
        return _Answer("watch", _watch_headline(judged), reasons, *following)
    return _Answer("keep", "Keep.", reasons)


def _unproven(reason: str, test: plan.Test, headline: str = "") -> _Answer:
    return _Answer("unproven", headline or f"Unproven: {test.words} would settle it.", reason, test.words, test.seconds)


def _by_limits(states: set[str]) -> str:
    """The worst single quantity decides; past an act limit these two alone only raise a question."""
    if states & {"past", "unproven"} or not states:
        return "unproven"
    return "watch" if "watch" in states else "keep"


def _confidence(verdict: str, weighed: Sequence[faults.Fault], judged: Sequence[Evidence]) -> float:
    if not judged:
        return 0.0
    sound = next(f.probability for f in weighed if f.fault == "none")
    if verdict == "watch":
        return max(e.change.p_past_watch for e in judged if e.change)
    return sound if verdict == "keep" else 1 - sound


def _happened(known: History, judged: Sequence[Evidence]) -> list[str]:
    start = min((e.baseline.at for e in judged if e.baseline and e.baseline.at), default=None)
    return [e.event for e in known.events if start is None or e.at >= start]


def _test(known: History, weighed: Sequence[faults.Fault], done: set[str]) -> plan.Test | None:
    name = faults.telling_test(weighed, plan.possible(known.motor, done))
    return plan.TESTS[name] if name else None


def _pole_question(known: History, evidence: Sequence[Evidence]) -> str | None:
    """Whether another pole count would explain KV; the label is not asked once the poles were counted."""
    found = next((e for e in evidence if e.quantity.name == "kv"), None)
    if found is None or found.now is None:
        return None
    own = found.baseline.value if found.baseline and found.baseline.source == "own" else None
    label = None if known.motor.poles_known_by == "counted" else known.motor.label_kv
    for reference in (own, label):
        asked = poles.wrong_setting(found.now, reference, known.motor.poles) if reference else None
        if asked and reference:
            return (
                f"KV {found.now:.0f} is {_signed(100 * (found.now / reference - 1), 0)} % from {reference:.0f}. "
                f"With {asked.poles} poles instead of {known.motor.poles} it would be {asked.kv:.0f}."
            )
    return None


def _nothing(evidence: Sequence[Evidence]) -> str:
    measured = [e for e in evidence if e.now is not None]
    if not measured:
        return "No full-throttle pull since it came in, or since a part was replaced."
    return ". ".join(e.reason for e in measured) + "."


def _reasons(judged: Sequence[Evidence]) -> str:
    order = sorted(judged, key=lambda e: e.change.headroom if e.change else 1.0)
    return ". ".join(e.reason for e in order) + "."


def _watch_headline(judged: Sequence[Evidence]) -> str:
    worst = min(
        (e for e in judged if e.state == "watch" and e.change), key=lambda e: e.change.headroom if e.change else 1
    )
    return f"Watch: {worst.reason[0].lower() if not worst.reason.startswith('KV') else 'K'}{worst.reason[1:]}."


def _in_words(quantity: Quantity, found: Change, reference: Baseline) -> str:
    """The change as one would say it; below its own uncertainty it is no change."""
    more, less, same = quantity.sayings
    if abs(found.value) < Z_SURE * found.u:
        return f"{same} as {_reference(reference)} ({_moved(quantity, found.value)})"
    amount = _moved(quantity, abs(found.value)).lstrip("+")
    return f"{(more if found.value > 0 else less).format(amount)} than {_reference(reference)}"


def _moved(quantity: Quantity, delta: float) -> str:
    return f"{_signed(delta, 1)} {quantity.change_unit}"


def _signed(value: float, decimals: int) -> str:
    return f"{value:+.{decimals}f}".replace("-", "−")


def _reference(reference: Baseline) -> str:
    if reference.source == "own" and reference.at:
        return f"in {reference.at:%B}"
    if reference.source == "model":
        return f"{reference.n} others of its model"
    return "its label"


def _number(value: float, quantity: Quantity) -> str:
    return f"{value:.{quantity.decimals}f} {quantity.unit}"


def _not_compared(words: str) -> str:
    return f"earlier checks do not compare: {words}"
