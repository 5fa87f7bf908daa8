"""Judging motors of the store: what each is judged by is put together here, in one place, for a page, the rack and the
command line alike; and the cached verdicts of the rack are kept up to date."""

from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import datetime
from functools import cache
from typing import Any

from sqlalchemy.orm import Session

from waldhorn.core.base.history import HANDED_BUT_KEPT, History, Motor
from waldhorn.core.base.text import key_of
from waldhorn.core.base.vocabulary import EventKind, State, Verdict
from waldhorn.core.judging.baseline import Baseline
from waldhorn.core.judging.plan import CheckBy, check_by
from waldhorn.core.judging.questions import Why
from waldhorn.core.judging.remedies import Prices
from waldhorn.core.judging.verdict import JUDGE_VERSION, Judgement, JudgingContext, Turning, judge, turning
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import all_groups
from waldhorn.core.measuring.quantity import Limits
from waldhorn.core.rigs import reference_motor
from waldhorn.core.rigs.reference_motor import Drifted
from waldhorn.core.rigs.repeatability import Repeatability
from waldhorn.pit.judging import between_rigs, figures
from waldhorn.pit.judging.figures import repeatability
from waldhorn.store import cached_verdicts, fleet, limits_and_prices, motors, readings, rigs
from waldhorn.store.engine import Store
from waldhorn.store.models import SignedRow

RANK = {Verdict.RETIRE: 0, Verdict.REPAIR: 1, Verdict.UNPROVEN: 2, Verdict.WATCH: 3, Verdict.KEEP: 4}
# What the rack shows of each motor in a glance: the worst of each group.
GLANCE = tuple(
    tuple(n for n, q in QUANTITIES.items() if q.glance == strip)
    for strip in sorted({q.glance for q in QUANTITIES.values()} - {0})
)
_PORTION = 50  # motors judged between two short looks at the lock
_SHIFT_THAT_MATTERS = 0.05  # a rig's repeatability moved by more than this: judge again what it judged

Supposing = Mapping[str, Mapping[str, Limits]]  # limits by class in place of those that hold
Progress = Callable[[int, int], None]


def judging_contexts(
    session: Session, of: Mapping[str, Motor], as_of: datetime, supposing: Supposing | None = None
) -> dict[str, JudgingContext]:
    """What each of these motors is judged by at a time, besides its own readings; in a fixed number of statements."""
    by_model = cached_verdicts.model_baselines(session, {m.model for m in of.values() if m.model}, as_of)
    shaking = fleet.latest_vibration(session, {m.machine for m in of.values()}, as_of)
    known = repeatability(cached_verdicts.held_spreads(session, as_of))
    limits = {**limits_and_prices.limits(session, as_of), **(supposing or {})}
    prices = limits_and_prices.prices(session)
    drifted, lines, shifted = rigs.said_of_rigs(session, as_of)
    paired = cache(lambda: rigs.pairs(session, as_of))
    return {
        i: JudgingContext(
            _peers(i, by_model.get(key_of(m.model), {}), shaking.get(m.machine, {})),
            known,
            limits.get(m.motor_class, {}),
            prices.get(m.owner, Prices()),
            drifted,
            between_rigs.LinesOfOthers(i, lines, paired, known) if lines else lines,
            shifted,
        )
        for i, m in of.items()
    }


def _peers(
    motor_id: str, of_model: Mapping[str, Mapping[str, Sequence[Baseline]]], of_machine: Mapping[str, Baseline]
) -> dict[str, list[Baseline]]:
    """What the other motors of a motor's model and machine give to compare with, by quantity."""
    found: dict[str, list[Baseline]] = defaultdict(list)
    for other, by_quantity in of_model.items():
        if other != motor_id:
            for name, baselines in by_quantity.items():
                if not QUANTITIES[name].against_machine:
                    found[name].extend(baselines)
    found["vibration"] = [b for other, b in of_machine.items() if other != motor_id]
    return found


def judge_motor(session: Session, motor_id: str, as_of: datetime) -> tuple[History, Judgement]:
    """Judge one motor from everything that is stored; its whole history comes along."""
    history = readings.history(session, motor_id)
    return history, judge(history, as_of, judging_contexts(session, {motor_id: history.motor}, as_of)[motor_id])


