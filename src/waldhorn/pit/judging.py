"""Judging motors of the store: one for its page, or all that have become stale for the rack."""

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from waldhorn.core import baseline, repeats
from waldhorn.core.answer import Prices
from waldhorn.core.baseline import Baseline, Group
from waldhorn.core.evidence import Repeatability
from waldhorn.core.history import Conditions, History, Motor
from waldhorn.core.measures import QUANTITIES, Limits
from waldhorn.core.verdict import Judgement, judge
from waldhorn.store import fleet, readings, standings
from waldhorn.store import terms as terms_store
from waldhorn.store.models import SignedRow
from waldhorn.store.motors import key_of
from waldhorn.store.standings import Spreads

RANK = {"retire": 0, "repair": 1, "unproven": 2, "watch": 3, "keep": 4}
# What the rack shows of each motor in a glance: the worst of each group.
GLANCE = (
    ("kv",), ("no_load_current",), ("steadiness",), ("timing_mean", "timing_spread"), ("noise_avg",),
    ("detent_peak", "detent_variation"),
)  # fmt: skip
_SHIFT_THAT_MATTERS = 0.05  # a rig's repeatability moved by more than this: judge again what it judged

ModelBaselines = Mapping[int, Mapping[str, Sequence[Baseline]]]


def judge_motor(session: Session, motor_id: int, as_of: datetime) -> tuple[History, Judgement]:
    """Judge one motor from everything that is stored."""
    history = readings.histories(session, [motor_id])[motor_id]
    return history, judge_history(session, motor_id, history, as_of)


def judge_history(session: Session, motor_id: int, history: History, as_of: datetime) -> Judgement:
    """Judge one motor from a history that may hold readings not taken yet."""
    model = key_of(history.motor.model)
    by_motor = standings.model_baselines(session, [model]).get(model, {})
    shaking = fleet.latest_vibration(session, {history.motor.machine})
    peers = peers_of(motor_id, by_motor) | _machine_peers(motor_id, history.motor.machine, shaking, as_of)
    return judge(history, as_of, peers, repeatability(standings.rig_spreads(session)), *terms(session)(history.motor))


def judge_all(
    session: Session, as_of: datetime, motor_ids: Sequence[int] | None = None,
    supposing: Mapping[str, Mapping[str, Limits]] | None = None,
) -> dict[int, Judgement]:  # fmt: skip
    """Judge all motors, or those named, as of a time: only what was known then counts, of peers and rigs too.

    `supposing` gives limits by class in place of those that hold.
    """
    everything = {i: h.until(as_of) for i, h in readings.histories(session).items()}
    by_model: dict[str, dict[int, Mapping[str, Sequence[Baseline]]]] = defaultdict(dict)
    spreads: Spreads = {}
    for i, history in everything.items():
        found = baseline.all_groups(history)
        by_model[key_of(history.motor.model)][i] = baseline.own_references(found, history.events)
        _pool(spreads, spread_of(found))
    known = repeatability(spreads)
    shaking = fleet.latest_vibration(session, {h.motor.machine for h in everything.values()})
    wanted = everything if motor_ids is None else {i: everything[i] for i in motor_ids}
    agreed = terms(session, as_of, supposing)
    answers: dict[int, Judgement] = {}
    for i, h in wanted.items():
        peers = peers_of(i, by_model[key_of(h.motor.model)] if h.motor.model else {})
        peers |= _machine_peers(i, h.motor.machine, shaking, as_of)
        answers[i] = judge(h, as_of, peers, known, *agreed(h.motor))
    return answers


def terms(
    session: Session, as_of: datetime | None = None, supposing: Mapping[str, Mapping[str, Limits]] | None = None
) -> Callable[[Motor], tuple[Mapping[str, Limits], Prices]]:
    """The limits of a motor's class and the prices of its owner, as they held at a time."""
    limits = {**terms_store.limits(session, as_of), **(supposing or {})}
    prices = terms_store.prices(session)

    def of(motor: Motor) -> tuple[Mapping[str, Limits], Prices]:
        return limits.get(motor.motor_class, {}), prices.get(motor.owner, Prices())

    return of


def _machine_peers(
    motor_id: int, machine: str, shaking: Mapping[str, Mapping[int, tuple[str, float, datetime]]], as_of: datetime
) -> dict[str, list[Baseline]]:
    """How much the other motors of its machine shake, as baselines of vibration."""
    others = shaking.get(machine, {}) if machine else {}
    found = [
        Baseline(value, 1, "machine", conditions=Conditions(throttle_pct=12.5, placement="machine"))
        for i, (measure, value, at) in others.items()
        if i != motor_id and measure == "vibration" and at <= as_of
    ]
    return {"vibration": found} if found else {}


def settle(session: Session, now: datetime, progress: Callable[[int, int], None] | None = None) -> None:
    """Judge every stale motor, in a fixed number of statements however many there are."""
    stale = standings.stale_ids(session)
    if not stale:
        return
    before = standings.rig_spreads(session)
    fresh = readings.histories(session, stale)
    found = {i: baseline.all_groups(h) for i, h in fresh.items()}
    own = {i: baseline.own_references(found[i], h.events) for i, h in fresh.items()}
    standings.keep_figures(session, stale, own, {i: spread_of(g) for i, g in found.items()})
    after = standings.rig_spreads(session)
    moved = _moved_rigs(repeatability(before), repeatability(after), after)
    further = [i for i in standings.motors_on_rigs(session, moved) if i not in fresh] if moved else []
    fresh |= readings.histories(session, further)
    _keep(session, fresh, after, now, progress)


