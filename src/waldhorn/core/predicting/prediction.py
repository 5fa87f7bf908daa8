"""What a motor will do with a load on a pack: amps, rpm, watts and heat, with the band they lie in.

The constants are fitted anew to rows that are shaken by what their meters leave open, and each fit predicts: the band
is what nine in ten of these say. Not for transients, and not for an aeroplane or a boat under way, where moving air or
water unloads the propeller (see `load`).

References
----------
.. [1] DC-equivalent circuit of a permanent-magnet machine (see `constants`).
.. [2] JCGM 101, Propagation of distributions using a Monte Carlo method, 2008.
"""

import math
from dataclasses import dataclass, fields

import numpy as np

from waldhorn.core.base.errors import InputError
from waldhorn.core.predicting.constants import (
    I0_EXPONENT,
    Constants,
    Floats,
    NoLoadCurrent,
    Row,
    columns,
    shaft_power,
    solve,
    spread,
    weights_of,
)
from waldhorn.core.predicting.guess import Guess
from waldhorn.core.predicting.operating_point import HALVINGS, Load, Outcome, Pack, operating_point

SHAKEN = 400
NINE_IN_TEN = (5.0, 95.0)
U_PACK = 0.10  # of the inner resistance of a pack: it changes with charge and warmth
U_IDLE = 0.10  # of the no-load current: under load it is not quite what it was without
U_EXPONENT = 0.15  # of the power with which it goes with the speed, where that was not read
U_OTHERS = 0.03  # of a load's power as another motor's constants give it
MOUNTING = 0.02  # of the thrust, from one mounting of a propeller to the next
HALF_BAND = 1.645  # standard uncertainties: half of what nine in ten take
U_MODEL = 0.01  # of the load's power: what a law of one power leaves out


@dataclass(frozen=True, slots=True)
class Prediction:
    """An outcome, and the band in which nine of ten lie, by name of its figures."""

    outcome: Outcome
    band: dict[str, tuple[float, float]]


@dataclass(frozen=True)
class Measured:
    """What a motor's constants rest on: its rows, the no-load current that goes with them, the resistance where it was
    measured with four wires, Ω, and how the no-load current goes with the speed."""

    rows: tuple[Row, ...]
    no_load_a: float
    four_wire_ohm: float | None = None
    no_load: NoLoadCurrent | None = None

    def shaken(self, rng: np.random.Generator, count: int) -> tuple[Floats, Floats, Floats, Floats, Floats, Floats]:
        """Resistance, volts per rpm and what the no-load current is more or less than it was read, as a factor, of so
        many shaken fits, shape (count,), and their rows' volts, amps and rpm, shape (count, n)."""
        read, doubt = columns(self.rows), spread(self.rows)
        v, a, n = (x + u * rng.standard_normal((count, len(x))) for x, u in zip(read, doubt, strict=True))
        idle = 1 + U_IDLE * rng.standard_normal(count)
        if self.four_wire_ohm is not None:
            resistance = self.four_wire_ohm * (1 + FOUR_WIRE_U * rng.standard_normal(count))
            weights = weights_of(self.rows)
            slope = (weights * (v - resistance[:, None] * a) * n).sum(axis=1) / (weights * n**2).sum(axis=1)
        else:
            resistance, slope = solve(v, a, n, weights_of(self.rows))
        return resistance, slope, idle, v, a, n


