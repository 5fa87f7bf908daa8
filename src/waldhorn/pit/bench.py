"""What the bench screen shows: the step that is next, the runs so far, and the live meaning of what is being typed.

The run being typed is judged together with those taken, before anything is stored.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from statistics import median
from typing import Any

from sqlalchemy.orm import Session

from waldhorn.core import current, kv, repeats
from waldhorn.core.evidence import Evidence, Repeatability
from waldhorn.core.history import FULL_THROTTLE_PCT, Check, Conditions, History, Reading, throttle_pct
from waldhorn.core.kv import without_winding_drop
from waldhorn.core.measures import QUANTITIES
from waldhorn.core.verdict import Judgement, judge
from waldhorn.pit.checks import RUNS_WANTED, draft_key
from waldhorn.pit.judging import peers_of, repeatability
from waldhorn.pit.steps import ANSWER, PULL, PULL_MEASURES, SETUP, STEPS, Step, read_partly
from waldhorn.store import acts, readings, standings
from waldhorn.store.models import ActRow, CheckRow, MotorRow, ReadingRow
from waldhorn.store.motors import key_of


@dataclass(frozen=True)
class Pull:
    """One run as a row: KV at 25 °C and as read, amps, rpm per amp; None is not known yet."""

    run: int
    kv: float | None
    kv_raw: float | None
    kv_no_drop: float | None
    amps: float | None
    per_amp: float | None
    volts: float | None
    rpm: float | None
    typed: bool = False
    aside: str = ""


@dataclass(frozen=True)
class Bench:
    """Everything the bench screen draws."""

    motor: MotorRow
    check: CheckRow
    step: Step
    run: int
    done: dict[str, str]
    typed: dict[str, Any]
    wrong: dict[str, str]
    pulls: list[Pull]
    agreement: dict[str, repeats.Agreement]
    judgement: Judgement
    last_act: ActRow | None

    def evidence(self, quantity: str) -> Evidence:
        """The evidence of one quantity."""
        return next(e for e in self.judgement.evidence if e.quantity.name == quantity)


def look(session: Session, check: CheckRow, motor: MotorRow, now: datetime, wanted: str = "") -> Bench:
    """The bench as it stands, with what is typed so far."""
    typed = acts.draft(session, draft_key(check.id))
    rows = readings.of_check(session, check.id)
    history = readings.histories(session, [motor.id])[motor.id]
    known = repeatability(standings.rig_spreads(session))
    values, wrong = read_partly(PULL, typed) if check.open else ({}, {})
    fresh = _as_readings(check, values, _next_run(rows), now)
    preview = _with(history, check, fresh)
    model = key_of(motor.model)
    peers = peers_of(motor.id, standings.model_baselines(session, [model]).get(model, {}))
    judged = judge(preview, now, peers, known)
    pulls = _pulls(rows, fresh, history)
    agreement = _agreement(pulls, known, check.rig)
    step = _step(check, rows, agreement, wanted, bool(fresh))
    wrong |= read_partly(SETUP, typed)[1]
    return Bench(
        motor, check, step, _next_run(rows), _done(check, pulls), typed, wrong, pulls, agreement, judged,
        acts.last(session, motor.id),
    )  # fmt: skip


def _next_run(rows: Sequence[ReadingRow]) -> int:
    return max((r.run for r in rows), default=0) + 1


def _as_readings(check: CheckRow, values: Mapping[str, Any], run: int, now: datetime) -> list[Reading]:
    conditions = Conditions(
        check.rig, check.method, FULL_THROTTLE_PCT, motor_c=check.motor_c, ambient_c=check.ambient_c
    )  # fmt: skip
    return [
        Reading(measure, float(values[name]), now, run, conditions)
        for name, measure in PULL_MEASURES.items()
        if name in values
    ]


def _with(history: History, check: CheckRow, fresh: Sequence[Reading]) -> History:
    """The history with the run being typed in its check."""
    others = tuple(c for c in history.checks if c.id != str(check.id))
    mine = next((c for c in history.checks if c.id == str(check.id)), Check(str(check.id), check.at, ()))
    return replace(history, checks=(*others, replace(mine, readings=(*mine.readings, *fresh))))


def _pulls(rows: Sequence[ReadingRow], fresh: Sequence[Reading], history: History) -> list[Pull]:
    by_run: dict[int, list[Reading]] = {}
    aside: dict[int, str] = {}
    for row in rows:
        conditions = Conditions(
            row.rig, row.method, throttle_pct(row.step, row.throttle_pct), row.placement, row.supply_v,
            row.timing_set_deg, row.motor_c, row.ambient_c,
        )  # fmt: skip
        by_run.setdefault(row.run, []).append(Reading(row.measure, row.value, row.at, row.run, conditions))
        if not row.accepted:
            aside[row.run] = row.aside_reason or "set aside"
    pulls = [_pull(run, found, history, False, aside.get(run, "")) for run, found in sorted(by_run.items())]
    return [*pulls, _pull(fresh[0].run, list(fresh), history, True, "")] if fresh else pulls


def _pull(run: int, found: list[Reading], history: History, typed: bool, aside: str) -> Pull:
    at_full = {r.measure: r.value for r in found if kv.at_full_throttle(r)}
    sample = next(iter(kv.samples(found, history.motor)), None)
    amps, volts, rpm = at_full.get("no_load_current"), at_full.get("supply_volts"), at_full.get("rpm")
    resistance = _resistance(history)
    corrected = None
    if resistance and amps and volts and rpm and volts > amps * resistance:
        corrected = without_winding_drop(rpm, volts, amps, resistance)
    return Pull(
        run, sample.value if sample else None, sample.raw if sample else None, corrected, amps,
        current.speed_per_amp(sample.value, amps) if sample and amps else None, volts, rpm, typed, aside,
    )  # fmt: skip


def _resistance(history: History) -> float | None:
    """Winding resistance between two leads in Ω, from the readings there are."""
    found = [
        r.value / 1000 for c in history.checks for r in c.readings if r.measure.startswith("winding_") and r.accepted
    ]
    return median(found) if found else None


def _agreement(pulls: Sequence[Pull], known: Repeatability, rig: str) -> dict[str, repeats.Agreement]:
    counted = [p for p in pulls if not p.aside]
    found = {}
    for name, values in (
        ("kv", [p.kv for p in counted if p.kv]),
        ("no_load_current", [p.amps for p in counted if p.amps]),
    ):
        if len(values) >= RUNS_WANTED:
            found[name] = repeats.agreement(values, known(rig, name), QUANTITIES[name].relative)
    return found


def _step(
    check: CheckRow, rows: Sequence[ReadingRow], agreement: Mapping[str, repeats.Agreement], wanted: str, typing: bool
) -> Step:
    if not check.open:
        return ANSWER
    if wanted in STEPS:
        return STEPS[wanted]
    if not check.rig:
        return SETUP
    taken = {r.run for r in rows if r.accepted}
    settled = len(taken) >= RUNS_WANTED and not any(a.ask_again for a in agreement.values())
    return ANSWER if settled and not typing else PULL


def _done(check: CheckRow, pulls: Sequence[Pull]) -> dict[str, str]:
    """What each step has to show for itself, in a few words."""
    done = {}
    if check.rig:
        warmth = f", {check.motor_c:.0f} °C" if check.motor_c is not None else ""
        done["setup"] = f"{check.rig}{warmth}"
    taken = [p for p in pulls if not p.typed and not p.aside]
    if taken:
        aside = sum(bool(p.aside) for p in pulls)
        done["pull"] = f"{len(taken)} {'run' if len(taken) == 1 else 'runs'}" + (f", {aside} aside" if aside else "")
    if not check.open:
        done["answer"] = "closed"
    return done
