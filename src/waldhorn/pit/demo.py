"""The demo: the invented season of the simulated bench, put into a store of its own."""

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from waldhorn.core.base.conditions import Conditions, at_full_throttle
from waldhorn.core.base.history import TRIALS, CrossTried, Reading
from waldhorn.core.base.vocabulary import Purpose, Ran
from waldhorn.pit.bench import checks
from waldhorn.pit.bench.context import CheckContext, load
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.bench.steps.pull import MEASURES_OF
from waldhorn.pit.judging.judging import judge_motor, settle
from waldhorn.pit.motors import signing
from waldhorn.simulator.season import as_it_is, season
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
    _sweep(session, now)
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
        motor_id = ids[motors.key_of(tag)]
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
        check = readings.history(session, ids[motors.key_of(tag)]).checks[-1]
        trials = {name: tried.get(name) for name in TRIALS}
        at = max(r.at for r in check.readings) + timedelta(minutes=4)
        findings.add(session, [CrossTried(check=check.id, at=at, **trials)], None)
    motors.touch(session, [ids[motors.key_of(tag)] for tag, _ in _SWAPPED])


# Which motors of the demo drove what, on how many volts at rest and which propeller constant (W per rpm³).
_DRIVEN = (
    ("VS-01", "38 x 52 propeller", ((7.6, 2.6e-11), (7.0, 2.6e-11))),
    ("VS-03", "38 x 52 propeller", ((7.6, 2.6e-11),)),
    ("VS-12", "34 x 48 propeller", ((7.6, 1.6e-11), (7.0, 1.6e-11))),
    ("VS-24", "52 x 70 propeller", ((11.5, 5.6e-11),)),
)


def _drive(session: Session, now: datetime) -> None:
    """Load rows of some motors, taken a week ago on the simulated bench with a propeller on."""
    ids, at = motors.ids_by_tag(session), now - timedelta(days=7)
    for tag, what, rows in _DRIVEN:
        motor_id, model = ids[motors.key_of(tag)], as_it_is(tag)
        if model is None:
            raise LookupError(f"the demo season has lost {tag}")
        under = Conditions(rig="green bench", throttle_pct=100.0, motor_c=30.0, ambient_c=22.0, on_shaft=what)
        key = f"load {at:%Y-%m-%d}"
        check_id = readings.check_ids(session, [(motor_id, key, at, under)])[motor_id, key]
        for run, (rest_v, k) in enumerate(rows, 1):
            spun = model.driving(rest_v, 0.012, k, 30.0)
            told = {
                "rest_volts": rest_v,
                "load_volts": round(spun.volts, 2),
                "load_current": round(spun.amps, 1),
                "load_rpm": round(spun.rpm, -1),
            }
            found = (Reading(m, v, at, run, under, Purpose.LOAD) for m, v in told.items())
            readings.add(session, ((check_id, r) for r in found))


def _sweep(session: Session, now: datetime) -> None:
    """Pulls of a motor at several settings of its end bell, a week ago; it was set back afterwards."""
    ids, at = motors.ids_by_tag(session), now - timedelta(days=7, hours=1)
    tag, volts = "VS-12", 7.4
    motor_id, model = ids[motors.key_of(tag)], as_it_is(tag)
    if model is None:
        raise LookupError(f"the demo season has lost {tag}")
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
        checks.take(session, loaded(session, check.id, now), STEPS[step], typed)


def loaded(session: Session, check_id: str, now: datetime) -> CheckContext:
    """The context of a check that is there."""
    ctx = load(session, check_id, now)
    if ctx is None:
        raise LookupError(f"no check {check_id}")
    return ctx