def thrust(thrust_g: float, rpm: float, told: Prediction, gear: float = 1.0) -> tuple[float, float, float]:
    """What a propeller pushes at the speed that is foretold.

    Parameters
    ----------
    thrust_g, rpm : float
        g and the propeller's own rpm, of a row that drove it.
    told : Prediction
    gear : float
        Motor turns to one of the propeller.

    Returns
    -------
    tuple of float
        g, and the band in which nine of ten lie.

    Notes
    -----
    Formula: T·(n'/n)², u² = (2·u(n')/n')² + 2·(2 %)²: one mounting of the propeller to the next, once a row

    Source: a fixed propeller in still air; [2]_.

    Examples
    --------
    >>> from waldhorn.core.predicting.operating_point import Outcome
    >>> told = Prediction(Outcome(11.4, 12.37, 10228, 141, 120, 0.85, 21), {"rpm": (10126.0, 10330.0)})
    >>> [round(g) for g in thrust(640, 9025, told)]
    [822, 780, 864]
    """
    found = thrust_g * (told.outcome.rpm / gear / rpm) ** 2
    low, high = told.band["rpm"]
    wide = math.hypot((high - low) / told.outcome.rpm, HALF_BAND * math.sqrt(2) * MOUNTING)
    return found, found * (1 - wide), found * (1 + wide)


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
        raise InputError("rows", "no row at full throttle with volts, amps and rpm: pull it once")
    volts, amps, rpm = columns(measured.rows)
    weights, ohm = weights_of(measured.rows) if len(measured.rows) > 2 else np.ones_like(volts), measured.four_wire_ohm
    slope = float((weights * (volts - ohm * amps) * rpm).sum() / (weights * rpm**2).sum())
    u_slope = slope * math.hypot(0.003, FOUR_WIRE_U * ohm * float(amps.mean()) / float(volts.mean()))
    u_kv = u_slope / slope**2
    return Constants(ohm, 1 / slope, measured.no_load_a, FOUR_WIRE_U * ohm, u_kv, no_load=measured.no_load)


def predict(
    constants: Constants, measured: Measured | Guess, pack: Pack, load: Load, own_row: int | None = None, seed: int = 1
) -> Prediction:
    """What a motor will do, and the band of it.

    Parameters
    ----------
    constants : Constants
        Fitted to what was measured, or guessed.
    measured : Measured or Guess
    pack : Pack
    load : Load
        Its constant from `own_row` of the rows, or from another motor.
    own_row : int, optional
        Which of the rows the load's constant was taken from: what is wrong with that row is then wrong with both.
    seed : int
        Of the shaking, so that the same asks give the same answers.

    Returns
    -------
    Prediction

    Notes
    -----
    Formula: the middle 90 % of the outcomes of shaken fits

    Source: [2]_.
    """
    outcome = operating_point(constants, pack, load)
    rng = np.random.default_rng(seed)
    resistance, slope, idle, v, a, _ = measured.shaken(rng, SHAKEN)
    exponent = I0_EXPONENT + U_EXPONENT * rng.standard_normal(SHAKEN)

    def no_load(rpm: Floats) -> Floats:
        read = constants.no_load.at(rpm, exponent) if constants.no_load else constants.no_load_a
        return np.asarray(idle * read)

    k = np.full(SHAKEN, load.k)
    if own_row is not None and isinstance(measured, Measured):
        row = measured.rows[own_row]
        back = v[:, own_row] - a[:, own_row] * resistance
        turned = (row.volts - row.amps * constants.resistance_ohm) * constants.kv
        watts = back * (a[:, own_row] - no_load(back / slope))
        k *= watts / shaft_power(constants, row.volts, row.amps) * (turned * slope / back) ** load.exponent
    else:
        k *= 1 + U_OTHERS * rng.standard_normal(SHAKEN)
    k = np.maximum(k * (1 + U_MODEL * rng.standard_normal(SHAKEN)), 1e-300)
    inner = pack.inner_ohm * (1 + U_PACK * rng.standard_normal(SHAKEN))
    kv = 1 / slope
    low, high = np.zeros(SHAKEN), pack.rest_v * kv
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        amps = (pack.rest_v - middle / kv) / (resistance + inner)
        needed = k * middle ** (load.exponent - 1) / load.gear**load.exponent / load.gear_share
        spare = (amps - no_load(middle)) / kv > needed
        low, high = np.where(spare, middle, low), np.where(spare, high, middle)
    amps = (pack.rest_v - low / kv) / (resistance + inner)
    volts = pack.rest_v - amps * inner
    out = (volts - amps * resistance) * (amps - no_load(low))
    shaken = {
        "amps": amps,
        "volts": volts,
        "rpm": low,
        "watts_in": volts * amps,
        "watts_out": out,
        "efficiency": out / (volts * amps),
        "heat_w": volts * amps - out,
    }
    named = (f.name for f in fields(Outcome))
    band = {name: tuple(float(x) for x in np.percentile(shaken[name], NINE_IN_TEN)) for name in named}
    return Prediction(outcome, {name: (pair[0], pair[1]) for name, pair in band.items()})
