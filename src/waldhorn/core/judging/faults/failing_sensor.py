"""A failing sensor: one phase switches at the wrong moment, or not always."""

from waldhorn.core.base.vocabulary import EventKind, FaultKind, Verdict
from waldhorn.core.judging.faults.entry import FaultEntry

ENTRY = FaultEntry(
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
)
