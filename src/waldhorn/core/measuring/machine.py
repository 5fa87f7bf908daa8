"""Which motor on this machine shakes: rank the motors of one machine, and name the culprit only if it stands clear.

Each is spun alone at the same step while a hand holds its mount (0 none to 5 violent) or an accelerometer is read.
What the eye suspects is kept beside it: the two often differ.

References
----------
.. [1] Bench practice.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from statistics import median

from waldhorn.core.base.vocabulary import SetUp
from waldhorn.core.measuring.derivation import as_read
from waldhorn.core.measuring.quantity import BEARINGS, REWOUND, ROTOR, SHAFT, Limits, Quantity

HAND_S = 0.5  # one sigma of a hand's judgement, points [1]
METER_S = 0.10  # one sigma of an accelerometer put on again, as a share [1]
CLEAR_POINTS = 1.0
_CLEAR = 2.0  # sigmas of the difference of two


@dataclass(frozen=True, slots=True)
class Ranking:
    """Motors by how much they shake, the worst first; `culprit` is one that stands clear, or None."""

    order: tuple[tuple[str, float], ...]
    median: float
    culprit: str | None
    words: str


def rank(values: Mapping[str, float], metered: bool = False, suspect: str = "") -> Ranking:
    """Rank the motors of one machine.

    Parameters
    ----------
    values : mapping of str to float
        By motor: points 0 to 5, or g rms when `metered`.
    metered : bool
    suspect : str
        The motor that looked bent, if one did.

    Returns
    -------
    Ranking

    Notes
    -----
    Formula: the worst is the culprit when it exceeds the next by 2·√2·s (hand: s = 0.5 points and at least 1 point
    above the median; accelerometer: s = 10 %)

    Source: [1]_.

    Examples
    --------
    >>> rank({"left": 1.0, "right": 4.0, "stern": 1.0}).culprit
    'right'
    """
    order = tuple(sorted(values.items(), key=lambda item: (-item[1], item[0])))
    if len(order) < 2:
        return Ranking(order, order[0][1] if order else 0.0, None, "Spin at least two motors of this machine.")
    centre = median(values.values())
    (worst, top), (_, second) = order[:2]
    if metered:
        clear = second > 0 and math.log(top / second) > _CLEAR * math.sqrt(2) * METER_S
        clear = clear or (second == 0 and top > 0)
    else:
        clear = top - second > _CLEAR * math.sqrt(2) * HAND_S and top - centre >= CLEAR_POINTS
    if not clear:
        words = "None stands clear of the others."
        return Ranking(order, centre, None, words + (f" The eye suspected {suspect}." if suspect else ""))
    words = f"{worst} shakes: it stands clear of the others."
    if suspect and suspect != worst:
        words += f" The eye suspected {suspect}, the hand says {worst}."
    return Ranking(order, centre, worst, words)


VIBRATION = Quantity(
    name="vibration",
    set_up=SetUp.CLAMP,
    title="vibration",
    symbol="V",
    unit="points",
    limits=Limits(1, 2),
    repeatability=HAND_S,
    made=(as_read("vibration"),),
    same=("throttle_pct", "placement"),
    reset_by=frozenset({BEARINGS, ROTOR, SHAFT, REWOUND}),
    against_machine=True,
    resolution=0.5,
    natural_spread=0.5,
    sayings=("Shakes {} more", "Shakes {} less", "Shakes no more"),
    part="shaft",
)
