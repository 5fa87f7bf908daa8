"""A shorted turn: it brakes as an eddy current does, and lowers the pairs it is part of."""

from waldhorn.core.base.vocabulary import EventKind, FaultKind, Verdict
from waldhorn.core.judging.faults.entry import FaultEntry

ENTRY = FaultEntry(
    kind=FaultKind.SHORTED_TURN,
    words="a shorted turn",
    short="shorted turn",
    part="a shorted turn",
    paragraph=(
        "Enamel is burnt through and a turn of the winding is closed on itself: it brakes as an eddy current does,"
        " more the faster it turns. Amps and heat rise steeply with the speed, one pair of leads reads lower."
    ),
    remedy=Verdict.RETIRE,
    remedy_words="a turn is shorted",
    ended_by=(EventKind.REWOUND,),
    signature={
        "kv": 4,
        "no_load_current": 80,
        "speed_loss": 160,
        "speed_ripple": 0.6,
        "timing_spread": 1,
        "noise_avg": 1,
        "temperature": 25,
        "heat_per_energy": 51,
        "resistance_imbalance": 4.3,
    },
    after={EventKind.OVERHEATED: 6},
    found_by={"windings": (0.5, 0.5), "warmth": (0.6, 0.4), "screws": (0.3, 0.2), "leads": (0.2, 0.1)},
)
