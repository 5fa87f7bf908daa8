"""The last of everything that was read of a motor and stands on none of its strips: loads, flywheel, what an instrument
worked out, what was read alone."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from waldhorn.core.base.history import History
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.core.judging.evidence import Evidence
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.pit.motors.book import words_under


@dataclass(frozen=True)
class LastRead:
    """One measure: its value in the stored unit, under which conditions, and when."""

    measure: str
    value: float
    under: Sequence[str]
    at: datetime


def last_read(history: History, evidence: Sequence[Evidence]) -> list[LastRead]:
    """The last reading that counts of each measure, by what is on the shaft; in the order of the registry."""
    told = {m for e in evidence if e.now is not None for rule in e.quantity.made for m in rule.inputs}
    found: dict[tuple[str, str], LastRead] = {}
    readings = sorted((r for c in history.checks for r in c.readings if r.accepted), key=lambda r: (r.at, r.run))
    for r in readings:
        if r.measure in told and r.purpose is Purpose.STANDARD:
            continue
        under = replace(r.conditions, rig="", method="", motor_c=None, ambient_c=None)
        found[r.measure, r.conditions.on_shaft] = LastRead(r.measure, r.value, words_under([under]), r.at)
    order = list(MEASURES)
    return sorted(found.values(), key=lambda one: (one.under[:1], order.index(one.measure)))