def turning_of(session: Session, motor_id: str, as_of: datetime) -> tuple[Turning, ...]:
    """Which reading or test would turn the answer for one motor."""
    history = readings.history(session, motor_id)
    return turning(history, as_of, judging_contexts(session, {motor_id: history.motor}, as_of)[motor_id])


def judge_all(
    session: Session, as_of: datetime, motor_ids: Sequence[str] | None = None, supposing: Supposing | None = None
) -> dict[str, Judgement]:
    """Judge all motors, or those named, as of a time: only what was known then counts, of peers and rigs too."""
    histories = readings.histories(session, motor_ids)
    judging_context = judging_contexts(session, {i: h.motor for i, h in histories.items()}, as_of, supposing)
    return {i: judge(h, as_of, judging_context[i]) for i, h in histories.items()}


def settle(session: Session, now: datetime) -> None:
    """Judge every motor whose cached verdict is stale, in a fixed number of statements however many there are.

    Their own baselines and what their repeats say of the rigs are worked out first; where these moved, the motors that
    lean on them are judged as well.
    """
    stale = cached_verdicts.stale_ids(session, JUDGE_VERSION)
    if not stale:
        return
    fresh = readings.histories(session, stale)
    changed = figures.store_figures(session, figures.of(session, fresh), list(fresh), now)
    _touch_beside(session, stale, now)
    _touch_further(session, changed, _references(session, fresh), now)
    further = [i for i in cached_verdicts.stale_ids(session, JUDGE_VERSION) if i not in fresh]
    fresh |= readings.histories(session, further) if further else {}
    cached_verdicts.store_verdicts(session, _cached(session, fresh, now), JUDGE_VERSION)


def settle_apart(
    store: Store, now: datetime, progress: Progress | None = None, since: int = 0, until: int | None = None
) -> None:
    """The same for a store in use: judged from what can be read, written a portion at a time, so that nobody waits for
    it. Only what was touched after the count of changes was `since` and not after it was `until`, and what leans on it;
    what others change meanwhile they judge themselves."""
    with store.reading() as session:
        stale = cached_verdicts.stale_ids(session, JUDGE_VERSION, since, until)
    changed = figures.Changed()
    references: dict[str, History] = {}
    for portion in _portions(stale):
        with store.reading() as session:
            touched = cached_verdicts.touched(session, portion)
            histories = readings.histories(session, portion)
            found = figures.of(session, histories)
            references |= _references(session, histories)
        with store.writing() as session:
            same = [i for i, at in cached_verdicts.touched(session, portion).items() if touched.get(i) == at]
            changed.add(figures.store_figures(session, found, same, now))
    if stale:
        with store.writing() as session:
            at = cached_verdicts.revision(session)
            _touch_beside(session, stale, now)
            _touch_further(session, changed, references, now)
            stale = sorted({*stale, *cached_verdicts.stale_ids(session, JUDGE_VERSION, at)})
    for count, portion in enumerate(_portions(stale)):
        with store.reading() as session:
            touched = cached_verdicts.touched(session, portion)
            rows = _cached(session, readings.histories(session, portion), now)
        with store.writing() as session:
            same_now = cached_verdicts.touched(session, portion)
            rows = [row for row in rows if touched.get(i := row["motor_id"]) == same_now.get(i)]
            cached_verdicts.store_verdicts(session, rows, JUDGE_VERSION)
        if progress:
            progress(min((count + 1) * _PORTION, len(stale)), len(stale))


def settle_anew(store: Store, now: datetime, progress: Progress | None = None) -> None:
    """Judge a store whose caches were emptied: twice, because what the first round learns of the rigs is what the
    second weighs each motor's own change by."""
    settle_apart(store, now, progress)
    with store.writing() as session:
        motors.touch(session, None)
    settle_apart(store, now, progress)


def put_out_of_sight(session: Session, motor_ids: Iterable[str]) -> None:
    """Take motors from the rack with what was worked out of them, and have those judged again that leaned on it."""
    ids = sorted(motor_ids)
    if not ids:
        return
    motors.touch_leaning(session, ids)
    motors.touch_machines(session, {m.machine for m in motors.several(session, ids).values()})
    cached_verdicts.keep_figures(session, ids, {}, {})
    rigs.keep_pairs(session, {i: [] for i in ids})
    motors.hide(session, ids)
    _touch_on_moved_rigs(session)


