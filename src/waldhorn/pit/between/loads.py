"""The load sheet: what motors made on which propeller and pack, side by side, and what that means for a machine."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor
from waldhorn.core.base.text import key_of
from waldhorn.core.base.units import Notation, read_number
from waldhorn.core.comparing import load_words, loads
from waldhorn.core.comparing.loads import (
    Hover,
    LoadCrossing,
    LoadDifference,
    LoadRead,
    PackUnsaid,
    Speed,
    ThrottleCurve,
)
from waldhorn.core.predicting.constants import Constants
from waldhorn.core.predicting.operating_point import faster_at
from waldhorn.pit.judging import view_cache
from waldhorn.pit.judging.basis import RESTS_ON, basis
from waldhorn.store import load_names, readings
from waldhorn.store import motors as motor_store

MEASURES = tuple(dict.fromkeys((*RESTS_ON, "load_watts")))
MOST = 12


@dataclass(frozen=True)
class Machine:
    """A machine that is asked about: mass in g as it flies, how many motors, and the energy of its pack in Wh."""

    mass_g: float
    motors: int
    watt_hours: float | None = None


@dataclass(frozen=True)
class Cell:
    """What a motor did on one load at full throttle when it was last read, and against the first, None for the first
    itself or what was not read; `of` are the rows that difference was taken from, where they are not those that are
    shown: at like volts."""

    row: LoadRead
    against: LoadDifference | None = None
    of: tuple[LoadRead, LoadRead] | None = None


@dataclass(frozen=True)
class LoadLine:
    """One load: propeller and pack, what each motor did there."""

    propeller: str
    pack: str
    cells: Mapping[str, Cell]


@dataclass(frozen=True)
class LoadSheet:
    """Motors side by side under load: the answer, what else is to be said, every load in a line, the rows, curves,
    differences and crossings it rests on, and what they do in a machine; price of 100 g of thrust by motor; whose rows
    lack their pack."""

    motors: Mapping[str, Motor]
    rows: Sequence[LoadRead]
    says: str
    more: Sequence[str]
    lines: Sequence[LoadLine]
    differences: Sequence[LoadDifference]
    crossings: Sequence[LoadCrossing]
    curves: Sequence[ThrottleCurve]
    over: Sequence[str]
    rests_on: Sequence[str]
    hover: Mapping[str, Hover] = field(default_factory=dict)
    price_of_100_g: Mapping[str, float] = field(default_factory=dict)
    unsaid: Sequence[PackUnsaid] = ()


def sheet(session: Session, tags: Sequence[str], machine: Machine | None = None) -> LoadSheet:
    """The load sheet of these motors, in their order; raises InputError."""
    by_tag = motor_store.by_tags(session, [key_of(tag) for tag in tags])
    if strange := [tag for tag in tags if key_of(tag) not in by_tag]:
        raise InputError("tags", f"no motor “{strange[0]}” on this rack")
    found = list(dict.fromkeys(by_tag[key_of(tag)][0] for tag in tags))
    if not found:
        raise InputError("tags", "name a motor")
    if len(found) > MOST:
        raise InputError("tags", f"{len(found)} motors are more than a sheet shows: {MOST} at most")
    side_by_side = view_cache.until_changed(session, ("loads", *found), lambda: _read(session, found))
    return replace(side_by_side, hover=_hovers(side_by_side, machine)) if machine else side_by_side


def _read(session: Session, ids: Sequence[str]) -> LoadSheet:
    histories = readings.histories(session, ids, MEASURES)
    propellers, packs = load_names.known_propellers(session), load_names.known_packs(session)
    by_motor = {histories[i].motor.tag: loads.rows_of(histories[i], propellers, packs) for i in ids}
    constants = {h.motor.tag: basis(h).constants for h in histories.values() if by_motor[h.motor.tag]}
    return made({histories[i].motor.tag: histories[i].motor for i in ids}, by_motor, constants)


def made(
    motors: Mapping[str, Motor],
    by_motor: Mapping[str, Sequence[LoadRead]],
    constants: Mapping[str, Constants | None],
) -> LoadSheet:
    """The sheet of rows that are at hand."""
    rows = [r for mine in by_motor.values() for r in mine]
    faster = {tag: _speed(known) for tag, known in constants.items() if known}
    found = loads.differences(by_motor, faster)
    drawn = loads.curves(rows)
    crossed = loads.crossings(drawn)
    most = load_words.most_telling(found)
    return LoadSheet(
        motors,
        rows,
        load_words.answer(rows, found, drawn),
        [
            *load_words.each([d for d in found if d is not most]),
            *load_words.crossing_words(found, crossed),
        ],
        _lines(by_motor, found),
        found,
        crossed,
        drawn,
        load_words.over_ratings(motors, rows),
        load_words.rests_on(found, rows),
        price_of_100_g=_prices(motors, by_motor),
        unsaid=loads.packs_unsaid(rows),
    )


def _speed(known: Constants) -> Speed:
    def share(row: LoadRead, volts: float) -> float | None:
        if not (row.volts and row.amps):
            return None
        try:
            return faster_at(known, row.volts, row.amps, volts)
        except InputError:
            return None

    return share


def _lines(by_motor: Mapping[str, Sequence[LoadRead]], found: Sequence[LoadDifference]) -> list[LoadLine]:
    """Every load in the order of the propellers, the first motor's differences beside."""
    full = {motor: loads.full_rows(rows) for motor, rows in by_motor.items()}
    places = {on: rows[-1] for mine in full.values() for on, rows in mine.items()}
    first = next(iter(by_motor))
    against = {(d.propeller, d.pack.casefold(), d.motors[1]): d for d in found if d.motors[0] == first}
    last = {motor: {on: loads.latest(rows) for on, rows in mine.items()} for motor, mine in full.items()}

    def cell(on: tuple[str, str], motor: str) -> Cell:
        row, found = last[motor][on], against.get((*on, motor))
        return Cell(row, found, found.rows if found and found.rows != (last[first][on], row) else None)

    order = sorted(places, key=lambda on: (places[on].diameter or float("inf"), *on))
    return [
        LoadLine(
            places[on].propeller,
            places[on].source,
            {m: cell(on, m) for m, mine in full.items() if on in mine},
        )
        for on in order
    ]


