"""Between motors: those marked on the rack, compared at equal conditions, and the set of them that is most alike."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core import sets, uses
from waldhorn.core.comparing import MOST_MOTORS, Contender, Row, compare, counts
from waldhorn.core.errors import Refused
from waldhorn.core.history import Motor
from waldhorn.core.observations import all_groups
from waldhorn.pit.judging import repeatability
from waldhorn.store import motors, readings, standings

LETTERS = "ABCDEFGHIJKL"


@dataclass(frozen=True)
class Between:
    """A comparison: the motors with their letters, rows, which is better for what, and the most alike set of `take`;
    `refused` says why there is none. `alike` when no two of the set differ in anything it is made alike in."""

    motors: tuple[Motor, ...]
    letters: dict[str, str]
    rows: list[Row]
    better: list[uses.Better]
    in_nothing: list[str]
    take: int
    chosen: sets.Chosen | None
    alike: bool
    refused: str = ""


def between(session: Session, tags: Sequence[str], now: datetime, take: int | None = None) -> Between:
    """Compare motors by what was read of them last; in a fixed number of statements.

    Raises
    ------
    Refused
        A tag that is not on the rack, the same one twice, fewer than two or more than twelve, or motors of different
        kinds.
    """
    known = motors.ids_by_tag(session)
    keys = [motors.key_of(t) for t in tags]
    if strange := [t for t, key in zip(tags, keys, strict=True) if key not in known]:
        raise Refused("tags", f"no motor {', '.join(strange)} on this rack")
    if len(set(keys)) != len(keys):
        raise Refused("tags", "the same motor twice: name each once")
    if not 2 <= len(keys) <= MOST_MOTORS:
        raise Refused("tags", f"{len(keys)} to compare: name two to {MOST_MOTORS}")
    histories = readings.histories(session, [known[k] for k in keys])
    found = [histories[known[k]].until(now) for k in keys]
    if len({h.motor.kind for h in found}) > 1:
        raise Refused("tags", "an inrunner and an outrunner do not compare: name motors of one kind")
    contenders = [
        Contender(h.motor, {name: groups[-1] for name, groups in all_groups(h).items() if groups}) for h in found
    ]
    rows = compare(contenders, repeatability(standings.rig_spreads(session, now)))
    better = uses.better_for(rows)
    facts = tuple(h.motor for h in found)
    chosen, refused = _chosen(rows, take or 2)
    letters = {m.tag: LETTERS[i] for i, m in enumerate(facts)}
    return Between(facts, letters, rows, better, uses.better_in_nothing(rows, better), take or 2, chosen,
                   bool(chosen and _alike(rows, chosen.best)), refused)  # fmt: skip


def _chosen(rows: Sequence[Row], take: int) -> tuple[sets.Chosen | None, str]:
    """The most alike set of those that compare in everything it is made alike in."""
    scored = [r for r in rows if r.quantity.name in sets.SCORED and len(r.standings) > 1]
    tags = set.intersection(*({s.tag for s in r.standings} for r in scored)) if scored else set()
    values = {t: {r.quantity.name: s.value for r in scored for s in r.standings if s.tag == t} for t in tags}
    u = {r.quantity.name: (sum(s.u**2 for s in r.standings) / len(r.standings)) ** 0.5 for r in scored}
    try:
        return sets.best_sets(values, u, take), ""
    except Refused as refused:
        return None, refused.sentence


def _alike(rows: Sequence[Row], chosen: sets.ScoredSet) -> bool:
    among = [[s for s in r.standings if s.tag in chosen.motors] for r in rows if r.quantity.name in sets.SCORED]
    return chosen.score < sets.AS_ALIKE_AS_CAN_BE_READ and not any(counts(standing) for standing in among)
