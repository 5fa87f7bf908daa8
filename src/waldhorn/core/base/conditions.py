"""Conditions: what a number was taken under, and which of them part two numbers from each other.

A condition noted on one side only does not part them; it adds to the doubt.

References
----------
.. [1] Bench practice (volts within 2 %, motor within 10 K, timing within 0.25°, throttle within 0.5 %, the rest equal).
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from operator import attrgetter
from typing import Any

FULL_THROTTLE_PCT = 100.0
SUPPLY_TOLERANCE = 0.02  # relative [1]
TOLERANCES = {  # absolute [1]
    "throttle_pct": 0.5,
    "timing_set_deg": 0.25,
    "motor_c": 10.0,
    "distance_cm": 0.5,
}
WORDS = {
    "rig": "rig",
    "method": "way of taking KV",
    "throttle_pct": "throttle",
    "placement": "placement",
    "distance_cm": "distance",
    "meter": "meter",
    "supply_v": "voltage",
    "timing_set_deg": "timing setting",
    "motor_c": "motor temperature",
    "on_shaft": "load on the shaft",
    "pack": "pack",
    "cells": "cells",
    "spot": "spot",
    "lever": "lever",
}


@dataclass(frozen=True, slots=True)
class Conditions:
    """The conditions a number was taken under. Percent, cm, volts, electrical degrees, °C, cells,
    mΩ; None or "" is not noted."""

    rig: str = ""
    method: str = ""
    throttle_pct: float | None = None
    placement: str = ""
    distance_cm: float | None = None
    meter: str = ""
    supply_v: float | None = None
    timing_set_deg: float | None = None
    motor_c: float | None = None
    ambient_c: float | None = None
    on_shaft: str = ""
    pack: str = ""
    cells: float | None = None
    pack_mohm: float | None = None
    spot: str = ""
    lever: str = ""


NO_CONDITIONS = Conditions()


def at_full_throttle(conditions: Conditions) -> bool:
    """Whether a number was taken at full throttle; no throttle noted means full.

    >>> at_full_throttle(Conditions(throttle_pct=50.0)), at_full_throttle(Conditions())
    (False, True)
    """
    percent = conditions.throttle_pct
    return percent is None or percent >= FULL_THROTTLE_PCT - TOLERANCES["throttle_pct"]


def differing(same: Sequence[str], a: Conditions, b: Conditions) -> list[str]:
    """Name the conditions in `same` that are known on both sides and differ.

    Parameters
    ----------
    same : sequence of str
        Names of fields of `Conditions` that must agree.
    a, b : Conditions

    Returns
    -------
    list of str
        Names of fields, empty when the two compare.

    Notes
    -----
    Source: [1]_.

    Examples
    --------
    >>> differing(("rig", "supply_v"), Conditions(rig="A", supply_v=7.4), Conditions(rig="B", supply_v=7.5))
    ['rig']
    """
    if a is b or a == b:
        return []
    return [name for name in same if not _agree(name, getattr(a, name), getattr(b, name))]


def comparable(same: Sequence[str], a: Conditions, b: Conditions) -> bool:
    """Whether two conditions compare.

    Parameters
    ----------
    same : sequence of str
        Names of conditions.
    a, b : Conditions

    Examples
    --------
    >>> comparable(("rig",), Conditions(rig="A"), Conditions())
    True
    """
    if a is b or not same:
        return True
    left, right = _values(same)(a), _values(same)(b)
    if left == right:
        return True
    if len(same) == 1:
        return _agree(same[0], left, right)
    return all(map(_agree, same, left, right))


@lru_cache
def _values(same: Sequence[str]) -> Callable[[Conditions], Any]:
    """The fields as a tuple (one field as it is): judging compares conditions a hundred thousand times."""
    return attrgetter(*same)


def noted_once(same: Sequence[str], a: Conditions, b: Conditions) -> list[str]:
    """Name the conditions in `same` that were noted on one side only.

    Parameters
    ----------
    same : sequence of str
        Names of conditions.
    a, b : Conditions

    Examples
    --------
    >>> noted_once(("rig",), Conditions(rig="A"), Conditions())
    ['rig']
    """
    return [n for n in same if (getattr(a, n) in (None, "")) != (getattr(b, n) in (None, ""))]


def _agree(name: str, left: object, right: object) -> bool:
    if left == right or left in (None, "") or right in (None, ""):
        return True
    if not (isinstance(left, (int, float)) and isinstance(right, (int, float))):
        return str(left).casefold() == str(right).casefold()
    gap = abs(left - right)
    if name == "supply_v":
        return gap <= SUPPLY_TOLERANCE * max(abs(left), abs(right))
    return gap <= TOLERANCES[name]
