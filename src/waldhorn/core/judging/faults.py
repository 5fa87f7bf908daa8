"""The faults, one entry each: what a fault does to every quantity, how it is said, what is done about it, what it comes
of and what ends it. How likely each is, is `weighing`.

References
----------
.. [1] Bench practice.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from types import MappingProxyType

from waldhorn.core.base.vocabulary import FAULTS, GRAVE, EventKind, FaultKind, Verdict
from waldhorn.core.measuring.measures import QUANTITIES


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultEntry:
    """A fault. `words` name it in a sentence, `short` in a table, `part` where it is repaired or watched; `paragraph`
    says what breaks, what that does to the numbers and why.

    `signature` is the change of each quantity for the fault at its act limit (severity 1), in the quantity's change
    unit; it may move those of `either_way` in both directions, those of `compound` grow by the same share with every
    further degree, and `model_spreads` says where the size of a sign is less sure than usual, as a share of
    it. `after` is how much likelier an event makes it [1]_, `found_by` how often eyes and hands find it at its act
    limit, bad and in doubt, by what they look at (see `hands`) [1]_; `ended_by` the repairs that end it; one that
    is not `looked_for` shows where it matters, and need not be ruled out before a motor is kept. `share` is how
    common it is against the others [1]_.
    """

    kind: FaultKind
    words: str
    short: str
    part: str
    paragraph: str
    remedy: Verdict
    remedy_words: str
    ended_by: tuple[EventKind, ...]
    signature: Mapping[str, float]
    either_way: frozenset[str] = frozenset()
    compound: frozenset[str] = frozenset()
    model_spreads: Mapping[str, float] = field(default_factory=dict)
    after: Mapping[EventKind, float] = field(default_factory=dict)
    found_by: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    sensored_only: bool = False
    looked_for: bool = True
    share: float = 1.0


_MOVED_BY_TIMING = frozenset(
    {"kv", "no_load_current", "friction", "speed_loss", "timing_mean", "noise_avg", "temperature", "heat_per_energy"}
)

# `heat_per_energy` follows from the rise and the current beside it: (14.6 K + dT)/14.6 K over 1 + dI, 14.6 K being what
# a sound motor rises in a standard run of 1 kJ.
_ENTRIES = (
    FaultEntry(
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
        signature={"kv": 6, "no_load_current": 5, "friction": -4, "speed_loss": -9, "temperature": 1,
                   "heat_per_energy": 2, "detent_peak": -12, "detent_force": -12},
        after={EventKind.OVERHEATED: 6},
    ),
    FaultEntry(
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
        signature={"kv": 2, "no_load_current": 5, "friction": 8, "speed_loss": 2, "speed_ripple": 1.5,
                   "timing_spread": 3, "noise_avg": 4, "temperature": 3, "heat_per_energy": 15,
                   "detent_peak": -5, "detent_force": -5, "detent_variation": 60, "vibration": 2,
                   "magnet_unevenness": 100},
        # one weak magnet shows in the peaks of a turn by half as much in one winding as in another (see `cogging`)
        model_spreads={"detent_variation": 0.6},
        after={EventKind.CRASH: 5},
        found_by={"magnets": (0.7, 0.4), "wrap": (0.6, 0.3), "first_spin": (0.8, 0.5), "air_gap": (0.6, 0.3),
                  "balance": (0.4, 0.3), "by_ear": (0.5, 0.3)},
    ),
    FaultEntry(
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
        signature={"kv": -0.15, "no_load_current": 30, "friction": 60, "speed_loss": 4, "speed_ripple": 1.2,
                   "noise_avg": 6, "temperature": 8, "heat_per_energy": 19, "vibration": 1},
        after={EventKind.DUNKED: 6},
        share=4.0,
        found_by={"bearings": (0.7, 0.4), "first_spin": (0.8, 0.5), "by_ear": (0.7, 0.4), "warmth": (0.5, 0.4),
                  "shaft": (0.4, 0.3), "retention": (0.3, 0.2)},
    ),
    FaultEntry(
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
        signature={"kv": -0.05, "no_load_current": 12, "friction": 4, "speed_loss": 20, "speed_ripple": 0.8,
                   "timing_spread": 0.5, "noise_avg": 5, "temperature": 3, "heat_per_energy": 8,
                   "detent_variation": 40, "run_out": 0.15, "vibration": 2},
        after={EventKind.CRASH: 6},
        found_by={"shaft": (0.8, 0.5), "face_gap": (0.8, 0.5), "air_gap": (0.6, 0.3), "bell_seam": (0.5, 0.3),
                  "first_spin": (0.8, 0.5), "balance": (0.4, 0.3), "by_ear": (0.5, 0.3)},
    ),
    FaultEntry(
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
        signature={"kv": 4, "no_load_current": 80, "speed_loss": 160, "speed_ripple": 0.6, "timing_spread": 1,
                   "noise_avg": 1, "temperature": 25, "heat_per_energy": 51, "resistance_imbalance": 4.3},
        after={EventKind.OVERHEATED: 6},
        found_by={"windings": (0.5, 0.5), "warmth": (0.6, 0.4), "screws": (0.3, 0.2), "leads": (0.2, 0.1)},
    ),
    FaultEntry(
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
        signature={"kv": 2, "no_load_current": 22, "friction": 20, "speed_loss": 20, "timing_mean": 4,
                   "noise_avg": 0.5, "temperature": 8, "heat_per_energy": 27},
        either_way=_MOVED_BY_TIMING,
        compound=frozenset({"no_load_current", "friction", "speed_loss"}),
        after={EventKind.CRASH: 3},
        found_by={"end_bell": (0.8, 0.5), "sensor_port": (0.3, 0.2), "warmth": (0.4, 0.35)},
        sensored_only=True,
    ),
    FaultEntry(
        kind=FaultKind.FAILING_SENSOR,
        words="a failing sensor",
        short="sensor",
        part="sensor board",
        paragraph=(
            "A Hall sensor, its magnet or its cable gives way: one phase switches at the wrong moment, or not always."
            " The phases lie apart, the sweep hunts, the speed wanders; the motor itself is sound."
        ),
        remedy=Verdict.REPAIR,
        remedy_words="replace the sensor board",
        ended_by=(EventKind.SENSOR_BOARD_REPLACED, EventKind.REWOUND),
        signature={"speed_ripple": 1, "timing_mean": 2, "timing_spread": 4, "noise_avg": 1, "sensor_level_spread": 100},
        either_way=frozenset({"timing_mean"}),
        after={EventKind.CRASH: 2, EventKind.DUNKED: 2},
        found_by={"lamps": (0.95, 0.2), "sweep": (0.6, 0.3), "sensor_port": (0.5, 0.3)},
        sensored_only=True,
    ),
    FaultEntry(
        kind=FaultKind.BAD_JOINT,
        words="a bad joint or lead",
        short="joint or lead",
        part="a joint or lead",
        paragraph=(
            "A solder joint, a plug or a strand of one lead has given way and stands in series with its phase. Two of"
            " the three pairs read higher by the same; without load nothing else shows, under load that lead gets hot."
        ),
        remedy=Verdict.REPAIR,
        remedy_words="solder the joint or lead anew",
        ended_by=(EventKind.MENDED, EventKind.REWOUND),
        signature={"kv": -0.3, "temperature": 2, "heat_per_energy": 14, "resistance_imbalance": 5},
        after={EventKind.CRASH: 2},
        found_by={"leads": (0.6, 0.4)},
        looked_for=False,
        share=0.3,
    ),
)  # fmt: skip
ENTRY: Mapping[FaultKind, FaultEntry] = MappingProxyType({f.kind: f for f in _ENTRIES})

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
    """How much likelier a fault is after an event; 1 where the event says nothing of it."""
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
