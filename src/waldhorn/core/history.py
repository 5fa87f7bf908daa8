"""What is known of a motor, as plain values: the motor, its checks, their readings and conditions, its events.

These travel from the store through the computation to the pages. They hold, and compare conditions; they do not
judge and they do not know where they came from.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime

FULL_STEP = 8
FULL_THROTTLE_PCT = 100.0

EVENTS = (
    "run", "crash", "dunked", "overheated", "bearings_replaced", "rotor_replaced", "shaft_replaced",
    "timing_changed", "sensor_board_replaced", "rewound", "cleaned", "returned", "retired",
)  # fmt: skip
METHODS = ("loaded-supply", "fixed-volt", "back-emf")
PLACEMENTS = ("stand", "hand", "machine")


@dataclass(frozen=True, slots=True)
class Motor:
    """The facts of a motor. Masses in g, lengths in mm, label KV in rpm/V; None is not known."""

    tag: str
    model: str = ""
    kind: str = "inrunner"
    sensored: bool = True
    motor_class: str = ""
    label_kv: float | None = None
    turns: float | None = None
    poles: int | None = None
    poles_known_by: str = ""
    slots: int | None = None
    magnet: str = "neodymium"
    mass_g: float | None = None
    lead_mm: float | None = None
    lead_awg: float | None = None
    machine: str = ""
    position: str = ""
    owner: str = ""
    in_service_on: str = ""
    note: str = ""


@dataclass(frozen=True, slots=True)
class Conditions:
    """The conditions a number was taken under. Volts, electrical degrees, °C; None or "" is not noted."""

    rig: str = ""
    method: str = ""
    throttle_pct: float | None = None
    placement: str = ""
    supply_v: float | None = None
    timing_set_deg: float | None = None
    motor_c: float | None = None
    ambient_c: float | None = None


def throttle_pct(step: float | None, percent: float | None) -> float | None:
    """Throttle in percent from an analyser step (0 to 8) or a percentage; None when neither was noted.

    >>> throttle_pct(4, None)
    50.0
    """
    return percent if step is None else step / FULL_STEP * FULL_THROTTLE_PCT


@dataclass(frozen=True, slots=True)
class Reading:
    """One number of a check, in its stored unit, with its conditions."""

    measure: str
    value: float
    at: datetime
    run: int = 1
    conditions: Conditions = field(default_factory=Conditions)
    accepted: bool = True
    angle_deg: float | None = None
    note: str = ""


@dataclass(frozen=True, slots=True)
class Sample:
    """One value of a judged quantity: made of the readings of one run, with the conditions they share.

    `extra_u` is a further standard uncertainty in percent of the value (an unknown temperature, say), `said`
    what had to be assumed, `n` how many readings stand behind the value.
    """

    value: float
    run: int
    conditions: Conditions
    raw: float | None = None
    extra_u: float = 0.0
    said: str = ""
    n: int = 1


@dataclass(frozen=True, slots=True)
class Check:
    """One visit to the bench: `id` tells checks of a motor apart, `readings` in any order."""

    id: str
    at: datetime
    readings: tuple[Reading, ...]


@dataclass(frozen=True, slots=True)
class Event:
    """Something that happened to the motor. `count` is the number of runs for a run event."""

    event: str
    at: datetime
    count: int = 1
    detail: str = ""


@dataclass(frozen=True, slots=True)
class Finding:
    """Something noticed in a check that is no number: an item looked at, the lamps, a rough spin.

    `subject` is what was looked at (inspect:shaft, hall, sweep, first_spin), `value` what was found.
    """

    check: str
    subject: str
    value: str
    at: datetime
    note: str = ""


@dataclass(frozen=True, slots=True)
class History:
    """A motor with all its checks, events and findings."""

    motor: Motor
    checks: tuple[Check, ...] = ()
    events: tuple[Event, ...] = ()
    findings: tuple[Finding, ...] = ()

    def until(self, as_of: datetime) -> "History":
        """What was known of it at a time."""
        return History(
            self.motor,
            tuple(c for c in self.checks if c.at <= as_of),
            tuple(e for e in self.events if e.at <= as_of),
            tuple(f for f in self.findings if f.at <= as_of),
        )


# How far two conditions may lie apart and still count as equal: relative for volts, absolute for the others.
SUPPLY_TOLERANCE = 0.02
THROTTLE_TOLERANCE_PCT = 0.5
TIMING_TOLERANCE_DEG = 0.25
MOTOR_TOLERANCE_K = 10.0

# How the note of a reading says that it was not taken in the standard run: such readings are not judged with those.
FIRST_SPIN, TIMING_PULL, LOAD_ROW, COOLING = "first spin", "timing pull", "load: ", "cooling"
MARKS = (FIRST_SPIN, TIMING_PULL, LOAD_ROW, COOLING)

_SAID = {
    "rig": "rig",
    "method": "way of taking KV",
    "throttle_pct": "throttle",
    "placement": "placement",
    "supply_v": "voltage",
    "timing_set_deg": "timing setting",
    "motor_c": "motor temperature",
}


def differences(same: Sequence[str], a: Conditions, b: Conditions) -> list[str]:
    """Name the conditions in `same` that are known on both sides and differ, in words.

    Parameters
    ----------
    same : names of fields of `Conditions` that must agree
    a, b : Conditions

    Returns
    -------
    list of str, empty when the two compare; a condition noted on one side only does not part them

    Source: bench practice (volts within 2 %, motor within 10 K, timing within 0.25°, the rest equal).

    >>> differences(("rig", "supply_v"), Conditions(rig="A", supply_v=7.4), Conditions(rig="B", supply_v=7.5))
    ['another rig (A, B)']
    """
    if a is b:
        return []
    found = []
    for name in same:
        left, right = getattr(a, name), getattr(b, name)
        if left == right or left in (None, "") or right in (None, "") or _equal(name, left, right):
            continue
        found.append(f"another {_SAID[name]} ({_show(left)}, {_show(right)})")
    return found


def unknown(same: Sequence[str], a: Conditions, b: Conditions) -> list[str]:
    """Name the conditions in `same` that were noted on one side only.

    >>> unknown(("rig",), Conditions(rig="A"), Conditions())
    ['rig']
    """
    return [_SAID[n] for n in same if (getattr(a, n) in (None, "")) != (getattr(b, n) in (None, ""))]


def _equal(name: str, left: object, right: object) -> bool:
    if not (isinstance(left, (int, float)) and isinstance(right, (int, float))):
        return str(left).casefold() == str(right).casefold()
    gap = abs(left - right)
    if name == "supply_v":
        return gap <= SUPPLY_TOLERANCE * max(abs(left), abs(right))
    return gap <= _TOLERANCES[name]


_TOLERANCES = {
    "throttle_pct": THROTTLE_TOLERANCE_PCT,
    "timing_set_deg": TIMING_TOLERANCE_DEG,
    "motor_c": MOTOR_TOLERANCE_K,
}


def _show(value: object) -> str:
    return f"{value:g}" if isinstance(value, float) else str(value)
