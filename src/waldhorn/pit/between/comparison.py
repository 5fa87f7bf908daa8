"""Between motors: those marked on the rack, compared at equal conditions, and the sets of them that are most alike."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor, Reading
from waldhorn.core.base.text import key_of
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.core.comparing import sets, uses
from waldhorn.core.comparing.differences import Contender, Latest, Row, compare, counts, difference
from waldhorn.core.comparing.equal_conditions import Price, usual_price
from waldhorn.core.comparing.partition import part
from waldhorn.core.comparing.sets import ScoredSet
from waldhorn.core.measuring import end_bell
from waldhorn.core.measuring.observations import all_groups
from waldhorn.core.rigs.reference_motor import was_out
from waldhorn.pit.judging import figures
from waldhorn.pit.judging.figures import repeatability
from waldhorn.pit.motors import facts
from waldhorn.store import cached_verdicts, limits_and_prices, motors, readings, rigs
from waldhorn.store import figures as figures_store

Runs = Mapping[tuple[str, int], Sequence[Reading]]  # of a motor, by check and run


@dataclass(frozen=True)
class Compared:
    """Motors, rows, which is better for what, which in nothing, speed per amp as a guide where nothing had to be
    brought to equal, what was left out, by tag and quantity, since its rig was out when it was read, and whether they
    are windings of one model, whose KV makes none the better."""

    motors: tuple[Motor, ...]
    rows: list[Row]
    better: list[uses.Better]
    in_nothing: list[str]
    guide: dict[str, float]
    out: set[tuple[str, str]]
    windings: bool = False


@dataclass(frozen=True)
class TooFar:
    """In what the motors of a set lie further apart than is good enough: quantity, how far, how far they may."""

    motors: tuple[str, ...]
    quantity: str
    apart: float
    within: float


@dataclass(frozen=True)
class Partition:
    """Sets, one a machine; `refused` says why there are none. `alike` when no two of a set differ in
    anything it is made alike in, `too_far` in what a set is not good enough for its class, `telling` whose further
    reading in what would tell the best set from the next; `short` by what share the sets may be further apart than the
    best there are; `picked` what the best of many is expected to score when it is read again."""

    sets: tuple[ScoredSet, ...] = ()
    runners_up: tuple[ScoredSet, ...] = ()
    left_over: tuple[str, ...] = ()
    alike: bool = False
    too_far: tuple[TooFar, ...] = ()
    telling: tuple[str, str] | None = None
    short: float = 0.0
    picked: float | None = None
    refused: str = ""


@dataclass(frozen=True)
class Between:
    """A comparison of motors, and the sets of them that are most alike."""

    compared: Compared
    partition: Partition


def between(
    session: Session, tags: Sequence[str], now: datetime, take: int | None = None, machines: int = 1
) -> Between:
    """Compare motors by what was read of them last; in a fixed number of statements.

    Raises
    ------
    InputError
        A tag that is not on the rack, the same one twice, fewer than two or more than forty.
    """
    found = _named(session, tags)
    runs = figures_store.taken_for(session, list(found), (Purpose.TIMING_PULL,))
    latest = figures_store.latest(session, list(found)) | _on_bench(session, list(found), now)
    drifted, lines, _ = rigs.said_of_rigs(session, now)
    out = {
        (m.tag, name)
        for i, m in found.items()
        for name, one in latest.get(i, {}).items()
        if was_out(drifted, one.conditions.rig, name, one.at)
    }
    contenders = [
        Contender(m, {n: one for n, one in latest.get(i, {}).items() if (m.tag, n) not in out}, _price(runs.get(i, {})))
        for i, m in found.items()
    ]
    known = repeatability(cached_verdicts.held_spreads(session, now))
    rows = compare(contenders, known, lines)
    mine = tuple(found.values())
    weights = limits_and_prices.uses(session)
    windings = uses.are_windings(mine)
    better = uses.better_for(rows, uses.without("kv", weights) if windings else weights)
    classes = {m.motor_class for m in mine}
    within = limits_and_prices.good_enough(session, classes.pop() if len(classes) == 1 else "")
    compared = Compared(
        mine,
        rows,
        better,
        uses.better_in_nothing(rows, better),
        uses.speed_per_amp(rows),
        out,
        windings,
    )
    try:
        if len({m.kind for m in mine if m.kind}) > 1:
            raise InputError("tags", "an inrunner and an outrunner make no set")
        return Between(compared, _partition(rows, take or 2, machines, within))
    except InputError as refused:
        return Between(compared, Partition(refused=refused.sentence))


def put_into_machines(
    session: Session, tags: Sequence[str], now: datetime, take: int, machines: int, into: Sequence[str]
) -> None:
    """Put the most alike sets of these motors into machines, one each; raises InputError."""
    partition = between(session, tags, now, take, machines).partition
    if not partition.sets:
        raise InputError("machine", partition.refused)
    if len(into) != len(partition.sets):
        raise InputError("machine", f"name {len(partition.sets)} machines, a comma between")
    for chosen, machine in zip(partition.sets, into, strict=True):
        facts.put_in(session, chosen.motors, machine, now)


def _named(session: Session, tags: Sequence[str]) -> dict[str, Motor]:
    """The motors of these tags, by id, in their order."""
    keys = [key_of(t) for t in tags]
    if len(set(keys)) != len(keys):
        raise InputError("tags", "the same motor twice: name each once")
    if not 2 <= len(keys) <= sets.MOST_MOTORS:
        raise InputError("tags", f"{len(keys)} to compare: name two to {sets.MOST_MOTORS}")
    known = motors.by_tags(session, keys)
    if strange := [t for t, key in zip(tags, keys, strict=True) if key not in known]:
        raise InputError("tags", f"no motor {', '.join(strange)} on this rack")
    return dict(known[key] for key in keys)


def _on_bench(session: Session, motor_ids: Sequence[str], now: datetime) -> dict[str, dict[str, Latest]]:
    """What was read last of those that lie on the bench, their open checks among it."""
    lying = sorted(cached_verdicts.open_checks(session, motor_ids))
    histories = readings.histories(session, lying) if lying else {}
    return {i: figures.latest_of(all_groups(h.until(now))) for i, h in histories.items()}


def _price(runs: Runs) -> Price:
    """A motor's own price of a degree, where it has shown one."""
    pulls = end_bell.pulls_of([r for run in runs.values() for r in run])
    return Price(*end_bell.growth_and_u(pulls)) if pulls else usual_price("no_load_current")


