"""Odds: how much likelier a fault becomes by what happened to a motor and by what was noticed on it that is no number,
and which repair ends that.

References
----------
.. [1] Bench practice.
"""

from collections.abc import Mapping, Sequence
from enum import StrEnum

from waldhorn.core.base.vocabulary import FAULTS, EventKind, FaultKind


class Sign(StrEnum):
    """What may be noticed on a motor that is no number."""

    DOUBT = "doubt"
    BAD = "bad"
    LAMPS = "lamps"
    HUNTED = "hunted"
    ROUGH = "rough"


# How much likelier a fault becomes by what happened since the baseline [1].
EVENT_WEIGHT: Mapping[EventKind, Mapping[FaultKind, float]] = {
    EventKind.CRASH: {
        FaultKind.CRACKED_MAGNET: 5,
        FaultKind.BENT_SHAFT: 6,
        FaultKind.TIMING_MOVED: 3,
        FaultKind.FAILING_SENSOR: 2,
    },
    EventKind.DUNKED: {FaultKind.WORN_BEARING: 6, FaultKind.FAILING_SENSOR: 2},
    EventKind.OVERHEATED: {FaultKind.DEMAGNETISED_ROTOR: 6, FaultKind.SHORTED_TURN: 6},
}
# ... and by what was noticed: the eye in doubt or sure, lamps, an uneven sweep, a rough first spin [1].
NOTICED_WEIGHT: Mapping[Sign, Mapping[FaultKind, float]] = {
    Sign.DOUBT: dict.fromkeys(FAULTS, 2.5),
    Sign.BAD: dict.fromkeys(FAULTS, 6.0),
    Sign.LAMPS: {FaultKind.FAILING_SENSOR: 25},
    Sign.HUNTED: {FaultKind.FAILING_SENSOR: 3, FaultKind.TIMING_MOVED: 1.5},
    Sign.ROUGH: {FaultKind.WORN_BEARING: 3, FaultKind.CRACKED_MAGNET: 3, FaultKind.BENT_SHAFT: 2},
}
# Which faults a repair mends, so that what happened before it no longer counts for them.
MENDED_BY: Mapping[EventKind, tuple[FaultKind, ...]] = {
    EventKind.BEARINGS_REPLACED: (FaultKind.WORN_BEARING,),
    EventKind.ROTOR_REPLACED: (FaultKind.DEMAGNETISED_ROTOR, FaultKind.CRACKED_MAGNET),
    EventKind.SHAFT_REPLACED: (FaultKind.BENT_SHAFT,),
    EventKind.TIMING_CHANGED: (FaultKind.TIMING_MOVED,),
    EventKind.SENSOR_BOARD_REPLACED: (FaultKind.FAILING_SENSOR, FaultKind.TIMING_MOVED),
    EventKind.REWOUND: FAULTS,
}


def concerning(events: Sequence[EventKind]) -> dict[FaultKind, list[EventKind]]:
    """The events, oldest first, that still concern each fault: those before its repair are over.

    >>> [str(e) for e in concerning([EventKind.DUNKED, EventKind.BEARINGS_REPLACED, EventKind.CRASH])["worn_bearing"]]
    ['crash']
    """
    found: dict[FaultKind, list[EventKind]] = {fault: [] for fault in FAULTS}
    for event in events:
        for fault in MENDED_BY.get(event, ()):
            found[fault] = []
        for fault in found:
            if event in EVENT_WEIGHT:
                found[fault].append(event)
    return found
