"""Poles: finding the count from electrical frequencies, and what a wrong pole setting does to KV.

A wrong pole setting shows as a KV off by a ratio of small even integers. Not for judging the magnets.

References
----------
.. [1] rpm = 120 f / P, the definition of electrical frequency.
.. [2] Bench practice.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean, stdev

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor
from waldhorn.core.motors.facts import MOST_POLES
from waldhorn.core.motors.winding import whole_poles

ONE_READING_U = 0.01  # relative, of a frequency read once [2]
LEAST_U = 0.002  # however well two readings agree, a meter is no better than this [2]
DRAG_U = 0.025  # each motor slows the drill by its own drag, which repeats do not show [2]
TACHOMETER_U = 0.003  # [2]
SETTLED = 0.95
NEAREST = 0.02
POSSIBLE = {"inrunner": range(2, 13, 2), "outrunner": range(4, MOST_POLES + 1, 2), "": range(2, MOST_POLES + 1, 2)}
USUAL = {"inrunner": (2, 4, 6, 8), "outrunner": (8, 10, 12, 14, 16, 18, 20, 22, 24, 26, 28, 36, 40, 42)}
USUAL[""] = USUAL["inrunner"] + USUAL["outrunner"][1:]  # of a kind that nobody said


@dataclass(frozen=True, slots=True)
class Candidate:
    """A pole count, how far the readings are from it (relative) and its probability."""

    poles: int
    mismatch: float
    probability: float


@dataclass(frozen=True, slots=True)
class PoleCount:
    """What frequencies say of a pole count: candidates, most probable first; `poles` only when it is settled.

    `rpm` is the speed the shaft was turned at, `u` the relative standard uncertainty of the ratio.
    """

    poles: int | None
    candidates: tuple[Candidate, ...]
    rpm: float
    u: float
    words: str


def kv_rebased(kv_shown: float, poles_set: int, poles_true: int) -> float:
    """KV with the analyser's pole setting put right.

    Parameters
    ----------
    kv_shown : float
        rpm/V, with the analyser at `poles_set`.
    poles_set, poles_true : int
        Magnet faces.

    Returns
    -------
    float
        rpm/V.

    Notes
    -----
    Formula: KV_true = KV_shown · P_set / P_true

    Source: rpm = 120 f / P.

    Examples
    --------
    >>> kv_rebased(6800, 2, 4)
    3400.0
    """
    return kv_shown * whole_poles(poles_set) / whole_poles(poles_true)


def speed(frequency_hz: float, poles: int) -> float:
    """Speed from the electrical frequency between any two leads.

    Parameters
    ----------
    frequency_hz : float
        Hz.
    poles : int
        Magnet faces, even.

    Returns
    -------
    float
        rpm.

    Notes
    -----
    Formula: rpm = 120·f / P

    Source: [1]_.

    Examples
    --------
    >>> speed(100.0, 14).__round__(1)
    857.1
    """
    return 120 * frequency_hz / whole_poles(poles)


def from_reference(frequency_hz: Sequence[float], reference_hz: Sequence[float], reference_poles: int) -> PoleCount:
    """The pole count of an unknown motor turned by the same drill as one of known count.

    Parameters
    ----------
    frequency_hz : sequence of float, one at least
        Hz, of the unknown motor.
    reference_hz : sequence of float, one at least
        Hz, of the reference motor at the same drill speed.
    reference_poles : int
        Magnet faces of the reference motor.

    Returns
    -------
    PoleCount

    Raises
    ------
    InputError
        No reading, or one that is not above zero.

    Notes
    -----
    Formula: drill rpm = 120·f_ref / P_ref; mismatch = 120·f / (P·rpm) − 1; probability of P ∝ exp(−½(ln(P·rpm /
    (120·f)) / u)²), u from the spread of ln f and ln f_ref, 1 % each where there is one reading, and 2.5 % for the
    drag of the two motors

    Source: [1]_ and [2]_.

    Examples
    --------
    >>> from_reference([116.8, 116.5], [33.4, 33.3], 4).poles
    14
    """
    whole_poles(reference_poles, "reference_poles")
    centre, u_ref = _centre(reference_hz, "reference_hz")
    return _called(frequency_hz, speed(centre, reference_poles), math.hypot(u_ref, DRAG_U))


def from_tachometer(frequency_hz: Sequence[float], shaft_rpm: Sequence[float]) -> PoleCount:
    """The pole count of a motor whose shaft speed a tachometer reads.

    Parameters
    ----------
    frequency_hz : sequence of float, one at least
        Hz.
    shaft_rpm : m ≥ 1 floats
        rpm.

    Returns
    -------
    PoleCount

    Raises
    ------
    InputError
        No reading, or one that is not above zero.

    Notes
    -----
    Formula: as with a reference motor, the speed known directly, to 0.3 % at best

    Source: [1]_ and [2]_.

    Examples
    --------
    >>> from_tachometer([100.0], [857.0]).poles
    14
    """
    rpm, u_rpm = _centre(shaft_rpm, "shaft_rpm")
    return _called(frequency_hz, rpm, max(u_rpm, TACHOMETER_U) if len(shaft_rpm) > 1 else TACHOMETER_U)


def _centre(values: Sequence[float], name: str) -> tuple[float, float]:
    """Geometric mean of repeats and its relative uncertainty."""
    if not values or min(values) <= 0:
        raise InputError(name, "one reading at least, above 0")
    logs = [math.log(v) for v in values]
    u = max(stdev(logs), LEAST_U) if len(logs) > 1 else ONE_READING_U
    return math.exp(fmean(logs)), u


def _called(frequency_hz: Sequence[float], rpm: float, u_rpm: float) -> PoleCount:
    frequency, u_f = _centre(frequency_hz, "frequency_hz")
    u = math.hypot(u_f, u_rpm)
    exact = 120 * frequency / rpm
    counts = range(2, MOST_POLES + 1, 2)
    weights = {p: math.exp(max(-0.5 * (math.log(p / exact) / u) ** 2, -700.0)) for p in counts}
    total = sum(weights.values())
    found = sorted(
        (Candidate(p, exact / p - 1, w / total) for p, w in weights.items()),
        key=lambda c: (-c.probability, abs(c.mismatch)),
    )
    best = found[0]
    if abs(best.mismatch) <= NEAREST and best.probability >= SETTLED:
        return PoleCount(best.poles, tuple(found[:3]), rpm, u, f"{best.poles} poles.")
    words = f"Not settled ({exact:.2f}): charge the drill, hold full trigger, read both again."
    return PoleCount(None, tuple(found[:3]), rpm, u, words)


def odd_count(poles: int, motor: Motor) -> str:
    """What is odd about a pole count for the kind of motor, in words; empty when nothing is.

    Parameters
    ----------
    poles : int
        Of the rotor.
    motor : Motor

    Examples
    --------
    >>> odd_count(28, Motor("x", kind="inrunner"))
    '28 poles make no sense in an inrunner: leads shorting, or a meter that counts wrongly?'
    """
    usual, possible = USUAL[motor.kind], POSSIBLE[motor.kind]
    named = f"an {motor.kind}" if motor.kind else "a motor"
    if poles in usual:
        return ""
    if (poles % 4 == 0 and poles // 2 in usual) or 2 * poles in usual:
        half = poles // 2 if poles // 2 in usual else 2 * poles
        return f"{poles} poles is unusual, {half} is not: does the meter count two edges, or are leads shorting?"
    if poles in possible:
        return f"{poles} poles is unusual in {named}: count again, or look inside."
    return f"{poles} poles make no sense in {named}: leads shorting, or a meter that counts wrongly?"
