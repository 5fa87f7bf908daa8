"""Hall sensors, turned by hand: what the three lamps say of sensors and wires.

Six states follow each other, one lamp changing at a time. Exchanging two wires as a whole only turns the order
around, so that shows against the direction the shaft was turned in; lamps that change together, out of order, name
the two wires that touch or are exchanged along the way. Not for timing (see `timing`).

References
----------
.. [1] Hendershot, Miller, Design of Brushless Permanent-Magnet Machines, 2010 (120° Hall commutation).
.. [2] Bench practice.
"""

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.vocabulary import HallKind, SetUp
from waldhorn.core.measuring.derivation import as_read
from waldhorn.core.measuring.quantity import BOARD, REWOUND, BenchTest, Limits, Quantity, named

ORDER = ("101", "100", "110", "010", "011", "001")
SENSORS = "ABC"


@dataclass(frozen=True, slots=True)
class HallFinding:
    """What the lamps say.

    `kind` is good, stuck, inverted, swapped, incomplete; `sensors` names those concerned; `direction` is +1 in the
    order 101 → 100 → …, −1 the other way, 0 when there is none; `seen` how many of the six states were seen.
    """

    kind: HallKind
    words: str
    sensors: str = ""
    direction: int = 0
    seen: int = 0


def read_states(text: str) -> list[str]:
    """States as typed: groups of three lamps, 1 lit and 0 dark, with anything between them.

    Parameters
    ----------
    text : str

    Returns
    -------
    list of str of three characters
        A B C.

    Raises
    ------
    InputError
        Anything but 0 and 1, or lamps missing.

    Notes
    -----
    Source: definition.

    Examples
    --------
    >>> read_states("101,100 110")
    ['101', '100', '110']
    """
    if strange := re.sub(r"[01\s,;>→-]", "", text):
        raise InputError("states", f"“{strange[0]}” is no lamp: write A B C as 1 (lit) or 0 (dark), like 101 100 110")
    lamps = re.sub(r"[^01]", "", text)
    if len(lamps) % 3:
        raise InputError(
            "states", f"{len(lamps)} lamps are not a whole number of states: three lamps a state, like 101"
        )
    return [lamps[i : i + 3] for i in range(0, len(lamps), 3)]


def judge_states(states: Sequence[str], turned: int = 0) -> HallFinding:
    """What a list of lamp states, in the order they were seen, says of the sensors.

    Parameters
    ----------
    states : sequence of str
        Lamps A B C as three characters 0 or 1, in order; repeats of one state are one state.
    turned : int
        +1 or −1 when it is known which order this shaft gives turned this way, 0 when not.

    Returns
    -------
    HallFinding

    Notes
    -----
    Formula: all six in cyclic order, none missed twice at one place: good; one lamp never changes: stuck; 000 or 111
    while all change: inverted; all six out of order, or in the order opposite to the turning: wires

    Source: [1]_ for the order, [2]_ for the findings.

    Examples
    --------
    >>> judge_states(["101", "100", "110", "010", "011", "001"]).kind.value
    'good'
    """
    seen = [s for i, s in enumerate(states) if i == 0 or s != states[i - 1]]
    good = len(set(seen) & set(ORDER))
    if not seen:
        return HallFinding(HallKind.INCOMPLETE, "No state noted yet: turn the shaft slowly by hand.", seen=0)
    if stuck := _stuck(seen):
        return HallFinding(HallKind.STUCK, _stuck_words(stuck), "".join(s for s, _ in stuck), 0, good)
    if {"000", "111"} & set(seen):
        return _inverted(seen, good)
    if good < len(ORDER):
        missing = ", ".join(s for s in ORDER if s not in seen)
        return HallFinding(
            HallKind.INCOMPLETE, f"{good} of 6 states seen; still missing {missing}: turn on.", "", 0, good
        )
    return _order(seen, turned)


def _stuck(seen: Sequence[str]) -> list[tuple[str, str]]:
    """Sensors that never changed while the shaft moved far enough for each to change."""
    if len(seen) < 4:
        return []
    return [
        (name, column[0])
        for name, column in zip(SENSORS, zip(*seen, strict=True), strict=True)
        if len(set(column)) == 1
    ]


def _stuck_words(stuck: Sequence[tuple[str, str]]) -> str:
    names = " and ".join(f"{s} is stuck {'high' if lamp == '1' else 'low'}" for s, lamp in stuck)
    return f"{names}: that sensor, its pin, or the cable."


def _inverted(seen: Sequence[str], good: int) -> HallFinding:
    bad = " and ".join(s for s in ("000", "111") if s in seen)
    for place, name in enumerate(SENSORS):
        turned_over = [s[:place] + str(1 - int(s[place])) + s[place + 1 :] for s in seen]
        if set(turned_over) <= set(ORDER) and _direction(turned_over):
            return HallFinding(HallKind.INVERTED, f"{bad} seen: {name} is inverted or broken.", name, 0, good)
    return HallFinding(HallKind.INVERTED, f"{bad} seen: one sensor is inverted or broken.", "", 0, good)


def _direction(seen: Sequence[str]) -> int:
    """Which way the states step, +1 or −1; a state that was missed once in writing down is passed over."""
    for way in (1, -1):
        steps = Counter((a, b) for a, b in pairwise(ORDER.index(s) for s in seen))
        missed = {step: n for step, n in steps.items() if (step[1] - step[0]) % len(ORDER) == 2 * way % len(ORDER)}
        right = sum(n for (a, b), n in steps.items() if (b - a) % len(ORDER) == way % len(ORDER))
        if right + len(missed) == steps.total() and right > len(missed):
            return way
    return 0


def _order(seen: Sequence[str], turned: int) -> HallFinding:
    direction = _direction(seen)
    if direction and turned and direction != turned:
        words = "All six, but backward for the way it was turned: two wires are exchanged."
        return HallFinding(HallKind.SWAPPED, words, "", direction, 6)
    if direction:
        return HallFinding(HallKind.GOOD, "All six states, in order.", "", direction, 6)
    together: Counter[str] = Counter()
    for a, b in pairwise(seen):
        changed = "".join(n for n, x, y in zip(SENSORS, a, b, strict=True) if x != y)
        if len(changed) == 2:
            together[changed] += 1
    if not together:
        return HallFinding(
            HallKind.INCOMPLETE, "All six, but the turning went back and forth: turn one way only.", "", 0, 6
        )
    pair = max(together, key=lambda p: (together[p], p))
    words = f"All six, but {pair[0]} and {pair[1]} change together, out of order: their wires are swapped or touch."
    return HallFinding(HallKind.SWAPPED, words, pair, 0, 6)


SENSOR_LEVEL_SPREAD = Quantity(
    name="sensor_level_spread",
    set_up=SetUp.SWEEP,
    title="sensor level spread",
    symbol="Sl",
    unit="%",
    limits=Limits(50, 100),
    repeatability=10,
    made=(as_read("sensor_level_spread"),),
    reset_by=frozenset({BOARD, REWOUND}),
    test=BenchTest("timing", "sensor levels by the instrument", 60, sensored_only=True),
    relative=True,
    natural_spread=30,
    sayings=named("Sensor levels spread"),
)
