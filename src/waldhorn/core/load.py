"""Load rows and the flywheel: what a motor does with a propeller, a wheel or a known inertia on its shaft.

Not for no-load figures (see `kv`, `current`). High power with low efficiency means heat: the rows say so.

References
----------
.. [1] Beer, Johnston, Vector Mechanics for Engineers: Dynamics (torque = J·dω/dt).
.. [2] Bench practice.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import mean

import numpy as np

from waldhorn.core.errors import Refused

WATTS_TOLERANCE_PCT = 3.0
UNLOADED = (0.60, 0.65)  # running current against bench current, once moving air unloads the propeller [2]
LOW_EFFICIENCY_G_PER_W = 4.0  # below this at over 100 W the row is warned about [2]
HIGH_POWER_W = 100.0
_NEIGHBOURS = 0.15  # share of the speed range around the wanted speed that a slope is taken over


@dataclass(frozen=True, slots=True)
class LoadRow:
    """One load row as read: V at rest and under load, A, W (None when not shown), rpm, thrust in g."""

    what: str
    rest_v: float | None = None
    load_v: float | None = None
    amps: float | None = None
    watts: float | None = None
    rpm: float | None = None
    thrust_g: float | None = None


def power(row: LoadRow) -> float | None:
    """Electrical power of a row.

    Formula: P = V·I, the shown watts where volts or amps are missing

    Parameters
    ----------
    row : LoadRow

    Returns
    -------
    float, W, or None

    Source: definition.

    >>> round(power(LoadRow("6x4", load_v=11.1, amps=20)), 1)
    222.0
    """
    return row.load_v * row.amps if row.load_v and row.amps else row.watts


def watts_mismatch(row: LoadRow) -> float | None:
    """How far the shown watts are from volts times amps.

    Formula: 100·(W / (V·I) − 1)

    Parameters
    ----------
    row : LoadRow

    Returns
    -------
    float, percent, or None when one of the three is missing; over 3 % one of them is not to be believed

    Source: [2]_.

    >>> round(watts_mismatch(LoadRow("6x4", load_v=11.1, amps=20, watts=240)), 1)
    8.1
    """
    if not (row.load_v and row.amps and row.watts):
        return None
    return 100 * (row.watts / (row.load_v * row.amps) - 1)


def sag(rest_v: float, load_v: float) -> float:
    """How far the supply sags under load.

    Formula: sag = 100·(1 − V_load / V_rest)

    Parameters
    ----------
    rest_v, load_v : float, V

    Returns
    -------
    float, percent

    Raises
    ------
    Refused : the voltage at rest is not above zero

    Source: definition.

    >>> round(sag(12.6, 11.1), 1)
    11.9
    """
    if rest_v <= 0:
        raise Refused("rest_volts", f"volts at rest {rest_v:g} V must be above 0")
    return 100 * (1 - load_v / rest_v)


def grams_per_watt(thrust_g: float, watts: float) -> float:
    """Thrust bought by each watt.

    Formula: g/W = thrust / P

    Parameters
    ----------
    thrust_g : float, g
    watts : float, W, above 0

    Returns
    -------
    float, g/W

    Raises
    ------
    Refused : the power is not above zero

    Source: [2]_.

    >>> grams_per_watt(900, 180)
    5.0
    """
    if watts <= 0:
        raise Refused("load_watts", f"power {watts:g} W must be above 0 to divide by")
    return thrust_g / watts


def thrust_to_mass(thrust_g: float, mass_g: float) -> float:
    """Thrust against the mass of the motor.

    Formula: thrust / mass

    Parameters
    ----------
    thrust_g, mass_g : float, g, mass above 0

    Returns
    -------
    float, no unit

    Source: definition.

    >>> thrust_to_mass(900, 180)
    5.0
    """
    return thrust_g / mass_g


def running_current(bench_a: float) -> tuple[float, float]:
    """Current to be expected under way.

    Formula: bench current × 0.60 to 0.65

    Parameters
    ----------
    bench_a : float, A, on the stand

    Returns
    -------
    (low, high) in A

    Source: [2]_.

    >>> running_current(40)
    (24.0, 26.0)
    """
    return bench_a * UNLOADED[0], bench_a * UNLOADED[1]


def means_heat(row: LoadRow) -> bool:
    """Whether a row is high power with low efficiency.

    Formula: P > 100 W and g/W < 4

    Parameters
    ----------
    row : LoadRow

    Returns
    -------
    bool

    Source: [2]_.

    >>> means_heat(LoadRow("8x6", load_v=10.8, amps=30, thrust_g=900))
    True
    """
    watts = power(row)
    return bool(watts and row.thrust_g and watts > HIGH_POWER_W and row.thrust_g / watts < LOW_EFFICIENCY_G_PER_W)


def flywheel_torque(inertia_kgm2: float, seconds: Sequence[float], rpm: Sequence[float], at_rpm: float) -> float:
    """Torque from how fast a flywheel of known inertia speeds up.

    Formula: T = J·dω/dt, slope by least squares over the part of the trace near the stated speed

    Parameters
    ----------
    inertia_kgm2 : float, kg·m²
    seconds : n ≥ 3 floats, s, rising
    rpm : n floats, rpm
    at_rpm : float, rpm, within the trace

    Returns
    -------
    float, mN·m

    Raises
    ------
    Refused : an inertia that is not above zero, a trace too short or not rising in time, a speed outside it

    Source: [1]_.

    >>> round(flywheel_torque(1e-4, [0, 1, 2], [0, 3000, 6000], 3000), 2)
    31.42
    """
    if inertia_kgm2 <= 0:
        raise Refused("inertia", f"an inertia of {inertia_kgm2:g} kg·m² must be above 0")
    t, n = _trace(seconds, rpm)
    if not n.min() <= at_rpm <= n.max():
        raise Refused("at_rpm", f"{at_rpm:g} rpm is outside the trace: {n.min():g} to {n.max():g}")
    up = slice(0, int(n.argmax()) + 1)
    near = np.argsort(np.abs(n[up] - at_rpm), kind="stable")[: max(3, int(_NEIGHBOURS * len(n[up])))]
    if len(near) < 3:
        raise Refused("trace", "the trace has fewer than three points on the way up: record it finer")
    slope = float(np.polyfit(t[up][near], n[up][near], 1)[0])
    return 1e3 * inertia_kgm2 * slope * 2 * math.pi / 60


def response(seconds: Sequence[float], rpm: Sequence[float]) -> float:
    """How quickly a motor follows the throttle, from a trace of 10 → 50 → 10 %.

    Formula: mean of |Δrpm/Δt| over the trace

    Parameters
    ----------
    seconds : n ≥ 3 floats, s, rising
    rpm : n floats, rpm

    Returns
    -------
    float, rpm/s

    Raises
    ------
    Refused : a trace too short or not rising in time

    Source: [2]_.

    >>> response([0, 1, 2], [1000, 5000, 1000])
    4000.0
    """
    t, n = _trace(seconds, rpm)
    return float(np.abs(np.diff(n) / np.diff(t)).mean())


def _trace(seconds: Sequence[float], rpm: Sequence[float]) -> tuple[np.ndarray, np.ndarray]:
    t, n = np.asarray(seconds, float), np.asarray(rpm, float)
    if len(t) != len(n) or len(t) < 3:
        raise Refused("trace", "a trace needs at least three lines of seconds, rpm")
    if (np.diff(t) <= 0).any():
        raise Refused("trace", "the seconds of a trace must rise from line to line")
    return t, n


def fleet_score(
    mine: Mapping[str, float], fleet: Sequence[Mapping[str, float]], mass_g: float | None, masses_g: Sequence[float]
) -> float | None:
    """Score of a motor against its fleet.

    Formula: mean over measures of 100·mine / fleet mean, × (mean mass ÷ mass) where masses are known

    Parameters
    ----------
    mine : measure name to value, more is better, above 0
    fleet : the same of every motor of the fleet, this one among them
    mass_g : float or None, g, of this motor
    masses_g : floats, g, of the fleet

    Returns
    -------
    float, 100 is the fleet's mean, or None when nothing compares (fewer than two motors)

    Source: [2]_.

    >>> fleet_score({"torque": 110.0}, [{"torque": 110.0}, {"torque": 90.0}], 100.0, [100.0, 120.0])
    121.0
    """
    shares = []
    for name, value in mine.items():
        others = [f[name] for f in fleet if f.get(name, 0) > 0]
        if len(others) >= 2 and value > 0:
            shares.append(100 * value / mean(others))
    if not shares:
        return None
    lighter = mean(masses_g) / mass_g if mass_g and masses_g else 1.0
    return round(mean(shares) * lighter, 10)
