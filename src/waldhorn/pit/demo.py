"""The demo: the invented season of the simulated bench, put into a store of its own."""

from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from waldhorn.link.season import season
from waldhorn.pit import checks
from waldhorn.pit.desk import lay_out
from waldhorn.pit.judging import settle
from waldhorn.pit.panels import PANELS
from waldhorn.pit.panels.pull import MEASURES_OF
from waldhorn.store import motors, readings


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
    before = readings.histories(session, [motor.id])[motor.id].checks[-1]
    last = {r.measure: r.value for r in before.readings if r.conditions.throttle_pct in (None, 100.0)}
    check = checks.open_check(session, motor, now)
    warm = {"rig": "green bench", "method": "loaded-supply", "motor_c": "24.5", "ambient_c": "22"}
    checks.set_up(session, check, warm, now)
    for step, typed in (
        ("look", {"shaft": "ok", "windings": "ok", "bearings": "doubt"}),
        ("first_spin", {"heard": "smooth"}),
        ("pull", {"step": "8"} | {n: f"{last[m]:g}" for n, m in MEASURES_OF.items()}),
    ):
        checks.take(session, lay_out(session, check, motor, now), PANELS[step], typed)
