"""Noise: levels with the background taken out, and when one is telling.

Levels compare at the same placement, distance, setting and meter only. The best single witness for bearings, a poor one
for magnets.

References
----------
.. [1] ISO 3744:2010, 8.2.3 (background correction; below 3 dB no valid measurement, above 10 dB negligible here).
.. [2] Bench practice.
"""

import math
from dataclasses import dataclass
from statistics import median

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.vocabulary import NoteKind
from waldhorn.core.measuring.derivation import Derived, Inputs

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

    Parameters
    ----------
    level_db : float
        dB, with the motor running.
    background_db : float
        dB, without it.

    Returns
    -------
    Corrected

    Raises
    ------
    InputError
        Less than 3 dB between the two.

    Notes
    -----
    Formula: L = 10·log10(10^(Lm/10) − 10^(Lb/10))

    Source: [1]_.

    Examples
    --------
    >>> round(without_background(80.0, 74.0).level_db, 2)
    78.74
    """
    gap = level_db - background_db
    if gap < TOO_LOUD_DB:
        raise InputError(
            "noise",
            f"too loud here: {level_db:g} dB stands only {gap:.1f} dB above the hall, {TOO_LOUD_DB:g} are needed",
        )
    own = 10 * math.log10(10 ** (level_db / 10) - 10 ** (background_db / 10))
    return Corrected(own, level_db - own)


def telltale(suspect_lowest_db: float, healthy_full_db: float) -> bool:
    """Whether a suspect is louder at the lowest setting than a healthy one of its model at full throttle.

    Parameters
    ----------
    suspect_lowest_db, healthy_full_db : float
        dB, same placement and meter.

    Returns
    -------
    bool

    Notes
    -----
    Formula: L_suspect(lowest setting) > L_healthy(full)

    Source: [2]_.

    Examples
    --------
    >>> telltale(84.0, 81.0)
    True
    """
    return suspect_lowest_db > healthy_full_db


def of_reading(given: Inputs) -> Derived | None:
    """A level with the hall taken out; None where it stands too close to the hall, as it is where none was noted."""
    level, halls = given.one("noise_avg"), given.values.get("noise_background")
    if not halls:
        return Derived(level, level, note=NoteKind.BACKGROUND_NOT_NOTED)
    try:
        return Derived(without_background(level, median(halls)).level_db, level)
    except InputError:
        return None
