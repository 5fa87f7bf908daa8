"""Looking at one motor: its answer is kept while nothing that could change it has changed, so that leafing is quick."""

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from threading import Lock
from typing import Any, TypeVar, cast
from weakref import WeakKeyDictionary

from sqlalchemy.orm import Session

from waldhorn.core.history import History
from waldhorn.core.verdict import Judgement
from waldhorn.pit.judging import judge_motor
from waldhorn.store.standings import revision

KEPT = 64  # motors of a store: an afternoon's, each some hundred kilobytes with its readings

Drawn = TypeVar("Drawn")


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


_Key = tuple[str, int, Any]  # motor, revision of the store, day
kept: WeakKeyDictionary[Any, OrderedDict[_Key, Look]] = WeakKeyDictionary()
_lock = Lock()


def look_at(session: Session, motor_id: str, now: datetime) -> Look:
    """What `judging.judge_motor` says of a motor now, from a session that only looks.

    Judged again when the store has changed and on another day. Where something is dated later than now, it is judged
    at every look.
    """
    key = (motor_id, revision(session), now.date())
    with _lock:
        mine = kept.setdefault(session.get_bind(), OrderedDict())
        found = mine.get(key)
    if found is None or now < found.judgement.as_of:
        found = look_back(session, motor_id, now)
        if found.history.until(now) == found.history:
            with _lock:
                mine[key] = found
                while len(mine) > KEPT:
                    mine.popitem(last=False)
    return found


def look_back(session: Session, motor_id: str, as_of: datetime) -> Look:
    """The same as of any time; nothing is kept."""
    return Look(*judge_motor(session, motor_id, as_of))
