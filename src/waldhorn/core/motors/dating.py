"""Dating: what is dated later than now, or before its motor was in service, is said; it is stored as it was given."""

from collections.abc import Iterable
from datetime import datetime

from waldhorn.core.base.history import Motor


def odd_dates(motor: Motor, times: Iterable[datetime], now: datetime, what: str = "checks") -> list[str]:
    """Sentences on times that can hardly be right, with what it means for the answer.

    Parameters
    ----------
    motor : Motor
    times : iterable of datetime
        With their time zone.
    now : datetime
        With its time zone.
    what : str
        What happened at these times, plural.

    Examples
    --------
    >>> at = datetime.fromisoformat
    >>> odd_dates(Motor("x", in_service_on="2026-03-01"), [at("2026-02-01T10:00+00:00")], at("2026-05-01T10:00+00:00"))
    ['1 of its checks lies before it was in service (2026-03-01): look at the year.']
    """
    known = list(times)
    ahead = [t for t in known if t > now]
    early = [t for t in known if motor.in_service_on and t.date().isoformat() < motor.in_service_on]
    said = []
    if ahead:
        first = f"{min(ahead):%Y-%m-%d %H:%M}"
        said.append(f"{_count(ahead, what)} in the future (first {first}): left out of the answer until then.")
    if early:
        said.append(f"{_count(early, what)} before it was in service ({motor.in_service_on}): look at the year.")
    return said


def _count(times: list[datetime], what: str) -> str:
    return f"{len(times)} of its {what} {'lies' if len(times) == 1 else 'lie'}"
