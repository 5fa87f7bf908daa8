"""The three constants of a motor: its resistance, its speed constant, and the current it draws without load.

For full throttle at one timing. Not for what is judged from check to check (see `kv`, `current`), and not for what a
motor will do with a load (see `predict`).

References
----------
.. [1] DC-equivalent circuit of a permanent-magnet machine: V = R·I + n/Kv, torque k_t·(I − I0).
.. [2] JCGM 100, Guide to the expression of uncertainty in measurement, 2008.
.. [3] Copper and slot area being equal, R goes with the square of the turns.
.. [4] IEC 60034-2-1, segregation of no-load losses; the power 0.6 of the volts is bench practice.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.base.errors import InputError
from waldhorn.core.measuring.losses import DIGIT_A, U_AMPS

LOADED = 10.0  # times the no-load current: a row that tells the resistance
I0_EXPONENT = 0.6  # of the speed, with which the no-load current goes where one speed alone was read
LEAST_SPEEDS, LEAST_SPAN = 3, 2.0  # rows without load, and fastest over slowest, from which a line is drawn
LOOSEST_R = 0.25  # of the resistance: a fit that knows it less well than that is refused
# One standard uncertainty of what hand meters show, as a share, with what their last digit hides.
U_VOLTS, U_RPM = 0.003, 0.001
DIGIT_V = 0.005

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Row:
    """What was read at full throttle: V at the motor, A, rpm."""

    volts: float
    amps: float
    rpm: float


@dataclass(frozen=True, slots=True)
class NoLoadCurrent:
    """How the no-load current goes with the speed: A at the speed in rpm at which it was read, and A for each rpm more
    where enough speeds were read to tell; else it goes with a power of the speed [4]_."""

    amps: float
    rpm: float
    per_rpm: float | None = None

    def at(self, rpm: Floats | float, exponent: Floats | float = I0_EXPONENT) -> Floats:
        """A at a speed; never below nothing."""
        if self.per_rpm is not None:
            return np.maximum(self.amps + self.per_rpm * (np.asarray(rpm) - self.rpm), 0.0)
        return np.asarray(self.amps * (np.maximum(rpm, 0.0) / self.rpm) ** exponent)

    def times(self, factor: float) -> "NoLoadCurrent":
        """So many times as much, at every speed."""
        return NoLoadCurrent(
            self.amps * factor, self.rpm, self.per_rpm if self.per_rpm is None else self.per_rpm * factor
        )


def no_load_current(rows: Sequence[Row]) -> NoLoadCurrent | None:
    """How the no-load current goes with the speed.

    Parameters
    ----------
    rows : sequence of Row
        Without load, at full throttle.

    Returns
    -------
    NoLoadCurrent or None
        None without a row.

    Notes
    -----
    Formula: k_t·I0 = T_c + B·ω by least squares, of three rows or more of which the fastest turns twice as fast as the
    slowest; else I0 ∝ n^0.6 from the median row

    Source: [4]_.

    Examples
    --------
    >>> idle = no_load_current([Row(3.7, 0.40, 3364), Row(7.4, 0.47, 6760), Row(11.1, 0.55, 10156)])
    >>> round(float(idle.at(13215)), 3)
    0.616
    >>> round(float(no_load_current([Row(11.1, 0.55, 10156)]).at(13215)), 3)
    0.644
    """
    if not rows:
        return None
    _, amps, rpm = columns(rows)
    middle = float(np.median(rpm))
    if middle <= 0:
        return None
    if len(rows) >= LEAST_SPEEDS and rpm.max() >= LEAST_SPAN * rpm.min():
        per_rpm = float(np.polyfit(rpm, amps, 1)[0])
        return NoLoadCurrent(float(amps.mean() + per_rpm * (middle - rpm.mean())), middle, per_rpm)
    return NoLoadCurrent(float(np.median(amps)), middle)


@dataclass(frozen=True, slots=True)
class Constants:
    """R in Ω and Kv in rpm/V, each with one standard uncertainty, and the no-load current in A that goes with them, at
    any speed where it is not known how it goes with it; `odd_row` is the row, from 0, that fits none of the others."""

    resistance_ohm: float
    kv: float
    no_load_a: float
    u_resistance: float
    u_kv: float
    odd_row: int | None = None
    no_load: NoLoadCurrent | None = None

    def no_load_at(self, rpm: float) -> float:
        """No-load current at a speed, A."""
        return float(self.no_load.at(rpm)) if self.no_load else self.no_load_a

    @property
    def torque_constant(self) -> float:
        """N·m per A."""
        return 60 / (2 * math.pi * self.kv)


def fit(rows: Sequence[Row], no_load_a: float, u_volts: float | None = None) -> Constants:
    """Constants of a motor from rows read without load and under load.

    Parameters
    ----------
    rows : sequence of Row
        At two voltages or loads at least, one of them at ten times the no-load current.
    no_load_a : float
        A, at full throttle.
    u_volts : float, optional
        V, one standard uncertainty of the volts of a row; by default that of a hand meter.

    Returns
    -------
    Constants

    Raises
    ------
    InputError
        The rows cannot tell the resistance; in words what is missing.

    Notes
    -----
    Formula: V = R·I + n/Kv, weighted least squares without intercept; u times √(χ²/ν) where that is above one

    Source: [1]_, [2]_. Limits: full throttle, one timing; R grows with the temperature of the winding.

    Examples
    --------
    >>> idle = [Row(3.7, 0.40, 3364), Row(7.4, 0.47, 6760), Row(11.1, 0.55, 10156)]
    >>> found = fit([*idle, Row(10.8, 9.0, 9025), Row(10.4, 14.0, 8151)], 0.55, u_volts=0.05)
    >>> round(found.resistance_ohm, 3), round(found.kv), round(found.u_resistance, 4)
    (0.11, 920, 0.0042)
    """
    _refuse_few(rows, no_load_a)
    volts, amps, rpm = columns(rows)
    if len({(r.volts, r.amps, r.rpm) for r in rows}) < 2:
        raise InputError("rows", "these rows are all alike: add one at another voltage and one under load")
    weights = 1 / np.full_like(volts, u_volts) ** 2 if u_volts else weights_of(rows)
    saa, sann, snn = ((weights * a * b).sum() for a, b in ((amps, amps), (amps, rpm), (rpm, rpm)))
    det = saa * snn - sann**2
    resistance, slope = solve(volts, amps, rpm, weights)
    r, per_volt = float(resistance), float(slope)
    wider = max(1.0, math.sqrt(misfit(rows, weights) / (len(rows) - 2))) if len(rows) > 2 else 1.0
    u_r, u_slope = math.sqrt(snn / det), math.sqrt(saa / det)
    if r <= 0 or per_volt <= 0 or u_r > LOOSEST_R * r:
        raise InputError("rows", f"{len(rows)} rows do not tell R better than ± {u_r:.2g} Ω: {_ADVICE}")
    return Constants(r, 1 / per_volt, no_load_a, wider * u_r, wider * u_slope / per_volt**2, odd_row(rows, weights))


def misfit(rows: Sequence[Row], weights: Floats) -> float:
    """How far rows lie from the constants that fit them best: χ², in their uncertainties squared.

    Parameters
    ----------
    rows : sequence of Row
        Steady rows under load.
    weights : ndarray of float64
        (n,), 1 over the variance of each.
    """
    volts, amps, rpm = columns(rows)
    resistance, slope = solve(volts, amps, rpm, weights)
    return float((weights * (volts - resistance * amps - slope * rpm) ** 2).sum())


def odd_row(rows: Sequence[Row], weights: Floats) -> int | None:
    """The row that fits none of the others, where there is one.

    Parameters
    ----------
    rows : sequence of Row
    weights : array
        1/V², shape (n,).

    Returns
    -------
    int or None
        From 0; None where all fit, or where leaving one out does not mend it.

    Notes
    -----
    Formula: χ² of all beyond its 99.9 % point, without the row least, and within its 95 % point. Of two rows under load
    either may be left out; the one is named without which the others fit best.

    Source: [2]_.

    Examples
    --------
    >>> idle = [Row(3.7, 0.40, 3364), Row(7.4, 0.47, 6760), Row(11.1, 0.55, 10156)]
    >>> slip = [*idle, Row(11.8, 9.0, 9025), Row(10.4, 14.0, 8151)]
    >>> odd_row(slip, np.full(5, 1 / 0.05**2))
    3
    >>> found = fit(slip, 0.55, u_volts=0.05)
    >>> round(found.resistance_ohm, 3), round(found.u_resistance, 3)
    (0.131, 0.04)
    """
    left = len(rows) - 3
    if left < 1:
        return None
    from scipy.special import chdtri  # a while to load, and few rows ask

    if misfit(rows, weights) < chdtri(left + 1, 0.001):
        return None
    without = [misfit([r for k, r in enumerate(rows) if k != i], np.delete(weights, i)) for i in range(len(rows))]
    best = min(without)
    return without.index(best) if best < chdtri(left, 0.05) else None


_ADVICE = "add one under a heavier load, or measure it with four wires"


def _refuse_few(rows: Sequence[Row], no_load_a: float) -> None:
    if not any(row.amps >= LOADED * no_load_a for row in rows):
        count = {1: "one row", 2: "two rows", 3: "three rows"}.get(len(rows), f"{len(rows)} rows")
        raise InputError(
            "rows", f"{count} without load cannot tell R: add one under load, or measure it with four wires"
        )
    if len(rows) < 2:
        raise InputError("rows", "one row cannot tell R and Kv apart: add one without load")


def columns(rows: Sequence[Row]) -> tuple[Floats, Floats, Floats]:
    """Volts, amps and rpm of rows, shape (n,) each."""
    table = np.array([(r.volts, r.amps, r.rpm) for r in rows], dtype=float).reshape(-1, 3)
    return table[:, 0], table[:, 1], table[:, 2]


def spread(rows: Sequence[Row]) -> tuple[Floats, Floats, Floats]:
    """One standard uncertainty of volts, amps and rpm of rows as a hand meter reads them, shape (n,) each."""
    volts, amps, rpm = columns(rows)
    return np.hypot(U_VOLTS * volts, DIGIT_V), np.hypot(U_AMPS * amps, DIGIT_A), U_RPM * rpm


def weights_of(rows: Sequence[Row]) -> Floats:
    """What each row weighs, 1/V², shape (n,): its volts, and what its amps and rpm add to them, through a first fit."""
    volts, amps, rpm = columns(rows)
    u_volts, u_amps, u_rpm = spread(rows)
    resistance, slope = solve(volts, amps, rpm, np.ones_like(volts))
    of_amps, of_rpm = np.abs(resistance) * u_amps, np.abs(slope) * u_rpm
    weights: Floats = 1 / (u_volts**2 + of_amps**2 + of_rpm**2)
    return weights


def solve(volts: Floats, amps: Floats, rpm: Floats, weights: Floats) -> tuple[Floats, Floats]:
    """Resistance in Ω and volts per rpm by least squares over the last axis, of one set of rows or of many.

    Parameters
    ----------
    volts : ndarray of float64
        (..., n), V at the motor.
    amps : ndarray of float64
        (..., n), A.
    rpm : ndarray of float64
        (..., n), 1/min.
    weights : ndarray of float64
        (..., n), 1 over the variance of each.
    """
    saa, sann, snn = ((weights * a * b).sum(axis=-1) for a, b in ((amps, amps), (amps, rpm), (rpm, rpm)))
    sva, svn = (weights * volts * amps).sum(axis=-1), (weights * volts * rpm).sum(axis=-1)
    det = saa * snn - sann**2
    return (sva * snn - svn * sann) / det, (svn * saa - sva * sann) / det


def shaft_power(constants: Constants, volts: float, amps: float) -> float:
    """Power at the shaft.

    Parameters
    ----------
    constants : Constants
    volts, amps : float
        V at the motor, A.

    Returns
    -------
    float
        W.

    Notes
    -----
    Formula: P_s = (V − I·R)·(I − I0(n)), n = (V − I·R)·Kv

    Source: [1]_.

    Examples
    --------
    >>> round(shaft_power(Constants(0.11, 920, 0.55, 0, 0), 10.8, 9.0), 1)
    82.9
    """
    back = volts - amps * constants.resistance_ohm
    return back * (amps - constants.no_load_at(back * constants.kv))


def best_current(constants: Constants, volts: float) -> tuple[float, float]:
    """The current at which a motor is most efficient, and how efficient.

    Parameters
    ----------
    constants : Constants
    volts : float
        V at the motor.

    Returns
    -------
    tuple of float
        A, and the share of the input that reaches the shaft.

    Notes
    -----
    Formula: I* = √(I0·V/R), η_max = (1 − √(I0·R/V))²

    Source: [1]_.

    Examples
    --------
    >>> amps, share = best_current(Constants(0.11, 920, 0.55, 0, 0), 11.1)
    >>> round(amps, 2), round(share, 3)
    (7.45, 0.858)
    """
    i0, r = constants.no_load_at(volts * constants.kv), constants.resistance_ohm
    if r <= 0:
        return math.inf, 1.0  # a winding that costs nothing is the better the more it carries
    return math.sqrt(i0 * volts / r), (1 - math.sqrt(i0 * r / volts)) ** 2


def wound_for(constants: Constants, kv: float) -> Constants:
    """The constants of the same motor wound for another KV, with as much copper in its slots.

    Parameters
    ----------
    constants : Constants
    kv : float
        rpm/V.

    Returns
    -------
    Constants

    Notes
    -----
    Formula: R·(Kv/Kv')², I0·Kv'/Kv: the motor constant k_t/√R and the torque of its losses stay

    Source: [1]_, [3]_.

    Examples
    --------
    >>> found = wound_for(Constants(0.110, 920, 0.55, 0.0042, 4), 1150)
    >>> round(found.resistance_ohm, 4), round(found.no_load_a, 4)
    (0.0704, 0.6875)
    """
    times = kv / constants.kv
    return Constants(
        constants.resistance_ohm / times**2,
        kv,
        constants.no_load_a * times,
        constants.u_resistance / times**2,
        constants.u_kv * times,
        no_load=constants.no_load and constants.no_load.times(times),
    )
