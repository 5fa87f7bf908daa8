"""The demo: the invented season of the simulated bench, put into a store of its own."""

from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from waldhorn.link.season import season
from waldhorn.pit import checks
from waldhorn.pit.judging import settle
from waldhorn.store import acts, motors, readings


def fill(session: Session, now: datetime) -> None:
    """Fill an empty store with the season that ends today, one motor lying on the bench."""
    for entry in season(now.date() - timedelta(days=1)):
        motors.add(session, [entry.motor])
        motor_id = motors.ids_by_tag(session)[motors.key_of(entry.motor.tag)]
        motors.add_events(session, [(motor_id, event) for event in entry.events])
        at_full = {key: next((r for r in taken if r.method), taken[0]) for key, _, taken in entry.checks}
        ids = readings.check_ids(session, ((motor_id, key, at, at_full[key]) for key, at, _ in entry.checks))
        readings.add_readings(session, ((ids[motor_id, key], r) for key, _, taken in entry.checks for r in taken))
    _leave_one_on_the_bench(session, now)
    settle(session, now)


def _leave_one_on_the_bench(session: Session, now: datetime) -> None:
    motor = motors.find(session, "VS-07")
    if motor is None:
        raise LookupError("the demo season has lost VS-07")
    check = checks.open_check(session, motor, now)
    warm = {"rig": "green bench", "method": "loaded-supply", "motor_c": "24.5", "ambient_c": "22"}
    checks.set_up(session, check, warm, now)
    last = readings.last_full_throttle(session, motor.id)
    typed = {name: f"{last[name]:g}" for name in ("volts", "amps", "rpm")}
    checks.take_run(session, check, typed, now)
    acts.save_draft(session, checks.draft_key(check.id), {})
