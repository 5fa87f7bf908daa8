"""A motor without a label: what can be told from what is seen, weighed and measured of it.

Not for judging wear. Size names are made of two or four digits, a diameter and a length, of the stator in some families
and of the can in others: both readings are given.

References
----------
.. [1] Hendershot, Miller, Design of Brushless Permanent-Magnet Machines, 2010 (motor constant, turns and KV).
.. [2] Bench practice.
"""

import math
import re
from dataclasses import dataclass

from waldhorn.core.base.errors import InputError

SAME_SIZE_MM = 3.0  # within which a name and a measured size belong together
_NUMBER = r"(\d{1,3}(?:[.,]\d+)?)"
_PARTED = re.compile(rf"(?<![\d.,]){_NUMBER}\s*[-x×*/]\s*{_NUMBER}(?!\d)")
_TOGETHER = re.compile(r"(?<!\d)(\d{2})(\d{2})?(?!\d)")
WALL_MM = 6.0  # by which a can is wider than the stator in it, about [2]


def motor_constant(kv: float, resistance_ohm: float) -> float:
    """How much torque a motor makes of the heat it is given: what compares motors of any winding.

    Parameters
    ----------
    kv : float
        rpm/V.
    resistance_ohm : float
        Ω between two leads.

    Returns
    -------
    float
        mN·m/√W.

    Raises
    ------
    InputError
        One of them is not above zero.

    Notes
    -----
    Formula: K_m = k_t/√R, k_t = 60/(2π·Kv)

    Source: [1]_.

    Examples
    --------
    >>> round(motor_constant(920, 0.11), 1)
    31.3
    """
    if kv <= 0 or resistance_ohm <= 0:
        raise InputError("kv", "KV and resistance must be above 0")
    return 1e3 * 60 / (2 * math.pi * kv) / math.sqrt(resistance_ohm)


def turns(kv: float, reference_kv: float, reference_turns: float) -> float:
    """Turns of a motor on the same stator as one whose turns are known.

    Parameters
    ----------
    kv, reference_kv : float
        rpm/V.
    reference_turns : float

    Returns
    -------
    float

    Notes
    -----
    Formula: N = N_ref·Kv_ref/Kv

    Source: [1]_.

    Examples
    --------
    >>> round(turns(1150, 920, 14), 1)
    11.2
    """
    return reference_turns * reference_kv / kv


def other_connection(kv: float) -> tuple[float, float]:
    """KV of the same winding connected the other way.

    Parameters
    ----------
    kv : float
        rpm/V.

    Returns
    -------
    tuple of float
        rpm/V if it is a wye made a delta, and if it is a delta made a wye.

    Notes
    -----
    Formula: √3·Kv, Kv/√3

    Source: [1]_.

    Examples
    --------
    >>> [round(v) for v in other_connection(920)]
    [1593, 531]
    """
    return kv * math.sqrt(3), kv / math.sqrt(3)


@dataclass(frozen=True, slots=True)
class SizeName:
    """A size name read one way: of the "stator" or the "can", diameter and length in mm (None where it names none), and
    whether it fits what was measured (None where nothing was)."""

    of: str
    diameter_mm: float
    length_mm: float | None
    fits: bool | None


def read_size(name: str, can_mm: float | None = None, length_mm: float | None = None) -> list[SizeName]:
    """Both readings of a size name.

    Parameters
    ----------
    name : str
        In which two or four digits name the size, or two numbers with a sign between ("28-26", "27.9 x 26.5").
    can_mm, length_mm : float, optional
        mm, of the can as measured.

    Returns
    -------
    list of SizeName
        Of the stator and of the can; empty where nothing in it names a size.

    Notes
    -----
    Formula: diameter, then length; a can is some 6 mm wider than its stator

    Source: [2]_.

    Examples
    --------
    >>> [(s.of, s.diameter_mm, s.length_mm, s.fits) for s in read_size("2212", can_mm=27.8, length_mm=26)]
    [('stator', 22.0, 12.0, True), ('can', 22.0, 12.0, False)]
    """
    found = _PARTED.search(name) or _TOGETHER.search(name)
    if not found:
        return []
    diameter, length = (float(part.replace(",", ".")) if part else None for part in found.groups())
    if diameter is None:
        return []
    of_can = can_mm is not None and abs(can_mm - diameter) <= SAME_SIZE_MM
    if of_can and length is not None and length_mm is not None:
        of_can = abs(length_mm - length) <= 2 * SAME_SIZE_MM
    of_stator = can_mm is not None and abs(can_mm - diameter - WALL_MM) <= SAME_SIZE_MM
    return [
        SizeName("stator", diameter, length, of_stator if can_mm is not None else None),
        SizeName("can", diameter, length, of_can if can_mm is not None else None),
    ]
