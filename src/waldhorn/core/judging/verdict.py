"""The answer: keep, watch, repair, retire or unproven, with its reasons in numbers.

A pure function of what is known of a motor: no database, no clock. Two ways of judging stand side by side: by
evidence (what explains all changes together, see `faults` and `answer`) and by limits (the worst single quantity).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime

from waldhorn.core.base.history import History
from waldhorn.core.base.vocabulary import FAULTS, FaultKind, NoteKind, State, Verdict
from waldhorn.core.judging import answer as answers
from waldhorn.core.judging import (
    assessment,
    demands,
    hands,
    headlines,
    next_test,
    noticed,
    plan,
    questions,
    repairs,
    sentences,
    slips,
    trend,
    weighing,
)
from waldhorn.core.judging.answer import Cause
from waldhorn.core.judging.baseline import Segment, segments
from waldhorn.core.judging.case import Case, kindred
from waldhorn.core.judging.change import SURE
from waldhorn.core.judging.evidence import Evidence, Note, Peers, default_repeatability
from waldhorn.core.judging.evidence_sources import likelihood_ratio
from waldhorn.core.judging.faults import ENTRY
from waldhorn.core.judging.questions import Question
from waldhorn.core.judging.remedies import FOR_GOOD, Prices
from waldhorn.core.judging.translated import Lines
from waldhorn.core.judging.weighing import Fault, Posterior
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import Group, all_groups
from waldhorn.core.measuring.quantity import Limits
from waldhorn.core.rigs.day_shift import RigShift
from waldhorn.core.rigs.reference_motor import Drifted
from waldhorn.core.rigs.repeatability import Repeatability

JUDGE_VERSION = 10  # raised whenever the same readings may get another answer: kept answers are then made anew


@dataclass(frozen=True, slots=True)
class Judgement:
    """The answer for one motor at one time. `faults` add to one, `p_fault_act` is how likely any
    of them is there at its act limit or beyond, `due_mendable` and `due_for_good` that something is to be mended, or
    past mending; `speaks` says of each quantity how strongly it speaks for the leading
    fault (natural logarithm, above 0 for it). `headline` and `reason` are its words; `segments` are the course of each
    quantity, as far as it was measured; `asks` what has to be asked, first things first, and `asked` which of it the
    headline asks."""

    motor: str
    as_of: datetime
    verdict: Verdict
    cause: Cause
    confidence: float
    headline: str
    reason: str
    brief: str
    evidence: tuple[Evidence, ...]
    faults: tuple[Fault, ...]
    p_fault_act: float
    due_mendable: float
    due_for_good: float
    by_limits: Verdict
    by_limits_reason: str
    next_test: str | None
    next_seconds: int | None
    next_step: str | None
    check_by: plan.CheckBy | None
    trends: tuple[trend.Trend, ...] = ()
    speaks: Mapping[str, float] = field(default_factory=dict)
    segments: Mapping[str, Sequence[Segment]] = field(default_factory=dict)
    asks: tuple[Question, ...] = ()
    asked: Question | None = None

    @property
    def besides(self) -> tuple[Question, ...]:
        """What has to be asked besides what the headline asks."""
        return tuple(question for question in self.asks if question != self.asked)

    @property
    def leans_on_model(self) -> bool:
        """Whether other motors of its model could change it."""
        return any(e.leans_on_model for e in self.evidence)


@dataclass(frozen=True, slots=True)
class JudgingContext:
    """What a motor is judged by besides its own readings: baselines of the other motors of its model and machine by
    quantity, how well each rig repeats, limits where they differ from the default, its owner's prices, when a reference
    motor showed a rig to be out, the lines from one rig to another, and the days on which the motors of a rig moved
    alike."""

    peers: Peers = field(default_factory=dict)
    repeatability: Repeatability = default_repeatability
    limits: Mapping[str, Limits] = field(default_factory=dict)
    prices: Prices = field(default_factory=Prices)
    drifted: Sequence[Drifted] = ()
    lines: Lines = field(default_factory=dict)
    shifts: Sequence[RigShift] = ()


def judge(history: History, as_of: datetime, judging_context: JudgingContext | None = None) -> Judgement:
    """Judge a motor from everything known up to a time.

    Parameters
    ----------
    history : History
        Readings and events in any order.
    as_of : datetime
        Later checks, readings, events and findings are not looked at.
    judging_context : JudgingContext, optional
        What it is judged by besides its own readings.

    Returns
    -------
    Judgement

    Notes
    -----
    Source: bench practice; see `change`, `baseline`, `evidence` and `faults` for the formulas.
    """
    known, given = history.until(as_of), judging_context or JudgingContext()
    groups = all_groups(known)
    case, courses = _case(known, groups, given)
    asks = questions.of(case, as_of)
    answer = answers.answer(case, asks)
    by_limits, worst = _by_limits(
        [e for e in case.judged if not (e.has(NoteKind.RIG_OUT) or e.has(NoteKind.RIG_SUSPECT))]
    )
    leading = next((f for f in case.weighed if f.fault is not FaultKind.NONE), None)
    residuals = [e.residual for e in case.judged if e.residual]
    for_good = case.posterior.any_due(FOR_GOOD)
    return Judgement(
        motor=known.motor.tag,
        as_of=as_of,
        verdict=answer.verdict,
        cause=answer.cause,
        confidence=answer.confidence,
        headline=headlines.headline(case, answer),
        reason=headlines.reason(case, answer),
        brief=sentences.brief(answer.verdict, case.judged),
        evidence=tuple(replace(e, reason=sentences.evidence_reason(e)) for e in case.evidence),
        faults=case.weighed,
        p_fault_act=case.posterior.any_act(),
        due_mendable=case.posterior.any_due() - for_good,
        due_for_good=for_good,
        by_limits=by_limits,
        by_limits_reason=sentences.by_limits(by_limits, worst),
        next_test=headlines.settling_words(answer) or None,
        next_seconds=answer.test.seconds if answer.test else None,
        next_step=answer.test.step if answer.test else None,
        check_by=_check_by(known, answer, case.trends),
        trends=case.trends,
        speaks={r.quantity: likelihood_ratio(r, leading.fault) for r in residuals} if leading else {},
        segments=courses,
        asks=asks,
        asked=answer.question,
    )


@dataclass(frozen=True, slots=True)
class Turning:
    """What would turn an answer: without a reading it would be another, or a test might make it another; `worth` is
    what that test is expected to save, in prices of a new motor."""

    quantity: str
    without: Verdict | None = None
    worth: float = 0.0


def turning(history: History, as_of: datetime, judging_context: JudgingContext | None = None) -> tuple[Turning, ...]:
    """Which reading, had it not been there, or which test would change the answer.

    Parameters
    ----------
    history, as_of, judging_context
        As for `judge`.

    Returns
    -------
    tuple of Turning
        Readings first, then tests, worth most first.

    Notes
    -----
    Source: the answer itself, given again without each piece of evidence; see `worth` for the tests.
    """
    known, given = history.until(as_of), judging_context or JudgingContext()
    groups = all_groups(known)
    case, _ = _case(known, groups, given)
    said = answers.answer(case, questions.of(case, as_of)).verdict
    found = []
    for e in case.judged:
        if e.residual:
            left = _weighed(replace(case, judged=tuple(o for o in case.judged if o is not e)))
            without = answers.answer(left, questions.of(left, as_of))
            if without.verdict is not said:
                found.append(Turning(e.quantity.name, without.verdict))
    tests = sorted(next_test.worth_of_each(case).items(), key=lambda item: (-item[1], item[0]))
    return (*found, *(Turning(name, worth=worth) for name, worth in tests))


def _case(
    known: History, groups: Mapping[str, Sequence[Group]], given: JudgingContext
) -> tuple[Case, dict[str, Sequence[Segment]]]:
    """What an answer is made from, and the course of each quantity."""
    evidence = assessment.of_all(
        known, groups, given.peers, given.repeatability, given.limits, given.drifted, given.lines, given.shifts
    )
    judged = tuple(e for e in evidence if e.change is not None and e.fresh)
    found = hands.hand_findings(known)
    impossible = () if known.motor.may_have_sensors else tuple(f for f in FAULTS if ENTRY[f].sensored_only)
    odd = {(e.quantity.name, n.values[0]) for e in evidence for n in e.notes if n.kind is NoteKind.BASELINE_ODD}
    courses: dict[str, Sequence[Segment]] = {
        n: segments([g for g in mine if (n, g.at) not in odd], known.events, QUANTITIES[n])
        for n, mine in groups.items()
        if mine
    }
    trends = _trends(known, evidence, courses, given.repeatability)
    faulty = _share(given.prices.faulty, noticed.odds_by_swapping(known))
    useless = repairs.no_better(known, groups, given.repeatability, given.limits)
    nothing = weighing.of_nothing()

    def weigh(among: Sequence[Evidence]) -> Posterior:
        residuals = [e.residual for e in among if e.residual]
        happened = noticed.happened(known, among)
        return weighing.weigh(residuals, happened, found, impossible, faulty, given.limits)

    case = Case(known, evidence, judged, nothing, (), impossible, given.prices, useless, trends, found, weigh)
    return _without_slips(_weighed(case)), courses


def _weighed(case: Case) -> Case:
    """A case with its evidence weighed."""
    posterior = case.weigh(case.judged)
    return replace(case, posterior=posterior, weighed=tuple(weighing.faults_of(posterior)))


def _without_slips(case: Case) -> Case:
    """A case without the readings that a slip explains better than anything else; each says so."""
    for e in case.judged:
        before = e.reference.value if e.reference else 0.0
        if not (e.residual and e.quantity.may_slip) or e.now is None:
            continue
        r = e.residual
        prior = slips.PRIOR**r.visits + (slips.PRIOR**r.base_visits if r.base_visits else 0.0)
        nearly = e.now > 0 and 1 / slips.SUSPICIOUS < e.now / before < slips.SUSPICIOUS if before > 0 else True
        if nearly:
            continue
        weights = case.without((e.quantity.name,)).weights
        slip = slips.against_faults(e.quantity, e.now, before, r.u, weights, case.known.motor.poles, prior, e.raw)
        if slip is not None and (slip.named or e.quantity.name != "kv"):  # of a KV the poles are asked about
            return _without_slips(_weighed(_slipped(case, e, Note(NoteKind.SLIP, (e.now, before, slip.words)))))
    return case


def _slipped(case: Case, slipped: Evidence, note: Note) -> Case:
    """A case in which a reading, and what is made of it besides, says nothing."""
    kin = kindred(slipped.quantity.name)

    def silent(e: Evidence) -> Evidence:
        if e.quantity.name not in kin or e.residual is None:
            return e
        notes = (*e.notes, note) if e.quantity is slipped.quantity else e.notes
        return replace(e, residual=None, state=State.UNPROVEN, notes=notes)

    return replace(case, judged=tuple(map(silent, case.judged)), evidence=tuple(map(silent, case.evidence)))


def _share(faulty: float, times: float) -> float:
    """A share whose odds are so many times as high."""
    odds = times * faulty / (1 - faulty)
    return odds / (1 + odds)


def _by_limits(judged: Sequence[Evidence]) -> tuple[Verdict, Evidence | None]:
    """The worst single quantity decides: past its act limit for sure, more likely than not, or past watch."""
    if not judged:
        return Verdict.UNPROVEN, None
    worst = max(judged, key=lambda e: (*_beyond(e), -(e.change.headroom if e.change else 1.0)))
    p_act, p_watch = _beyond(worst)
    if p_act >= SURE and not worst.against_label:  # no motor is condemned by its label
        return worst.quantity.worst_means, worst
    if p_act >= 0.5:
        return Verdict.UNPROVEN, worst
    return (Verdict.WATCH if p_watch >= 0.5 else Verdict.KEEP), worst


def _beyond(e: Evidence) -> tuple[float, float]:
    """How likely a quantity lies past its act limit, where that is more likely than not, and past watch."""
    if e.change is None:
        return 0.0, 0.0
    p_act = e.change.p_past_act
    return (p_act if p_act >= 0.5 else 0.0), e.change.p_past_watch


def _trends(
    known: History, evidence: Sequence[Evidence], courses: Mapping[str, Sequence[Segment]], rigs: Repeatability
) -> tuple[trend.Trend, ...]:
    found = (
        trend.of_segment(
            courses[e.quantity.name][-1],
            known.events,
            e.quantity,
            e.limits or e.quantity.limits,
            rigs(courses[e.quantity.name][-1].groups[-1].conditions.rig, e.quantity.name),
        )
        for e in evidence
        if e.now is not None and e.quantity.name in courses and not e.quantity.against_machine
    )
    return tuple(t for t in found if t)


def _check_by(known: History, answer: answers.Answer, trends: Sequence[trend.Trend]) -> plan.CheckBy | None:
    """A motor of which no test of today would tell more is looked at again when it has run."""
    only_time_tells = answer.cause in (Cause.NOT_SHOWN, Cause.NOTHING_TO_COMPARE) and answer.test is None
    verdict = Verdict.WATCH if only_time_tells else answer.verdict
    last = max((c.at for c in known.checks), default=None)
    if last is None:
        return None
    left = {axis: [t.act.likely for t in trends if t.axis == axis and t.act] for axis in ("runs", "days")}
    runs, days = (min(left[axis]) if left[axis] else None for axis in ("runs", "days"))
    return plan.check_by(verdict, last.date(), runs, days, demands.due_after(known, last))
