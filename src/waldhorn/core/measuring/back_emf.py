"""Back-EMF: what the three pairs of leads give while a drill turns the motor, and what is wrong when they differ.

Not for a powered pull: a six-step controller reads between π/3 × and 1 × the peak KV of a drill (see `kv`), so the two
schools are never mixed.

References
----------
.. [1] IEC 61000-4-30, voltage unbalance from three line-to-line magnitudes.
.. [2] Bench practice.
"""

import math
from dataclasses import dataclass
from statistics import fmean

from waldhorn.core.base.errors import InputError

SINGLE_OUT = 3.0  # percent by which one phase must stand below the other two to be named


@dataclass(frozen=True, slots=True)
class Waveform:
    """Peak volts line to line of the fundamental, A to B, B to C, C to A, at a speed in rpm."""

    rpm: float
    ab: float
    bc: float
    ca: float

    @property
    def volts(self) -> tuple[float, float, float]:
        """The three, in order."""
        return self.ab, self.bc, self.ca


def peak_kv(wave: Waveform) -> float:
    """KV of the drill's school.

    Parameters
    ----------
    wave : Waveform

    Returns
    -------
    float
        rpm/V.

    Raises
    ------
    InputError
        A voltage or the speed is not above zero.

    Notes
    -----
    Formula: K_peak = n / V̂, V̂ the mean of the three

    Source: definition.

    Examples
    --------
    >>> round(peak_kv(Waveform(1000, 0.5, 0.5, 0.5)))
    2000
    """
    if min(wave.volts) <= 0 or wave.rpm <= 0:
        raise InputError("volts", "a drill that turns a motor gives volts on all three pairs: look at the leads")
    return wave.rpm / fmean(wave.volts)


def unbalance_pct(wave: Waveform) -> float:
    """How unequal the three voltages are.

    Parameters
    ----------
    wave : Waveform

    Returns
    -------
    float
        Percent.

    Raises
    ------
    InputError
        No three voltages that belong together have these values.

    Notes
    -----
    Formula: L = Σv⁴/(Σv²)²; √[(1 − √(3 − 6L))/(1 + √(3 − 6L))]

    Source: [1]_.

    Examples
    --------
    >>> round(unbalance_pct(Waveform(1000, 1.7321, 1.6889, 1.6889)), 2)
    1.7
    """
    squares = [v**2 for v in wave.volts]
    lack = sum(s**2 for s in squares) / max(sum(squares) ** 2, 1e-300)
    inside = 3 - 6 * lack
    if inside < -1e-9:
        raise InputError("volts", "no three pairs of one motor give these together: one of them was misread")
    root = math.sqrt(max(inside, 0.0))
    return 100 * math.sqrt(max(0.0, 1 - root) / (1 + root))


def phases(wave: Waveform) -> tuple[float, float, float]:
    """What each phase gives by itself, from the three pairs.

    Parameters
    ----------
    wave : Waveform

    Returns
    -------
    tuple of float
        V, of A, B and C against the star point.

    Notes
    -----
    Formula: v_ab² = a² + b² + ab, and so on: with S = (v_ab² + v_bc² + v_ca²)/2 and the area K of the triangle of the
    three, (a + b + c)² = S + 2·√3·K and a = (v_ab² + v_ca² − v_bc² + 4·K/√3)/(2·(a + b + c))

    Source: [2]_, phases 120° apart.

    Examples
    --------
    >>> [round(v, 3) for v in phases(Waveform(1000, 1.7321, 1.6889, 1.6889))]
    [1.0, 1.0, 0.95]
    """
    ab, bc, ca = wave.ab, wave.bc, wave.ca
    half = (ab + bc + ca) / 2
    area = math.sqrt(max(half * (half - ab) * (half - bc) * (half - ca), 0.0))
    total = math.sqrt((ab**2 + bc**2 + ca**2) / 2 + 2 * math.sqrt(3) * area)
    if total <= 0:
        return 0.0, 0.0, 0.0

    def own(with_one: float, with_other: float, without: float) -> float:
        return (with_one**2 + with_other**2 - without**2 + 4 * area / math.sqrt(3)) / (2 * total)

    return own(ab, ca, bc), own(ab, bc, ca), own(bc, ca, ab)


def weak_phase(wave: Waveform) -> tuple[str, float] | None:
    """The phase that stands below the other two, and by how much.

    Parameters
    ----------
    wave : Waveform

    Returns
    -------
    tuple of str and float, or None
        A, B or C, and percent of itself below the mean of the other two.

    Notes
    -----
    Formula: see `phases`

    Source: [2]_. One phase lower is a short, about one in N of its turns.

    Examples
    --------
    >>> phase, below = weak_phase(Waveform(1000, 1.7321, 1.6889, 1.6889))
    >>> phase, round(below, 1)
    ('C', 5.0)
    """
    each = dict(zip("ABC", phases(wave), strict=True))
    phase = min(each, key=lambda p: each[p])
    others = [v for p, v in each.items() if p != phase]
    if not fmean(others):
        return None
    below = 100 * (1 - each[phase] / fmean(others))
    apart = 100 * abs(others[0] - others[1]) / fmean(others)
    return (phase, below) if below >= SINGLE_OUT and apart < below else None
