"""The stepper: which steps of a check in which order, what is closed and why, and what comes next."""

from collections.abc import Mapping
from dataclasses import dataclass

from waldhorn.core.base.conditions import at_full_throttle
from waldhorn.core.base.vocabulary import Look, Spin
from waldhorn.core.judging.evidence import Evidence
from waldhorn.core.judging.hands import open_findings
from waldhorn.core.judging.verdict import Judgement
from waldhorn.core.measuring import inspection
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import groups_of
from waldhorn.core.motors.ratings import Ceiling
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.bench.steps.step import AnyStep

PLAN_WORDS: Mapping[str, str] = {"full": "Full check", "quick": "Quick check"}
ONLY = "only:"
SETUP, ANSWER = STEPS["setup"], STEPS["answer"]
TESTS: Mapping[str, AnyStep] = {n: s for n, s in STEPS.items() if s not in (SETUP, ANSWER)}
ROUGH, RATED_SPEED = "first_spin", "rated_speed"


@dataclass(frozen=True, slots=True)
class Closed:
    """Why a powered step is closed: what is to be overruled, an item of the checklist, a rough first spin, or a speed
    above the rotor's rated one."""

    subject: str
    item: inspection.Item | None = None
    ceiling: Ceiling | None = None


def only(step: str) -> str:
    """The plan of a check that does one test."""
    return f"{ONLY}{step}"


def is_plan(plan: str) -> bool:
    """Whether there is such a list of steps."""
    return plan in PLAN_WORDS or (plan.startswith(ONLY) and plan.removeprefix(ONLY) in TESTS)


def planned(ctx: CheckContext) -> list[AnyStep]:
    """The steps of this check in order: those of its plan that fit the motor, and whatever else was done."""
    plan = ctx.check.plan
    wanted = plan.removeprefix(ONLY) if plan.startswith(ONLY) else ""
    return [
        s
        for s in STEPS.values()
        if s.applies(ctx.motor)
        and (s in (SETUP, ANSWER) or s.name == wanted or plan in s.plans or (s.summary(ctx) and s is not SETUP))
    ]


def plan_words(plan: str) -> str:
    """What a plan is called."""
    step = STEPS.get(plan.removeprefix(ONLY))
    return PLAN_WORDS.get(plan, f"Only {step.title.lower()}" if step else plan)


def finished(ctx: CheckContext, step: AnyStep) -> bool:
    """Whether a step has what it needs, or was passed over."""
    return step.is_skipped(ctx) or step.finished(ctx)


def next_step(ctx: CheckContext, wanted: str = "") -> AnyStep:
    """The step to do now, or to read again: the one asked for, else the first of the plan that is not finished."""
    if wanted in STEPS and STEPS[wanted].applies(ctx.motor):
        return STEPS[wanted]
    if not ctx.check.open:
        return ANSWER
    return next((s for s in planned(ctx) if not finished(ctx, s)), ANSWER)


def closed(ctx: CheckContext, step: AnyStep) -> list[Closed]:
    """Why a step is closed; empty when it is open."""
    if not step.powered:
        return []
    found = [Closed(item.name, item) for item in inspection.forbidding(open_findings(ctx.history))]
    if ctx.check.first_spin is Spin.ROUGH and not ctx.is_overruled(ROUGH) and step.name != ROUGH:
        found.append(Closed(ROUGH))
    limit = None if step.slow else ceiling(ctx)
    if limit and limit.passed():
        found.append(Closed(RATED_SPEED, ceiling=limit))
    return found


def ceiling(ctx: CheckContext) -> Ceiling | None:
    """How fast this motor may turn, with the volts last read at it; None where its rated speed or its KV is
    not known, or where somebody has said why it may turn faster."""
    rated = ctx.motor.rated_rpm
    if not rated or ctx.is_overruled(RATED_SPEED):
        return None
    found = groups_of(ctx.history, QUANTITIES["kv"])
    kv = found[-1].value if found else ctx.motor.label_kv
    if not kv:
        return None
    read = [
        r
        for c in ctx.history.checks
        for r in c.readings
        if r.measure == "supply_volts" and at_full_throttle(r.conditions)
    ]
    return Ceiling(rated, kv, max(read, key=lambda r: r.at).value if read else None)


def hold_share(ctx: CheckContext) -> float:
    """What share of the usual hold this motor may be given."""
    standing: Mapping[str, Look] = open_findings(ctx.history)
    return inspection.hold_share(standing)


def suggested(ctx: CheckContext, judgement: Judgement) -> AnyStep | None:
    """The step that holds the test which would settle the answer, when it is not among those left to do."""
    step = STEPS.get(judgement.next_step or "")
    return None if step is None or not step.applies(ctx.motor) or step in planned(ctx) else step


def evidence_of(step: AnyStep, judgement: Judgement) -> list[Evidence]:
    """The evidence that a step feeds."""
    return [e for e in judgement.evidence if e.quantity.name in step.quantities]