def _hovers(found: LoadSheet, machine: Machine) -> dict[str, Hover]:
    """What each motor does in the machine, on the propeller that makes most thrust."""
    said = {}
    for motor in found.motors:
        mine = (r for r in found.rows if r.motor == motor and r.thrust_g and r.full)
        best = max(mine, key=lambda r: r.thrust_g or 0, default=None)
        if best is None:
            continue
        curve = next(
            (c for c in found.curves if c.motor == motor and (c.propeller, c.source.casefold()) == best.load), None
        )
        said[motor] = loads.hover(curve, best.thrust_g or 0, machine.mass_g, machine.motors, machine.watt_hours)
    return said


def _prices(motors: Mapping[str, Motor], by_motor: Mapping[str, Sequence[LoadRead]]) -> dict[str, float]:
    """Price of 100 g of thrust over a load that all who made thrust drove; the one that makes most."""
    full = {m: {on: loads.latest(r) for on, r in loads.full_rows(rows).items()} for m, rows in by_motor.items()}
    thrust = {m: {on: r.thrust_g for on, r in mine.items() if r.thrust_g} for m, mine in full.items()}
    named = {m: mine for m, mine in thrust.items() if mine}
    shared = set.intersection(*(set(mine) for mine in named.values())) if named else set()
    if not shared:
        return {}
    on = max(shared, key=lambda load: sum(mine[load] or 0 for mine in named.values()))
    return {m: 100 * price / (mine[on] or 1) for m, mine in named.items() if (price := motors[m].price)}


def machine_of(typed: Mapping[str, str], notation: Notation) -> Machine | None:
    """The machine that is asked about, None where no mass is given; raises InputError with its field."""

    def number(name: str, words: str, dimension: str, low: float, high: float) -> float | None:
        text = typed.get(name, "").strip()
        try:
            return read_number(text, words, dimension, low, high, notation) if text else None
        except InputError as refused:
            raise InputError(name, refused.sentence) from refused

    mass = number("mass", "mass of the machine", "mass", 1, 1e6)
    count = number("count", "motors", "count", 1, 100)
    hours, volts = number("ah", "pack, Ah", "count", 0.001, 1000), number("pack_v", "pack, V", "voltage", 1, 1000)
    if mass is None:
        return None
    return Machine(mass, round(count or 4), hours * volts if hours and volts else None)
