"""What a live run takes: captures, sweeps and alarms become readings and findings of the check."""

from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core.errors import Refused
from waldhorn.link import capture, lines
from waldhorn.pit import run as flow
from waldhorn.pit.desk import Desk, lay_out
from waldhorn.pit.panels import PANELS
from waldhorn.store import acts, findings, readings
from waldhorn.store.motors import mark_stale
from waldhorn.store.readings import NewReading

Found = capture.Captured | lines.Sweep | capture.Alarm | lines.Trouble
CAUTION = "caution"


def take(session: Session, check_id: int, found: Found, now: datetime) -> str:
    """Store what an instrument yielded; returns in words what was taken."""
    known = readings.check(session, check_id)
    if known is None or not known[0].open:
        return "This check is closed: nothing was taken."
    desk = lay_out(session, *known, now)
    if isinstance(found, capture.Captured):
        return _captured(desk, found)
    if isinstance(found, lines.Sweep):
        return _swept(desk, found)
    return _alarmed(desk, found)


def may_spin(desk: Desk) -> None:
    """Raises Refused while the caution is not confirmed or a finding forbids power."""
    if shut := flow.closed(desk, PANELS["pull"].step):
        raise Refused("live", " ".join(words for _, words in shut))
    if desk.said(CAUTION) != "confirmed":
        raise Refused("live", "confirm first: propeller or pinion off, motor clamped, eyes protected")


def confirm_caution(desk: Desk) -> None:
    """Remember that the caution was confirmed for this check."""
    inverse = findings.note(desk.session, desk.check.id, {CAUTION: ("confirmed", "")}, desk.now)
    acts.record(desk.session, desk.row.id, desk.now, "caution", "caution confirmed", inverse)


def _captured(desk: Desk, found: capture.Captured) -> str:
    run = desk.next_run(PANELS["pull"].step)
    warm = {"motor_c": found.motor_c} if found.motor_c is not None else {}
    note = "" if found.steady else "unsettled"
    fresh = [
        desk.full(measure, value, run, step=found.step, note=note, **warm)
        for measure, value in (("supply_volts", found.volts), ("no_load_current", found.amps), ("rpm", found.rpm),
                               ("rpm_p2p", found.rpm_p2p))
    ]  # fmt: skip
    if found.sound_db is not None and found.step in (1, 4, 8):
        again = sum(r.measure == "noise_avg" and r.step == found.step for r in desk.rows) + 1
        fresh.append(desk.reading("noise_avg", found.sound_db, again, step=found.step, placement="stand"))
    words = f"step {found.step} captured, run {run}"
    heard = {"first_spin": ("smooth", "")} if found.step == 1 and not desk.said("first_spin") and found.steady else {}
    _store(desk, fresh, heard, words)
    settled = "" if found.steady else ", though it did not settle"
    return f"Step {found.step} captured{settled}: {found.rpm:.0f} rpm, {found.amps:.2f} A."


def _swept(desk: Desk, found: lines.Sweep) -> str:
    run = desk.next_run(PANELS["timing"].step)
    fresh = [desk.reading(f"timing_{p}", getattr(found, p), run) for p in "abc"]
    _store(desk, fresh, {} if desk.said("sweep") else {"sweep": ("evenly", "")}, f"timing sweep {run} taken")
    return f"Timing {found.a:g}°, {found.b:g}°, {found.c:g}°."


def _alarmed(desk: Desk, found: capture.Alarm | lines.Trouble) -> str:
    if isinstance(found, lines.Trouble):
        detail = found.detail or found.error
        _store(desk, [], {f"guard:{found.error[:20]}": (detail, "instrument")}, "instrument's trouble noted")
        return f"The instrument reports: {detail}."
    _store(desk, [], {f"guard:{found.kind}": (found.words, "guard")}, "guard noted")
    return f"Stopped: {found.words}. That is evidence, it stands in the check."


def _store(desk: Desk, fresh: list[NewReading], noticed: dict[str, tuple[str, str]], words: str) -> None:
    session, check = desk.session, desk.check
    readings.add_readings(session, ((check.id, r) for r in fresh))
    session.flush()
    known = {r.id for r in desk.rows}
    ids = [r.id for r in readings.of_check(session, check.id) if r.id not in known]
    inverse = [acts.delete_rows("reading", ids)] if ids else []
    inverse += findings.note(session, check.id, noticed, desk.now)
    acts.record(session, check.motor_id, desk.now, "live", words, inverse)
    mark_stale(session, [check.motor_id])
