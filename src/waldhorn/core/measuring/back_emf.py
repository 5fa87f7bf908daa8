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

SINGLE_OUT = 1.5  # percent by which one phase must stand below the other two to be named
ALL_LOWER = 3.0  # percent by which all must have fallen before the magnets are asked about
SIX_STEP = (math.pi / 3, 1.0)  # of a drill's peak KV: sinusoidal to trapezoidal


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


def weak_phase(wave: Waveform) -> tuple[str, float] | None:
    """The phase that stands below the other two, and by how much.

    Parameters
    ----------
    wave : Waveform

    Returns
    -------
    tuple of str and float, or None
        A, B or C, and percent of the pairs that hold it below the pair that does not.

    Notes
    -----
    Formula: the pair without it against the mean of the two with it

    Source: [2]_. One phase lower is a short, about one in N of its turns.

    Examples
    --------
    >>> phase, below = weak_phase(Waveform(1000, 1.7321, 1.6889, 1.6889))
    >>> phase, round(below, 1)
    ('C', 2.5)
    """
    without = {"C": wave.ab, "A": wave.bc, "B": wave.ca}
    phase = max(without, key=lambda p: without[p])
    others = [v for p, v in without.items() if p != phase]
    below = 100 * (1 - fmean(others) / without[phase])
    apart = 100 * abs(others[0] - others[1]) / without[phase]
    return (phase, below) if below >= SINGLE_OUT and apart < below else None
