"""Motors, checks and histories made in a line."""

from datetime import UTC, datetime, timedelta

from waldhorn.core.conditions import Conditions
from waldhorn.core.history import Check, Event, History, Motor, Reading
from waldhorn.core.vocabulary import EventKind

START = datetime(2026, 5, 1, 10, 0, tzinfo=UTC)
NOW = datetime(2026, 9, 12, 14, 0, tzinfo=UTC)
PULL = Conditions(rig="bench", method="loaded-supply", throttle_pct=100.0, motor_c=25.0)


def day(number: float) -> datetime:
    """A time so many days after the season's start."""
    return START + timedelta(days=number)


def pulls(number: float, *runs: tuple[float, float, float], conditions: Conditions = PULL, name: str = "") -> Check:
    """A check with full-throttle runs given as (volts, amps, rpm), the speed as steady as a sound motor's."""
    readings = [
        Reading(measure, value, day(number), run, conditions)
        for run, values in enumerate(runs, 1)
        for measure, value in zip(
            ("supply_volts", "no_load_current", "rpm", "rpm_p2p"), (*values, 0.002 * values[2]), strict=True
        )
    ]
    return Check(name or f"c{number}", day(number), tuple(readings))


def history(*checks: Check, events: tuple[tuple[float, str], ...] = (), motor: Motor | None = None) -> History:
    """A history of a 3450 KV inrunner with 4 poles, known by counting."""
    motor = motor or Motor("VS-07", "Skerry 36", label_kv=3450, poles=4, poles_known_by="counted", slots=12)
    return History(motor, checks, tuple(Event(EventKind(name), day(at)) for at, name in events))
