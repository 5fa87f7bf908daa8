"""What is known of a motor, as plain values: the motor, its checks, their readings and findings, its events.

These travel from the store through the computation to the pages. They hold; they do not judge, and they do not know
where they came from. Whether two conditions compare is said by `conditions`.
"""

from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any, TypeVar

from waldhorn.core.base.conditions import NO_CONDITIONS, Conditions
from waldhorn.core.base.vocabulary import EventKind, GuardKind, HallKind, Look, Purpose, Ran, Spin, Sweep, Turning


@dataclass(frozen=True, slots=True)
class Motor:
    """The facts of a motor; None or "" is not known.

    Masses in g, lengths in mm, label KV in rpm/V, ratings in A, W and rpm; `bearing_front` and `bearing_rear` are the
    code of a small bearing or bore×outer×width. A `reference` motor is never raced: what it reads tells of the rig.
    A `yardstick` is known to be good: others of its model are held against it. `own` are facts of one's own, one a line
    (see `own_facts`). A `kind` of "" and `sensored` None are not known.
    """

    tag: str
    model: str = ""
    kind: str = "inrunner"
    sensored: bool | None = True
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
    rated_a: float | None = None
    rated_w: float | None = None
    rated_rpm: float | None = None
    can_mm: float | None = None
    length_mm: float | None = None
    rotor_mm: float | None = None
    rotor_length_mm: float | None = None
    bearing_front: str = ""
    bearing_rear: str = ""
    price: float | None = None
    rated_cells: int | None = None
    stator_mm: float | None = None
    stator_length_mm: float | None = None
    shaft_mm: float | None = None
    laminations_mm: float | None = None
    variant: str = ""
    wire: str = ""
    magnet_grade: str = ""
    own: str = ""
    note: str = ""
    reference: bool = False
    yardstick: bool = False

    @property
    def may_have_sensors(self) -> bool:
        """Whether it has a sensor board, or nobody said that it has none."""
        return self.sensored is not False

    @property
    def kind_words(self) -> str:
        """Its kind and whether it has sensors, as far as known.

        >>> Motor("x", sensored=False).kind_words, Motor("x", kind="", sensored=None).kind_words
        ('inrunner, sensorless', '')
        """
        sensors = {True: "sensored", False: "sensorless", None: ""}[self.sensored]
        return ", ".join(filter(None, (self.kind, sensors)))


@dataclass(frozen=True, slots=True)
class Reading:
    """One number of a check, in its stored unit, with its conditions.

    `position` tells the peaks of a turn apart (1, 2 …), `angle_deg` is the clock angle of a gap; `aside_reason` says
    why a reading that is not `accepted` was set aside.
    """

    measure: str
    value: float
    at: datetime
    run: int = 1
    conditions: Conditions = NO_CONDITIONS
    purpose: Purpose = Purpose.STANDARD
    accepted: bool = True
    angle_deg: float | None = None
    position: int | None = None
    note: str = ""
    aside_reason: str = ""


@dataclass(frozen=True, slots=True)
class Check:
    """One visit to the bench: `id` tells checks of a motor apart, `readings` in any order. `kept` is what was worked
    out of them once (see `observations`), so that judging again does not do it again."""

    id: str
    at: datetime
    readings: tuple[Reading, ...]
    first_spin: Spin | None = None
    sweep: Sweep | None = None
    kept: dict[Any, Any] = field(default_factory=dict, init=False, repr=False, compare=False)

    @property
    def for_study(self) -> bool:
        """Whether it tells of its rig alone."""
        return bool(self.readings) and all(r.purpose is Purpose.STUDY for r in self.readings)


HANDED_BUT_KEPT = "kept"


@dataclass(frozen=True, slots=True)
class Event:
    """Something that happened to the motor. `count` is the number of runs for a run event, `item` what was mended, or,
    of one that was handed over, that it hangs on this rack (`HANDED_BUT_KEPT`); `machine` and `position` are where it
    was fitted or removed."""

    event: EventKind
    at: datetime
    count: int = 1
    detail: str = ""
    item: str = ""
    machine: str = ""
    position: str = ""


