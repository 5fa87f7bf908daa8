"""Weakened magnets: heat has taken some of their strength for good."""

from waldhorn.core.base.vocabulary import EventKind, FaultKind, Verdict
from waldhorn.core.judging.faults.entry import FaultEntry

ENTRY = FaultEntry(
    kind=FaultKind.DEMAGNETISED_ROTOR,
    words="weakened magnets",
    short="magnets weakened",
    part="weak magnets",
    paragraph=(
        "Heat has taken some of the magnets' strength for good. Each volt turns the rotor faster, as there is less"
        " field to push against, and the same torque takes more amps; the detents, which go with the square of the"
        " strength, weaken twice as much. Nothing gets louder."
    ),
    remedy=Verdict.RETIRE,
    remedy_words="the magnets have weakened",
    ended_by=(EventKind.ROTOR_REPLACED, EventKind.REWOUND),
    signature={
        "kv": 6,
        "no_load_current": 5,
        "friction": -4,
        "speed_loss": -9,
        "temperature": 1,
        "heat_per_energy": 2,
        "detent_peak": -12,
        "detent_force": -12,
    },
    after={EventKind.OVERHEATED: 6},
)
