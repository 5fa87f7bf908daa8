"""Steadiness: how far the speed wanders while a step is held.

A healthy motor wanders by tens of rpm, a dying one by hundreds.

References
----------
.. [1] Bench practice.
"""

from collections.abc import Sequence

from waldhorn.core.errors import Refused
from waldhorn.core.history import Motor, Reading, Sample
from waldhorn.core.kv import at_full_throttle


def wander(rpm_p2p: float, rpm: float) -> float:
    """How far the speed wanders at a step.

    Formula: 100·(peak to peak) / mean

    Parameters
    ----------
    rpm_p2p : float, rpm, peak to peak while the step was held
    rpm : float, rpm, mean

    Returns
    -------
    float, percent

    Raises
    ------
    Refused : the speed is not above zero

    Source: [1]_.

    >>> wander(50, 25_000)
    0.2
    """
    if rpm <= 0:
        raise Refused("rpm", f"speed {rpm:g} rpm must be above 0 to divide by")
    return 100 * rpm_p2p / rpm


def samples(readings: Sequence[Reading], motor: Motor) -> list[Sample]:
    """Wander of each full-throttle run of one check, in percent.

    Parameters
    ----------
    readings : the accepted readings of one check, in any order
    motor : Motor, not needed here

    Returns
    -------
    list of Sample, by run, of the runs in which speed and peak to peak were read
    """
    speeds = {(r.run, r.conditions.rig): r.value for r in readings if r.measure == "rpm" and at_full_throttle(r)}
    found = []
    for reading in readings:
        if reading.measure == "rpm_p2p" and at_full_throttle(reading):
            speed = speeds.get((reading.run, reading.conditions.rig), 0.0)
            if speed > 0:
                value = wander(reading.value, speed)
                found.append(Sample(value, reading.run, reading.conditions, value))
    return sorted(found, key=lambda s: (s.run, s.value))