@dataclass(frozen=True, slots=True)
class Inspected:
    """What was found of one item of the checklist."""

    check: str
    item: str
    state: Look
    at: datetime
    note: str = ""


@dataclass(frozen=True, slots=True)
class LampsSeen:
    """What the Hall lamps showed: the finding, the states in order, which way the shaft was turned and the order they
    came in (+1, −1, 0 for none)."""

    check: str
    kind: HallKind
    states: tuple[str, ...]
    turned: Turning
    direction: int
    at: datetime


@dataclass(frozen=True, slots=True)
class Overruled:
    """Power was allowed in spite of a finding, with a reason."""

    check: str
    subject: str
    reason: str
    at: datetime


@dataclass(frozen=True, slots=True)
class GuardTrip:
    """A live run was stopped by a guard, or the instrument reported trouble."""

    check: str
    kind: GuardKind
    detail: str
    at: datetime


@dataclass(frozen=True, slots=True)
class PoleFinding:
    """A pole count found or confirmed: `poles` None when it did not settle, `before` what the motor had on record."""

    check: str
    poles: int | None
    known_by: str
    before: int | None
    at: datetime
    rebased: bool = False


TRIALS = ("own_machine", "own_bench", "known_machine", "known_bench", "other_cable")


@dataclass(frozen=True, slots=True)
class CrossTried:
    """How this motor and a known good one ran on the machine's controller and on the bench, and this one in the machine
    with another sensor cable; None was not tried."""

    check: str
    own_machine: Ran | None
    own_bench: Ran | None
    known_machine: Ran | None
    known_bench: Ran | None
    other_cable: Ran | None
    at: datetime

    @property
    def trials(self) -> dict[str, Ran]:
        """Those that were tried, by name."""
        return {n: ran for n in TRIALS if (ran := getattr(self, n)) is not None}


_Dated = TypeVar("_Dated", Check, Reading, Event, Inspected, LampsSeen, Overruled, GuardTrip, PoleFinding, CrossTried)


@dataclass(frozen=True, slots=True)
class History:
    """A motor with all its checks, events and findings; `studied` are visits that tell of a rig, not of the motor."""

    motor: Motor
    checks: tuple[Check, ...] = ()
    events: tuple[Event, ...] = ()
    inspected: tuple[Inspected, ...] = ()
    lamps: tuple[LampsSeen, ...] = ()
    overruled: tuple[Overruled, ...] = ()
    guard_trips: tuple[GuardTrip, ...] = ()
    poles: tuple[PoleFinding, ...] = ()
    crossed: tuple[CrossTried, ...] = ()
    studied: tuple[Check, ...] = ()

    def until(self, as_of: datetime) -> "History":
        """What was known of it at a time: later checks, events and findings are gone, and later readings of a check."""

        def known(part: "tuple[_Dated, ...]") -> "tuple[_Dated, ...]":
            return tuple(x for x in part if x.at <= as_of)

        def of_checks(checks: tuple[Check, ...]) -> tuple[Check, ...]:
            return tuple(
                c if all(r.at <= as_of for r in c.readings) else replace(c, readings=known(c.readings))
                for c in known(checks)
            )

        return History(
            self.motor,
            of_checks(self.checks),
            known(self.events),
            known(self.inspected),
            known(self.lamps),
            known(self.overruled),
            known(self.guard_trips),
            known(self.poles),
            known(self.crossed),
            of_checks(self.studied),
        )

    def check(self, check_id: str) -> Check | None:
        """One check of it."""
        return next((c for c in self.checks if c.id == check_id), None)

    def with_check(self, check: Check) -> "History":
        """The same history with a check added or exchanged."""
        return replace(self, checks=(*self.without_check(check.id).checks, check))

    def without_check(self, check_id: str) -> "History":
        """The same history with a check left out."""
        return replace(self, checks=tuple(c for c in self.checks if c.id != check_id))
