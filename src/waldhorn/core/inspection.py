"""Inspection: what to look at before any power, what forbids power, and what each finding makes likelier.

What the eye suspects is a suspicion, not a verdict: it raises the odds of a fault and asks for the test that can
prove it.

References
----------
.. [1] Bench practice.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from waldhorn.core.history import Motor

STATES = ("ok", "doubt", "bad", "not looked at")
SHORT_HOLD = 0.5  # with a doubt on such an item, holds are half as long [1]


@dataclass(frozen=True, slots=True)
class Item:
    """One thing to look at. `forbids` power when bad, `shortens` the run when doubtful; `mended_by` names the
    events that settle it; `points_to` the faults it makes likelier; `part` is its place on the drawing."""

    name: str
    title: str
    look_for: str
    points_to: tuple[str, ...]
    part: str
    forbids: bool = False
    shortens: bool = False
    mended_by: tuple[str, ...] = ("cleaned",)
    applies: Callable[[Motor], bool] = lambda motor: True


def _outrunner(motor: Motor) -> bool:
    return motor.kind == "outrunner"


def _inrunner(motor: Motor) -> bool:
    return motor.kind == "inrunner"


def _sensored(motor: Motor) -> bool:
    return motor.sensored


ITEMS: Mapping[str, Item] = {
    item.name: item
    for item in (
        Item("leads", "leads and joints", "bare strands, loose bullets, cold joints, a lead touching the can",
             ("shorted_turn",), "winding", forbids=True, mended_by=("cleaned", "rewound")),
        Item("screws", "screws", "stripped, missing, too long: can reach the windings", ("shorted_turn",), "winding",
             forbids=True),
        Item("windings", "windings", "dark or smelling varnish, enamel rubbed through", ("shorted_turn",), "winding",
             forbids=True, shortens=True, mended_by=("rewound",)),
        Item("magnets", "magnets", "loose, shifted, chipped, rusty, swarf", ("cracked_magnet",), "magnets",
             forbids=True, mended_by=("rotor_replaced",)),
        Item("bell_seam", "bell seam", "ring lifting from the bell along the bond", ("bent_shaft",), "bell",
             forbids=True, mended_by=("shaft_replaced", "rotor_replaced"), applies=_outrunner),
        Item("wrap", "rotor wrap or sleeve", "frayed wrap, cracked sleeve, rub marks", ("cracked_magnet",), "magnets",
             forbids=True, mended_by=("rotor_replaced",), applies=_inrunner),
        Item("retention", "retention", "clip, shaft screw, circlip, washer, cushion ring: present and tight",
             ("worn_bearing",), "shaft", forbids=True, mended_by=("shaft_replaced", "cleaned")),
        Item("shaft", "shaft", "sight along it, roll it, play along and across", ("bent_shaft", "worn_bearing"),
             "shaft"),
        Item("face_gap", "face gap", "spin by hand: does the gap between bell and base open and close?",
             ("bent_shaft",), "gap", applies=_outrunner),
        Item("air_gap", "air gap", "press the bell or rotor down: does it rub?", ("bent_shaft", "cracked_magnet"),
             "gap"),
        Item("bearings", "bearings by hand", "smooth, dry, gritty, seized; grit is irregular, detents are regular",
             ("worn_bearing",), "bearings", shortens=True, mended_by=("bearings_replaced",)),
        Item("sensor_port", "sensor board and port", "seated, clean, pins straight, cable sound",
             ("failing_sensor", "timing_moved"), "sensors", applies=_sensored),
        Item("end_bell", "end bell", "mark, screws tight, moved since last time?", ("timing_moved",), "sensors",
             applies=_sensored),
        Item("balance", "balance marks", "putty or drilling missing, fresh rub", ("cracked_magnet", "bent_shaft"),
             "magnets"),
    )
}  # fmt: skip


def items_for(motor: Motor) -> list[Item]:
    """The items that fit a motor's kind, in the order of looking.

    >>> [i.name for i in items_for(Motor("x", kind="outrunner", sensored=False))][-3:]
    ['air_gap', 'bearings', 'balance']
    """
    return [item for item in ITEMS.values() if item.applies(motor)]


def forbidding(found: Mapping[str, str]) -> list[Item]:
    """The items whose finding forbids power until it is mended or overruled.

    Parameters
    ----------
    found : item name to one of STATES

    Returns
    -------
    list of Item

    Source: [1]_.

    >>> [i.name for i in forbidding({"magnets": "bad", "shaft": "bad", "leads": "doubt"})]
    ['magnets']
    """
    return [ITEMS[name] for name, state in found.items() if state == "bad" and name in ITEMS and ITEMS[name].forbids]


def hold_share(found: Mapping[str, str]) -> float:
    """What share of the usual hold a motor may be given.

    Formula: one half when an item marked as shortening the run is in doubt, else 1

    Parameters
    ----------
    found : item name to one of STATES

    Returns
    -------
    float, 0.5 or 1

    Source: [1]_.

    >>> hold_share({"bearings": "doubt"}), hold_share({"shaft": "doubt"})
    (0.5, 1.0)
    """
    short = any(state in ("doubt", "bad") and ITEMS[n].shortens for n, state in found.items() if n in ITEMS)
    return SHORT_HOLD if short else 1.0


def suspicion(found: Mapping[str, str]) -> dict[str, str]:
    """The faults the eye points to, with the graver state of those that point there: doubt or bad.

    >>> suspicion({"bearings": "doubt", "shaft": "bad"})
    {'worn_bearing': 'bad', 'bent_shaft': 'bad'}
    """
    raised: dict[str, str] = {}
    for name, state in found.items():
        if name in ITEMS and state in ("doubt", "bad"):
            for fault in ITEMS[name].points_to:
                raised[fault] = "bad" if "bad" in (state, raised.get(fault)) else "doubt"
    return raised
