"""Evidence: one quantity now against its baseline, with its uncertainty, its state and its sentence.

Only what was measured lately counts: an old reading says nothing of a motor that has crashed since.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from waldhorn.core import baseline as base
from waldhorn.core import magnets, repeats
from waldhorn.core.baseline import Baseline, Group
from waldhorn.core.change import Z_SURE, Change, RunUncertainty, assess, difference
from waldhorn.core.faults import Witness
from waldhorn.core.history import History
from waldhorn.core.measures import MAGNET_STRENGTH, QUANTITIES, Limits, Quantity

WANDER = 0.25  # one sigma of a sound motor's own drift, as a share of its watch limit (bench practice)
LABEL_TOLERANCE_PCT = 3 / math.sqrt(3)  # "within 3 % is ordinary", read as a rectangle
FRESH = timedelta(days=21)  # readings of one state of a motor may be gathered over so long
GRAVE = ("crash", "dunked", "overheated")

Peers = Mapping[str, Sequence[Baseline]]  # quantity name to the own baselines of the model's other motors
Repeatability = Callable[[str, str], float]  # (rig, quantity name) to one standard deviation, change unit


@dataclass(frozen=True, slots=True)
class Evidence:
    """One quantity now against its baseline; see docs/formats.md for the fields.

    `witness` is the change as evidence of faults, with the drift a sound motor is allowed; None when it does not
    count: nothing to compare with, or too old (`fresh` is false then).
    """

    quantity: Quantity
    state: str
    reason: str
    now: float | None = None
    raw: float | None = None
    n_now: int = 0
    baseline: Baseline | None = None
    change: Change | None = None
    limits: Limits | None = None
    repeatability: float = 0.0
    notes: tuple[str, ...] = ()
    witness: Witness | None = None
    fresh: bool = True
    at: datetime | None = None


def default_repeatability(rig: str, quantity: str) -> float:
    """The repeatability assumed of a rig that has not shown its own yet, change unit."""
    return QUANTITIES[quantity].repeatability


def of_all(
    known: History, groups: Mapping[str, Sequence[Group]], peers: Peers, repeatability: Repeatability,
    limits: Mapping[str, Limits],
) -> tuple[Evidence, ...]:  # fmt: skip
    """The evidence of every quantity, magnet strength last.

    Parameters
    ----------
    known : History, with nothing later than the time to judge at
    groups : its groups by quantity, see `baseline.all_groups`
    peers : baselines to compare with where the motor has none of its own, by quantity
    repeatability : s_r of a rig for a quantity, change unit
    limits : limits by quantity where they differ from the default

    Returns
    -------
    tuple of Evidence, one a quantity

    Source: bench practice; see `change` and `baseline` for the formulas.
    """
    since = _counts_since(known)
    found = []
    for q in QUANTITIES.values():
        one = _of(known, q, groups[q.name], peers.get(q.name, ()), repeatability, limits.get(q.name, q.limits))
        found.append(_aged(one) if one.at is not None and since is not None and one.at < since else one)
    strength = _magnet_strength(found, limits.get(MAGNET_STRENGTH.name, MAGNET_STRENGTH.limits))
    return (*found, strength) if strength else tuple(found)


def _counts_since(known: History) -> datetime | None:
    """From when on a reading says something of the motor as it is."""
    last = max((c.at for c in known.checks if c.readings), default=None)
    if last is None:
        return None
    grave = max((e.at for e in known.events if e.event in GRAVE), default=None)
    return max(last - FRESH, grave) if grave else last - FRESH


def _aged(e: Evidence) -> Evidence:
    note = f"measured on {e.at.day} {e.at:%B}, not since" if e.at else "measured long ago"
    return replace(e, fresh=False, witness=None, notes=(*e.notes, note))


def _of(
    known: History, quantity: Quantity, found: Sequence[Group], peers: Sequence[Baseline],
    repeatability: Repeatability, limits: Limits,
) -> Evidence:  # fmt: skip
    reset_since = bool(found) and any(base.resets(e.event, quantity.name) and e.at > found[-1].at for e in known.events)
    if not found or reset_since:
        why = "not measured since a part was replaced or the timing changed" if reset_since else "not measured"
        return Evidence(quantity, "no_baseline", f"{_capital(quantity.title)} {why}", limits=limits)
    now = found[-1]
    s_r = repeatability(now.conditions.rig, quantity.name)
    runs = repeats.agreement([s.value for s in now.samples], s_r, quantity.relative)
    reference, notes = _reference(known, found, now, peers, quantity)
    if quantity.absolute:
        return _absolute(quantity, now, runs, reference, limits, s_r, notes)
    if reference is None or (quantity.relative and reference.value == 0):
        reason = f"{_capital(quantity.title)} {_number(runs.centre, quantity)}, nothing yet to compare with"
        return Evidence(
            quantity, "no_baseline", reason, runs.centre, now.samples[-1].raw, now.n, None, None, limits, s_r, notes,
            at=now.at,
        )  # fmt: skip
    return _compared(quantity, now, runs, reference, limits, s_r, notes)


def _reference(
    known: History, found: Sequence[Group], now: Group, peers: Sequence[Baseline], quantity: Quantity
) -> tuple[Baseline | None, tuple[str, ...]]:
    said = [s.said for s in now.samples if s.said]
    if quantity.against_machine:
        return base.of_machine(peers, now.conditions, quantity), tuple(dict.fromkeys(said))
    since = base.last_reset(known.events, quantity.name, now.at)
    reference, passed_over = base.own(found, now, known.events, quantity)
    reference = reference or base.of_model(peers, now.conditions, quantity) or base.of_label(known, quantity)
    notes = tuple(dict.fromkeys([*said, *(f"earlier checks do not compare: {w}" for w in passed_over)]))
    if since is not None and reference is not None and reference.source == "own" and reference.checks == 1:
        notes += ("only one check since the reset",)
    return reference, notes + (reference.said if reference else ())


def _compared(
    quantity: Quantity, now: Group, runs: repeats.Agreement, reference: Baseline, limits: Limits, s_r: float,
    notes: tuple[str, ...],
) -> Evidence:  # fmt: skip
    delta = difference(runs.centre, reference.value, quantity.relative)
    extra = math.hypot(reference.extra_u, max(s.extra_u for s in now.samples))
    extra, notes = _disagreeing(runs, extra, notes, quantity)
    n_base = reference.n if reference.source == "own" else 0
    u_of_runs = RunUncertainty(s_r, quantity.resolution, now.n, n_base, extra)
    found = assess(delta, u_of_runs.after(0), limits, quantity.direction, u_of_runs)
    label = LABEL_TOLERANCE_PCT if reference.source == "label" else 0.0
    witness = Witness(quantity.name, delta, math.hypot(found.u, WANDER * limits.watch, label))
    return Evidence(
        quantity, found.state, _in_words(quantity, found, reference), runs.centre, now.samples[-1].raw, now.n,
        reference, found, limits, s_r, notes, witness, at=now.at,
    )  # fmt: skip


def _absolute(
    quantity: Quantity, now: Group, runs: repeats.Agreement, reference: Baseline | None, limits: Limits, s_r: float,
    notes: tuple[str, ...],
) -> Evidence:  # fmt: skip
    """A quantity whose limits lie on the value itself; its own past only says how far it moved."""
    extra, notes = _disagreeing(runs, max(s.extra_u for s in now.samples), notes, quantity)
    u_of_runs = RunUncertainty(s_r, quantity.resolution, now.n, 0, extra)
    found = assess(runs.centre, u_of_runs.after(0), limits, quantity.direction, u_of_runs)
    before = reference.value if reference else quantity.typical or 0.0
    spread = quantity.natural_spread if reference is None else reference.extra_u
    u_moved = math.hypot(found.u, spread, s_r / math.sqrt(reference.n) if reference and reference.n else 0.0)
    witness = Witness(quantity.name, runs.centre - before, math.hypot(u_moved, WANDER * limits.watch))
    words = quantity.sayings[0].split(" {}")[0]
    reason = f"{words} {_number(runs.centre, quantity)}"
    if reference and abs(runs.centre - before) > 2 * u_moved:
        reason += f", {_number(before, quantity)} {_whose(reference)}"
    zero = Baseline(0.0, 0, "zero")
    return Evidence(
        quantity, found.state, reason, runs.centre, now.samples[-1].raw, now.n, zero, found, limits, s_r, notes,
        witness, at=now.at,
    )  # fmt: skip


def _disagreeing(
    runs: repeats.Agreement, extra: float, notes: tuple[str, ...], quantity: Quantity
) -> tuple[float, tuple[str, ...]]:
    if not runs.ask_again:
        return extra, notes
    said = f"the runs differ by {runs.spread:.2g} {quantity.change_unit}: take another"
    return math.hypot(extra, runs.spread / 2), (*notes, said)  # the runs disagree: that is what is known


def _magnet_strength(found: Sequence[Evidence], limits: Limits) -> Evidence | None:
    """Magnet strength, when KV and detent both say something of it; not a witness, they are that already."""
    by_name = {e.quantity.name: e for e in found if e.change and e.fresh and e.baseline and e.baseline.source == "own"}
    speed, torque = by_name.get("kv"), by_name.get("detent_peak")
    if not (speed and speed.change and torque and torque.change):
        return None
    from_kv = magnets.strength_from_kv(1 + speed.change.value / 100, 1.0)
    from_detent = magnets.strength_from_detent(max(1 + torque.change.value / 100, 1e-6), 1.0)
    u_kv, u_detent = speed.change.u / 100, torque.change.u / 200
    share = u_detent**2 / (u_kv**2 + u_detent**2)
    value = 100 * (share * from_kv + (1 - share) * from_detent - 1)
    u = 100 * u_kv * u_detent / math.hypot(u_kv, u_detent)
    agree = magnets.strengths_agree(from_kv, u_kv, from_detent, u_detent)
    u = u if agree else math.hypot(u, 50 * abs(from_kv - from_detent))
    change = assess(value, u, limits, MAGNET_STRENGTH.direction, RunUncertainty(0.0, 0.0, 1, 1, u))
    words = f"Magnet strength {1 + value / 100:.2f} of what it was: {from_kv:.2f} by KV, {from_detent:.2f} by detent"
    notes = () if agree else ("KV and detent do not agree: not the magnets alone. Timing, temperature, rig, lever?",)
    own = Baseline(0.0, 0, "own", at=speed.baseline.at if speed.baseline else None)
    return Evidence(
        MAGNET_STRENGTH, change.state, words, value, value, min(speed.n_now, torque.n_now), own, change, limits, 0.0,
        notes, at=torque.at,
    )  # fmt: skip


def _in_words(quantity: Quantity, found: Change, reference: Baseline) -> str:
    """The change as one would say it; below its own uncertainty it is no change."""
    more, less, same = quantity.sayings
    if abs(found.value) < Z_SURE * found.u:
        return f"{same} as {_whose(reference)} ({signed(found.value, quantity)})"
    amount = signed(abs(found.value), quantity).lstrip("+")
    return f"{(more if found.value > 0 else less).format(amount)} than {_whose(reference)}"


def signed(delta: float, quantity: Quantity) -> str:
    """A change with its sign and unit, as one writes it."""
    decimals = quantity.decimals if quantity.decimals > 1 and not quantity.relative else 1
    return f"{delta:+.{decimals}f} {quantity.change_unit}".replace("-", "−").replace(" °", "°")


def _whose(reference: Baseline) -> str:
    if reference.source == "own" and reference.at:
        return f"in {reference.at:%B}"
    if reference.source == "machine":
        return "the others of its machine"
    return f"{reference.n} others of its model" if reference.source == "model" else "its label"


def _number(value: float, quantity: Quantity) -> str:
    return f"{value:.{quantity.decimals}f} {quantity.unit}".replace(" °", "°")


def _capital(words: str) -> str:
    return words[0].upper() + words[1:]
