"""A cracked or loose magnet: the field is uneven around the turn."""

from waldhorn.core.base.vocabulary import EventKind, FaultKind, Verdict
from waldhorn.core.judging.faults.entry import FaultEntry

ENTRY = FaultEntry(
    kind=FaultKind.CRACKED_MAGNET,
    words="a cracked or loose magnet",
    short="cracked or loose magnet",
    part="a loose magnet",
    paragraph=(
        "A magnet has cracked or come off its seat. The field is uneven around the turn: detents vary, the phases"
        " lie apart, the rotor is out of balance and shakes. It can fly apart: no power while it is loose."
    ),
    remedy=Verdict.RETIRE,
    remedy_words="a magnet is cracked or loose",
    ended_by=(EventKind.ROTOR_REPLACED, EventKind.REWOUND),
    signature={
        "kv": 2,
        "no_load_current": 5,
        "friction": 8,
        "speed_loss": 2,
        "speed_ripple": 1.5,
        "timing_spread": 3,
        "noise_avg": 4,
        "temperature": 3,
        "heat_per_energy": 15,
        "detent_peak": -5,
        "detent_force": -5,
        "detent_variation": 60,
        "vibration": 2,
        "magnet_unevenness": 100,
    },
    # one weak magnet shows in the peaks of a turn by half as much in one winding as in another (see `cogging`)
    model_spreads={"detent_variation": 0.6},
    after={EventKind.CRASH: 5},
    found_by={
        "magnets": (0.7, 0.4),
        "wrap": (0.6, 0.3),
        "first_spin": (0.8, 0.5),
        "air_gap": (0.6, 0.3),
        "balance": (0.4, 0.3),
        "by_ear": (0.5, 0.3),
    },
)
