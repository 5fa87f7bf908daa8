"""The shape of a recorded sound: its third-octave bands, each against the whole.

A phone sets its own gain, so no level is read from a recording, and two are compared by shape alone: of one motor, at
one place, distance and setting, by one device. Shown beside the ear's answer and not judged. Not for levels of a meter
(see `noise`).

References
----------
.. [1] IEC 61260-1:2014, octave-band and fractional-octave-band filters (base ten; bands summed in the spectrum).
.. [2] Bench practice.
"""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.base.errors import InputError

LEAST_RATE_HZ, MOST_RATE_HZ = 16_000, 192_000
LEAST_S, MOST_S = 1.0, 30.0
CENTRES_HZ = tuple(1000 * 10 ** (n / 10) for n in range(-10, 13))  # 100 Hz to 16 kHz [1]
BEARINGS_HZ = (4_000.0, 12_000.0)  # where what bearings strike rings on [2]
_EDGE = 10**0.05  # of a band, over its centre [1]
_NOTHING = 1e-12  # a power; its logarithm is wanted
_CUT_OFF = 0.001  # of all values at the very top

Floats = NDArray[np.float64]


def check(samples: Floats, rate_hz: int, seconds: float) -> None:
    """Raise InputError for a recording that cannot tell anything: too slow or too fast a one, too short or too long, or
    silence. `seconds` is its whole length, of which `samples` may be the beginning.

    Parameters
    ----------
    samples : ndarray of float64
        (n,), any unit.
    rate_hz : int
        Samples a second.
    seconds : float
        Its whole length, s.
    """
    if not LEAST_RATE_HZ <= rate_hz <= MOST_RATE_HZ:
        raise InputError("sound", f"{rate_hz} values a second: between {LEAST_RATE_HZ} and {MOST_RATE_HZ} can be kept")
    if not LEAST_S <= seconds <= MOST_S:
        raise InputError("sound", f"it is {seconds:.1f} s long: between {LEAST_S:g} and {MOST_S:g} s can be kept")
    if not np.all(np.isfinite(samples)) or np.ptp(samples) < 1e-4:
        raise InputError("sound", "there is nothing to be heard in it: is the microphone covered?")


def is_cut_off(samples: Floats) -> bool:
    """Whether it was too loud for the microphone: more than one value in a thousand is the highest that can be told."""
    return bool(np.mean(np.abs(samples) >= 0.999) > _CUT_OFF)


def third_octaves(samples: Floats, rate_hz: int) -> dict[float, float]:
    """Power of each third-octave band that lies below half the rate, by its centre in Hz; any unit.

    Parameters
    ----------
    samples : ndarray of float64
        (n,), any unit.
    rate_hz : int
        Samples a second.
    """
    power = np.abs(np.fft.rfft(samples * np.hanning(len(samples)))) ** 2
    hertz = np.fft.rfftfreq(len(samples), 1 / rate_hz)
    places = [np.searchsorted(hertz, (c / _EDGE, c * _EDGE)) for c in CENTRES_HZ if c * _EDGE <= rate_hz / 2]
    return {c: float(power[a:b].sum()) for c, (a, b) in zip(CENTRES_HZ, places, strict=False)}


def shape_db(power: Mapping[float, float], others: Mapping[float, float] | None = None) -> dict[float, float]:
    """Each band against the whole in dB, over the bands that `others` has as well.

    Parameters
    ----------
    power : mapping of float to float
        By centre frequency in Hz.
    others : mapping of float to float or None
        The bands that count; None for all.

    Examples
    --------
    >>> {round(c): round(db, 1) for c, db in shape_db({1000.0: 9.0, 2000.0: 1.0}).items()}
    {1000: -0.5, 2000: -10.0}
    """
    common = {c: p for c, p in power.items() if others is None or c in others}
    whole = sum(common.values())
    return {c: 10 * float(np.log10(max(p / whole, _NOTHING))) for c, p in common.items()}


def bearings_rose_db(now: Mapping[float, float], before: Mapping[float, float]) -> float:
    """By how many dB the bands of bearings rose against all others.

    Parameters
    ----------
    now, before : mapping of float to float
        Power by centre frequency in Hz.

    Examples
    --------
    >>> round(bearings_rose_db({1000.0: 9.0, 5000.0: 1.0}, {1000.0: 90.0, 5000.0: 1.0}), 1)
    10.0
    """
    return _bearings_db(now, before) - _bearings_db(before, now)


def bearings_up_to_hz(now: Mapping[float, float], before: Mapping[float, float]) -> float:
    """How far up both recordings reach in the bands of bearings, in Hz: a slow one hears less of them.

    Parameters
    ----------
    now, before : mapping of float to float
        Power by centre frequency in Hz.

    Examples
    --------
    >>> round(bearings_up_to_hz({5012.0: 1.0, 6310.0: 1.0, 10000.0: 1.0}, {5012.0: 1.0, 6310.0: 1.0}))
    7080
    """
    return min(BEARINGS_HZ[1], _EDGE * max(now.keys() & before.keys()))


def _bearings_db(power: Mapping[float, float], others: Mapping[float, float]) -> float:
    low, high = BEARINGS_HZ
    common = {c: p for c, p in power.items() if c in others}
    ringing = sum(p for c, p in common.items() if low / _EDGE < c < high * _EDGE)
    return 10 * float(np.log10(max(ringing, _NOTHING) / max(sum(common.values()) - ringing, _NOTHING)))
