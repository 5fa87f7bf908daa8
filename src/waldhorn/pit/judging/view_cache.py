"""Keeps what was read and said of a motor, or of several side by side, while nothing that could change it has changed,
so that leafing and typing are quick."""

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from threading import Lock
from typing import Any, TypeVar, cast
from weakref import WeakKeyDictionary

from sqlalchemy.orm import Session

from waldhorn.core.base.history import History
from waldhorn.core.judging.verdict import Judgement
from waldhorn.pit.judging.judging import judge_motor
from waldhorn.store.cached_verdicts import latest_change

KEPT = 64  # motors and checks of a store: an afternoon's, each some hundred kilobytes with its readings

Drawn = TypeVar("Drawn")
Cached = TypeVar("Cached")


@dataclass(frozen=True, slots=True)
class Look:
    """A motor as it stands: everything known of it, and its answer."""

    history: History
    judgement: Judgement
    _drawn: dict[Any, Any] = field(default_factory=dict, repr=False, compare=False)

    def once(self, draw: Callable[[History, Judgement], Drawn]) -> Drawn:
        """What a page makes of it, made once however often it is looked at."""
        if draw not in self._drawn:
            self._drawn[draw] = draw(self.history, self.judgement)
        return cast("Drawn", self._drawn[draw])


Key = tuple[Any, ...]  # of what, the day where it counts, the store's count of changes and its last change
kept: WeakKeyDictionary[Any, OrderedDict[Key, Any]] = WeakKeyDictionary()
_loading: dict[Key, Lock] = {}
_lock = Lock()


def until_changed_or_tomorrow(
    session: Session, now: datetime, of: Key, load: Callable[[], Cached], history: Callable[[Cached], History | None]
) -> Cached:
    """What was loaded since the store changed last, or what is loaded now. Where something is dated later than now, it
    is loaded at every look."""

    def lasts(found: Cached) -> bool:
        known = history(found)
        return known is not None and known.until(now) == known

    return until_changed(session, (*of, now.date()), load, lasts)


def until_changed(
    session: Session, of: Key, load: Callable[[], Cached], lasts: Callable[[Cached], bool] = lambda _: True
) -> Cached:
    """What was loaded since the store changed last, or what is loaded now, and kept where it `lasts`. Of several who
    ask for the same at once one loads it, and the others wait."""
    standing = latest_change(session)
    key = (*of, *standing)
    with _lock:
        mine = kept.setdefault(session.get_bind(), OrderedDict())
        if key in mine:
            mine.move_to_end(key)
            return cast("Cached", mine[key])
        one_loads = _loading.setdefault(key, Lock())
    with one_loads:
        with _lock:
            if key in mine:
                return cast("Cached", mine[key])
        try:
            found = load()
        finally:
            with _lock:
                _loading.pop(key, None)
        if lasts(found):
            with _lock:
                for past in [k for k in mine if k[-len(standing) :] != standing]:  # nobody asks for it again
                    del mine[past]
                mine[key] = found
                while len(mine) > KEPT:
                    mine.popitem(last=False)
    return found


def look_at(session: Session, motor_id: str, now: datetime) -> Look:
    """What `judging.judge_motor` says of a motor now, from a session that only looks.

    Judged again when the store has changed and on another day.
    """
    found = until_changed_or_tomorrow(
        session, now, ("motor", motor_id), lambda: look_back(session, motor_id, now), lambda look: look.history
    )
    return look_back(session, motor_id, now) if now < found.judgement.as_of else found


def look_back(session: Session, motor_id: str, as_of: datetime) -> Look:
    """The same as of any time; nothing is kept."""
    return Look(*judge_motor(session, motor_id, as_of))
