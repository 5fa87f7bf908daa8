"""What a motor's constants rest on: its pulls and load rows since it was last changed, and its four-wire resistance."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from statistics import median

from sqlalchemy.orm import Session

from waldhorn.core.base.conditions import Conditions, at_full_throttle, comparable
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Check, History, Motor, Reading
from waldhorn.core.base.vocabulary import EventKind, Purpose
from waldhorn.core.measuring import end_bell
from waldhorn.core.measuring.end_bell import TimingPull
from waldhorn.core.predicting import constants as core
from waldhorn.core.predicting.constants import Constants, Row
from waldhorn.core.predicting.prediction import Measured, with_four_wires
from waldhorn.store import readings

LAST_PULLS = 6
MOST_BESIDE = 12
# What constants, load rows and a timing sweep are made of.
RESTS_ON = (
    "supply_volts",
    "no_load_current",
    "rpm",
    "rest_volts",
    "load_volts",
    "load_current",
    "load_rpm",
    "thrust",
    "winding_resistance_ab",
    "winding_resistance_bc",
    "winding_resistance_ca",
)
_ANEW = (EventKind.REWOUND, EventKind.ROTOR_REPLACED, EventKind.TIMING_CHANGED, EventKind.SENSOR_BOARD_REPLACED)
_OTHER_SWEEP = (EventKind.REWOUND, EventKind.ROTOR_REPLACED, EventKind.SENSOR_BOARD_REPLACED)
_EVER = datetime.min.replace(tzinfo=UTC)


@dataclass(frozen=True)
class Driven:
    """A load row: what was on the shaft, V at rest where it was read, the row, and its thrust in g."""

    what: str
    rest_v: float | None
    row: Row
    thrust_g: float | None = None


@dataclass(frozen=True)
class Basis:
    """What a motor's constants rest on, all at one timing, and its pulls at several; `refused` says why there are
    none."""

    motor: Motor
    measured: Measured
    driven: tuple[Driven, ...]
    constants: Constants | None
    refused: str = ""
    sweep: tuple[TimingPull, ...] = ()
    timing_deg: float | None = None

    @property
    def odd(self) -> Row | None:
        """The row that fits none of the others, where there is one."""
        at = self.constants.odd_row if self.constants else None
        return None if at is None else self.measured.rows[at]

    def row_of(self, what: str) -> int | None:
        """The place of the latest row that drove this, among all rows."""
        first = len(self.measured.rows) - len(self.driven)
        found = [first + i for i, d in enumerate(self.driven) if d.what == what]
        return found[-1] if found else None


def basis(history: History) -> Basis:
    """What is known of a motor at full throttle since it was last changed, as rows; and its constants."""
    since = max((e.at for e in history.events if e.event in _ANEW), default=_EVER)
    pulls: list[Row] = []
    driven: list[Driven] = []
    winding: list[float] = []
    in_order = sorted(history.checks, key=lambda c: c.at)
    timing = _timing_now(in_order, since)
    for check in in_order:
        for run in _runs(r for r in check.readings if r.accepted and r.at >= since):
            if not comparable(("timing_set_deg",), run[0].conditions, Conditions(timing_set_deg=timing)):
                continue  # at another timing it is another motor
            if one := _pull(run):
                pulls.append(one)
            if load := _driven(run):
                driven.append(load)
        ohms = [r.value / 1000 for r in check.readings if r.measure.startswith("winding_resistance_") and r.accepted]
        winding = ohms or winding
    idle = pulls[-LAST_PULLS:]
    measured = Measured(
        (*idle, *(d.row for d in driven)),
        median([r.amps for r in idle[-2:]]) if idle else 0.0,
        median(winding) if winding else None,
        core.no_load_current(idle),
    )
    anew = max((e.at for e in history.events if e.event in _OTHER_SWEEP), default=_EVER)
    sweep = end_bell.pulls_of([r for check in history.checks for r in check.readings if r.at >= anew])
    return replace(_with_constants(history.motor, measured, tuple(driven)), sweep=tuple(sweep), timing_deg=timing)


def _timing_now(in_order: Sequence[Check], since: datetime) -> float | None:
    """The timing that was last noted, electrical degrees."""
    noted = (
        r.conditions.timing_set_deg
        for check in reversed(in_order)
        for r in reversed(check.readings)
        if r.at >= since and r.purpose in (Purpose.STANDARD, Purpose.LOAD) and r.measure in RESTS_ON
    )
    return next((deg for deg in noted if deg is not None), None)


def _with_constants(motor: Motor, measured: Measured, driven: tuple[Driven, ...]) -> Basis:
    if not measured.no_load_a:
        return Basis(motor, measured, driven, None, "no pull at full throttle with volts, amps and rpm yet: take one")
    try:
        fitted = replace(core.fit(measured.rows, measured.no_load_a), no_load=measured.no_load)
        return Basis(motor, replace(measured, four_wire_ohm=None), driven, fitted)
    except InputError as refused:
        if measured.four_wire_ohm is None:
            return Basis(motor, measured, driven, None, refused.sentence)
        return Basis(motor, measured, driven, with_four_wires(measured))


def _runs(found: Iterable[Reading]) -> list[list[Reading]]:
    by: dict[tuple[str, int], list[Reading]] = {}
    for r in found:
        by.setdefault((r.purpose, r.run), []).append(r)
    return list(by.values())


def _pull(run: Sequence[Reading]) -> Row | None:
    if run[0].purpose is not Purpose.STANDARD:
        return None
    by = {r.measure: r.value for r in run if at_full_throttle(r.conditions)}
    wanted = [by.get(m) for m in ("supply_volts", "no_load_current", "rpm")]
    return Row(*(v for v in wanted if v)) if all(wanted) else None


def _driven(run: Sequence[Reading]) -> Driven | None:
    if run[0].purpose is not Purpose.LOAD:
        return None
    by = {r.measure: r.value for r in run if at_full_throttle(r.conditions)}
    wanted = [by.get(m) for m in ("load_volts", "load_current", "load_rpm")]
    if not all(wanted):
        return None
    return Driven(run[0].conditions.on_shaft, by.get("rest_volts"), Row(*(v for v in wanted if v)), by.get("thrust"))


def driven(session: Session) -> list[Basis]:
    """What is known of the motors that drove something lately."""
    ids = readings.motors_with(session, Purpose.LOAD)[:MOST_BESIDE]
    return [basis(h) for h in readings.histories(session, ids, RESTS_ON).values()] if ids else []


def bases(session: Session, motor: str) -> dict[str, Basis]:
    """What is known of this motor (by id) and of every other one that drove something, by tag; this one first."""
    others = [i for i in readings.motors_with(session, Purpose.LOAD) if i != motor][:MOST_BESIDE]
    found = readings.histories(session, [motor, *others], RESTS_ON)
    return {found[i].motor.tag: basis(found[i]) for i in (motor, *others)}
