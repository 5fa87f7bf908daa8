"""In which facts motors differ: what their labels, scales and callipers say of them, side by side.

Facts are told, not judged: a fact that one motor has not is empty there.

References
----------
.. [1] Geometry of the cylinder: what the magnets show the stator is π·d·l.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from waldhorn.core.base.history import Motor
from waldhorn.core.motors import own_facts
from waldhorn.core.motors.leads import comparable_mass


@dataclass(frozen=True, slots=True)
class FactRow:
    """A fact in which motors differ, in words by motor; of numbers also how each lies against the first one that is
    known, percent of it."""

    title: str
    unit: str
    told: Mapping[str, str]
    per_cent: Mapping[str, float]


def rotor_surface(motor: Motor) -> float | None:
    """What the rotor shows the stator, cm² [1].

    >>> round(rotor_surface(Motor("A", rotor_mm=13.0, rotor_length_mm=25.0)), 2)
    10.21
    """
    if not (motor.rotor_mm and motor.rotor_length_mm):
        return None
    return math.pi * motor.rotor_mm * motor.rotor_length_mm / 100


def price_per_rated_watt(motor: Motor) -> float | None:
    """Price of a watt that the maker allows."""
    return motor.price / motor.rated_w if motor.price and motor.rated_w else None


NUMBERS: Mapping[str, tuple[str, Callable[[Motor], float | None]]] = {
    "label KV": ("", lambda m: m.label_kv),
    "mass at one lead length": ("g", lambda m: comparable_mass(m.mass_g, m.lead_mm, m.lead_awg)),
    "can diameter": ("mm", lambda m: m.can_mm),
    "can length": ("mm", lambda m: m.length_mm),
    "stator diameter": ("mm", lambda m: m.stator_mm),
    "stator length": ("mm", lambda m: m.stator_length_mm),
    "rotor surface": ("cm²", rotor_surface),
    "shaft": ("mm", lambda m: m.shaft_mm),
    "laminations": ("mm", lambda m: m.laminations_mm),
    "turns": ("", lambda m: m.turns),
    "poles": ("", lambda m: m.poles),
    "slots": ("", lambda m: m.slots),
    "rated cells": ("", lambda m: m.rated_cells),
    "rated current": ("A", lambda m: m.rated_a),
    "rated power": ("W", lambda m: m.rated_w),
    "rated speed": ("rpm", lambda m: m.rated_rpm),
    "price": ("", lambda m: m.price),
    "price of a rated watt": ("", price_per_rated_watt),
}
WORDS: Mapping[str, Callable[[Motor], str]] = {
    "model": lambda m: m.model,
    "variant": lambda m: m.variant,
    "kind": lambda m: m.kind_words,
    "magnet": lambda m: m.magnet,
    "magnet grade": lambda m: m.magnet_grade,
    "wire": lambda m: m.wire,
    "bearings": lambda m: " · ".join(filter(None, (m.bearing_front, m.bearing_rear))),
}


def facts_apart(motors: Sequence[Motor]) -> list[FactRow]:
    """The facts that at least two of these motors have and in which they are not all alike.

    Parameters
    ----------
    motors : sequence of Motor

    Returns
    -------
    list of FactRow
        What is told in words first, facts of one's own last.

    Examples
    --------
    >>> [row] = facts_apart([Motor("A", label_kv=2000), Motor("B", label_kv=2500), Motor("C")])
    >>> row.title, dict(row.told), dict(row.per_cent)
    ('label KV', {'A': '2000', 'B': '2500'}, {'B': 25.0})
    """
    rows = [_in_words(title, {m.tag: of(m) for m in motors}) for title, of in WORDS.items()]
    rows += [_in_numbers(title, unit, {m.tag: of(m) for m in motors}) for title, (unit, of) in NUMBERS.items()]
    own = {m.tag: own_facts.read(m.own) for m in motors}
    names = dict.fromkeys(name for facts in own.values() for name in facts)
    rows += [_in_words(n.replace("_", " "), {tag: facts.get(n, "") for tag, facts in own.items()}) for n in names]
    return [row for row in rows if row]


def _in_words(title: str, told: Mapping[str, str]) -> FactRow | None:
    known = {tag: text for tag, text in told.items() if text}
    if len(known) < 2 or len({text.casefold() for text in known.values()}) < 2:
        return None
    return FactRow(title, "", known, {})


def _in_numbers(title: str, unit: str, values: Mapping[str, float | None]) -> FactRow | None:
    known = {tag: value for tag, value in values.items() if value is not None}
    if len(known) < 2 or len(set(known.values())) < 2:
        return None
    first, *others = known
    per_cent = {tag: 100 * (known[tag] / known[first] - 1) for tag in others}
    return FactRow(
        title, unit, {tag: f"{round(value, 1 if value >= 100 else 2):g}" for tag, value in known.items()}, per_cent
    )
