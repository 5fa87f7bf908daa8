"""What a motor will do with a load on a pack: amps, rpm, watts and heat, with the band they lie in.

The constants are fitted anew to rows that are shaken by what their meters leave open, and each fit foretells: the band
is what nine in ten of these say. Not for transients, and not for an aeroplane or a boat under way, where moving air or
water unloads the propeller (see `load`).

References
----------
.. [1] DC-equivalent circuit of a permanent-magnet machine (see `constants`).
.. [2] A propeller of fixed pitch in still air or water takes P = k·n³; a wheel that rolls takes a torque of its own.
.. [3] JCGM 101, Propagation of distributions using a Monte Carlo method, 2008.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, fields

import numpy as np
from scipy.optimize import brentq

from waldhorn.core.constants import Constants, Floats, Row, columns, shaft_power, solve, spread, weights_of
from waldhorn.core.errors import Refused

PROPELLER, WHEEL = 3.0, 1.0  # power grows with this power of the speed
SHAKEN = 400
NINE_IN_TEN = (5.0, 95.0)
U_PACK = 0.10  # of the inner resistance of a pack: it changes with charge and warmth
U_IDLE = 0.10  # of the no-load current: at the speed under load it is not quite what it was without
U_OTHERS = 0.03  # of a load's power as another motor's constants give it
U_MODEL = 0.01  # of the load's power: what a law of one power leaves out
_HALVINGS = 50


@dataclass(frozen=True, slots=True)
class Pack:
    """A pack: V at rest, Ω inside."""

    rest_v: float
    inner_ohm: float


@dataclass(frozen=True, slots=True)
class Load:
    """A propeller or wheel: power k·n^exponent in W at its own speed in rpm; its gear, motor turns to one of its own,
    and what share of the power passes the gear."""

    k: float
    exponent: float = PROPELLER
    gear: float = 1.0
    gear_share: float = 1.0


@dataclass(frozen=True, slots=True)
class Outcome:
    """What comes out: A, V at the motor, rpm of the motor, W in, W at the shaft, efficiency, W turned to heat."""

    amps: float
    volts: float
    rpm: float
    watts_in: float
    watts_out: float
    efficiency: float
    heat_w: float


@dataclass(frozen=True, slots=True)
class Foretold:
    """An outcome, and the band in which nine of ten lie, by name of its figures."""

    outcome: Outcome
    band: dict[str, tuple[float, float]]


def load_constant(watts: float, rpm: float, exponent: float = PROPELLER) -> float:
    """The constant of a propeller or wheel from one row.

    Parameters
    ----------
    watts : float
        W at its shaft.
    rpm : float
        Its own speed.
    exponent : float
        Of the law it follows.

    Returns
    -------
    float
        W per rpm to that power.

    Notes
    -----
    Formula: k = P/n³

    Source: [2]_.

    Examples
    --------
    >>> round(load_constant(82.9, 9025) * 1e10, 3)
    1.128
    """
    if not rpm > 0 or not watts > 0:
        raise Refused("load", "this row drove nothing: it needs a speed, and more current than without load")
    return float(watts / rpm**exponent)


def operating_point(constants: Constants, pack: Pack, load: Load) -> Outcome:
    """Where motor, pack and load meet.

    Parameters
    ----------
    constants : Constants
    pack : Pack
    load : Load

    Returns
    -------
    Outcome

    Raises
    ------
    Refused
        The pack cannot turn it at all.

    Notes
    -----
    Formula: V_oc − I·(R + R_pack) = n/Kv and (n/Kv)·(I − I0)·η_gear = k·(n/G)³

    Source: [1]_, [2]_.

    Examples
    --------
    >>> motor = Constants(0.11, 920, 0.55, 0, 0)
    >>> k = load_constant(shaft_power(motor, 10.8, 9.0), 9025)
    >>> found = operating_point(motor, Pack(12.6, 0.020), Load(k))
    >>> round(found.amps, 2), round(found.rpm, -1), round(found.watts_out, 1), round(found.efficiency, 3)
    (11.4, 10230.0, 120.7, 0.855)
    """
    ohm = constants.resistance_ohm + pack.inner_ohm
    free = pack.rest_v * constants.kv

    def spare(rpm: float) -> float:
        """Torque left over at a speed, in A per rpm of Kv."""
        amps = (pack.rest_v - rpm / constants.kv) / ohm
        needed = load.k * rpm ** (load.exponent - 1) / load.gear**load.exponent / load.gear_share
        return float((amps - constants.no_load_a) / constants.kv - needed)

    lowest = 1.0
    if spare(lowest) <= 0:
        raise Refused("pack", f"{pack.rest_v:g} V do not turn this load: more volts, or a smaller one")
    return _outcome(constants, pack, float(brentq(spare, lowest, free)))


def _outcome(constants: Constants, pack: Pack, rpm: float) -> Outcome:
    amps = (pack.rest_v - rpm / constants.kv) / (constants.resistance_ohm + pack.inner_ohm)
    volts = pack.rest_v - amps * pack.inner_ohm
    out = shaft_power(constants, volts, amps)
    return Outcome(amps, volts, rpm, volts * amps, out, out / (volts * amps), volts * amps - out)


@dataclass(frozen=True)
class Measured:
    """What a motor's constants rest on: its rows, the no-load current that goes with them, and the resistance where it
    was measured with four wires, Ω."""

    rows: tuple[Row, ...]
    no_load_a: float
    four_wire_ohm: float | None = None

    def shaken(self, rng: np.random.Generator, count: int) -> tuple[Floats, Floats, Floats, Floats, Floats, Floats]:
        """Resistance, volts per rpm and no-load current of so many shaken fits, shape (count,), and their rows' volts,
        amps and rpm, shape (count, n)."""
        read, doubt = columns(self.rows), spread(self.rows)
        v, a, n = (x + u * rng.standard_normal((count, len(x))) for x, u in zip(read, doubt, strict=True))
        idle = self.no_load_a * (1 + U_IDLE * rng.standard_normal(count))
        if self.four_wire_ohm is not None:
            resistance = self.four_wire_ohm * (1 + FOUR_WIRE_U * rng.standard_normal(count))
            weights = weights_of(self.rows)
            slope = (weights * (v - resistance[:, None] * a) * n).sum(axis=1) / (weights * n**2).sum(axis=1)
        else:
            resistance, slope = solve(v, a, n, weights_of(self.rows))
        return resistance, slope, idle, v, a, n


FOUR_WIRE_U = 0.03  # of a winding's resistance with four wires: what leads and warmth leave open


def with_four_wires(measured: Measured) -> Constants:
    """Constants of a motor whose resistance was measured with four wires: the rows give Kv alone.

    Parameters
    ----------
    measured : Measured
        Its rows may all be without load.

    Returns
    -------
    Constants

    Notes
    -----
    Formula: 1/Kv = Σ w·(V − R·I)·n / Σ w·n²

    Source: [1]_.

    Examples
    --------
    >>> found = with_four_wires(Measured((Row(11.1, 0.55, 10156),), 0.55, 0.11))
    >>> round(found.kv)
    920
    """
    if measured.four_wire_ohm is None or not measured.rows:
        raise Refused("rows", "no row at full throttle with volts, amps and rpm: pull it once")
    volts, amps, rpm = columns(measured.rows)
    weights, ohm = weights_of(measured.rows) if len(measured.rows) > 2 else np.ones_like(volts), measured.four_wire_ohm
    slope = float((weights * (volts - ohm * amps) * rpm).sum() / (weights * rpm**2).sum())
    u_slope = slope * math.hypot(0.003, FOUR_WIRE_U * ohm * float(amps.mean()) / float(volts.mean()))
    return Constants(ohm, 1 / slope, measured.no_load_a, FOUR_WIRE_U * ohm, u_slope / slope**2)


def foretell(
    constants: Constants, measured: Measured, pack: Pack, load: Load, own_row: int | None = None, seed: int = 1
) -> Foretold:
    """What a motor will do, and the band of it.

    Parameters
    ----------
    constants : Constants
        Fitted to what was measured.
    measured : Measured
    pack : Pack
    load : Load
        Its constant from `own_row` of the rows, or from another motor.
    own_row : int, optional
        Which of the rows the load's constant was taken from: what is wrong with that row is then wrong with both.
    seed : int
        Of the shaking, so that the same asks give the same answers.

    Returns
    -------
    Foretold

    Notes
    -----
    Formula: the middle 90 % of the outcomes of shaken fits

    Source: [3]_.
    """
    outcome = operating_point(constants, pack, load)
    rng = np.random.default_rng(seed)
    resistance, slope, idle, v, a, n = measured.shaken(rng, SHAKEN)
    k = np.full(SHAKEN, load.k)
    if own_row is not None:
        row = measured.rows[own_row]
        watts = (v[:, own_row] - a[:, own_row] * resistance) * (a[:, own_row] - idle)
        k *= watts / shaft_power(constants, row.volts, row.amps) * (row.rpm / n[:, own_row]) ** load.exponent
    else:
        k *= 1 + U_OTHERS * rng.standard_normal(SHAKEN)
    k = np.maximum(k * (1 + U_MODEL * rng.standard_normal(SHAKEN)), 1e-300)
    inner = pack.inner_ohm * (1 + U_PACK * rng.standard_normal(SHAKEN))
    kv = 1 / slope
    low, high = np.zeros(SHAKEN), pack.rest_v * kv
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        amps = (pack.rest_v - middle / kv) / (resistance + inner)
        needed = k * middle ** (load.exponent - 1) / load.gear**load.exponent / load.gear_share
        spare = (amps - idle) / kv > needed
        low, high = np.where(spare, middle, low), np.where(spare, high, middle)
    amps = (pack.rest_v - low / kv) / (resistance + inner)
    volts = pack.rest_v - amps * inner
    out = (volts - amps * resistance) * (amps - idle)
    shaken = {"amps": amps, "volts": volts, "rpm": low, "watts_in": volts * amps, "watts_out": out,
              "efficiency": out / (volts * amps), "heat_w": volts * amps - out}  # fmt: skip
    named = (f.name for f in fields(Outcome))
    band = {name: tuple(float(x) for x in np.percentile(shaken[name], NINE_IN_TEN)) for name in named}
    return Foretold(outcome, {name: (pair[0], pair[1]) for name, pair in band.items()})


def curve(constants: Constants, pack: Pack, load: Load, shares: Sequence[float]) -> list[tuple[float, Outcome]]:
    """What comes out over the volts at rest, as shares of those of the pack; what cannot turn is left out.

    Parameters
    ----------
    constants : Constants
    pack : Pack
    load : Load
    shares : sequence of float

    Returns
    -------
    list of (float, Outcome)
        V at rest, and what comes out.

    Notes
    -----
    Formula: see `operating_point`

    Source: [1]_.
    """
    found = []
    for share in shares:
        weaker = Pack(pack.rest_v * share, pack.inner_ohm)
        try:
            found.append((weaker.rest_v, operating_point(constants, weaker, load)))
        except Refused:
            continue
    return found
