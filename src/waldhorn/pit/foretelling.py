"""What a motor of the rack will do with a load and a pack: its constants from what was read of it, the load from a row
of any motor, and the other motors on the same beside it."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from statistics import median

from sqlalchemy.orm import Session

from waldhorn.core import constants as core
from waldhorn.core import foretell as tell
from waldhorn.core import timing
from waldhorn.core.conditions import at_full_throttle
from waldhorn.core.constants import Constants, Row
from waldhorn.core.errors import Refused
from waldhorn.core.foretell import PROPELLER, WHEEL, Foretold, Load, Measured, Outcome, Pack
from waldhorn.core.history import History, Motor, Reading
from waldhorn.core.timing import TimingPull
from waldhorn.core.units import read_number
from waldhorn.core.vocabulary import EventKind, Purpose
from waldhorn.pit import timing_price
from waldhorn.pit.timing_price import Priced
from waldhorn.store import readings

LAST_PULLS = 6
MOST_BESIDE = 12
USUAL_INNER_OHM = 0.020
OTHER_KV = (0.8, 0.9, 1.1, 1.2)
KINDS = {"propeller": PROPELLER, "wheel": WHEEL}
SHARES = tuple(s / 100 for s in range(40, 125, 5))
# What constants, load rows and a timing sweep are made of.
RESTS_ON = ("supply_volts", "no_load_current", "rpm", "rest_volts", "load_volts", "load_current", "load_rpm",
            "winding_resistance_ab", "winding_resistance_bc", "winding_resistance_ca")  # fmt: skip
_ANEW = (EventKind.REWOUND, EventKind.ROTOR_REPLACED, EventKind.TIMING_CHANGED, EventKind.SENSOR_BOARD_REPLACED)
_OTHER_SWEEP = (EventKind.REWOUND, EventKind.ROTOR_REPLACED, EventKind.SENSOR_BOARD_REPLACED)
_EVER = datetime.min.replace(tzinfo=UTC)


@dataclass(frozen=True)
class Driven:
    """A load row: what was on the shaft, V at rest where it was read, and the row."""

    what: str
    rest_v: float | None
    row: Row


@dataclass(frozen=True)
class Basis:
    """What a motor's constants rest on, with the pulls of its own timing sweep; `refused` says why there are none."""

    motor: Motor
    measured: Measured
    driven: tuple[Driven, ...]
    constants: Constants | None
    refused: str = ""
    sweep: tuple[TimingPull, ...] = ()

    def row_of(self, what: str) -> int | None:
        """The place of the latest row that drove this, among all rows."""
        first = len(self.measured.rows) - len(self.driven)
        found = [first + i for i, d in enumerate(self.driven) if d.what == what]
        return found[-1] if found else None


@dataclass(frozen=True)
class Asked:
    """What is asked: the pack, whose row of what on the shaft, the gear and what passes it, propeller or wheel."""

    pack: Pack
    owner: str
    what: str
    gear: float = 1.0
    share: float = 1.0
    kind: str = "propeller"


@dataclass(frozen=True)
class Beside:
    """Another motor on the same load and pack, with its curve over volts and what was read of it with the same on the
    shaft."""

    motor: Motor
    constants: Constants
    outcome: Outcome
    over: list[str]
    curve: list[tuple[float, Outcome]]
    measured: list[tuple[float, float]]


@dataclass(frozen=True)
class Winding:
    """The same motor wound otherwise: turns where known, KV, what comes out, what of it is over its ratings."""

    turns: int | None
    kv: float
    outcome: Outcome
    over: list[str]


@dataclass(frozen=True)
class Answer:
    """What is foretold: the outcome with its band, what of it is over the motor's ratings, the curve over volts with
    what was measured with the same on the shaft, up to which volts anything was measured, others beside it, what a
    degree of timing buys and costs, and the same motor wound otherwise."""

    asked: Asked
    foretold: Foretold
    over: list[str]
    curve: list[tuple[float, Outcome]]
    measured: list[tuple[float, float]]
    measured_to_v: float
    beside: list[Beside] = field(default_factory=list)
    timing: Priced | None = None
    windings: list[Winding] = field(default_factory=list)