def _partition(rows: Sequence[Row], take: int, machines: int, within: Mapping[str, float]) -> Partition:
    """The most alike sets of those that compare in everything they are made alike in."""
    scored = [r for r in rows if r.quantity.name in sets.SCORED and len(r.values) > 1]
    tags = set.intersection(*({s.tag for s in r.values} for r in scored)) if scored else set()
    values = {t: {r.quantity.name: s.value for r in scored for s in r.values if s.tag == t} for t in tags}
    u = {r.quantity.name: (sum(s.u**2 for s in r.values) / len(r.values)) ** 0.5 for r in scored}
    if machines == 1:
        best = sets.best_sets(values, u, take)
        picked = sets.expected_score(best.best.score, values, u) if len(values) > take else best.best.score
        telling = sets.telling(values, u, best.best, best.runners_up[0]) if best.runners_up else None
        found = Partition((best.best,), best.runners_up, best.left_over, telling=telling, picked=picked)
    else:
        parted = part(values, u, take, machines)
        found = Partition(parted.sets, left_over=parted.left_over, short=parted.short)
    alike = all(_alike(scored, one, max(one.score, found.picked or 0.0)) for one in found.sets)
    return replace(found, alike=alike, too_far=tuple(t for one in found.sets for t in _too_far(scored, one, within)))


def _alike(scored: Sequence[Row], chosen: ScoredSet, score: float) -> bool:
    among = [[s for s in r.values if s.tag in chosen.motors] for r in scored]
    return score < sets.AS_ALIKE_AS_CAN_BE_READ and not any(counts(values) for values in among)


def _too_far(scored: Sequence[Row], chosen: ScoredSet, within: Mapping[str, float]) -> list[TooFar]:
    found = []
    for row in scored:
        order = sorted((s for s in row.values if s.tag in chosen.motors), key=lambda s: s.value)
        apart = abs(difference(order[0], order[-1], row.quantity).value)
        if apart > within.get(row.quantity.name, apart):
            found.append(TooFar(chosen.motors, row.quantity.name, apart, within[row.quantity.name]))
    return found
