"""The demo: the invented season of the simulated bench, put into a store of its own."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

import numpy as np
from sqlalchemy.orm import Session

from waldhorn.core.base.conditions import FULL_THROTTLE_PCT, Conditions, at_full_throttle
from waldhorn.core.base.history import TRIALS, CrossTried, Reading
from waldhorn.core.base.text import key_of
from waldhorn.core.base.vocabulary import EventKind, Purpose, Ran
from waldhorn.pit.bench import checks, signing
from waldhorn.pit.bench.context import CheckContext, load
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.bench.steps.pull import MEASURES_OF
from waldhorn.pit.judging.judging import judge_motor, settle
from waldhorn.pit.motors import corrections, facts
from waldhorn.simulator.motor_model import MotorModel
from waldhorn.simulator.season import SEED, as_it_is, season
from waldhorn.store import findings, motors, readings, rigs


def fill(session: Session, now: datetime, made: Callable[[str], None] = lambda tag: None) -> None:
    """Fill an empty store with the season that ends today, one motor lying on the bench; says which motor is made."""
    for entry in season(now.date() - timedelta(days=1)):
        made(entry.motor.tag)
        [motor_id] = motors.add(session, [entry.motor])
        motors.add_events(session, [(motor_id, event) for event in entry.events])
        at_full = {key: next((r for r in taken if r.conditions.method), taken[0]) for key, _, taken in entry.checks}
        ids = readings.check_ids(session, ((motor_id, key, at, at_full[key].conditions) for key, at, _ in entry.checks))
        readings.add(session, ((ids[motor_id, key], r) for key, _, taken in entry.checks for r in taken))
    for name, said in _RIGS.items():
        rigs.describe(session, name, said)
    settle(session, now)
    _swap(session)
    _sign(session)
    _drive(session, now)
    _spin_flywheels(session, now)
    _sweep(session, now)
    _put_right(session, now)
    _leave_one_on_the_bench(session, now)
    settle(session, now)


_RIGS = {
    "green bench": rigs.Described("the pit's own table", "meter after the controller", "motor amps",
                                  "7.4 V, timing 0"),
    "pier bench": rigs.Described("the club's table at the pier", "meter in the supply lead", "supply amps", ""),
}  # fmt: skip
# Which check of a motor was signed by whom, as what (as Waldhorn said, where nothing is given), and why.
_SIGNED = (
    ("VS-01", 8, "Oda", "", ""),
    ("VS-02", 6, "Tamo", "repair", "sounds dry when it runs down"),
    ("VS-05", 7, "Oda", "", ""),
    ("VS-06", 6, "Jorun", "repair", "did not like the sound of it"),
    ("VS-11", 4, "Tamo", "", ""),
    ("VS-12", 8, "Oda", "", ""),
    ("VS-13", 7, "Oda", "watch", "owner runs it hot"),
    ("VS-19", 6, "Tamo", "", ""),
    ("VS-23", 5, "Sanna", "keep", "runs straight by the eye"),
    ("VS-26", 7, "Oda", "", ""),
)


def _sign(session: Session) -> None:
    """Signatures of the season: most agree with Waldhorn, some do not, and later checks say who was right."""
    ids = motors.ids_by_tag(session)
    for tag, place, name, verdict, reason in _SIGNED:
        motor_id = ids[key_of(tag)]
        check = readings.history(session, motor_id).checks[place]
        at = max(r.at for r in check.readings) + timedelta(minutes=5)
        _, judged = judge_motor(session, motor_id, at)
        readings.check_row(session, check.id).open = True  # it came in closed, and was signed as it was closed
        session.flush()
        typed = {"verdict": verdict or judged.verdict, "reason": reason, "signed_by": name}
        signing.sign(session, loaded(session, check.id, at), judged, typed)


# How motors that came back with a complaint ran when they were swapped: what is asked before one is kept again.
_SWAPPED = (
    ("VS-04", {"own_machine": Ran.POORLY, "own_bench": Ran.WELL, "known_machine": Ran.POORLY}),
    ("VS-15", {"own_machine": Ran.POORLY, "own_bench": Ran.WELL, "other_cable": Ran.WELL}),
)


def _swap(session: Session) -> None:
    """Swaps of motor and controller, at the last check of each."""
    ids = motors.ids_by_tag(session)
    for tag, tried in _SWAPPED:
        check = readings.history(session, ids[key_of(tag)]).checks[-1]
        trials = {name: tried.get(name) for name in TRIALS}
        at = max(r.at for r in check.readings) + timedelta(minutes=4)
        findings.add(session, [CrossTried(check=check.id, at=at, **trials)], None)
    motors.touch(session, [ids[key_of(tag)] for tag, _ in _SWAPPED])


@dataclass(frozen=True)
class _OnShaft:
    """A propeller as the stand knows it: W per rpm³, and g per rpm² in air."""

    name: str
    power: float
    thrust: float = 0.0


@dataclass(frozen=True)
class _PackOf:
    """A pack: its name, cells, and volts at rest."""

    name: str
    cells: int
    rest_v: float


_BOAT, _FINER = _OnShaft("38 x 52 propeller", 2.6e-11), _OnShaft("36 x 48 propeller", 2.1e-11)
_SMALL, _SMALLER = _OnShaft("34 x 48 propeller", 1.6e-11), _OnShaft("32 x 44 propeller", 1.25e-11)
_LARGE, _LARGER = _OnShaft("52 x 70 propeller", 5.6e-11), _OnShaft("55 x 75 propeller", 6.8e-11)
_AIR = tuple(_OnShaft(*of) for of in (
    ("8 x 4.5", 1.75e-10, 9.4e-6), ("9 x 4.5", 2.9e-10, 1.4e-5), ("10 x 4.5", 4.3e-10, 2.0e-5),
    ("12 x 6", 1.2e-9, 4.6e-5),
))  # fmt: skip
_TWO, _LOWER, _OTHER = _PackOf("red 5000", 2, 7.6), _PackOf("red 5000", 2, 7.0), _PackOf("blue 4200", 2, 7.5)
_THREE, _TIRED, _FOUR = _PackOf("pit 3S", 3, 12.4), _PackOf("pit 3S", 3, 12.1), _PackOf("pit 4S", 4, 16.4)
_AT_FULL, _OVER_THROTTLE = (100.0,), (25.0, 50.0, 75.0, 100.0)
# Which motors of the demo drove what on which pack, at which throttle.
_DRIVEN: tuple[tuple[str, _OnShaft, _PackOf, tuple[float, ...]], ...] = (
    ("VS-01", _BOAT, _TWO, _AT_FULL), ("VS-01", _BOAT, _LOWER, _AT_FULL), ("VS-01", _FINER, _OTHER, _AT_FULL),
    ("VS-03", _BOAT, _TWO, _AT_FULL), ("VS-03", _FINER, _OTHER, _AT_FULL),
    ("VS-12", _SMALL, _TWO, _AT_FULL), ("VS-12", _SMALL, _LOWER, _AT_FULL), ("VS-12", _SMALLER, _OTHER, _AT_FULL),
    ("VS-24", _LARGE, _PackOf("pit 3S", 3, 11.5), _AT_FULL), ("VS-24", _LARGER, _PackOf("green 3S", 3, 11.8), _AT_FULL),
    ("VS-25", _LARGE, _PackOf("pit 3S", 3, 11.5), _AT_FULL), ("VS-25", _LARGER, _PackOf("green 3S", 3, 11.8), _AT_FULL),
    *(("VS-20", on, pack, _OVER_THROTTLE) for on in _AIR[:2] for pack in (_THREE, _FOUR)),
    *(("VS-22", on, _TIRED, _OVER_THROTTLE) for on in _AIR[:2]), ("VS-22", _AIR[0], _FOUR, _AT_FULL),
    *(("VS-28", on, _FOUR, _OVER_THROTTLE) for on in _AIR[1:]),
)  # fmt: skip
_SUPPLY_OHM = 0.012
_STAND_SHOWS = 0.008  # one sigma of thrust and watts, a share


def _drive(session: Session, now: datetime) -> None:
    """Load rows of some motors, taken a week ago on the simulated bench with a propeller on."""
    ids, at = motors.ids_by_tag(session), now - timedelta(days=7)
    rng = np.random.default_rng([SEED, 17])
    runs: dict[str, int] = {}
    for tag, on, pack, throttles in _DRIVEN:
        motor_id, model = ids[key_of(tag)], _model(tag)
        for pct in throttles:
            runs[tag] = runs.get(tag, 0) + 1
            under = Conditions(
                rig="drone stand" if on.thrust else "green bench",
                throttle_pct=pct,
                motor_c=30.0,
                ambient_c=22.0,
                on_shaft=on.name,
                pack=pack.name,
                cells=float(pack.cells),
            )
            key = f"load {at:%Y-%m-%d}"
            check_id = readings.check_ids(session, [(motor_id, key, at, under)])[motor_id, key]
            told = _shown(model, on, pack, pct, rng)
            found = (Reading(m, v, at, runs[tag], under, Purpose.LOAD) for m, v in told.items())
            readings.add(session, ((check_id, r) for r in found))


def _shown(
    model: MotorModel, on: _OnShaft, pack: _PackOf, throttle_pct: float, rng: np.random.Generator
) -> dict[str, float]:
    """What stand and meter show of a row: below full throttle the controller gives the motor a share of the volts."""
    share = throttle_pct / 100
    spun = model.driving(share * pack.rest_v, _SUPPLY_OHM, on.power, 30.0)
    amps = spun.amps * share
    told = {
        "rest_volts": pack.rest_v,
        "load_volts": round(pack.rest_v - _SUPPLY_OHM * amps, 2),
        "load_current": round(amps, 1 if amps >= 1 else 2),
        "load_rpm": round(spun.rpm, -1),
    }
    if on.thrust:
        told["thrust"] = round(on.thrust * spun.rpm**2 * (1 + _STAND_SHOWS * rng.standard_normal()), 0)
    return told


# Flywheel runs: from half their speed, on a flywheel of so many kg·m².
_FLYWHEEL = (("VS-01", 7.4, 4e-5), ("VS-03", 7.4, 4e-5), ("VS-24", 11.1, 9e-5))


def _spin_flywheels(session: Session, now: datetime) -> None:
    ids, at = motors.ids_by_tag(session), now - timedelta(days=6)
    for tag, volts, inertia in _FLYWHEEL:
        motor_id, model = ids[key_of(tag)], _model(tag)
        rpm = model.spin(volts, 26.0).rpm / 2
        amps = (volts - model.back_emf(rpm, 26.0)) / (model.resistance(26.0) + _SUPPLY_OHM)
        torque = model.flux(26.0) * (amps - model.drag_amps(rpm, 26.0))  # N·m
        under = Conditions(rig="green bench", throttle_pct=100.0, motor_c=26.0, on_shaft="flywheel")
        key = f"flywheel {at:%Y-%m-%d}"
        check_id = readings.check_ids(session, [(motor_id, key, at, under)])[motor_id, key]
        told = {
            "flywheel_torque": round(1000 * torque, 0),
            "response": round(torque / inertia * 60 / (2 * math.pi), -2),
        }
        readings.add(session, ((check_id, Reading(m, v, at, 1, under)) for m, v in told.items()))


def _put_right(session: Session, now: datetime) -> None:
    """A slip of the season that was corrected, and a motor that took another's place."""
    row = motors.find(session, "VS-27")
    if row is None:
        raise LookupError("the demo season has lost VS-27")
    noise = next(r for r in readings.of_motor(session, row.id, ["noise_avg"]) if r.throttle_pct == FULL_THROTTLE_PCT)
    corrections.correct(session, row, noise.id, {"value": f"{noise.value + 0.4:.1f}"}, now - timedelta(days=5))
    fitted = {"event": EventKind.FITTED, "machine": "Gadwall", "at": (now - timedelta(days=2)).isoformat()}
    facts.add_event(session, row, fitted, now)


