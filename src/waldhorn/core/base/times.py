"""Times and days as people and files write them, and nothing else that could be read as one.

A count of seconds, a bare year or a day without its dashes is a slip, and not a time.

References
----------
.. [1] ISO 8601-1:2019, extended format.
"""

import re
from datetime import date, datetime, tzinfo

from waldhorn.core.base.errors import InputError

FIRST_YEAR, LAST_YEAR = 1980, 2199  # a clock that was never set, and a slip of the pen
_DAY = r"\d{4}-\d\d-\d\d"
_TIMESTAMP = re.compile(_DAY + r"[T ]\d\d:\d\d(:\d\d([.,]\d+)?)?(Z|[+-]\d\d:?\d\d)?")


def is_timestamp(text: str) -> bool:
    """Whether a text has the form of a time of a day.

    >>> is_timestamp("2026-05-02T10:30:00+02:00"), is_timestamp("2026-05-02 10:30"), is_timestamp("1700000000")
    (True, True, False)
    """
    return bool(_TIMESTAMP.fullmatch(text))


def in_reach(year: int) -> bool:
    """Whether a motor can have been checked in a year.

    >>> in_reach(2026), in_reach(1), in_reach(9999)
    (True, False, False)
    """
    return FIRST_YEAR <= year <= LAST_YEAR


def read_day(text: str) -> date:
    """A day.

    Parameters
    ----------
    text : str
        As YYYY-MM-DD.

    Returns
    -------
    date

    Raises
    ------
    InputError
        Anything else, and a year out of reach.

    Notes
    -----
    Source: [1]_.

    Examples
    --------
    >>> read_day(" 2026-07-01 ")
    datetime.date(2026, 7, 1)
    """
    written = text.strip()
    try:
        day = date.fromisoformat(written) if re.fullmatch(_DAY, written) else None
    except ValueError:
        day = None
    if day is None or not in_reach(day.year):
        raise InputError("day", f"“{text}” is not a day: write it like 2026-07-01")
    return day


def read_timestamp(text: str, here: tzinfo | None) -> datetime:
    """A time, or the start of a day.

    Parameters
    ----------
    text : str
        As YYYY-MM-DD HH:MM, seconds and offset where they are known; or a day alone.
    here : tzinfo or None
        Where a time without an offset was written.

    Returns
    -------
    datetime
        With an offset.

    Raises
    ------
    InputError
        Anything else, and a year out of reach.

    Notes
    -----
    Source: [1]_.

    Examples
    --------
    >>> from datetime import UTC
    >>> read_timestamp("2026-05-02 10:30", UTC).isoformat()
    '2026-05-02T10:30:00+00:00'
    """
    written = text.strip()
    try:
        if not is_timestamp(written):
            return datetime.combine(read_day(written), datetime.min.time(), here)
        at = datetime.fromisoformat(written.replace(",", "."))
    except ValueError as error:
        raise InputError("at", f"“{text}” is not a time: write it like 2026-05-02 10:30") from error
    if not in_reach(at.year):
        raise InputError("at", f"“{text}” lies outside the years {FIRST_YEAR} to {LAST_YEAR}")
    return at if at.tzinfo else at.replace(tzinfo=here)