def _touch_further(
    session: Session, changed: figures.Changed, references: Mapping[str, History], now: datetime
) -> None:
    """Count a change for the motors that lean on what changed: baselines of their model, the repeatability of their
    rigs, and what reference motors say of these."""
    if changed.own:
        motors.touch_leaning(session, changed.own)
    _touch_on_moved_rigs(session)
    after = repeatability(cached_verdicts.held_spreads(session))
    if changed.paired:
        found_lines = between_rigs.all_lines(rigs.pairs(session, now), after)
        if rigs.keep_lines(session, found_lines, now):
            motors.touch(session, cached_verdicts.motors_on_rigs(session, {rig for rig, _, _ in found_lines}))
    for rig, day in rigs.keep_shifts(session, now):
        motors.touch(session, readings.motors_on_day(session, rig, day))
    if references:
        put_right = rigs.put_right(session)
        found = {i: _drifted(h, after, put_right) for i, h in references.items()}
        for drift in rigs.keep_drifts(session, found):
            motors.touch(session, readings.motors_on(session, drift.rig, drift.since))


def _touch_beside(session: Session, motor_ids: Sequence[str], now: datetime) -> None:
    """Count a change for the motors on the machines of these, where any of them was felt to shake."""
    machines = {m.machine for m in motors.several(session, motor_ids).values()} - {""}
    motors.touch_machines(session, fleet.latest_vibration(session, machines, now))


def _references(session: Session, histories: Mapping[str, History]) -> dict[str, History]:
    """Those of reference motors, and of motors that were one when a rig drifted."""
    telling = rigs.telling(session)
    return {i: h for i, h in histories.items() if h.motor.reference or i in telling}


def _drifted(history: History, known: Repeatability, put_right: Mapping[str, datetime]) -> list[Drifted]:
    """What a motor says of the rigs, where it is a reference motor."""
    if not history.motor.reference:
        return []
    charts = reference_motor.charts(all_groups(history), history.events, known, put_right)
    return [d for chart in charts for d in reference_motor.drifted(chart, put_right.get(chart.rig))]


def _portions(ids: Sequence[str]) -> list[Sequence[str]]:
    return [ids[i : i + _PORTION] for i in range(0, len(ids), _PORTION)]


def judge_and_cache(
    session: Session, motor_id: str, history: History, judging_context: JudgingContext, now: datetime
) -> Judgement:
    """Judge one motor with a check open and cache its verdict: what is still being written moves no other motor."""
    judgement = judge(history, now, judging_context)
    signed = cached_verdicts.latest_signed(session, [motor_id])
    motors.touch(session, [motor_id])
    row = _cached_verdict(motor_id, history, judgement, signed.get(motor_id)) | {"on_bench": True}
    cached_verdicts.store_verdicts(session, [row], JUDGE_VERSION)
    return judgement


def _cached(session: Session, fresh: Mapping[str, History], now: datetime) -> list[dict[str, Any]]:
    signed = cached_verdicts.latest_signed(session, list(fresh))
    on_bench = cached_verdicts.open_checks(session, list(fresh))
    judging_context = judging_contexts(session, {i: h.motor for i, h in fresh.items()}, now)
    return [
        _cached_verdict(i, history, judge(history, now, judging_context[i]), signed.get(i))
        | {"on_bench": i in on_bench}
        for i, history in fresh.items()
    ]


def _touch_on_moved_rigs(session: Session) -> None:
    """Judge by what the rigs have shown by now where that differs enough from what was judged by, and count a change
    for the motors read on them."""
    learned = cached_verdicts.rig_spreads(session)
    held, now = repeatability(cached_verdicts.held_spreads(session)), repeatability(learned)

    def differs(now: float, then: float) -> bool:
        return abs(now / then - 1) > _SHIFT_THAT_MATTERS

    pairs = ((place, now(*place), held(*place)) for place in learned)
    moved = {place for place, is_now, was in pairs if differs(is_now.run, was.run) or differs(is_now.visit, was.visit)}
    if moved:
        cached_verdicts.hold_spreads(session, {place: learned[place] for place in moved})
        motors.touch(session, cached_verdicts.motors_on_rigs(session, {rig for rig, _ in moved}))


def runs_since(history: History, since: datetime | None) -> int:
    """Runs logged after a time."""
    return sum(e.count for e in history.events if e.event is EventKind.RUN and (since is None or e.at > since))