def _model(tag: str) -> MotorModel:
    model = as_it_is(tag)
    if model is None:
        raise LookupError(f"the demo season has lost {tag}")
    return model


def _sweep(session: Session, now: datetime) -> None:
    """Pulls of a motor at several settings of its end bell, a week ago; it was set back afterwards."""
    ids, at = motors.ids_by_tag(session), now - timedelta(days=7, hours=1)
    tag, volts = "VS-12", 7.4
    motor_id, model = ids[key_of(tag)], _model(tag)
    under = Conditions(rig="green bench", method="loaded-supply", throttle_pct=100.0, motor_c=26.0, ambient_c=22.0)
    key = f"sweep {at:%Y-%m-%d}"
    check_id = readings.check_ids(session, [(motor_id, key, at, under)])[motor_id, key]
    for run, turned in enumerate((-8.0, -4.0, 0.0, 4.0, 8.0), 1):
        moved = replace(model.condition, board_turned_deg=model.condition.board_turned_deg + turned)
        spun = replace(model, condition=moved).spin(volts, 26.0)
        set_to = replace(under, timing_set_deg=round(model.build.timing_deg) + turned)
        for measure, value in (("no_load_current", round(spun.amps, 2)), ("rpm", round(spun.rpm, -1))):
            readings.add(session, [(check_id, Reading(measure, value, at, run, set_to, Purpose.TIMING_PULL))])


def _leave_one_on_the_bench(session: Session, now: datetime) -> None:
    motor = motors.find(session, "VS-07")
    if motor is None:
        raise LookupError("the demo season has lost VS-07")
    before = readings.history(session, motor.id).checks[-1]
    last = {r.measure: r.value for r in before.readings if at_full_throttle(r.conditions)}
    check = checks.open_check(session, motor, now)
    warm = {"rig": "green bench", "method": "loaded-supply", "motor_c": "24.5", "ambient_c": "22"}
    for step, typed in (
        ("setup", warm),
        ("look", {"shaft": "ok", "windings": "ok", "bearings": "doubt"}),
        ("first_spin", {"heard": "smooth"}),
        ("pull", {"throttle_pct": "100"} | {n: f"{last[m]:g}" for n, m in MEASURES_OF.items()}),
    ):
        checks.take_step(session, loaded(session, check.id, now), STEPS[step], typed)


def loaded(session: Session, check_id: str, now: datetime) -> CheckContext:
    """The context of a check that is there."""
    ctx = load(session, check_id, now)
    if ctx is None:
        raise LookupError(f"no check {check_id}")
    return ctx
