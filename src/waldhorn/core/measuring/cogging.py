"""Cogging: the peak torque of every natural position of a turn, from the strength of each magnet and how rotor and
stator sit. What a pattern of detent peaks can mean, and what it cannot.

Not how peaks are read and judged (see `detent`).

References
----------
.. [1] Hendershot, Miller, Design of Brushless Permanent-Magnet Machines, 2010 (cogging torque as dW/dθ).
.. [2] Zhu, Howe, Influence of design parameters on cogging torque in permanent magnet machines, 2000 (lcm of slots and
   poles; what a sound stator filters out).
"""

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.motors.winding import detent_positions

EDGE = 0.7  # of a natural position: how far a tooth feels the edge of a magnet; the shape of the peaks, not the pattern
_SAMPLES = 64  # of a natural position


def pattern(slots: int, magnets: Sequence[float], rotor_off: float = 0.0, stator_off: float = 0.0) -> list[float]:
    """Peak torque at each natural position of one turn, against a sound motor of equal magnets.

    Parameters
    ----------
    slots : int
    magnets : sequence of float, one a pole
        Strength of each, 1 as new.
    rotor_off, stator_off : float
        How much stronger the field is on the near side of a rotor or stator off centre, as a share.

    Returns
    -------
    list of float
        lcm(slots, poles) peaks, 1 in a sound motor.

    Notes
    -----
    Formula: T = dW/dθ, W = Σ_teeth Σ_poles (1 + ε_s·cos)·(1 + ε_r·cos)·b_i²·sech²((θ − θ_tooth + θ_pole)/w)

    Source: [1]_, [2]_. With a sound stator only every S-th harmonic is left, whatever the rotor: the pattern repeats
    every lcm(S, P)/S positions.

    Examples
    --------
    >>> [round(p, 3) for p in pattern(12, [0.8, 1, 1, 1])[:3]]
    [0.91, 0.91, 0.91]
    """
    sound = _peaks(slots, (1.0,) * len(magnets), 0.0, 0.0)
    return [float(p) for p in _peaks(slots, tuple(magnets), rotor_off, stator_off) / sound.mean()]


@lru_cache(256)
def _peaks(slots: int, magnets: tuple[float, ...], rotor_off: float, stator_off: float) -> NDArray[np.float64]:
    poles, energy = len(magnets), np.square(magnets)
    positions = detent_positions(slots, poles)
    count = positions * _SAMPLES
    turn = np.arange(count) / count
    width = EDGE / positions
    edge = 1 / np.cosh(np.minimum(np.minimum(turn, 1 - turn) / width, 300)) ** 2
    teeth = 1 + stator_off * np.cos(2 * math.pi * np.arange(slots) / slots)
    faces = energy * (1 + rotor_off * np.cos(2 * math.pi * np.arange(poles) / poles))
    order = np.arange(count // 2 + 1)
    of_teeth = np.exp(-2j * math.pi * np.outer(order, np.arange(slots)) / slots) @ teeth
    of_faces = np.exp(2j * math.pi * np.outer(order, np.arange(poles)) / poles) @ faces
    torque = np.fft.irfft(1j * order * np.fft.rfft(edge) * of_teeth * of_faces, count)
    return np.asarray(torque.reshape(positions, _SAMPLES).max(axis=1))


def tells_magnets(slots: int, poles: int) -> bool:
    """Whether unequal magnets make the peaks of a turn unequal; where each tooth's turn holds one position only, they
    make all of them weaker alike.

    Parameters
    ----------
    slots : int
        Of the stator.
    poles : int
        Of the rotor.

    Examples
    --------
    >>> tells_magnets(12, 4), tells_magnets(12, 14)
    (False, True)
    """
    return detent_positions(slots, poles) != slots
