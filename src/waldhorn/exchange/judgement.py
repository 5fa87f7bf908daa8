"""A judgement as the JSON of docs/formats.md: the same from the command line and from any page."""

from datetime import date
from typing import Any, Literal

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field

from waldhorn.core.base.vocabulary import FaultKind, Source, State, Verdict
from waldhorn.core.judging.brought import worth_a_word
from waldhorn.core.judging.evidence import Evidence
from waldhorn.core.judging.questions import Why
from waldhorn.core.judging.sentences import note_words
from waldhorn.core.judging.trend import Crossing, Trend
from waldhorn.core.judging.verdict import Judgement

LEAST_PROBABILITY = 0.001  # a fault less likely than this is not worth a line


class FaultJson(BaseModel):
    """One fault, alone or together with another, its probability and its severity (1 is at the act limit)."""

    fault: FaultKind
    probability: float
    severity: float
    together_with: FaultKind | None


class BroughtJson(BaseModel):
    """From what the past that it is held against was brought to the conditions of now, by what, and how much of the
    change is that correction, 0 to 1."""

    model_config = ConfigDict(serialize_by_alias=True, validate_by_name=True)

    then: dict[str, float | str] = Field(alias="from")
    by: Literal["warmth", "timing", "rig", "volts"]
    of_change: float


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
    state: State
    headroom: float | None
    baseline_from: Source | None
    n_now: int
    n_base: int
    further_runs: int | None
    repeatability: float
    speaks_for_leading_fault: float | None
    counts: bool
    setting: float | None
    brought: BroughtJson | None
    reason: str
    notes: list[str]


class AskJson(BaseModel):
    """Something to be asked, looked at or read, why, and the step of the bench that answers it."""

    why: Why
    says: str
    step: str


class CheckByJson(BaseModel):
    """Due after so many runs or on this day, whichever comes first."""

    runs: int
    date: date


class CrossingJson(BaseModel):
    """When a limit is crossed, in runs or days from the last check."""

    likely: float
    earliest: float
    latest: float | None


class TrendJson(BaseModel):
    """How a quantity moves within its baseline segment; slopes in change units for each run or day."""

    measure: str
    axis: Literal["runs", "days"]
    points: int
    kind: Literal["steady", "creep", "step"]
    slope: float
    slope_low: float
    slope_high: float
    watch: CrossingJson | None
    act: CrossingJson | None
    step_at: AwareDatetime | None
    step_event: str | None


class JudgementJson(BaseModel):
    """The answer for one motor."""

    motor: str
    p_fault_act: float
    as_of: AwareDatetime
    verdict: Verdict
    confidence: float
    headline: str
    faults: list[FaultJson]
    evidence: list[EvidenceJson]
    by_limits: Verdict
    by_limits_reason: str
    next_test: str | None
    check_by: CheckByJson | None
    trend: list[TrendJson]
    reason: str
    asks: list[AskJson]


def to_json(judgement: Judgement) -> dict[str, Any]:
    """A judgement as plain JSON values."""
    due = judgement.check_by
    shaped = JudgementJson.model_validate(
        {
            "motor": judgement.motor,
            "p_fault_act": _round(judgement.p_fault_act),
            "as_of": judgement.as_of,
            "verdict": judgement.verdict,
            "confidence": _round(judgement.confidence),
            "headline": judgement.headline,
            "faults": [
                {
                    "fault": f.fault,
                    "probability": _round(f.probability),
                    "severity": _round(f.severity),
                    "together_with": f.also,
                }
                for f in judgement.faults
                if f.probability >= LEAST_PROBABILITY or f.fault is FaultKind.NONE
            ],
            "evidence": [_evidence(e, judgement.speaks.get(e.quantity.name)) for e in judgement.evidence],
            "by_limits": judgement.by_limits,
            "by_limits_reason": judgement.by_limits_reason,
            "next_test": judgement.next_test,
            "check_by": {"runs": due.runs, "date": due.date} if due else None,
            "trend": [_trend(t) for t in judgement.trends],
            "reason": judgement.reason,
            "asks": [{"why": a.why, "says": a.says, "step": a.step} for a in judgement.asks],
        }
    )
    return shaped.model_dump(mode="json") | {"as_of": judgement.as_of.isoformat(timespec="seconds")}


def _evidence(e: Evidence, speaks: float | None) -> dict[str, Any]:
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
        "repeatability": e.repeatability,
        "speaks_for_leading_fault": _round(speaks),
        "counts": e.residual is not None,
        "setting": e.setting,
        "brought": _brought(e),
        "reason": e.reason,
        "notes": [note_words(n, e.quantity) for n in e.notes],
    }


def _brought(e: Evidence) -> dict[str, Any] | None:
    reference = e.reference
    if reference is None or e.change is None:
        return None
    if reference.source is Source.TRANSLATED:
        rig = reference.conditions.rig if reference.conditions else ""
        return {"from": {"rig": rig}, "by": "rig", "of_change": _round(e.of_change)}
    by = reference.brought
    if by is None or not worth_a_word(by):
        return None
    name = "motor_c" if by.by == "warmth" else "timing_set_deg"
    return {"from": {name: _round(by.then)}, "by": by.by, "of_change": _round(e.of_change)}


def _trend(t: Trend) -> dict[str, Any]:
    return {
        "measure": t.quantity,
        "axis": t.axis,
        "points": t.points,
        "kind": t.kind,
        "slope": _round(t.slope),
        "slope_low": _round(t.slope_low),
        "slope_high": _round(t.slope_high),
        "watch": _crossing(t.watch),
        "act": _crossing(t.act),
        "step_at": t.step_at,
        "step_event": t.step_event or None,
    }


def _crossing(c: Crossing | None) -> dict[str, float | None] | None:
    return {"likely": _round(c.likely), "earliest": _round(c.earliest), "latest": _round(c.latest)} if c else None


def _round(value: float | None) -> float | None:
    return None if value is None else float(f"{value:.6g}")
