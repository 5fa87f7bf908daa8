"""The rack: every motor of the pit at a glance, worst news and most overdue first."""

from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy.orm import Session

from waldhorn.store import standings
from waldhorn.store.models import MotorRow, StandingRow

SCREENFUL = 40


@dataclass(frozen=True)
class Hook:
    """One motor as it hangs on the rack. `days_over` is above 0 when it is overdue by so many days."""

    motor: MotorRow
    standing: StandingRow
    days_over: int
    runs_over: bool


@dataclass(frozen=True)
class Rack:
    """A screenful of the rack; `counts` are over all that match, `following` where the next one starts."""

    hooks: list[Hook]
    counts: dict[str, int]
    words: str
    following: int | None


def view(session: Session, words: str, now: datetime, start: int = 0) -> Rack:
    """A screenful of the rack, from `start`, of the motors in which all `words` occur."""
    today = now.date()
    found = standings.rack(session, words, today, SCREENFUL + 1, start)
    hooks = [_hook(motor, standing, today) for motor, standing in found[:SCREENFUL]]
    following = start + SCREENFUL if len(found) > SCREENFUL else None
    return Rack(hooks, standings.counts(session, words, today), words, following)


def _hook(motor: MotorRow, standing: StandingRow, today: date) -> Hook:
    over = (today - date.fromisoformat(standing.due_on)).days if standing.due_on else 0
    runs_over = standing.due_runs is not None and standing.due_runs <= 0
    return Hook(motor, standing, over, runs_over)
