"""Noise: levels with the background taken out, and when one is telling.

Levels compare at the same placement, step and meter only. The best single witness for bearings, a poor one for
magnets.

References
----------
.. [1] ISO 3744:2010, 8.2.3 (background correction; below 3 dB no valid measurement, above 10 dB negligible here).
.. [2] Bench practice.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from waldhorn.core.errors import Refused
from waldhorn.core.history import FULL_THROTTLE_PCT, Motor, Reading, Sample

TOO_LOUD_DB = 3.0  # [1]
LOUD_SMALL_MOTOR_DB = 92.0  # a small motor at 10 cm and full throttle [2]
DISTANCE_CM = 10.0


@dataclass(frozen=True, slots=True)
class Corrected:
    """A level with the background taken out, dB, and how much that was."""

    level_db: float
    correction_db: float

    @property
    def negligible(self) -> bool:
        """Whether the background hardly mattered (0.5 dB or less)."""
        return self.correction_db <= 0.5


def without_background(level_db: float, background_db: float) -> Corrected:
    """The motor's own level.

    Formula: L = 10·log10(10^(Lm/10) − 10^(Lb/10))

    Parameters
    ----------
    level_db : float, dB, with the motor running
    background_db : float, dB, without it

    Returns
    -------
    Corrected

    Raises
    ------
    Refused : less than 3 dB between the two

    Source: [1]_.

    >>> round(without_background(80.0, 74.0).level_db, 2)
    78.74
    """
    gap = level_db - background_db
    if gap < TOO_LOUD_DB:
        raise Refused(
            "noise",
            f"too loud here: {level_db:g} dB stands only {gap:.1f} dB above the hall, {TOO_LOUD_DB:g} are needed",
        )
    own = 10 * math.log10(10 ** (level_db / 10) - 10 ** (background_db / 10))
    return Corrected(own, level_db - own)


def telltale(suspect_step_one_db: float, healthy_full_db: float) -> bool:
    """Whether a suspect is louder at step one than a healthy one of its model at full throttle.

    Formula: L_suspect(step 1) > L_healthy(full)

    Parameters
    ----------
    suspect_step_one_db, healthy_full_db : float, dB, same placement and meter

    Returns
    -------
    bool

    Source: [2]_.

    >>> telltale(84.0, 81.0)
    True
    """
    return suspect_step_one_db > healthy_full_db


def samples(readings: Sequence[Reading], motor: Motor) -> list[Sample]:
    """Noise levels of one check with the background taken out, in dB, the loudest step last.

    Parameters
    ----------
    readings : the accepted readings of one check, in any order
    motor : Motor, not needed here

    Returns
    -------
    list of Sample; a level too close to the background is left out, one without a background is taken as it is
    """
    backgrounds = [r.value for r in readings if r.measure == "noise_background"]
    background = median(backgrounds) if backgrounds else None
    found = []
    for reading in readings:
        if reading.measure != "noise_avg":
            continue
        value, said = reading.value, "" if background is not None else "background not noted"
        if background is not None:
            try:
                value = without_background(reading.value, background).level_db
            except Refused:
                continue
        found.append(Sample(value, reading.run, reading.conditions, reading.value, said=said))
    return sorted(found, key=lambda s: (_throttle(s), s.run, s.value))


def _throttle(sample: Sample) -> float:
    percent = sample.conditions.throttle_pct
    return FULL_THROTTLE_PCT if percent is None else percent
