"""The answer: keep, watch, repair, retire or unproven, with its reasons in numbers.

A pure function of what is known of a motor: no database, no clock. Two ways of judging stand side by side: by
evidence (what explains all changes together, see `faults` and `answer`) and by limits (the worst single quantity).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

from waldhorn.core import answer as answers
from waldhorn.core import baseline as base
from waldhorn.core import evidence as ev
from waldhorn.core import faults, noticed, plan, trend
from waldhorn.core.answer import Case, Prices
from waldhorn.core.change import UNSURE
from waldhorn.core.evidence import Evidence, Peers, Repeatability, default_repeatability
from waldhorn.core.faults import Fault
from waldhorn.core.history import History
from waldhorn.core.hypotheses import NONE
from waldhorn.core.measures import Limits


@dataclass(frozen=True, slots=True)
class Judgement:
    """The answer for one motor at one time. `faults` add to one; `speaks` says of each quantity how strongly it
    speaks for the leading fault (natural logarithm, above 0 for it)."""

    motor: str
    as_of: datetime
    verdict: str
    confidence: float
    headline: str
    reason: str
    evidence: tuple[Evidence, ...]
    faults: tuple[Fault, ...]
    by_limits: str
    by_limits_reason: str
    next_test: str | None
    next_seconds: int | None
    next_step: str | None
    check_by: plan.CheckBy | None
    trends: tuple[trend.Trend, ...] = ()
    speaks: Mapping[str, float] = field(default_factory=dict)


def judge(
    history: History,
    as_of: datetime,
    peers: Peers | None = None,
    repeatability: Repeatability = default_repeatability,
    limits: Mapping[str, Limits] | None = None,
    prices: Prices | None = None,
) -> Judgement:
    """Judge a motor from everything known up to a time.

    Parameters
    ----------
    history : History, readings and events in any order
    as_of : datetime; later checks, events and findings are not looked at
    peers : baselines of the other motors of the model (of the machine for vibration), by quantity
    repeatability : s_r of a rig for a quantity, change unit
    limits : limits by quantity where they differ from the default
    prices : what the owner sets against each other

    Returns
    -------
    Judgement

    Source: bench practice; see `change`, `baseline`, `evidence` and `faults` for the formulas.
    """
    known = history.until(as_of)
    groups = base.all_groups(known)
    evidence = ev.of_all(known, groups, peers or {}, repeatability, limits or {})
    judged = tuple(e for e in evidence if e.change is not None and e.fresh)
    impossible = () if known.motor.sensored else ("failing_sensor", "timing_moved")
    witnesses = [e.witness for e in judged if e.witness]
    posterior = faults.weigh(witnesses, noticed.happened(known, judged), noticed.pointing_to(known), impossible)
    case = Case(known, evidence, judged, posterior, tuple(faults.faults_of(posterior)), prices or Prices())
    answer = answers.answer(case)
    trends = _trends(known, evidence, groups)
    worst = _by_limits(judged)
    leading = next((f for f in case.weighed if f.fault != NONE), None)
    return Judgement(
        motor=known.motor.tag,
        as_of=as_of,
        verdict=answer.verdict,
        confidence=answer.confidence,
        headline=answer.headline,
        reason=answer.reason,
        evidence=evidence,
        faults=case.weighed,
        by_limits=worst[0],
        by_limits_reason=worst[1],
        next_test=answer.test[0].rstrip(",") if answer.test else None,
        next_seconds=answer.test[1] if answer.test else None,
        next_step=answer.test[2] if answer.test else None,
        check_by=_check_by(known, answer.verdict, trends),
        trends=trends,
        speaks={w.quantity: faults.likelihood_ratio(w, leading.fault) for w in witnesses} if leading else {},
    )


def _by_limits(judged: Sequence[Evidence]) -> tuple[str, str]:
    """The worst single quantity decides."""
    order = {"past": 0, "unproven": 1, "watch": 2, "within": 3}
    ranked = sorted(judged, key=lambda e: (order[e.state], e.change.headroom if e.change else 1.0))
    if not ranked:
        return "unproven", "Nothing to judge by yet."
    worst = ranked[0]
    verdict = {"past": worst.quantity.worst_means, "watch": "watch", "within": "keep"}.get(worst.state, "unproven")
    if worst.state == "unproven" and worst.change and worst.change.p_past_act <= UNSURE:
        verdict = "watch"
    return verdict, f"{worst.reason}." if verdict != "keep" else "Nothing is near a limit."


def _trends(
    known: History, evidence: Sequence[Evidence], groups: Mapping[str, Sequence[base.Group]]
) -> tuple[trend.Trend, ...]:
    found = (
        trend.of_history(known, e.quantity, e.limits or e.quantity.limits, e.repeatability or e.quantity.repeatability,
                         groups[e.quantity.name])
        for e in evidence
        if e.now is not None and e.quantity.name in groups and not e.quantity.against_machine
    )  # fmt: skip
    return tuple(t for t in found if t)


def _check_by(known: History, verdict: str, trends: Sequence[trend.Trend]) -> plan.CheckBy | None:
    last = max((c.at for c in known.checks), default=None)
    if last is None:
        return None
    left = {axis: [t.act.likely for t in trends if t.axis == axis and t.act] for axis in ("runs", "days")}
    runs, days = (min(left[axis]) if left[axis] else None for axis in ("runs", "days"))
    return plan.check_by(verdict, last.date(), runs, days)
