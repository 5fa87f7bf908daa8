"""The run: which steps in which order, what is closed and why, and what comes next."""

from collections.abc import Mapping

from waldhorn.core import baseline, inspection, repeats
from waldhorn.core.evidence import Evidence
from waldhorn.core.history import History
from waldhorn.core.measures import QUANTITIES
from waldhorn.core.noticed import looked_at
from waldhorn.core.verdict import Judgement
from waldhorn.pit.desk import Desk
from waldhorn.pit.panels import PANELS
from waldhorn.pit.steps import ANSWER, SETUP, Step

PLANS: Mapping[str, tuple[str, ...]] = {
    "full": ("look", "gap", "detent", "sensors", "poles", "first_spin", "pull", "timing", "noise", "heat"),
    "quick": ("look", "first_spin", "pull", "noise"),
}
PLAN_WORDS = {"full": "Full check", "quick": "Quick check"}
ON_DEMAND = ("set_timing", "load", "flywheel")
STEPS: Mapping[str, Step] = {s.name: s for s in (SETUP, *(p.step for p in PANELS.values()), ANSWER)}


def only(step: str) -> str:
    """The plan of a check that does one test."""
    return f"only:{step}"


def planned(desk: Desk) -> list[Step]:
    """The steps of this check in order: those of its plan that fit the motor, and whatever else was done."""
    plan = desk.check.plan
    names = (plan.removeprefix("only:"),) if plan.startswith("only:") else PLANS.get(plan, PLANS["quick"])
    wanted = [n for n in PANELS if n in names or (PANELS[n].said(desk) and n in (*ON_DEMAND, *PLANS["full"]))]
    return [SETUP, *(PANELS[n].step for n in wanted if PANELS[n].step.applies(desk.motor)), ANSWER]


def plan_words(plan: str) -> str:
    """What a plan is called."""
    step = STEPS.get(plan.removeprefix("only:"))
    return PLAN_WORDS.get(plan, f"Only {step.title.lower()}" if step else plan)


def skipped(desk: Desk, step: Step) -> bool:
    """Whether a step was passed over in this check."""
    return desk.said(f"step:{step.name}") == "skipped"


def finished(desk: Desk, step: Step) -> bool:
    """Whether a step has what it needs, or was passed over."""
    if step.name == SETUP.name:
        return bool(desk.check.rig)
    if step.name == ANSWER.name:
        return not desk.check.open
    if skipped(desk, step):
        return True
    if step.name == "look":
        return bool(desk.said("step:look"))
    if step.name == "poles":
        return desk.said("poles") not in ("", "not settled")
    if step.name == "sensors":
        return desk.said("hall") not in ("", "incomplete")
    if step.name == "first_spin":
        return bool(desk.said("first_spin"))
    return desk.counted(step) >= step.runs_wanted and not _discordant(desk, step)


def _discordant(desk: Desk, step: Step) -> bool:
    check = next((c for c in desk.history.checks if c.id == str(desk.check.id)), None)
    if check is None:
        return False
    mine = History(desk.motor, (check,))
    for name in step.quantities:
        if name not in QUANTITIES:
            continue
        for group in baseline.groups(mine, QUANTITIES[name]):
            values = [s.value for s in group.samples]
            s_r = desk.known(desk.check.rig, name)
            if repeats.agreement(values, s_r, QUANTITIES[name].relative).ask_again:
                return True
    return False


def next_step(desk: Desk, wanted: str = "") -> Step:
    """The step to do now: the one asked for, else the first of the plan that is not finished."""
    if not desk.check.open:
        return ANSWER
    if wanted in STEPS and STEPS[wanted].applies(desk.motor):
        return STEPS[wanted]
    if not desk.check.rig:
        return SETUP
    return next((s for s in planned(desk) if not finished(desk, s)), ANSWER)


def closed(desk: Desk, step: Step) -> list[tuple[str, str]]:
    """Why a powered step is closed, as (subject to overrule, words); empty when it is open."""
    if not step.powered:
        return []
    standing = looked_at(desk.history)
    found = [(i.name, f"{i.title} found bad: no power until it is mended.") for i in inspection.forbidding(standing)]
    if desk.said("first_spin") == "rough" and not desk.said("overruled:first_spin") and step.name != "first_spin":
        found.append(("first_spin", "It ran rough: that is the evidence, no more power."))
    return found


def hold_seconds(desk: Desk, step: Step) -> int:
    """How long a pull of this step may be held, shorter when something is in doubt."""
    return round(step.hold_s * inspection.hold_share(looked_at(desk.history)))


def suggested(desk: Desk, judgement: Judgement) -> Step | None:
    """The step that holds the test which would settle the answer, when it is not among those left to do."""
    step = STEPS.get(judgement.next_step or "")
    if step is None or not step.applies(desk.motor) or step in planned(desk):
        return None
    return step


def evidence_of(step: Step, judgement: Judgement) -> list[Evidence]:
    """The evidence that a step feeds."""
    return [e for e in judgement.evidence if e.quantity.name in step.quantities]
