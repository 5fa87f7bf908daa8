"""What of the store a few words may mean: motors, machines, models, owners, classes, rigs, and the checks of a day.

What can be done is none of the store and no part of this.
"""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from sqlalchemy import Row
from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.text import key_of
from waldhorn.core.base.times import in_reach, read_day
from waldhorn.exchange import tag_code
from waldhorn.pit.judging import view_cache
from waldhorn.store import cached_verdicts, motors, readings, rigs

MOST_MOTORS, MOST_CHECKS = 8, 12
_MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
_NAMES = {"machine": "machine", "model": "model", "owner": "owner", "class": "motor_class"}


@dataclass(frozen=True)
class Named:
    """Something with a name that motors share: `what` is machine, model, owner, class or rig."""

    what: str
    name: str


@dataclass(frozen=True)
class OfDay:
    """A check of the day that was asked for."""

    tag: str
    check_id: str
    at: datetime


@dataclass(frozen=True)
class Found:
    """What words may mean: motors as they hang on the rack (the first few, and how many there are), the one of exactly
    that tag with the words that were said besides, names, the checks of a day, and the motor whose page it is."""

    motors: Sequence[Row[Any]]
    count: int
    tag: str
    besides: str
    names: Sequence[Named]
    day: date | None
    checks: Sequence[OfDay]
    here: str = ""


@dataclass(frozen=True)
class Scanned:
    """What was scanned or typed off a tag: the motor, by the tag it has on this rack, whether it hangs here, and its
    model as the code says it."""

    tag: str
    known: bool
    model: str = ""


def scanned(session: Session, code: str) -> Scanned:
    """The motor of a tag's code, or of a tag; raises InputError for a code that cannot be read, and for a bare tag that
    does not hang here."""
    tag, model = code.strip(), ""
    if tag_code.is_code(code):
        said = tag_code.decode(code)
        tag, model = said.t, said.m
    known = motors.find(session, tag)
    if known is None and not tag_code.is_code(code):
        raise InputError("code", f"no motor “{tag[:40]}” hangs on this rack")
    return Scanned(known.tag if known else tag, known is not None, model)


def find(session: Session, words: str, now: datetime, here: str = "") -> Found:
    """Everything in which all `words` occur, asked on the page of the motor `here` or of none; of a tag that is said
    whole, what is said besides it."""
    on_page = motors.find(session, here) if here else None
    here = on_page.tag if on_page else ""
    tag, besides = _tag_in(session, words)
    day = day_of(words, now.date())
    if not words.strip():
        return Found([], 0, "", "", [], None, [], here)
    shown = cached_verdicts.rack(session, tag or words, now.date(), MOST_MOTORS, 0)
    shown = sorted(shown, key=lambda s: key_of(s.tag) != key_of(tag or words))
    count = cached_verdicts.counts(session, words, now.date())["all"]
    checks = [OfDay(*row) for row in readings.checks_of_day(session, day, now.tzinfo, MOST_CHECKS)] if day else []
    return Found(shown, count, tag, besides, list(_names(session, words)), day, checks, here)


def _tag_in(session: Session, words: str) -> tuple[str, str]:
    """The tag that is one of the words or several beside each other, and the other words."""
    parts = words.split()
    runs = [(i, j) for i in range(len(parts)) for j in range(len(parts), i, -1)]
    keys = {key_of(" ".join(parts[i:j])): (i, j) for i, j in reversed(runs)}
    found = motors.by_tags(session, list(keys)) if keys else {}
    if not found:
        return "", ""
    key = max(found, key=len)
    i, j = keys[key]
    return found[key][1].tag, " ".join(parts[:i] + parts[j:])


def _all_names(session: Session) -> list[Named]:
    names = [Named(what, name) for what, column in _NAMES.items() for name in motors.known_values(session, column)]
    return [*names, *(Named("rig", name) for name in rigs.of_checks(session))]


def _names(session: Session, words: str) -> Iterable[Named]:
    wanted = key_of(words).split()
    for one in view_cache.until_changed(session, ("names",), lambda: _all_names(session)):
        if wanted and all(part in key_of(f"{one.what} {one.name}") for part in wanted):
            yield one


def day_of(words: str, today: date) -> date | None:
    """The day that is meant by words: 2026-11-14, 14 nov, today or yesterday; None by any other. A day without a year
    is the last one there was.

    >>> today = date(2026, 11, 30)
    >>> [str(day_of(w, today)) for w in ("today", "Yesterday", "14 nov", "3. December", "2026-07-01", "31 feb", "kv")]
    ['2026-11-30', '2026-11-29', '2026-11-14', '2025-12-03', '2026-07-01', 'None', 'None']
    """
    said = words.strip().casefold()
    if said in ("today", "yesterday"):
        return today - timedelta(days=said == "yesterday")
    try:
        return read_day(said)
    except InputError:
        pass
    spoken = re.fullmatch(r"(\d{1,2})\.?\s+([a-z]{3,9})\.?(?:\s+(\d{4}))?", said)
    if not spoken or spoken[2][:3] not in _MONTHS:
        return None
    year = int(spoken[3] or today.year)
    try:
        day = date(year, 1 + _MONTHS.index(spoken[2][:3]), int(spoken[1]))
    except ValueError:
        return None
    if not spoken[3] and day > today:
        day = day.replace(year=year - 1) if (day.month, day.day) != (2, 29) else day
    return day if in_reach(day.year) else None
