"""Coast-down: how a motor that is let go runs out, which tells its friction without any current.

The phases must be open: a controller that brakes, or a pack that is fed back into, shortens the coast-down. Iron loss
is still in it, and a disc on the shaft adds windage.

References
----------
.. [1] IEC 60034-2-1, retardation method: J·dω/dt = −(T_c + B·ω).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from waldhorn.core.base.errors import InputError

LEAST_VALUES, LEAST_FALL = 8, 0.5  # of a trace, and by which share it must have slowed


@dataclass(frozen=True, slots=True)
class CoastDown:
    """How a motor runs out: friction per inertia in 1/s², loss per inertia in 1/s, rpm at the start, each of the first
    two with one standard uncertainty."""

    friction_per_inertia: float
    loss_per_inertia: float
    start_rpm: float
    u_friction: float = 0.0
    u_loss: float = 0.0


def time_to_stop(out: CoastDown, rpm: float | None = None) -> float:
    """How long it takes to stop.

    Parameters
    ----------
    out : CoastDown
    rpm : float, optional
        From where; its own start when nothing is said.

    Returns
    -------
    float
        s.

    Notes
    -----
    Formula: t = (J/B)·ln(1 + B·ω0/T_c)

    Source: [1]_.

    Examples
    --------
    >>> out = CoastDown(3e-3 / 2.4e-6, 1.3e-6 / 2.4e-6, 25_000)
    >>> round(time_to_stop(out), 3)
    1.4
    """
    omega = (out.start_rpm if rpm is None else rpm) * 2 * math.pi / 60
    friction, loss = out.friction_per_inertia, out.loss_per_inertia
    if loss * omega < 1e-6 * friction:
        return omega / friction
    if friction <= 0:
        return math.inf  # what only slows with its speed never stands
    return math.log1p(loss * omega / friction) / loss


def speed_at(out: CoastDown, seconds: float) -> float:
    """How fast it still turns.

    Parameters
    ----------
    out : CoastDown
    seconds : float
        Since it was let go.

    Returns
    -------
    float
        rpm, 0 once it stands.

    Notes
    -----
    Formula: ω(t) = (ω0 + T_c/B)·e^(−B·t/J) − T_c/B

    Source: [1]_.

    Examples
    --------
    >>> round(speed_at(CoastDown(3e-3 / 2.4e-6, 1.3e-6 / 2.4e-6, 25_000), 0.3))
    17945
    """
    if out.loss_per_inertia <= 0:
        straight = out.start_rpm - out.friction_per_inertia * seconds * 60 / (2 * math.pi)
        return max(0.0, straight)
    rest = out.friction_per_inertia / out.loss_per_inertia
    omega = (out.start_rpm * 2 * math.pi / 60 + rest) * math.exp(-out.loss_per_inertia * seconds) - rest
    return max(0.0, omega * 60 / (2 * math.pi))


def fit(trace: Sequence[tuple[float, float]]) -> CoastDown:
    """The coast-down of a trace.

    Parameters
    ----------
    trace : sequence of (float, float)
        s and rpm, from the moment it is let go, eight values or more down to half the speed at least.

    Returns
    -------
    CoastDown

    Raises
    ------
    InputError
        Too few values, or it hardly slowed, or sped up.

    Notes
    -----
    Formula: see `speed_at`, by nonlinear least squares

    Source: [1]_.

    Examples
    --------
    >>> true = CoastDown(3e-3 / 2.4e-6, 1.3e-6 / 2.4e-6, 25_000)
    >>> found = fit([(t / 50, speed_at(true, t / 50)) for t in range(60)])
    >>> round(found.friction_per_inertia), round(found.loss_per_inertia, 3)
    (1250, 0.542)
    """
    running = [(t, n) for t, n in trace if n > 0]
    if len(running) < LEAST_VALUES:
        raise InputError(
            "trace", f"{len(running)} values are too few: {LEAST_VALUES} or more from full speed to a stop"
        )
    seconds, rpm = (np.array(column, dtype=float) for column in zip(*running, strict=True))
    seconds = seconds - seconds[0]
    if rpm[-1] > (1 - LEAST_FALL) * rpm[0] or np.any(np.diff(seconds) <= 0):
        raise InputError("trace", "it must slow to half its speed at least, with the seconds rising: let it coast down")
    omega = rpm * 2 * math.pi / 60

    def course(t: np.ndarray, start: float, friction: float, loss: float) -> np.ndarray:
        rest = friction / loss
        return (start + rest) * np.exp(-loss * t) - rest

    steady = (omega[0] - omega[-1]) / seconds[-1]
    from scipy.optimize import curve_fit  # half a second to load, which most pages do without

    try:
        found, cov = curve_fit(
            course,
            seconds,
            omega,
            p0=(omega[0], 0.7 * steady, 0.3 * steady / omega[0]),
            bounds=((0, 1e-3, 1e-6), (np.inf, np.inf, 1e3)),
            maxfev=4000,
        )
    except RuntimeError as error:
        raise InputError(
            "trace", "this does not coast down as a motor that was let go: was the controller braking?"
        ) from error
    u = np.sqrt(np.diag(cov))
    return CoastDown(float(found[1]), float(found[2]), float(found[0]) * 60 / (2 * math.pi), float(u[1]), float(u[2]))


def inertia_by_disc(added: float, slowing_alone: float, slowing_with: float) -> float:
    """The rotor's inertia from two coast-downs, one with a known disc on the shaft.

    Parameters
    ----------
    added : float
        kg·m², of the disc.
    slowing_alone, slowing_with : float
        1/s², decelerations at one speed without and with it.

    Returns
    -------
    float
        kg·m².

    Raises
    ------
    InputError
        With the disc it does not slow less.

    Notes
    -----
    Formula: J = ΔJ·α₂/(α₁ − α₂)

    Source: [1]_. Pitfall: a disc adds windage.

    Examples
    --------
    >>> round(inertia_by_disc(3e-6, 1959.0, 870.7) * 1e6, 2)
    2.4
    """
    if not 0 < slowing_with < slowing_alone:
        raise InputError("inertia", "with the disc on it must slow less than without: look at the two traces")
    return added * slowing_with / (slowing_alone - slowing_with)
