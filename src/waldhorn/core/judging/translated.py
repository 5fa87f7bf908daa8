"""A motor's own past that was read on another rig, as this rig would have read it: never a baseline of its own,
and less sure.

References
----------
.. [1] JCGM 100:2008 (GUM), 5.2; see `translation`.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from waldhorn.core.base.history import Event
from waldhorn.core.base.vocabulary import Source
from waldhorn.core.judging import baseline
from waldhorn.core.judging.baseline import Baseline
from waldhorn.core.measuring.observations import Group
from waldhorn.core.measuring.quantity import Quantity
from waldhorn.core.rigs.calibration import Translation, translated

Lines = Mapping[tuple[str, str, str], Translation]  # by rig, to rig and quantity


def own_past(
    found: Sequence[Group], now: Sequence[Group], events: Iterable[Event], quantity: Quantity, lines: Lines
) -> Baseline | None:
    """What a motor was on another rig, translated to the rig it was read on now.

    Parameters
    ----------
    found : sequence of Group
        Groups of the quantity, oldest first.
    now : sequence of Group
        The groups to be judged, the latest last.
    events : iterable of Event
        What happened to the motor.
    quantity : Quantity
    lines : mapping
        From one rig to another.

    Returns
    -------
    Baseline
        Of the surest line, with the line's uncertainty in `u_further`; None where there is none.

    Notes
    -----
    Formula: y = a + k·x; u² = u_a² + x²·u_k² + 2x·cov(a, k) + s_res², besides what the readings themselves repeat to

    Source: [1]_.
    """
    last, happened = now[-1], list(events)
    possible = []
    for rig in sorted({g.conditions.rig for g in found} - {"", last.conditions.rig}):
        line = lines.get((rig, last.conditions.rig, quantity.name))
        there = tuple(replace(o, conditions=replace(o.conditions, rig=rig)) for o in last.observations)
        past = baseline.own(found, [replace(last, observations=there)], happened, quantity)[0] if line else None
        if line is None or past is None:
            continue
        value, u = translated(past.value, 0.0, line)
        u *= 100 / abs(value) if quantity.relative and value else 1.0
        further = math.hypot(past.u_further, u)
        brought = replace(past, value=value, source=Source.TRANSLATED, u_further=further, as_read=past.value)
        possible.append(brought)
    return min(possible, key=lambda b: b.u_further, default=None)
