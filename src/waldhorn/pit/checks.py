"""A check: open it on a motor, take what its steps yield, set runs aside, skip, overrule, re-base.

Every act is one transaction and remembers its inverse. Nothing that was typed is lost: a draft is kept with every
change, and taking it clears it.
"""

from collections.abc import Mapping
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from waldhorn.core import baseline, repeats
from waldhorn.core.errors import Refusals, Refused
from waldhorn.core.history import History
from waldhorn.core.measures import QUANTITIES
from waldhorn.core.poles import kv_rebased
from waldhorn.pit import run as flow
from waldhorn.pit.desk import Desk, lay_out
from waldhorn.pit.panels import PANELS
from waldhorn.pit.panels.panel import Panel
from waldhorn.pit.panels.poles import rebase_offer
from waldhorn.pit.steps import SETUP, Step, read
from waldhorn.store import acts, findings, readings
from waldhorn.store.models import CheckRow, MotorRow, ReadingRow
from waldhorn.store.motors import mark_stale


def draft_key(check_id: int, step: str) -> str:
    """Under which key what is typed into a step of a check is kept."""
    return f"check:{check_id}:{step}"


def open_check(session: Session, motor: MotorRow, now: datetime, plan: str = "quick") -> CheckRow:
    """Open a check on a motor, with the rig of its last one; an open one is gone on with."""
    before = readings.last_check(session, motor.id)
    if before is not None and before.open:
        return before
    check = CheckRow(
        motor_id=motor.id, key=now.isoformat(timespec="seconds"), at=now, open=True, rig="", method="",
        motor_c=None, ambient_c=None, timing_set_deg=None, plan=plan,
    )  # fmt: skip
    session.add(check)
    session.flush()
    habit = before or readings.last_check(session, None)
    if habit:
        typed = {"rig": habit.rig, "method": habit.method or "loaded-supply"}
        if before and before.timing_set_deg is not None:
            typed["timing_set_deg"] = f"{before.timing_set_deg:g}"
        acts.save_draft(session, draft_key(check.id, SETUP.name), typed)
    acts.record(session, motor.id, now, "open", "check opened", [acts.delete_rows("bench_check", [check.id])])
    mark_stale(session, [motor.id])
    return check


def change_plan(session: Session, check: CheckRow, plan: str, now: datetime) -> None:
    """Follow another list of steps; raises Refused when there is no such list."""
    if plan not in flow.PLANS and plan.removeprefix("only:") not in PANELS:
        raise Refused("plan", f"“{plan}” is no list of steps: {', '.join(flow.PLANS)}, or only one test")
    inverse = [acts.set_back("bench_check", check.id, plan=check.plan)]
    acts.record(session, check.motor_id, now, "plan", f"{flow.plan_words(plan).lower()} chosen", inverse)
    check.plan = plan


def keep_draft(session: Session, check: CheckRow, step: str, typed: Mapping[str, str], desk: Desk | None) -> None:
    """Keep what is typed into a step; what comes late, for a run that has been taken since, is let go."""
    if desk is not None and step in PANELS and typed.get("run") not in (None, str(desk.next_run(PANELS[step].step))):
        return
    acts.save_draft(session, draft_key(check.id, step), _kept(typed))


def set_up(session: Session, check: CheckRow, typed: Mapping[str, str], now: datetime) -> None:
    """Note rig, method, temperatures and end bell of a check; raises Refusals."""
    values = read(SETUP, typed)
    before = {f.name: getattr(check, f.name) for f in SETUP.fields}
    inverse = [acts.set_back("bench_check", check.id, **before)]
    acts.record(session, check.motor_id, now, "set up", "rig and warmth noted", inverse)
    for name, value in values.items():
        setattr(check, name, value)
    acts.save_draft(session, draft_key(check.id, SETUP.name), {})


