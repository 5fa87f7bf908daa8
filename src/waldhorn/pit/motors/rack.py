"""The rack: every motor of the pit at a glance, worst news and most overdue first."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from sqlalchemy import Row
from sqlalchemy.orm import Session

from waldhorn.core.base.text import key_of
from waldhorn.pit.judging import view_cache
from waldhorn.store import cached_verdicts, changes, motors
from waldhorn.store.models import ChangeRow

SCREENFUL = 40
GROUPS = ("", "machine", "model", "owner", "state")


@dataclass(frozen=True)
class Hook:
    """One motor as it hangs on the rack: what is shown of it, see `cached_verdicts.rack`. `days_over` is above 0
    when it is overdue by so many days, `group` what it hangs together with others by, `at_bench` who has it there."""

    shown: Row[Any]
    days_over: int
    runs_over: bool
    group: str = ""
    at_bench: str = ""


@dataclass(frozen=True)
class Rack:
    """A screenful of the rack, together `by` one of `GROUPS`; `counts` are over all that match, `following` where the
    next one starts, `references_due` the reference motors that were not read today though others were."""

    hooks: list[Hook]
    counts: dict[str, int]
    words: str
    by: str
    following: int | None
    references_due: list[str]


@dataclass(frozen=True)
class Hung:
    """The motor that was hung on the rack or undone just now: its tag, empty where it hangs here no more, and the
    change."""

    tag: str
    change: ChangeRow | None


def hung(session: Session, tag: str, undone: str) -> Hung:
    """What was done last to the motor of a tag, or undone last of the motor that is `undone`."""
    motor = motors.find(session, tag) if tag else None
    if undone:
        return Hung(motor.tag if motor else "", changes.last(session, undone, undone=True))
    return Hung(motor.tag, changes.last(session, motor.id)) if motor else Hung("", None)


def view(
    session: Session, words: str, now: datetime, start: int = 0, by: str = "", most: int = SCREENFUL, owner: str = ""
) -> Rack:
    """A screenful of the rack, or as many as `most`, from `start`, of the motors in which all `words` occur, `by` one
    of `GROUPS`; those of an `owner`, by name or initials, before the others."""
    today = now.date()
    by = by if by in GROUPS else ""
    owners = owners_called(session, owner) if owner else []
    found = cached_verdicts.rack(session, words, today, most + 1, start, by, owners)
    at_bench = cached_verdicts.at_bench(session, [shown.id for shown in found if shown.on_bench])
    hooks = [_hook(shown, today, by, at_bench.get(shown.id, "")) for shown in found[:most]]
    following = start + most if len(found) > most else None
    return Rack(
        hooks,
        cached_verdicts.counts(session, words, today),
        words,
        by,
        following,
        cached_verdicts.unread_references(session, now),
    )


def drawn_once(session: Session, asked: tuple[Any, ...], draw: Callable[[Rack], str]) -> str:
    """What is drawn of a rack that is asked for as `view` is, made once for all who look at the same."""
    words, now, *narrowed = asked
    of = ("rack", words, now.date(), *narrowed, cached_verdicts.standing_at(session))
    return view_cache.until_changed(session, of, lambda: draw(view(session, words, now, *narrowed)))


def owners_called(session: Session, name: str) -> list[str]:
    """The owners on this rack that somebody of this name, or with these initials, can be."""
    meant = key_of(name)
    return [
        owner
        for owner in motors.known_values(session, "owner")
        if meant in (key_of(owner), "".join(word[0] for word in key_of(owner).split()))
    ]


def motors_by_model(session: Session, now: datetime, most: int) -> list[Row[Any]]:
    """The motors that hang on the rack and are not retired, by model."""
    return [s for s in cached_verdicts.rack(session, "", now.date(), most, 0, "model") if not s.retired]


def _hook(shown: Row[Any], today: date, by: str, at_bench: str) -> Hook:
    over = (today - date.fromisoformat(shown.due_on)).days if shown.due_on else 0
    runs_over = shown.due_runs is not None and shown.due_runs <= 0
    state = "off the rack" if shown.retired else str(shown.verdict)
    group = state if by == "state" else getattr(shown, by) if by else ""
    return Hook(shown, over, runs_over, group, at_bench)