def basis(history: History) -> Basis:
    """What is known of a motor at full throttle since it was last changed, as rows; and its constants."""
    since = max((e.at for e in history.events if e.event in _ANEW), default=_EVER)
    pulls: list[Row] = []
    driven: list[Driven] = []
    winding: list[float] = []
    for check in sorted(history.checks, key=lambda c: c.at):
        for run in _runs(r for r in check.readings if r.accepted and r.at >= since):
            if one := _pull(run):
                pulls.append(one)
            if load := _driven(run):
                driven.append(load)
        ohms = [r.value / 1000 for r in check.readings if r.measure.startswith("winding_resistance_") and r.accepted]
        winding = ohms or winding
    idle = pulls[-LAST_PULLS:]
    measured = Measured(
        (*idle, *(d.row for d in driven)), median([r.amps for r in idle[-2:]]) if idle else 0.0,
        median(winding) if winding else None,
    )  # fmt: skip
    anew = max((e.at for e in history.events if e.event in _OTHER_SWEEP), default=_EVER)
    sweep = timing.pulls_of([r for check in history.checks for r in check.readings if r.at >= anew])
    return replace(_with_constants(history.motor, measured, tuple(driven)), sweep=tuple(sweep))


def _with_constants(motor: Motor, measured: Measured, driven: tuple[Driven, ...]) -> Basis:
    if not measured.no_load_a:
        return Basis(motor, measured, driven, None, "no pull at full throttle with volts, amps and rpm yet: take one")
    try:
        fitted = core.fit(measured.rows, measured.no_load_a)
        return Basis(motor, Measured(measured.rows, measured.no_load_a), driven, fitted)
    except Refused as refused:
        if measured.four_wire_ohm is None:
            return Basis(motor, measured, driven, None, refused.sentence)
        return Basis(motor, measured, driven, tell.with_four_wires(measured))


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
    by = {r.measure: r.value for r in run}
    wanted = [by.get(m) for m in ("load_volts", "load_current", "load_rpm")]
    if not all(wanted):
        return None
    return Driven(run[0].conditions.on_shaft, by.get("rest_volts"), Row(*(v for v in wanted if v)))


def driven(session: Session) -> list[Basis]:
    """What is known of the motors that drove something lately."""
    ids = readings.motors_with(session, Purpose.LOAD)[:MOST_BESIDE]
    return [basis(h) for h in readings.histories(session, ids, RESTS_ON).values()] if ids else []


def bases(session: Session, motor: str) -> dict[str, Basis]:
    """What is known of this motor (by id) and of every other one that drove something, by tag; this one first."""
    others = [i for i in readings.motors_with(session, Purpose.LOAD) if i != motor][:MOST_BESIDE]
    found = readings.histories(session, [motor, *others], RESTS_ON)
    return {found[i].motor.tag: basis(found[i]) for i in (motor, *others)}


def read(typed: Mapping[str, str], known: Mapping[str, Basis]) -> Asked:
    """What a form asks; raises Refused with its field."""
    chosen = typed.get("load", "")
    owner, _, what = chosen.partition("|")
    if owner not in known or known[owner].row_of(what) is None:
        raise Refused("load", "choose what is on the shaft: a row that was read with a motor of this rack")
    kind = typed.get("kind") or "propeller"
    if kind not in KINDS:
        raise Refused("kind", f"“{kind}” is none of {', '.join(KINDS)}")

    def number(name: str, words: str, dimension: str, low: float, high: float, usual: float) -> float:
        text = typed.get(name, "").strip()
        try:
            return read_number(text, words, dimension, low, high) if text else usual
        except Refused as refused:
            raise Refused(name, refused.sentence) from refused

    row = next(d for d in reversed(known[owner].driven) if d.what == what)
    volts = number("volts", "volts at rest", "voltage", 1, 100, row.rest_v or row.row.volts)
    inner = number("inner", "inner resistance", "resistance", 0, 1000, 1000 * USUAL_INNER_OHM) / 1000
    gear = number("gear", "gear", "count", 0.1, 50, 1.0)
    share = number("share", "what passes the gear", "percent", 20, 100, 100.0 if gear == 1 else 95.0) / 100
    return Asked(Pack(volts, inner), owner, what, gear, share, kind)


