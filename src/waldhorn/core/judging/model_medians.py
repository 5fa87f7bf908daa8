"""How far the motors of a model lie apart as they came in, on each rig."""

import math
from collections.abc import Sequence

from waldhorn.core.judging.baseline import Baseline, of_model
from waldhorn.core.measuring.quantity import Quantity

_MOST_TRIED = 40  # conditions of a model on a rig


def by_rig(everyone: Sequence[Baseline], quantity: Quantity) -> dict[str, Baseline]:
    """The median of a model on each rig, under the conditions that most of its motors were read in.

    Parameters
    ----------
    everyone : sequence of Baseline
        Own baselines of all motors of the model.
    quantity : Quantity

    Returns
    -------
    dict of str to Baseline
        By rig; see `of_model`.

    Notes
    -----
    Source: bench practice; of many conditions forty are tried.
    """
    found: dict[str, Baseline] = {}
    on: dict[str, list[Baseline]] = {}
    for one in everyone:
        if one.conditions:
            on.setdefault(one.conditions.rig, []).append(one)
    for rig, mine in on.items():
        conditions = list(dict.fromkeys(b.conditions for b in mine if b.conditions))
        tried = conditions[:: max(1, len(conditions) // _MOST_TRIED)]
        held = [b for b in (of_model(mine, c, quantity) for c in tried) if b]
        if held:
            found[rig] = max(held, key=lambda b: b.n)
    return found


def one_sigma(held: Baseline) -> float:
    """One standard deviation between the motors of a model, change unit, without what the median is not known by.

    >>> from waldhorn.core.base.vocabulary import Source
    >>> round(one_sigma(Baseline(3400.0, 10, Source.MODEL, 1.5 * math.sqrt(1 + math.pi / 20))), 6)
    1.5
    """
    return held.u_further / math.sqrt(1 + math.pi / 2 / held.n)
