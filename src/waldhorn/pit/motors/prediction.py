"""What a motor of the rack will do with a load and a pack: its constants from what was read of it, the load from a row
of any motor, and the other motors on the same beside it."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

import numpy as np

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor
from waldhorn.core.base.units import AS_STORED, Notation, read_number
from waldhorn.core.measuring.propellers import propeller
from waldhorn.core.motors.ratings import Beyond
from waldhorn.core.predicting import constants as core
from waldhorn.core.predicting.constants import Constants
from waldhorn.core.predicting.guess import Guess, guess
from waldhorn.core.predicting.operating_point import (
    PROPELLER,
    WHEEL,
    Load,
    Outcome,
    Pack,
    constant_of_row,
    curve,
    nearly_stalls,
    operating_point,
)
from waldhorn.core.predicting.prediction import Prediction, predict, thrust
from waldhorn.pit.judging.basis import Basis, Driven
from waldhorn.pit.motors import timing_price
from waldhorn.pit.motors.timing_price import Priced

USUAL_INNER_OHM = 0.020
OTHER_KV = (0.8, 0.9, 1.1, 1.2)
KINDS = {"propeller": PROPELLER, "wheel": WHEEL}
NEARLY_STALLS = "Near stall: more is lost in winding and pack than does work. A smaller load, or more gear."
SHARES = tuple(s / 100 for s in range(40, 125, 5))


@dataclass(frozen=True)
class Asked:
    """What is asked: the pack, whose row of what on the shaft, the gear and what passes it, propeller or wheel; a
    `diameter` asks for a propeller between two that were read, in their unit."""

    pack: Pack
    owner: str
    what: str
    gear: float = 1.0
    share: float = 1.0
    kind: str = "propeller"
    diameter: float | None = None


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
    """What is predicted: the outcome with its band, what of it is over the motor's ratings, the curve over volts with
    what was measured with the same on the shaft, up to which volts anything was measured, others beside it, what a
    degree of timing buys and costs, and the same motor wound otherwise. `thrust` is g with its band, where it was read
    of the propeller, `guessed` the constants where no rows tell them."""

    asked: Asked
    prediction: Prediction
    over: list[str]
    curve: list[tuple[float, Outcome]]
    measured: list[tuple[float, float]]
    measured_to_v: float
    beside: list[Beside] = field(default_factory=list)
    thrust: tuple[float, float, float] | None = None
    timing: Priced | None = None
    windings: list[Winding] = field(default_factory=list)
    guessed: Guess | None = None


def read(typed: Mapping[str, str], known: Mapping[str, Basis], notation: Notation = AS_STORED) -> Asked:
    """What a form asks; raises InputError with its field."""
    chosen = typed.get("load", "")
    owner, _, what = chosen.partition("|")
    if owner not in known or known[owner].row_of(what) is None:
        raise InputError("load", "choose what is on the shaft: a row that was read with a motor of this rack")
    kind = typed.get("kind") or "propeller"
    if kind not in KINDS:
        raise InputError("kind", f"“{kind}” is none of {', '.join(KINDS)}")

    def number(name: str, words: str, dimension: str, low: float, high: float, usual: float) -> float:
        text = typed.get(name, "").strip()
        try:
            return read_number(text, words, dimension, low, high, notation) if text else usual
        except InputError as refused:
            raise InputError(name, refused.sentence) from refused

    row = next(d for d in reversed(known[owner].driven) if d.what == what)
    volts = number("volts", "volts at rest", "voltage", 1, 100, row.rest_v or row.row.volts)
    inner = number("inner", "inner resistance", "resistance", 0, 1000, 1000 * inner_ohm(row)) / 1000
    gear = number("gear", "gear", "count", 0.1, 50, 1.0)
    share = number("share", "what passes the gear", "percent", 20, 100, 100.0 if gear == 1 else 95.0) / 100
    if not typed.get("diameter", "").strip():
        return Asked(Pack(volts, inner), owner, what, gear, share, kind)
    diameter = number("diameter", "diameter", "count", 0.5, 1000, 0.0)
    return Asked(Pack(volts, inner), owner, f"A propeller of {diameter:g}", gear, share, kind, diameter)


def inner_ohm(driven: Driven) -> float:
    """Inner resistance of the pack that drove a row, Ω: by how far it sagged where its volts at rest were read."""
    sag = (driven.rest_v or 0.0) - driven.row.volts
    return sag / driven.row.amps if sag > 0 and driven.row.amps > 0 else USUAL_INNER_OHM


def answer(known: Mapping[str, Basis], tag: str, asked: Asked) -> Answer:
    """What the motor of this tag will do; raises InputError where it or the load is not known well enough."""
    mine, theirs = known[tag], known[asked.owner]
    guessed = guess_of(known, tag) if mine.constants is None else None
    constants = guessed.constants if guessed else mine.constants
    if constants is None:
        raise InputError("constants", mine.refused)
    load = _load(theirs, asked)
    own_row = mine.row_of(asked.what) if asked.owner == tag and guessed is None else None
    told = predict(constants, guessed or mine.measured, asked.pack, load, own_row)
    beside = [
        Beside(
            one.motor,
            one.constants,
            found,
            over_rated(one.motor, found),
            curve(one.constants, asked.pack, load, SHARES),
            _read_with(one, asked.what),
        )
        for other, one in known.items()
        if other != tag and one.constants and (found := _outcome(one.constants, asked.pack, load))
    ]
    rows = _read_with(mine, asked.what)
    stalls = [NEARLY_STALLS] if nearly_stalls(constants, asked.pack, told.outcome) else []
    return Answer(
        asked,
        told,
        [*over_rated(mine.motor, told.outcome, told), *stalls],
        curve(constants, asked.pack, load, SHARES),
        rows,
        0.0 if guessed else max([v for v, _ in rows] + [r.volts for r in mine.measured.rows]),
        sorted(beside, key=lambda b: b.constants.kv),
        _thrust(theirs, asked, told),
        None if guessed else timing_price.priced(mine.motor, constants, asked.pack, load, mine.sweep),
        [] if guessed else _windings(mine.motor, constants, asked.pack, load),
        guessed,
    )


def guess_of(known: Mapping[str, Basis], tag: str) -> Guess | None:
    """What may be said of a motor whose constants no rows tell, by its label, its size, and the others that are
    known."""
    mine = known[tag]
    pulls = mine.measured.rows[: len(mine.measured.rows) - len(mine.driven)]
    others = [(one.motor, one.constants) for other, one in known.items() if other != tag and one.constants]
    return guess(mine.motor, pulls, others)


def _load(theirs: Basis, asked: Asked) -> Load:
    """The load as its own row gives it, through the constants of the motor that drove it; of a propeller between two
    that it drove, between theirs."""
    if asked.diameter is not None:
        return Load(_between(theirs, asked.diameter), PROPELLER, asked.gear, asked.share)
    place = theirs.row_of(asked.what)
    if theirs.constants is None or place is None:
        raise InputError("load", f"{theirs.motor.tag} drove it, but its own constants are not known: {theirs.refused}")
    row, exponent = theirs.measured.rows[place], KINDS[asked.kind]
    return Load(constant_of_row(theirs.constants, row.volts, row.amps, exponent), exponent, asked.gear, asked.share)


def _between(theirs: Basis, diameter: float) -> float:
    """The constant of a propeller between two that a motor drove: ln k over ln diameter in a straight line."""
    by: dict[float, float] = {}
    for d in theirs.driven:
        size = propeller(d.what).diameter
        if size and theirs.constants:
            by[size] = constant_of_row(theirs.constants, d.row.volts, d.row.amps)
    sizes = sorted(by)
    if len(sizes) < 2 or not sizes[0] <= diameter <= sizes[-1]:
        has = f"{sizes[0]:g} to {sizes[-1]:g}" if len(sizes) > 1 else "fewer than two sizes"
        raise InputError("diameter", f"{diameter:g} lies between no two that {theirs.motor.tag} drove: {has}")
    logs = np.log(sizes), np.log([by[s] for s in sizes])
    return float(np.exp(np.interp(np.log(diameter), *logs)))


def _thrust(theirs: Basis, asked: Asked, told: Prediction) -> tuple[float, float, float] | None:
    """What the propeller pushes then, where its thrust was read with the speed."""
    if asked.kind != "propeller" or asked.diameter is not None:
        return None
    own = next((d for d in reversed(theirs.driven) if d.what == asked.what and d.thrust_g), None)
    return thrust(own.thrust_g or 0.0, own.row.rpm, told, asked.gear) if own else None


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
        return operating_point(known, pack, load)
    except InputError:
        return None


def over_rated(motor: Motor, found: Outcome, told: Prediction | None = None) -> list[str]:
    """What comes out above what the maker allows, and what may."""
    said = []
    for rated, unit, value, low, high in _ratings(motor, found, told):
        if low > rated:
            said.append(Beyond(value, rated, unit).sentence)
        elif value > rated:
            said.append(f"It passes its rated {rated:g} {unit}, more likely than not.")
        elif high > rated:
            said.append(f"It may pass its rated {rated:g} {unit}.")
    return said


def passes_a_rating(motor: Motor, found: Outcome, told: Prediction | None = None) -> bool:
    """Whether anything comes out above what the maker allows, whatever the band."""
    return any(low > rated for rated, _, _, low, _ in _ratings(motor, found, told))


def _ratings(motor: Motor, found: Outcome, told: Prediction | None) -> Iterator[tuple[float, str, float, float, float]]:
    """Each rating that is known with its unit, what comes out, and the band of that."""
    for name, value, rated, unit in (
        ("amps", found.amps, motor.rated_a, "A"),
        ("watts_in", found.watts_in, motor.rated_w, "W"),
        ("rpm", found.rpm, motor.rated_rpm, "rpm"),
    ):
        if rated:
            yield rated, unit, value, *(told.band[name] if told else (value, value))


def best_step(found: Answer, tag: str, known: Mapping[str, Basis]) -> str:
    """Which of these motors gives the most at the shaft without passing a rating that is known, in words."""
    mine = known[tag]
    told = found.prediction
    own = (told.outcome, mine.motor, passes_a_rating(mine.motor, told.outcome, told))
    fitting = [own, *((b.outcome, b.motor, passes_a_rating(b.motor, b.outcome)) for b in found.beside)]
    rated = [(o, m, passes) for o, m, passes in fitting if m.tag == tag or m.rated_a or m.rated_w]
    within = [(o, m) for o, m, passes in rated if not passes]
    if not within or len(rated) < 2:
        return ""
    most, motor = max(within, key=lambda pair: pair[0].watts_out)
    if motor.tag == tag:
        return "None of these gives more at the shaft within its ratings."
    more = 100 * (most.watts_out / found.prediction.outcome.watts_out - 1)
    return f"{motor.tag} gives {more:.0f} % more at the shaft within its ratings." if more >= 1 else ""