def take(session: Session, desk: Desk, panel: Panel, typed: Mapping[str, str]) -> None:
    """Take what was typed into a step; raises Refusals with a sentence a field.

    When a third run shows which of three stands apart, that one is set aside, visibly and undoably.
    """
    check, step, now = desk.check, panel.step, desk.now
    last = step.fields[-1].name
    if not check.open:
        raise Refusals({last: "this check is signed and closed: open a new one to take more"})
    if shut := flow.closed(desk, step):
        raise Refusals({"closed": " ".join(words for _, words in shut)})
    values = read(step, typed)
    if wrong := panel.missing(desk, values):
        raise Refusals(wrong)
    number = desk.next_run(step)
    if typed.get("run", str(number)) != str(number):
        first = step.fields[0].name
        raise Refusals({first: f"run {number - 1} has been taken meanwhile: press Enter again for run {number}"})
    fresh = panel.readings(desk, values, number)
    readings.add_readings(session, ((check.id, r) for r in fresh))
    session.flush()
    ids = [i for i in _ids(session, check.id) if i not in {r.id for r in desk.rows}]
    inverse = [acts.delete_rows("reading", ids)] if ids else []
    inverse += findings.note(session, check.id, panel.notices(desk, values) | _not_skipped(desk, step), now)
    inverse += panel.besides(desk, values)
    if fresh:
        inverse += _set_odd_one_aside(session, lay_out(session, check, desk.row, now), panel)
    inverse.append(acts.draft_back(draft_key(check.id, step.name), _kept(typed)))
    which = f", run {number}" if fresh and step.runs_wanted > 1 else ""
    words = f"{step.title.lower()}{which} taken"
    acts.record(session, check.motor_id, now, "take", words, inverse)
    acts.save_draft(session, draft_key(check.id, step.name), {})
    mark_stale(session, [check.motor_id])


def _not_skipped(desk: Desk, step: Step) -> dict[str, tuple[str, str]]:
    return {f"step:{step.name}": ("", "")} if flow.skipped(desk, step) else {}


def _kept(typed: Mapping[str, str]) -> dict[str, str]:
    return {k: v for k, v in typed.items() if k not in ("run", "step_name")}


def _ids(session: Session, check_id: int) -> list[int]:
    return list(session.scalars(select(ReadingRow.id).where(ReadingRow.check_id == check_id)))


def _set_odd_one_aside(session: Session, desk: Desk, panel: Panel) -> list[acts.Operation]:
    """Set the run aside that stands apart from others that agree; returns what undoes it."""
    check = next((c for c in desk.history.checks if c.id == str(desk.check.id)), None)
    if check is None:
        return []
    for name in panel.step.quantities:
        quantity = QUANTITIES.get(name)
        groups = baseline.groups(History(desk.motor, (check,)), quantity) if quantity else []
        group = groups[-1] if groups else None
        if quantity is None or group is None or len(group.samples) <= 2:
            continue
        found = repeats.agreement([s.value for s in group.samples], desk.known(desk.check.rig, name), quantity.relative)
        if found.odd is not None:
            run = group.samples[found.odd].run
            reason = f"odd one out: {quantity.title} stands {found.spread:.1f} {quantity.change_unit} from the others"
            return _aside(desk, panel.step, run, reason)
    return []


def set_aside(desk: Desk, step: Step, run: int, reason: str) -> None:
    """Set a run aside with a reason: kept, but judged without; raises Refused when there is no such run."""
    if not reason.strip():
        raise Refused("aside", "say why it is set aside: a slip of the hand, a loose clip")
    inverse = _aside(desk, step, run, reason.strip()[:200])
    if not inverse:
        raise Refused("run", f"there is no run {run} to set aside")
    acts.record(desk.session, desk.row.id, desk.now, "aside", f"run {run} set aside", inverse)
    mark_stale(desk.session, [desk.row.id])


def bring_back(desk: Desk, step: Step, run: int) -> None:
    """Let a run that was set aside count again; raises Refused when there is none."""
    rows = [r for r in desk.runs_of(step).get(run, []) if not r.accepted]
    if not rows:
        raise Refused("run", f"there is no run {run} set aside")
    inverse = [acts.set_back("reading", r.id, accepted=False, aside_reason=r.aside_reason) for r in rows]
    for row in rows:
        row.accepted, row.aside_reason = True, ""
    acts.record(desk.session, desk.row.id, desk.now, "back", f"run {run} counts again", inverse)
    mark_stale(desk.session, [desk.row.id])


