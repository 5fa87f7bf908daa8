"""Back-EMF from a recording of two channels, A to B and B to C, while a drill turns the motor.

The speed comes from the waveform itself, and every electrical turn is brought to the mean speed before it is compared,
so that a drill that wanders does no harm. Not for a powered motor, and not for typed amplitudes (see `back_emf`).

References
----------
.. [1] Oppenheim, Schafer, Discrete-Time Signal Processing, 3rd ed., 2010 (Fourier coefficient over whole periods).
.. [2] Bench practice.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.traces import read_columns
from waldhorn.core.measuring.back_emf import Waveform

LEAST_CYCLES, LEAST_A_CYCLE = 6, 10  # whole electrical turns, and values in each
LEAST_HZ = 20.0  # recorders meant for sound cut what is slower [2]
CUT_OFF = 0.15  # of all values that are the very top one: eight bits alone make it half of that
STANDS_OUT = 2.0  # percent by which one pole pair must differ from the others ...
SURELY = 3.0  # ... and so many standard errors
_STEPS = 64  # of a cycle, as it is averaged

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Recorded:
    """What a recording tells: the amplitudes at the mean speed, the electrical frequency in Hz, the mean amplitude of
    each pole pair over the turns in V, with one standard error of such a mean, and whether a recorder for sound may
    have cut it."""

    wave: Waveform
    hertz: float
    pairs: tuple[float, ...]
    u_pair: float
    may_be_cut: bool

    @property
    def odd_pair(self) -> tuple[int, float] | None:
        """The pole pair that stands out, counted from 1 where the recording begins, and by how many percent; None where
        none does, or where there are too few to tell."""
        if len(self.pairs) < 2:
            return None
        middle = float(np.median(self.pairs))
        place = int(np.argmax(np.abs(np.array(self.pairs) - middle)))
        apart = self.pairs[place] - middle
        if abs(apart) < max(STANDS_OUT / 100 * middle, SURELY * self.u_pair):
            return None
        return place + 1, 100 * apart / middle


def read(text: str) -> tuple[Floats, Floats, Floats]:
    """Seconds, volts A to B and volts B to C of a pasted recording, a row a line.

    >>> [c.tolist() for c in read("s,ab,bc\\n0,0.0,0.2\\n0.001,0.1,0.1")]
    [[0.0, 0.001], [0.0, 0.1], [0.2, 0.1]]
    """
    rows = read_columns(text, 3, "seconds, volts A to B and volts B to C")
    if len(rows) < 2:
        raise InputError("recording", "a recording has a row a line: seconds, volts A to B, volts B to C")
    seconds, ab, bc = np.array(rows, dtype=float).T
    return seconds, ab, bc


def analyse(seconds: Floats, ab: Floats, bc: Floats, poles: int | None, rpm: float | None = None) -> Recorded:
    """What a recording tells.

    Parameters
    ----------
    seconds, ab, bc : array, shape (n,)
        s and V at the leads, at even steps; six whole electrical turns or more.
    poles : int or None
        Magnet faces; where they are not known, the drill's speed must be.
    rpm : float, optional
        The drill's speed, for a motor of unknown poles.

    Returns
    -------
    Recorded

    Raises
    ------
    InputError
        Too short, uneven, clipped, or no speed to refer it to; in words.

    Notes
    -----
    Formula: f from the upward crossings of zero of A to B, n = 120·f/P; V̂ = |2/T·∫ v·e^(−j2πt/T) dt| of each cycle,
    times f̄·T; C to A = −(A to B + B to C)

    Source: [1]_, [2]_.
    """
    _refuse_poor(seconds, ab, bc)
    starts = _crossings(seconds, ab)
    if len(starts) <= LEAST_CYCLES:
        raise InputError(
            "recording", f"{max(0, len(starts) - 1)} whole electrical turns: record {LEAST_CYCLES} or more"
        )
    periods = np.diff(starts)
    if len(seconds) / (seconds[-1] - seconds[0]) * periods.min() < LEAST_A_CYCLE:
        raise InputError("recording", "too few values to an electrical turn: record faster, or drill slower")
    hertz = float(1 / periods.mean())
    if poles is None and not rpm:
        raise InputError("rpm", "its poles are not known: type the drill's speed")
    speed = 120 * hertz / poles if poles else float(rpm or 0.0)
    lines = (ab, bc, -(ab + bc))
    sizes = np.array([_amplitudes(seconds, line, starts) * periods * hertz for line in lines])
    a, b, c = (float(x) for x in sizes.mean(axis=1))
    pairs, u_pair = _by_pair(sizes.mean(axis=0), poles // 2 if poles else 1)
    return Recorded(Waveform(speed, a, b, c), hertz, pairs, u_pair, hertz < LEAST_HZ)


def _refuse_poor(seconds: Floats, ab: Floats, bc: Floats) -> None:
    steps = np.diff(seconds)
    if len(seconds) < LEAST_CYCLES * LEAST_A_CYCLE:
        raise InputError("recording", f"{len(seconds)} rows are too few: record half a second or more")
    if steps.min() <= 0 or steps.max() > 1.5 * np.median(steps):
        raise InputError("recording", "the seconds must rise in even steps: leave no rows out")
    for line in (ab, bc):
        if np.ptp(line) <= 0:
            raise InputError("recording", "there is nothing on one of the channels: look at the leads")
        if max(np.mean(line == line.max()), np.mean(line == line.min())) > CUT_OFF:
            raise InputError("recording", "the tops are flat, as if cut off: turn the input down, or divide more")


def _crossings(seconds: Floats, line: Floats) -> Floats:
    """When a line rises through zero, s, each cycle once: only after it has been well below."""
    centred = line - line.mean()
    low = -0.3 * float(np.abs(centred).max())
    found, armed = [], False
    for i in range(len(centred) - 1):
        armed = armed or centred[i] < low
        if armed and centred[i] <= 0 < centred[i + 1]:
            share = -centred[i] / (centred[i + 1] - centred[i])
            found.append(seconds[i] + share * (seconds[i + 1] - seconds[i]))
            armed = False
    return np.array(found)


def _amplitudes(seconds: Floats, line: Floats, starts: Floats) -> Floats:
    """Amplitude of the fundamental of each cycle, V."""
    turns = np.exp(-2j * np.pi * np.arange(_STEPS) / _STEPS)
    places = starts[:-1, None] + np.diff(starts)[:, None] * np.arange(_STEPS) / _STEPS
    return np.asarray(np.abs(np.interp(places, seconds, line) @ turns) * 2 / _STEPS)


def _by_pair(sizes: Floats, pairs: int) -> tuple[tuple[float, ...], float]:
    """The mean amplitude of each pole pair over whole turns, and one standard error of it."""
    turns = len(sizes) // pairs
    if pairs < 2 or turns < 2:
        return (float(sizes.mean()),), 0.0
    by_turn = sizes[: turns * pairs].reshape(turns, pairs)
    left = by_turn - by_turn.mean(axis=0) - by_turn.mean(axis=1, keepdims=True) + by_turn.mean()
    spread = math.sqrt(float((left**2).sum()) / ((turns - 1) * (pairs - 1)))
    return tuple(float(x) for x in by_turn.mean(axis=0)), spread / math.sqrt(turns)