def answer(known: Mapping[str, Basis], tag: str, asked: Asked) -> Answer:
    """What the motor of this tag will do; raises Refused where it or the load is not known well enough."""
    mine, theirs = known[tag], known[asked.owner]
    if mine.constants is None:
        raise Refused("constants", mine.refused)
    load = _load(theirs, asked)
    own_row = mine.row_of(asked.what) if asked.owner == tag else None
    told = tell.foretell(mine.constants, mine.measured, asked.pack, load, own_row)
    beside = [
        Beside(
            one.motor,
            one.constants,
            found,
            over_rated(one.motor, found),
            tell.curve(one.constants, asked.pack, load, SHARES),
            _read_with(one, asked.what),
        )
        for other, one in known.items()
        if other != tag and one.constants and (found := _outcome(one.constants, asked.pack, load))
    ]
    rows = _read_with(mine, asked.what)
    return Answer(
        asked, told, over_rated(mine.motor, told.outcome, told),
        tell.curve(mine.constants, asked.pack, load, SHARES), rows,
        max([v for v, _ in rows] + [r.volts for r in mine.measured.rows]), sorted(beside, key=lambda b: b.constants.kv),
        timing_price.priced(mine.motor, mine.constants, asked.pack, load, mine.sweep),
        _windings(mine.motor, mine.constants, asked.pack, load),
    )  # fmt: skip


def _load(theirs: Basis, asked: Asked) -> Load:
    """The load as its own row gives it, through the constants of the motor that drove it."""
    place = theirs.row_of(asked.what)
    if theirs.constants is None or place is None:
        raise Refused("load", f"{theirs.motor.tag} drove it, but its own constants are not known: {theirs.refused}")
    row, exponent = theirs.measured.rows[place], KINDS[asked.kind]
    watts = core.shaft_power(theirs.constants, row.volts, row.amps)
    return Load(tell.load_constant(watts, row.rpm, exponent), exponent, asked.gear, asked.share)


def _read_with(one: Basis, what: str) -> list[tuple[float, float]]:
    """Volts at rest and amps of what was read with the same on the shaft."""
    return [(d.rest_v or d.row.volts, d.row.amps) for d in one.driven if d.what == what]


def _windings(motor: Motor, known: Constants, pack: Pack, load: Load) -> list[Winding]:
    """The same motor a turn or two less and more, or a tenth or two of its KV where its turns are not known."""
    count = round(motor.turns or 0)
    steps: list[tuple[int | None, float]] = [(None, known.kv * share) for share in OTHER_KV]
    if count > 2:
        near = (n for n in range(count + 2, count - 3, -1) if n != count)
        steps = [(n, known.kv * count / n) for n in near]
    found = []
    for turns, kv in steps:
        outcome = _outcome(core.wound_for(known, kv), pack, load)
        if outcome:
            found.append(Winding(turns, kv, outcome, over_rated(motor, outcome)))
    return found


def _outcome(known: Constants, pack: Pack, load: Load) -> Outcome | None:
    try:
        return tell.operating_point(known, pack, load)
    except Refused:
        return None


def over_rated(motor: Motor, found: Outcome, told: Foretold | None = None) -> list[str]:
    """What comes out above what the maker allows, and what may."""
    said = []
    for name, value, rated, unit in (
        ("amps", found.amps, motor.rated_a, "A"), ("watts_in", found.watts_in, motor.rated_w, "W"),
        ("rpm", found.rpm, motor.rated_rpm, "rpm"),
    ):  # fmt: skip
        if rated and value > rated:
            said.append(f"{value:.0f} {unit} is above its rated {rated:g} {unit}.")
        elif rated and told and told.band[name][1] > rated:
            said.append(f"It may pass its rated {rated:g} {unit}.")
    return said


def best_step(found: Answer, tag: str, known: Mapping[str, Basis]) -> str:
    """Which of these motors gives the most at the shaft without passing a rating that is known, in words."""
    mine = known[tag]
    fitting = [(found.foretold.outcome, mine.motor, found.over)] + [(b.outcome, b.motor, b.over) for b in found.beside]
    rated = [(o, m, over) for o, m, over in fitting if m.tag == tag or m.rated_a or m.rated_w]
    within = [(o, m) for o, m, over in rated if not [s for s in over if "above" in s]]
    if not within or len(rated) < 2:
        return ""
    most, motor = max(within, key=lambda pair: pair[0].watts_out)
    if motor.tag == tag:
        return "None of these gives more at the shaft within its ratings."
    more = 100 * (most.watts_out / found.foretold.outcome.watts_out - 1)
    return f"{motor.tag} gives {more:.0f} % more at the shaft within its ratings." if more >= 1 else ""
