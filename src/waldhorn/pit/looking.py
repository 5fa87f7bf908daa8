"""Looking at one motor: its answer is kept while nothing that could change it has changed, so that leafing is quick."""

from collections import OrderedDict
from dataclasses import replace
from datetime import datetime
from threading import Lock
from typing import Any
from weakref import WeakKeyDictionary

from sqlalchemy.orm import Session

from waldhorn.core.history import History
from waldhorn.core.verdict import Judgement
from waldhorn.pit.judging import judge_motor
from waldhorn.store.standings import revision

KEPT = 64  # motors of a store: an afternoon's, each some hundred kilobytes with its readings

_Key = tuple[str, int, Any]  # motor, revision of the store, day
_kept: WeakKeyDictionary[Any, OrderedDict[_Key, tuple[History, Judgement]]] = WeakKeyDictionary()
_lock = Lock()


def look_at(session: Session, motor_id: str, now: datetime) -> tuple[History, Judgement]:
    """What `judging.judge_motor` says of a motor now, from a session that only looks.

    Judged again when the store has changed and on another day. Where something is dated later than now, it is judged
    at every look.
    """
    key = (motor_id, revision(session), now.date())
    with _lock:
        mine = _kept.setdefault(session.get_bind(), OrderedDict())
        found = mine.get(key)
    if found is None or now < found[1].as_of:
        found = judge_motor(session, motor_id, now)
        if found[0].until(now) == found[0]:
            with _lock:
                mine[key] = found
                while len(mine) > KEPT:
                    mine.popitem(last=False)
    return found[0], replace(found[1], as_of=now)
