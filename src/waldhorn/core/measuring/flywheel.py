"""The flywheel: torque and response from how a known inertia speeds up, and the score of a motor in its fleet.

References
----------
.. [1] Beer, Johnston, Vector Mechanics for Engineers: Dynamics (torque = J·dω/dt).
.. [2] Bench practice.
"""

import math
from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from waldhorn.core.base.errors import InputError

_NEIGHBOURS = 0.05  # share of the speed range on either side of the wanted speed that a slope is taken over
_LEAST_NEAR = 4  # a parabola through three points has nothing left to say how good it is


def torque(inertia_kgm2: float, seconds: Sequence[float], rpm: Sequence[float], at_rpm: float) -> float:
    """Torque from how fast a flywheel of known inertia speeds up, net of drag: bearings and air have had their share.

    Parameters
    ----------
    inertia_kgm2 : float
        kg·m², of the flywheel and the rotor together.
    seconds : n ≥ 3 floats
        s, rising; four at least on the way up.
    rpm : n floats
        rpm.
    at_rpm : float
        rpm, within the trace.

    Returns
    -------
    float
        mN·m.

    Raises
    ------
    InputError
        An inertia that is not above zero, a trace too short or not rising in time, a speed outside it.

    Notes
    -----
    Formula: T = J·dω/dt, the slope at the stated speed of a parabola by least squares through the points on the way
    up within ± 5 % of the speed range, four at least

    Source: [1]_.

    Examples
    --------
    >>> round(torque(1e-4, [0, 1, 2, 3], [0, 3000, 6000, 9000], 3000), 2)
    31.42
    """
    if not inertia_kgm2 > 0:
        raise InputError("inertia", f"an inertia of {inertia_kgm2:g} kg·m² must be above 0")
    t, n = _trace(seconds, rpm)
    if not n.min() <= at_rpm <= n.max():
        raise InputError("at_rpm", f"{at_rpm:g} rpm is outside the trace: {n.min():g} to {n.max():g}")
    up = slice(0, int(n.argmax()) + 1)
    t, n = t[up], n[up]
    away = np.abs(n - at_rpm)
    wanted = max(_LEAST_NEAR, int((away <= _NEIGHBOURS * (n.max() - n.min())).sum()))
    near = np.sort(np.argsort(away, kind="stable")[:wanted])
    if len(near) < _LEAST_NEAR:
        raise InputError("trace", "the trace has fewer than four points on the way up: record it finer")
    at = float(np.interp(at_rpm, n[near][np.argsort(n[near])], t[near][np.argsort(n[near])]))
    slope = float(np.polyval(np.polyder(np.polyfit(t[near] - at, n[near], 2)), 0.0))
    return 1e3 * inertia_kgm2 * slope * 2 * math.pi / 60


def stored_energy(inertia_kgm2: float, rpm: float) -> float:
    """What a flywheel would throw about if it came off.

    Parameters
    ----------
    inertia_kgm2 : float
        kg·m².
    rpm : float
        rpm.

    Returns
    -------
    float
        J.

    Notes
    -----
    Formula: E = ½·J·ω²

    Source: [1]_.

    Examples
    --------
    >>> round(stored_energy(1e-4, 25_000), 1)
    342.7
    """
    return 0.5 * inertia_kgm2 * (2 * math.pi * rpm / 60) ** 2


STEP_EDGE = 0.1  # of a step's height, left out at either end: there the speed only settles [2]


def response(seconds: Sequence[float], rpm: Sequence[float]) -> float:
    """How quickly a motor follows the throttle, from a trace of a step up, down or both, whatever its size.

    Parameters
    ----------
    seconds : n ≥ 3 floats
        s, rising.
    rpm : n floats
        rpm.

    Returns
    -------
    float
        rpm/s.

    Raises
    ------
    InputError
        A trace too short, not rising in time, or with no step in it.

    Notes
    -----
    Formula: slope by least squares over the window of each step, from a tenth of its height to nine tenths or back,
    without its sign; the mean of the windows

    Source: [2]_.

    Examples
    --------
    >>> round(response([0, 1, 2], [1000, 5000, 1000]))
    4000
    """
    t, n = _trace(seconds, rpm)
    windows = _steps(n)
    if not windows:
        raise InputError("trace", "there is no step in this trace: the speed hardly changes")
    return float(np.mean([abs(np.polyfit(t[a : b + 1], n[a : b + 1], 1)[0]) for a, b in windows]))


def _steps(n: np.ndarray) -> list[tuple[int, int]]:
    """First and last sample of each window in which the speed goes from low to high or back."""
    low, high = n.min() + STEP_EDGE * np.ptp(n), n.max() - STEP_EDGE * np.ptp(n)
    at = [(i, v >= high) for i, v in enumerate(n) if (v <= low or v >= high) and np.ptp(n) > 0]
    return [(a, b) for (a, was), (b, now) in pairwise(at) if was != now]


def _trace(seconds: Sequence[float], rpm: Sequence[float]) -> tuple[np.ndarray, np.ndarray]:
    t, n = np.asarray(seconds, float), np.asarray(rpm, float)
    if len(t) != len(n) or len(t) < 3:
        raise InputError("trace", "a trace needs at least three lines of seconds, rpm")
    if not (np.isfinite(t).all() and np.isfinite(n).all()):
        raise InputError("trace", "a trace holds numbers only")
    if (np.diff(t) <= 0).any():
        raise InputError("trace", "the seconds of a trace must rise from line to line")
    return t, n
