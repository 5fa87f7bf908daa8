"""From one rig to another: the same motors on both, found by themselves, and the line through them."""

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from statistics import fmean

from sqlalchemy.orm import Session

from waldhorn.core.base.conditions import comparable
from waldhorn.core.base.errors import InputError
from waldhorn.core.judging.baseline import Baseline
from waldhorn.core.judging.translated import Lines
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.quantity import Quantity
from waldhorn.core.rigs import calibration
from waldhorn.core.rigs.repeatability import Repeatability
from waldhorn.store import cached_verdicts

PAIRED_WITHIN = timedelta(days=30)
Pair = tuple[float, float]  # what a motor read on one rig and on another


@dataclass(frozen=True)
class Beside:
    """One quantity on another rig: the same motors on both with the standard uncertainty of a reading here and there,
    and the line between them, or why there is none."""

    other: str
    quantity: Quantity
    pairs: Sequence[Pair]
    u: tuple[float, float]
    fitted: calibration.Translation | None
    agreement: calibration.Agreement | None
    refused: str = ""

    @property
    def motors(self) -> int:
        """How many were read on both."""
        return len(self.pairs)


def beside(session: Session, name: str, known: Repeatability, now: datetime) -> list[Beside]:
    """A rig beside every other."""
    return [
        _fitted(name, other, QUANTITIES[quantity], pairs, known)
        for (_, other, quantity), pairs in sorted(_pairs(session, {name}, now).items())
    ]


def all_lines(session: Session, known: Repeatability, now: datetime) -> Lines:
    """The lines from each rig to each other, as far as enough motors were read on both."""
    found = {}
    for (here, there, quantity), pairs in _pairs(session, None, now).items():
        line = _fitted(here, there, QUANTITIES[quantity], pairs, known).fitted
        if line is not None:
            found[here, there, quantity] = line
    return found


def _pairs(session: Session, names: AbstractSet[str] | None, now: datetime) -> dict[tuple[str, str, str], list[Pair]]:
    """What motors read on these rigs, or on all, and on others, by rig, other rig and quantity."""
    pairs: dict[tuple[str, str, str], list[Pair]] = defaultdict(list)
    for of_model in cached_verdicts.model_baselines(session, None, now).values():
        for by_quantity in of_model.values():
            for quantity, theirs in by_quantity.items():
                rigs = {b.conditions.rig for b in theirs if b.conditions} - {""}
                for name in rigs if names is None else rigs & names:
                    for other, pair in _pairs_of(QUANTITIES[quantity], name, theirs).items():
                        pairs[name, other, quantity].append(pair)
    return pairs


def _pairs_of(quantity: Quantity, name: str, theirs: Sequence[Baseline]) -> Mapping[str, Pair]:
    """What one motor read on this rig and on each other within thirty days, with no reset between."""
    mine = [b for b in theirs if b.conditions and b.conditions.rig == name]
    same = tuple(n for n in quantity.same if n != "rig")
    found: dict[str, Pair] = {}
    for there in theirs:
        if not there.conditions or there.conditions.rig in ("", name) or there.at is None:
            continue
        for here in mine:
            near = here.at is not None and abs(here.at - there.at) <= PAIRED_WITHIN
            apart = replace(there.conditions, rig=name)
            if near and here.conditions and comparable(same, here.conditions, apart):
                found.setdefault(there.conditions.rig, (here.value, there.value))
    return found


def _fitted(here: str, there: str, quantity: Quantity, pairs: Sequence[Pair], known: Repeatability) -> Beside:
    x, y = [p for p, _ in pairs], [q for _, q in pairs]
    u_x, u_y = (_u_of(known, rig, quantity, fmean(read)) for rig, read in ((here, x), (there, y)))
    positive = len(pairs) > 1 and min(*x, *y) > 0
    agreed = calibration.agreement(x, y) if positive else None
    try:
        line = calibration.fit(x, y, (u_y / u_x) ** 2)
        return Beside(there, quantity, pairs, (u_x, u_y), line, agreed)
    except InputError as refused:
        return Beside(there, quantity, pairs, (u_x, u_y), None, agreed, refused.sentence)


def _u_of(known: Repeatability, rig: str, quantity: Quantity, at: float) -> float:
    """Standard uncertainty of a reading on a rig, in the quantity's unit."""
    spread = known(rig, quantity.name)
    return math.hypot(spread.run, spread.visit) * (abs(at) / 100 if quantity.relative and at else 1.0)
