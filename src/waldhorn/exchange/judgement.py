"""A judgement as the JSON of docs/formats.md: the same from the command line and from any page."""

from datetime import date
from typing import Any, Literal

from pydantic import AwareDatetime, BaseModel

from waldhorn.core.verdict import Evidence, Judgement

LEAST_PROBABILITY = 0.001  # a fault less likely than this is not worth a line

Verdict = Literal["keep", "watch", "repair", "retire", "unproven"]


class FaultJson(BaseModel):
    """One fault with its probability and its severity (1 is at the act limit)."""

    fault: str
    probability: float
    severity: float


class EvidenceJson(BaseModel):
    """One quantity now against its baseline. `unit` is that of `change` and of the limits."""

    measure: str
    baseline: float | None
    now: float | None
    change: float | None
    u: float | None
    unit: str
    value_unit: str
    watch: float | None
    act: float | None
    p_past_watch: float | None
    p_past_act: float | None
    state: Literal["within", "watch", "past", "unproven", "no_baseline"]
    headroom: float | None
    baseline_from: Literal["own", "model", "label"] | None
    n_now: int
    n_base: int
    further_runs: int | None
    reason: str
    notes: list[str]


class CheckByJson(BaseModel):
    """Due after so many runs or on this day, whichever comes first."""

    runs: int
    date: date


class JudgementJson(BaseModel):
    """The answer for one motor."""

    motor: str
    as_of: AwareDatetime
    verdict: Verdict
    confidence: float
    headline: str
    faults: list[FaultJson]
    evidence: list[EvidenceJson]
    by_limits: Verdict
    next_test: str | None
    check_by: CheckByJson | None
    reason: str


def to_json(judgement: Judgement) -> dict[str, Any]:
    """A judgement as plain JSON values."""
    due = judgement.check_by
    shaped = JudgementJson.model_validate(
        {
            "motor": judgement.motor,
            "as_of": judgement.as_of,
            "verdict": judgement.verdict,
            "confidence": _round(judgement.confidence),
            "headline": judgement.headline,
            "faults": [
                {"fault": f.fault, "probability": _round(f.probability), "severity": f.severity}
                for f in judgement.faults
                if f.probability >= LEAST_PROBABILITY
            ],
            "evidence": [_evidence(e) for e in judgement.evidence],
            "by_limits": judgement.by_limits,
            "next_test": judgement.next_test,
            "check_by": {"runs": due.runs, "date": due.date} if due else None,
            "reason": judgement.reason,
        }
    )
    return shaped.model_dump(mode="json") | {"as_of": judgement.as_of.isoformat(timespec="seconds")}


def _evidence(e: Evidence) -> dict[str, Any]:
    change, reference = e.change, e.baseline
    return {
        "measure": e.quantity.name,
        "baseline": _round(reference.value if reference else None),
        "now": _round(e.now),
        "change": _round(change.value if change else None),
        "u": _round(change.u if change else None),
        "unit": e.quantity.change_unit,
        "value_unit": e.quantity.unit,
        "watch": e.limits.watch if e.limits else None,
        "act": e.limits.act if e.limits else None,
        "p_past_watch": _round(change.p_past_watch if change else None),
        "p_past_act": _round(change.p_past_act if change else None),
        "state": e.state,
        "headroom": _round(change.headroom if change else None),
        "baseline_from": reference.source if reference else None,
        "n_now": e.n_now,
        "n_base": reference.n if reference else 0,
        "further_runs": change.further_runs if change else None,
        "reason": e.reason,
        "notes": list(e.notes),
    }


def _round(value: float | None) -> float | None:
    return None if value is None else float(f"{value:.6g}")
