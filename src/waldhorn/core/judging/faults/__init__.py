"""The faults, each in the module of its name: `entry` says what an entry holds. How likely each is, is `weighing`.

`heat_per_energy` in a signature follows from the rise and the current beside it: (14.6 K + dT)/14.6 K over 1 + dI,
14.6 K being what a sound motor rises in a standard run of 1 kJ.
"""

from collections.abc import Mapping, Sequence
from importlib import import_module
from types import MappingProxyType

from waldhorn.core.base.vocabulary import FAULTS, GRAVE, EventKind, FaultKind
from waldhorn.core.judging.faults.entry import FaultEntry
from waldhorn.core.measuring.measures import QUANTITIES

ENTRY: Mapping[FaultKind, FaultEntry] = MappingProxyType(
    {kind: import_module(f"{__name__}.{kind}").ENTRY for kind in FAULTS}
)

SIGNATURES: Mapping[FaultKind, Mapping[str, float]] = MappingProxyType(
    {
        kind: {name: ENTRY[kind].signature[name] for name in QUANTITIES if name in ENTRY[kind].signature}
        for kind in FAULTS
    }
)


def signs_in(quantity: str) -> dict[FaultKind, float]:
    """The faults that move a quantity, each with its change at the act limit."""
    return {kind: signs[quantity] for kind, signs in SIGNATURES.items() if quantity in signs}


def after_weight(event: EventKind, fault: FaultKind) -> float:
    """How much likelier a fault is after an event; 1 where the event says nothing of it.

    Parameters
    ----------
    event : EventKind
    fault : FaultKind
    """
    return ENTRY[fault].after.get(event, 1.0)


def ended_by(event: EventKind) -> tuple[FaultKind, ...]:
    """The faults that a repair ends, so that what happened before it no longer counts for them.

    >>> [str(f) for f in ended_by(EventKind.ROTOR_REPLACED)]
    ['demagnetised_rotor', 'cracked_magnet']
    """
    return tuple(f for f in FAULTS if event in ENTRY[f].ended_by)


def concerning(events: Sequence[EventKind]) -> dict[FaultKind, list[EventKind]]:
    """The events, oldest first, that still concern each fault: those before its repair are over.

    >>> [str(e) for e in concerning([EventKind.DUNKED, EventKind.BEARINGS_REPLACED, EventKind.CRASH])["worn_bearing"]]
    ['crash']
    """
    found: dict[FaultKind, list[EventKind]] = {fault: [] for fault in FAULTS}
    for event in events:
        for fault in ended_by(event):
            found[fault] = []
        for fault in found:
            if event in GRAVE:
                found[fault].append(event)
    return found
