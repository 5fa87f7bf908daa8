"""Conditions: what a number was taken under, and which of them part two numbers from each other.

A condition noted on one side only does not part them; it adds to the doubt.

References
----------
.. [1] Bench practice (volts within 2 %, motor within 10 K, timing within 0.25°, throttle within 0.5 %, the rest equal).
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, fields
from functools import lru_cache
from operator import attrgetter
from types import MappingProxyType
from typing import Any

from waldhorn.core.base.vocabulary import Method, Placement, Spot

FULL_THROTTLE_PCT = 100.0
LONGEST = 60  # characters


@dataclass(frozen=True, slots=True, kw_only=True)
class Condition:
    """One condition. `title` names it in a sentence and above a field, `said` in a line of the book, {} being its
    value. A number has a `dimension` (a key of `units.DIMENSIONS`) and lies between `low` and `high`; a text may have
    `choices`. Two numbers agree within `within`, which is a share of the larger where `relative` [1]."""

    title: str
    said: str = "{}"
    dimension: str = ""
    low: float = 0.0
    high: float = 0.0
    within: float = 0.0
    relative: bool = False
    choices: tuple[str, ...] = ()


CONDITIONS: Mapping[str, Condition] = MappingProxyType(
    {
        "on_shaft": Condition(title="on the shaft"),
        "throttle_pct": Condition(title="throttle", said="{} %", dimension="percent", low=0, high=100, within=0.5),
        "supply_v": Condition(
            title="voltage", said="{} V supply", dimension="voltage", low=0.1, high=1000, within=0.02, relative=True
        ),
        "placement": Condition(title="placement", said="on the {}", choices=tuple(Placement)),
        "distance_cm": Condition(
            title="distance", said="{} cm away", dimension="distance", low=0.1, high=10_000, within=0.5
        ),
        "meter": Condition(title="meter", said="by {}"),
        "timing_set_deg": Condition(
            title="timing setting", said="set to {}°", dimension="angle", low=-90, high=90, within=0.25
        ),
        "motor_c": Condition(
            title="motor temperature", said="motor {} °C", dimension="temperature", low=-60, high=400, within=10
        ),
        "ambient_c": Condition(title="air temperature", said="air {} °C", dimension="temperature", low=-60, high=80),
        "method": Condition(title="way of taking KV", choices=tuple(Method)),
        "rig": Condition(title="rig", said="on {}"),
        "pack": Condition(title="pack", said="pack {}"),
        "cells": Condition(title="cells", said="{} cells", dimension="cells", low=1, high=100),
        "pack_mohm": Condition(
            title="pack resistance", said="pack of {} mΩ", dimension="resistance", low=0, high=100_000
        ),
        "spot": Condition(title="spot", said="at the {}", choices=tuple(Spot)),
        "lever": Condition(title="lever", said="on “{}”"),
    }
)


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
assert CONDITIONS.keys() == {f.name for f in fields(Conditions)}


def at_full_throttle(conditions: Conditions) -> bool:
    """Whether a number was taken at full throttle; no throttle noted means full.

    >>> at_full_throttle(Conditions(throttle_pct=50.0)), at_full_throttle(Conditions())
    (False, True)
    """
    percent = conditions.throttle_pct
    return percent is None or percent >= FULL_THROTTLE_PCT - CONDITIONS["throttle_pct"].within


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
    known = CONDITIONS[name]
    return abs(left - right) <= known.within * (max(abs(left), abs(right)) if known.relative else 1.0)
