"""No-load current: when two readings compare, and speed per amp.

No-load current compares at one voltage (within 2 %), one timing, one rig and a similar temperature only. Not for
load rows (see `load`).
"""

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from waldhorn.core.errors import Refused
from waldhorn.core.history import Motor, Reading, Sample
from waldhorn.core.kv import at_full_throttle


def speed_per_amp(kv: float, no_load_current_a: float) -> float:
    """Speed per volt bought by each amp: a guide for two motors in the same condition, not a score.

    Formula: rpm per amp = KV / I0

    Parameters
    ----------
    kv : float, rpm/V
    no_load_current_a : float, A, same run

    Returns
    -------
    float, rpm/V per A

    Raises
    ------
    Refused : the current is not above zero

    Source: bench practice.

    >>> round(speed_per_amp(3391, 2.27))
    1494
    """
    if no_load_current_a <= 0:
        raise Refused("amps", f"current {no_load_current_a:g} A must be above 0 to divide by")
    return kv / no_load_current_a


def growth_over_steps(points: Sequence[tuple[float, float]]) -> float:
    """How steeply the no-load current grows over the throttle steps: about 1 for a sound motor, bent up by drag.

    Formula: ln I0 = k + n·ln(throttle) by least squares; n

    Parameters
    ----------
    points : (throttle in percent, A) at three or more steps, both above 0

    Returns
    -------
    float, no unit

    Raises
    ------
    Refused : fewer than two different steps, or a current that is not above zero

    Source: bench practice.

    >>> round(growth_over_steps([(25, 0.5), (50, 1.0), (100, 2.0)]), 6)
    1.0
    """
    if len({t for t, _ in points}) < 2 or min(min(p) for p in points) <= 0:
        raise Refused("step", "two different steps at least, with currents above 0")
    slope, _ = np.polyfit([math.log(t) for t, _ in points], [math.log(a) for _, a in points], 1)
    return float(slope)


def samples(readings: Sequence[Reading], motor: Motor) -> list[Sample]:
    """No-load current of each full-throttle run of one check, in A.

    Parameters
    ----------
    readings : the accepted readings of one check, in any order
    motor : Motor, not needed here

    Returns
    -------
    list of Sample, by run; the voltage read at the motor in the same run becomes its supply condition
    """
    volts = {
        (r.run, r.conditions.rig): r.value for r in readings if r.measure == "supply_volts" and at_full_throttle(r)
    }
    found = []
    for reading in readings:
        if reading.measure == "no_load_current" and at_full_throttle(reading):
            conditions = reading.conditions
            supply = volts.get((reading.run, conditions.rig), conditions.supply_v)
            found.append(Sample(reading.value, reading.run, replace(conditions, supply_v=supply), reading.value))
    return sorted(found, key=lambda s: (s.run, s.conditions.rig, s.value))
