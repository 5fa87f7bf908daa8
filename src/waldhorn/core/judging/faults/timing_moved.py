"""Moved timing: the phases switch too early or too late."""

from waldhorn.core.base.vocabulary import EventKind, FaultKind, Verdict
from waldhorn.core.judging.faults.entry import FaultEntry

# What a slipped end bell moves, forward or back.
_MOVED_BY_TIMING = frozenset(
    {"kv", "no_load_current", "friction", "speed_loss", "timing_mean", "noise_avg", "temperature", "heat_per_energy"}
)

ENTRY = FaultEntry(
    kind=FaultKind.TIMING_MOVED,
    words="moved timing",
    short="timing moved",
    part="timing",
    paragraph=(
        "The end bell, or the board in it, has slipped, so that the phases switch too early or too late. The mean"
        " timing says so itself; more of it gives more speed, and steeply more amps and heat, less of it less."
    ),
    remedy=Verdict.REPAIR,
    remedy_words="set the timing back and tighten the end bell",
    ended_by=(EventKind.TIMING_CHANGED, EventKind.SENSOR_BOARD_REPLACED, EventKind.REWOUND),
    signature={
        "kv": 2,
        "no_load_current": 22,
        "friction": 20,
        "speed_loss": 20,
        "timing_mean": 4,
        "noise_avg": 0.5,
        "temperature": 8,
        "heat_per_energy": 27,
    },
    either_way=_MOVED_BY_TIMING,
    compound=frozenset({"no_load_current", "friction", "speed_loss"}),
    after={EventKind.CRASH: 3},
    found_by={"end_bell": (0.8, 0.5), "sensor_port": (0.3, 0.2), "warmth": (0.4, 0.35)},
    sensored_only=True,
)