def set_outliers_aside(desk: Desk, panel: Panel) -> None:
    """Set the peaks aside that stand far from the rest of the last run; raises Refused when none does."""
    view = panel.view(desk, {}, [])
    runs = desk.runs_of(panel.step)
    odd = view.more.get("outliers", ())
    if not odd:
        raise Refused("aside", "no peak stands apart")
    rows = [r for r in list(runs.values())[-1] if r.accepted]
    inverse = [acts.set_back("reading", rows[i].id, accepted=True, aside_reason="") for i in odd]
    for i in odd:
        rows[i].accepted, rows[i].aside_reason = False, "stands apart from the other peaks"
    acts.record(desk.session, desk.row.id, desk.now, "aside", f"{len(odd)} peaks set aside", inverse)
    mark_stale(desk.session, [desk.row.id])


def _aside(desk: Desk, step: Step, run: int, reason: str) -> list[acts.Operation]:
    rows = [r for r in desk.runs_of(step).get(run, []) if r.accepted]
    for row in rows:
        row.accepted, row.aside_reason = False, reason
    return [acts.set_back("reading", r.id, accepted=True, aside_reason="") for r in rows]


def skip(desk: Desk, step: Step) -> None:
    """Pass a step over in this check; it can still be gone back to."""
    inverse = findings.note(desk.session, desk.check.id, {f"step:{step.name}": ("skipped", "")}, desk.now)
    acts.record(desk.session, desk.row.id, desk.now, "skip", f"{step.title.lower()} skipped", inverse)


def stop(desk: Desk, reason: str) -> None:
    """Stop the run with a reason: what is left of it is passed over; raises Refused without a reason."""
    if not reason.strip():
        raise Refused("stop", "say why you stop: called to the heat, it smells, rough")
    left = {f"step:{s.name}": ("skipped", "") for s in flow.planned(desk)[:-1] if not flow.finished(desk, s)}
    found = left | {"stopped": (reason.strip()[:200], "")}
    inverse = findings.note(desk.session, desk.check.id, found, desk.now)
    acts.record(desk.session, desk.row.id, desk.now, "stop", "run stopped", inverse)


def overrule(desk: Desk, subject: str, reason: str) -> None:
    """Open powered steps in spite of a finding, with a reason; raises Refused without one."""
    if not reason.strip():
        raise Refused("overrule", "say why it may run all the same: who looked, what was done")
    found = {f"overruled:{subject}": (reason.strip()[:200], "")}
    inverse = findings.note(desk.session, desk.check.id, found, desk.now)
    acts.record(desk.session, desk.row.id, desk.now, "overrule", f"{subject.replace('_', ' ')} overruled", inverse)
    mark_stale(desk.session, [desk.row.id])


def rebase(desk: Desk) -> int:
    """Bring the speeds read with another pole setting to the true count; returns how many. Undo puts them back.

    Raises Refused when no other setting is known.
    """
    offer = rebase_offer(desk)
    if offer is None:
        raise Refused("rebase", "no other pole setting is known of this motor")
    query = select(ReadingRow).join(CheckRow, CheckRow.id == ReadingRow.check_id)
    query = query.where(CheckRow.motor_id == desk.row.id, ReadingRow.measure.in_(("kv", "rpm", "rpm_p2p")))
    rows = list(desk.session.scalars(query))
    inverse: list[acts.Operation] = [acts.set_back_each("reading", "value", {r.id: r.value for r in rows})]
    for row in rows:
        row.value = kv_rebased(row.value, *offer)
    inverse += findings.note(desk.session, desk.check.id, {"rebased": (f"{offer[0]} to {offer[1]}", "")}, desk.now)
    words = f"{len(rows)} speeds re-based from {offer[0]} to {offer[1]} poles"
    acts.record(desk.session, desk.row.id, desk.now, "rebase", words, inverse)
    mark_stale(desk.session, [desk.row.id])
    return len(rows)
