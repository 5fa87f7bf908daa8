"""What is new since the store was looked at last, for pages that stay open."""

from dataclasses import dataclass

from sqlalchemy.orm import Session

from waldhorn.pit.bench.words import change_words
from waldhorn.store import cached_verdicts, changes

MOST_CHANGES = 20


@dataclass(frozen=True)
class News:
    """How the store stands and its last change; whether any motor may have changed, else the checks and tags that did;
    who did something last, and what it was, in words."""

    at: str
    last: str
    of_all: bool
    checks: list[str]
    tags: list[str]
    who: str
    did: str


def standing(session: Session) -> str:
    """How the store stands: the same while nothing changed and nothing was judged anew."""
    return cached_verdicts.standing_at(session)


def since(session: Session, before: str, last: str) -> News | None:
    """What is new since the store stood as `before` (empty where nobody looked) with its `last` change; None where
    nothing is. What was only judged anew is of no motor: it is of interest where answers of many are shown."""
    at = standing(session)
    if at == before:
        return None
    made = changes.newer_than(session, last, MOST_CHANGES) if before else []
    revision, newest = cached_verdicts.latest_change(session)
    only_judged = not made and before.split(".")[0] == str(revision)
    return News(
        at=at,
        last=newest,
        of_all=len(made) == MOST_CHANGES or (not made and not only_judged),
        checks=sorted({change.check_id for change, _ in made if change.check_id}),
        tags=sorted({tag for _, tag in made if tag}),
        who=made[-1][0].who if made else "",
        did=f"{made[-1][1]}: {change_words(made[-1][0])}" if made else "",
    )
