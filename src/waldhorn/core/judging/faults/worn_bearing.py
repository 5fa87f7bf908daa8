"""Worn bearings: friction grows at every speed."""

from waldhorn.core.base.vocabulary import EventKind, FaultKind, Verdict
from waldhorn.core.judging.faults.entry import FaultEntry

ENTRY = FaultEntry(
    kind=FaultKind.WORN_BEARING,
    words="worn bearings",
    short="bearings",
    part="bearings",
    paragraph=(
        "Balls and races are worn, dry or dirty. Friction grows at every speed, so the motor draws more amps with"
        " nothing on it, runs hotter, gets louder and wanders; its speed a volt hardly changes. Noise tells it"
        " best."
    ),
    remedy=Verdict.REPAIR,
    remedy_words="replace the bearings",
    ended_by=(EventKind.BEARINGS_REPLACED, EventKind.REWOUND),
    signature={
        "kv": -0.15,
        "no_load_current": 30,
        "friction": 60,
        "speed_loss": 4,
        "speed_ripple": 1.2,
        "noise_avg": 6,
        "temperature": 8,
        "heat_per_energy": 19,
        "vibration": 1,
    },
    after={EventKind.DUNKED: 6},
    share=4.0,
    found_by={
        "bearings": (0.7, 0.4),
        "first_spin": (0.8, 0.5),
        "by_ear": (0.7, 0.4),
        "warmth": (0.5, 0.4),
        "shaft": (0.4, 0.3),
        "retention": (0.3, 0.2),
    },
)