def _keep(
    session: Session,
    fresh: Mapping[int, History],
    spreads: Spreads,
    now: datetime,
    progress: Callable[[int, int], None] | None,
) -> None:
    models = standings.model_baselines(session, {h.motor.model for h in fresh.values()})
    signed = standings.latest_signed(session, list(fresh))
    on_bench = standings.open_checks(session, list(fresh))
    known = repeatability(spreads)
    shaking = fleet.latest_vibration(session, {h.motor.machine for h in fresh.values()})
    agreed = terms(session)
    rows = []
    for count, (i, history) in enumerate(fresh.items(), 1):
        peers = peers_of(i, models.get(key_of(history.motor.model), {}))
        peers |= _machine_peers(i, history.motor.machine, shaking, now)
        found = judge(history, now, peers, known, *agreed(history.motor))
        rows.append(_standing(i, history, found, signed.get(i)) | {"on_bench": i in on_bench})
        if progress and count % 200 == 0:
            progress(count, len(fresh))
    standings.keep_standings(session, rows)


def repeatability(spreads: Spreads) -> Repeatability:
    """A rig's repeatability per quantity: learned where it has shown enough pairs, the default before."""

    def of(rig: str, quantity: str) -> float:
        squares, pairs = spreads.get((rig, quantity), (0.0, 0))
        return repeats.learned(squares, pairs, QUANTITIES[quantity].repeatability)

    return of


def peers_of(motor_id: int, by_motor: ModelBaselines) -> dict[str, list[Baseline]]:
    """The own baselines of the other motors of a model, by quantity."""
    found: dict[str, list[Baseline]] = defaultdict(list)
    for other, by_quantity in by_motor.items():
        if other != motor_id:
            for name, baselines in by_quantity.items():
                found[name].extend(baselines)
    return found


def spread_of(found: Mapping[str, Sequence[Group]]) -> Spreads:
    """What the repeats within each check of a motor say of its rigs."""
    pooled: Spreads = {}
    for name, mine in found.items():
        for group in mine:
            values = [s.value for s in group.samples]
            each = group.n / len(group.samples)
            squares, pairs = repeats.within_check(values, QUANTITIES[name].relative, each)
            _pool(pooled, {(group.conditions.rig, name): (squares, pairs)})
    return pooled


def _pool(into: Spreads, more: Spreads) -> None:
    for key, (squares, pairs) in more.items():
        known = into.get(key, (0.0, 0))
        into[key] = (known[0] + squares, known[1] + pairs)


def _moved_rigs(before: Repeatability, after: Repeatability, spreads: Spreads) -> set[str]:
    return {rig for rig, q in spreads if abs(after(rig, q) / before(rig, q) - 1) > _SHIFT_THAT_MATTERS}


def runs_since(history: History, since: datetime | None) -> int:
    """Runs logged after a time."""
    return sum(e.count for e in history.events if e.event == "run" and (since is None or e.at > since))


def _standing(motor_id: int, history: History, found: Judgement, signed: SignedRow | None) -> dict[str, Any]:
    checked_at = max((c.at for c in history.checks if c.readings), default=None)
    stands = signed if signed and checked_at and signed.at >= checked_at else None
    due = found.check_by
    last_state = [e.event for e in sorted(history.events, key=lambda e: e.at) if e.event in ("retired", "returned")]
    overruled = bool(stands and stands.verdict != stands.tool_verdict)
    return {
        "motor_id": motor_id,
        "leans_on_model": any(e.baseline is None or e.baseline.source != "own" for e in found.evidence),
        "rank": 10 * RANK[stands.verdict if stands else found.verdict] + _gravity(found),
        "verdict": stands.verdict if stands else found.verdict,
        "headline": f"{stands.verdict.capitalize()}, says {stands.signed_by}."
        if overruled and stands
        else found.headline,
        "reason": f"{stands.reason} Waldhorn: {found.headline}" if overruled and stands else _brief(found),
        "strips": [_glance(found, names) for names in GLANCE],
        "checked_at": checked_at,
        "due_on": due.date.isoformat() if due else "",
        "due_runs": due.runs - runs_since(history, checked_at) if due else None,
        "retired": last_state[-1:] == ["retired"],
        "overruled_by": stands.signed_by if overruled and stands else "",
        "tool_verdict": found.verdict,
    }


def _brief(found: Judgement) -> str:
    """The two gravest reasons, for a glance; a motor in which nothing has moved says so."""
    if found.verdict == "keep" and found.headline == "Keep." and found.reason.endswith("as they were."):
        moved = found.reason.split(". ")[:-1]
        return f"{moved[0]}." if moved else "Nothing has moved."
    said = [s.rstrip(".") for s in found.reason.split(". ") if not s.startswith("Magnet strength")]
    return ". ".join(said[:2]) + "."


def _gravity(found: Judgement) -> int:
    """Among motors of one verdict, the worse news first: 0 past, 3 near a limit, 5 neither."""
    states = {e.state for e in found.evidence}
    return 0 if "past" in states else 3 if states & {"watch", "unproven"} else 5


def _glance(found: Judgement, names: tuple[str, ...]) -> list[Any]:
    """Quantity, state, and how much of the way to the act limit is used, of the worst of these quantities."""
    among = [e for e in found.evidence if e.quantity.name in names]
    worst = min(among, key=lambda e: e.change.headroom if e.change and e.fresh else 9.0)
    used = round(1 - worst.change.headroom, 3) if worst.change and worst.fresh else None
    return [names[0], worst.state, used]
