"""A bent shaft or bell: the gap opens and closes once a turn."""

from waldhorn.core.base.vocabulary import EventKind, FaultKind, Verdict
from waldhorn.core.judging.faults.entry import FaultEntry

ENTRY = FaultEntry(
    kind=FaultKind.BENT_SHAFT,
    words="a bent shaft or bell",
    short="bent shaft or bell",
    part="shaft or bell",
    paragraph=(
        "Shaft or bell have been bent: the gap opens and closes once a turn, the rotor shakes its mount and wears"
        " the bearings. Only the gauge tells it from worn bearings for sure."
    ),
    remedy=Verdict.REPAIR,
    remedy_words="replace the shaft or bell",
    ended_by=(EventKind.SHAFT_REPLACED, EventKind.REWOUND),
    signature={
        "kv": -0.05,
        "no_load_current": 12,
        "friction": 4,
        "speed_loss": 20,
        "speed_ripple": 0.8,
        "timing_spread": 0.5,
        "noise_avg": 5,
        "temperature": 3,
        "heat_per_energy": 8,
        "detent_variation": 40,
        "run_out": 0.15,
        "vibration": 2,
    },
    after={EventKind.CRASH: 6},
    found_by={
        "shaft": (0.8, 0.5),
        "face_gap": (0.8, 0.5),
        "air_gap": (0.6, 0.3),
        "bell_seam": (0.5, 0.3),
        "first_spin": (0.8, 0.5),
        "balance": (0.4, 0.3),
        "by_ear": (0.5, 0.3),
    },
)
