"""Inspection: what to look at before any power, what forbids power, and what ear and hand notice after a run.

What a finding says of the faults stands with them (`judging.faults`) and is weighed in `judging.hands`.

References
----------
.. [1] Bench practice.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from waldhorn.core.base.history import Event, Motor
from waldhorn.core.base.vocabulary import EventKind, Look

LEAST_HOLD_MM = 2.0  # a screw that reaches in by less is no hold [1]
SHORT_HOLD = 0.5  # with a doubt on such an item, holds are half as long [1]


@dataclass(frozen=True, slots=True)
class Item:
    """One thing to look at.

    `forbids` power when bad until it is mended, `shortens` the run when doubtful; `settled_by` is the repair that makes
    a finding that forbids nothing obsolete; `part` is its place on the drawing.
    """

    name: str
    title: str
    look_for: str
    part: str
    forbids: bool = False
    shortens: bool = False
    settled_by: EventKind | None = None
    applies: Callable[[Motor], bool] = lambda motor: True


def _outrunner(motor: Motor) -> bool:
    return motor.kind != "inrunner"


def _inrunner(motor: Motor) -> bool:
    return motor.kind != "outrunner"


def _sensored(motor: Motor) -> bool:
    return motor.may_have_sensors


ITEMS: Mapping[str, Item] = {
    item.name: item
    for item in (
        Item("leads", "leads and joints", "bare strands, loose bullets, cold joints, a lead touching the can",
             "winding", forbids=True),
        Item("screws", "screws", "which one; stripped (one of several: doubt), missing, too long for the windings",
             "winding", forbids=True, shortens=True),
        Item("windings", "windings", "dark or smelling varnish, enamel rubbed through", "winding", forbids=True,
             shortens=True),
        Item("magnets", "magnets", "loose, shifted, chipped, rusty, swarf", "magnets", forbids=True),
        Item("bell_seam", "bell seam", "ring lifting from the bell along the bond", "bell", forbids=True,
             applies=_outrunner),
        Item("wrap", "rotor wrap or sleeve", "frayed wrap, cracked sleeve, rub marks", "magnets", forbids=True,
             applies=_inrunner),
        Item("retention", "retention", "clip, shaft screw, circlip, washer, cushion ring: present and tight", "shaft",
             forbids=True),
        Item("shaft", "shaft", "sight along it, roll it, play along and across", "shaft",
             settled_by=EventKind.SHAFT_REPLACED),
        Item("face_gap", "face gap", "spin by hand: does the gap between bell and base open and close?", "gap",
             applies=_outrunner, settled_by=EventKind.SHAFT_REPLACED),
        Item("air_gap", "air gap", "press the bell or rotor down: does it rub?", "gap"),
        Item("bearings", "bearings by hand", "smooth, dry, gritty, seized; grit is irregular, detents are regular",
             "bearings", shortens=True, settled_by=EventKind.BEARINGS_REPLACED),
        Item("sensor_port", "sensor board and port", "seated, clean, pins straight, cable sound", "sensors",
             applies=_sensored, settled_by=EventKind.SENSOR_BOARD_REPLACED),
        Item("end_bell", "end bell", "mark, screws tight, moved since last time?", "sensors", applies=_sensored,
             settled_by=EventKind.TIMING_CHANGED),
        Item("balance", "balance marks", "putty or drilling missing, fresh rub", "magnets"),
        Item("by_ear", "sound by ear", "after a run: louder or rougher than it was, or than its siblings", "bearings",
             settled_by=EventKind.BEARINGS_REPLACED),
        Item("warmth", "warmth by hand", "after a run: hotter than it was, or than its siblings", "winding",
             settled_by=EventKind.BEARINGS_REPLACED),
    )
}  # fmt: skip


def items_for(motor: Motor) -> list[Item]:
    """The items that fit a motor's kind, in the order of looking.

    >>> [i.name for i in items_for(Motor("x", kind="outrunner", sensored=False))][-3:]
    ['balance', 'by_ear', 'warmth']
    """
    return [item for item in ITEMS.values() if item.applies(motor)]


def mended_by(event: Event) -> tuple[str, ...]:
    """The items whose finding an event settles: a power ban only by a mending that names its item.

    >>> from datetime import datetime
    >>> mended_by(Event(EventKind.MENDED, datetime.min, item="leads"))
    ('leads',)
    >>> mended_by(Event(EventKind.CLEANED, datetime.min)), mended_by(Event(EventKind.BEARINGS_REPLACED, datetime.min))
    ((), ('bearings', 'by_ear', 'warmth'))
    """
    if event.event is EventKind.MENDED:
        return (event.item,) if event.item in ITEMS else ()
    return tuple(i.name for i in ITEMS.values() if i.settled_by is event.event)


@dataclass(frozen=True, slots=True)
class ScrewFit:
    """How far a screw reaches in beyond its mount, and how deep the thread is, mm."""

    reach_mm: float
    thread_mm: float

    @property
    def too_long(self) -> bool:
        """Whether it comes out at the end of the thread, where the windings are."""
        return self.reach_mm > self.thread_mm

    @property
    def words(self) -> str:
        """What that means."""
        said = f"The screw reaches {self.reach_mm:.1f} mm into {self.thread_mm:.1f} mm of thread"
        if self.too_long:
            return f"{said}: too long, it can reach the windings."
        return f"{said}{': it hardly holds' if self.reach_mm < LEAST_HOLD_MM else ''}."


def screw_fit(length_mm: float, mount_mm: float, thread_mm: float) -> ScrewFit:
    """How a mounting screw fits.

    Parameters
    ----------
    length_mm : float
        mm, under the head.
    mount_mm : float
        mm, of the arm or mount, with washers.
    thread_mm : float
        mm, depth of the thread in the motor.

    Returns
    -------
    ScrewFit

    Notes
    -----
    Formula: reach = length − mount; it must not exceed the thread

    Source: [1]_.

    Examples
    --------
    >>> screw_fit(8, 3, 4).too_long, screw_fit(6, 3, 4).too_long
    (True, False)
    """
    return ScrewFit(length_mm - mount_mm, thread_mm)


def forbidding(found: Mapping[str, Look]) -> list[Item]:
    """The items whose finding forbids power until it is mended or overruled.

    Parameters
    ----------
    found : mapping of str to Look
        What was found of each item.

    Returns
    -------
    list of Item

    Notes
    -----
    Source: [1]_.

    Examples
    --------
    >>> [i.name for i in forbidding({"magnets": Look.BAD, "shaft": Look.BAD, "leads": Look.DOUBT})]
    ['magnets']
    """
    return [ITEMS[name] for name, state in found.items() if state is Look.BAD and name in ITEMS and ITEMS[name].forbids]


def hold_share(found: Mapping[str, Look]) -> float:
    """What share of the usual hold a motor may be given.

    Parameters
    ----------
    found : mapping of str to Look
        What was found of each item.

    Returns
    -------
    float
        0.5 or 1.

    Notes
    -----
    Formula: one half when an item marked as shortening the run is in doubt, else 1

    Source: [1]_.

    Examples
    --------
    >>> hold_share({"bearings": Look.DOUBT}), hold_share({"shaft": Look.DOUBT})
    (0.5, 1.0)
    """
    short = any(state in (Look.DOUBT, Look.BAD) and ITEMS[n].shortens for n, state in found.items() if n in ITEMS)
    return SHORT_HOLD if short else 1.0