def _cached_verdict(motor_id: str, history: History, found: Judgement, signed: SignedRow | None) -> dict[str, Any]:
    checked_at = max((c.at for c in history.checks if c.readings), default=None)
    stands = signed if signed and not _news_since(history, signed.at) else None
    overruled = stands if stands and stands.verdict != found.verdict and stands.verdict != stands.tool_verdict else None
    verdict = Verdict(stands.verdict) if stands else found.verdict
    due, since = _due(found, stands, checked_at)
    gone = off_the_rack(history)
    return {
        "motor_id": motor_id,
        "leans_on_model": found.leans_on_model,
        "rank": 10 * RANK[verdict] + _gravity(found),
        "verdict": verdict,
        "headline": gone or (f"{verdict.capitalize()}, says {overruled.signed_by}." if overruled else found.headline),
        "reason": f"{overruled.reason} Waldhorn: {found.headline}" if overruled else _brief(found),
        "strips": [_glance(found, names) for names in GLANCE],
        "checked_at": checked_at,
        "due_on": due.date.isoformat() if due else "",
        "due_runs": due.runs - runs_since(history, since) if due else None,
        "retired": bool(gone),
        "overruled_by": overruled.signed_by if overruled else "",
        "tool_verdict": found.verdict,
    }


def _brief(found: Judgement) -> str:
    """The gravest reasons, and what drove it beyond its ratings."""
    beyond = [question.says for question in found.asks if question.why is Why.LOAD]
    return " ".join([found.brief, *(f"{words}." for words in beyond[:1])]).strip()


def _due(
    found: Judgement, signed: SignedRow | None, checked_at: datetime | None
) -> tuple[CheckBy | None, datetime | None]:
    """When it is due, and from when its runs are counted: from what was signed, where that stands. A motor that is
    signed as retired is not due."""
    if signed is None:
        return found.check_by, checked_at
    verdict = Verdict(signed.verdict)
    if verdict is Verdict.RETIRE:
        return None, signed.at
    mine = check_by(verdict, signed.at.date())
    if found.check_by and checked_at and verdict is found.verdict:
        days = found.check_by.date - checked_at.date()
        mine = CheckBy(min(mine.runs, found.check_by.runs), min(mine.date, signed.at.date() + days))
    return mine, signed.at


def _news_since(history: History, at: datetime) -> bool:
    """Whether anything but runs is known of a motor that was not when its answer was signed."""
    read = any(r.at > at for c in history.checks for r in c.readings)
    happened = any(e.at > at and e.event not in (EventKind.RUN, EventKind.CLEANED) for e in history.events)
    looked = (f.at for part in (history.inspected, history.lamps, history.crossed, history.poles) for f in part)
    return read or happened or any(t > at for t in looked)


def off_the_rack(history: History) -> str:
    """Why a motor hangs on this rack no more, in words; nothing where it does."""
    moves = (EventKind.RETIRED, EventKind.RETURNED, EventKind.HANDED_OVER, EventKind.PUT_AWAY, EventKind.FITTED)
    moved = sorted((e for e in history.events if e.event in moves), key=lambda e: e.at)
    last = moved[-1] if moved else None
    if last is None or last.event in (EventKind.RETURNED, EventKind.FITTED) or last.item == HANDED_BUT_KEPT:
        return ""
    if last.event is EventKind.PUT_AWAY:
        return "Put away."
    if last.event is EventKind.RETIRED:
        return "Retired."
    return f"Handed over to {last.detail}." if last.detail else "Handed over."


def _gravity(found: Judgement) -> int:
    """Among motors of one verdict, the worse news first: 0 past, 3 near a limit, 5 neither."""
    states = {e.state for e in found.evidence}
    return 0 if State.PAST in states else 3 if states & {State.WATCH, State.UNPROVEN} else 5


def _glance(found: Judgement, names: tuple[str, ...]) -> list[Any]:
    """Quantity, state, and how much of the way to the act limit is used, of the worst of these quantities."""
    among = [e for e in found.evidence if e.quantity.name in names]
    worst = min(among, key=lambda e: e.change.headroom if e.change and e.fresh else 9.0)
    used = round(1 - worst.change.headroom, 2) if worst.change and worst.fresh else None
    return [names[0], worst.state, used]
