"""What the bench screen shows: the step that is next, what it has to show, and the live meaning of what is typed.

What is being typed is judged together with what was taken, before anything is stored.
"""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from waldhorn.core.evidence import Evidence
from waldhorn.core.verdict import Judgement
from waldhorn.pit import run as flow
from waldhorn.pit.checks import draft_key
from waldhorn.pit.desk import Desk, View, lay_out
from waldhorn.pit.judging import judge_history
from waldhorn.pit.panels import PANELS
from waldhorn.pit.steps import SETUP, Step, read_partly
from waldhorn.store import acts
from waldhorn.store.models import ActRow, CheckRow, MotorRow


@dataclass(frozen=True)
class Bench:
    """Everything the bench screen draws."""

    desk: Desk
    step: Step
    run: int
    beads: list[tuple[Step, str, bool]]  # step, what it has to show, whether it was skipped
    typed: dict[str, Any]
    wrong: dict[str, str]
    view: View
    judgement: Judgement
    shown: list[Evidence]
    closed: list[tuple[str, str]]
    hold_s: int
    suggested: Step | None
    last_act: ActRow | None


def look(session: Session, check: CheckRow, motor: MotorRow, now: datetime, wanted: str = "") -> Bench:
    """The bench as it stands, with what is typed so far."""
    desk = lay_out(session, check, motor, now)
    step = flow.next_step(desk, wanted)
    panel = PANELS.get(step.name)
    typed = acts.draft(session, draft_key(check.id, step.name))
    habits = panel.habits(desk) if panel else {}
    values, wrong = read_partly(step, habits | typed) if check.open else ({}, {})
    fresh = panel.readings(desk, values, desk.next_run(step)) if panel and typed and not wrong else []
    noticed = panel.notices(desk, values) if panel and typed else {}
    history = desk.with_fresh(fresh, noticed) if fresh or noticed else desk.history
    judged = judge_history(session, motor.id, history, now)
    view = panel.view(desk, values, fresh) if panel else View()
    if panel and fresh:
        wrong |= {k: v for k, v in panel.missing(desk, values).items() if typed.get(k)}
    if step.name == SETUP.name:
        wrong = read_partly(SETUP, typed)[1]
    beads = [(s, _said(desk, s), flow.skipped(desk, s)) for s in flow.planned(desk)]
    return Bench(
        desk, step, desk.next_run(step), beads, habits | typed, wrong, view, judged,
        flow.evidence_of(step, judged), flow.closed(desk, step), flow.hold_seconds(desk, step),
        flow.suggested(desk, judged), acts.last(session, motor.id),
    )  # fmt: skip


def _said(desk: Desk, step: Step) -> str:
    if step.name == SETUP.name:
        warmth = f", {desk.check.motor_c:.0f} °C" if desk.check.motor_c is not None else ""
        return f"{desk.check.rig}{warmth}" if desk.check.rig else ""
    if step.name in PANELS:
        return PANELS[step.name].said(desk)
    return "" if desk.check.open else "closed"
