"""A check: open it on a motor, take its readings, set runs aside, close it.

Every act is one transaction and remembers its inverse. Nothing that was typed is lost: a draft is kept with every
change, and taking a run clears it.
"""

from collections.abc import Mapping
from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core import baseline, repeats
from waldhorn.core.errors import Refusals, Refused
from waldhorn.core.history import FULL_STEP
from waldhorn.core.measures import QUANTITIES
from waldhorn.pit.judging import repeatability
from waldhorn.pit.steps import PULL, PULL_MEASURES, SETUP, read
from waldhorn.store import acts, readings, standings
from waldhorn.store.models import CheckRow, MotorRow
from waldhorn.store.motors import mark_stale
from waldhorn.store.readings import NewReading

RUNS_WANTED = 2


def draft_key(check_id: int) -> str:
    """Under which key what is typed into a check is kept."""
    return f"check:{check_id}"


def open_check(session: Session, motor: MotorRow, now: datetime) -> CheckRow:
    """Open a check on a motor, with the rig of its last one; an open one is gone on with."""
    before = readings.last_check(session, motor.id)
    if before is not None and before.open:
        return before
    check = CheckRow(
        motor_id=motor.id, key=now.isoformat(timespec="seconds"), at=now, open=True, rig="", method="",
        motor_c=None, ambient_c=None,
    )  # fmt: skip
    session.add(check)
    session.flush()
    habit = before or readings.last_check(session, None)
    if habit:
        method = habit.method or "loaded-supply"
        acts.save_draft(session, draft_key(check.id), {"rig": habit.rig, "method": method})
    acts.record(session, motor.id, now, "open", "check opened", [acts.delete_rows("bench_check", [check.id])])
    mark_stale(session, [motor.id])
    return check


def keep_draft(session: Session, check: CheckRow, typed: Mapping[str, str]) -> None:
    """Keep what is typed so far, beside what was typed in other steps."""
    if typed.get("run") not in (None, str(readings.last_run(session, check.id) + 1)):
        return  # typed into a run that has been taken since; it came late
    fields = acts.draft(session, draft_key(check.id)) | {k: v for k, v in typed.items() if k != "run"}
    acts.save_draft(session, draft_key(check.id), fields)


def set_up(session: Session, check: CheckRow, typed: Mapping[str, str], now: datetime) -> None:
    """Note rig, method and temperatures of a check; raises Refusals."""
    values = read(SETUP, typed)
    before = {f.name: getattr(check, f.name) for f in SETUP.fields}
    inverse = [acts.set_back("bench_check", check.id, **before)]
    acts.record(session, check.motor_id, now, "set up", "rig and warmth noted", inverse)
    for name, value in values.items():
        setattr(check, name, value)
    keep_draft(session, check, dict.fromkeys(values, ""))


def take_run(session: Session, check: CheckRow, typed: Mapping[str, str], now: datetime) -> int:
    """Take a full-throttle run; raises Refusals. Returns its number.

    When a third run shows which of three stands apart, that one is set aside, visibly and undoably.
    """
    if not check.open:
        raise Refusals({"rpm": "this check is signed and closed: open a new one to take more runs"})
    values = read(PULL, typed)
    run = readings.last_run(session, check.id) + 1
    if typed.get("run", str(run)) != str(run):
        raise Refusals({"rpm": f"run {run - 1} has been taken meanwhile: press Enter again to take this as run {run}"})
    fresh = [
        NewReading(
            now, measure, float(values[name] or 0.0), run, FULL_STEP, rig=check.rig, method=check.method,
            motor_c=check.motor_c, ambient_c=check.ambient_c,
        )
        for name, measure in PULL_MEASURES.items()
    ]  # fmt: skip
    readings.add_readings(session, ((check.id, r) for r in fresh))
    ids = [row.id for row in readings.of_run(session, check.id, run)]
    inverse = [acts.delete_rows("reading", ids), *_set_odd_one_aside(session, check)]
    inverse.append(acts.draft_back(draft_key(check.id), {name: typed.get(name, "") for name in PULL_MEASURES}))
    acts.record(session, check.motor_id, now, "run", f"run {run} taken", inverse)
    keep_draft(session, check, dict.fromkeys(PULL_MEASURES, ""))
    mark_stale(session, [check.motor_id])
    return run


def _set_odd_one_aside(session: Session, check: CheckRow) -> list[acts.Operation]:
    """Set the run aside that stands apart from others that agree; returns what undoes it."""
    known = repeatability(standings.rig_spreads(session))
    history = readings.histories(session, [check.motor_id])[check.motor_id]
    for name, quantity in QUANTITIES.items():
        group = next((g for g in baseline.groups(history, quantity) if g.check == str(check.id)), None)
        if group is None or len(group.samples) <= RUNS_WANTED:
            continue
        found = repeats.agreement([s.value for s in group.samples], known(check.rig, name), quantity.relative)
        if found.odd is not None:
            run = group.samples[found.odd].run
            reason = f"odd one out: {quantity.title} stands {found.spread:.1f} {quantity.change_unit} from the others"
            return _aside(session, check, run, reason)
    return []


def set_aside(session: Session, check: CheckRow, run: int, reason: str, now: datetime) -> None:
    """Set a run aside with a reason: kept, but judged without; raises Refused when there is no such run."""
    if not reason.strip():
        raise Refused("aside", "say why it is set aside: a slip of the hand, a loose clip")
    inverse = _aside(session, check, run, reason.strip()[:200])
    if not inverse:
        raise Refused("run", f"there is no run {run} to set aside")
    acts.record(session, check.motor_id, now, "aside", f"run {run} set aside", inverse)
    mark_stale(session, [check.motor_id])


def bring_back(session: Session, check: CheckRow, run: int, now: datetime) -> None:
    """Let a run that was set aside count again; raises Refused when there is none."""
    rows = [r for r in readings.of_run(session, check.id, run) if not r.accepted]
    if not rows:
        raise Refused("run", f"there is no run {run} set aside")
    inverse = [acts.set_back("reading", r.id, accepted=False, aside_reason=r.aside_reason) for r in rows]
    for row in rows:
        row.accepted, row.aside_reason = True, ""
    acts.record(session, check.motor_id, now, "back", f"run {run} counts again", inverse)
    mark_stale(session, [check.motor_id])


def _aside(session: Session, check: CheckRow, run: int, reason: str) -> list[acts.Operation]:
    rows = [r for r in readings.of_run(session, check.id, run) if r.accepted]
    for row in rows:
        row.accepted, row.aside_reason = False, reason
    return [acts.set_back("reading", r.id, accepted=True, aside_reason="") for r in rows]
