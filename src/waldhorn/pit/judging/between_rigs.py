"""From one rig to another: the same motors on both, found by themselves, and the line through them."""

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from statistics import fmean

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.quantity import Quantity
from waldhorn.core.rigs import calibration
from waldhorn.core.rigs.calibration import Translation
from waldhorn.core.rigs.repeatability import Repeatability
from waldhorn.store import rigs
from waldhorn.store.rigs import Place

Pair = tuple[float, float]  # what a motor read on one rig and on another
Paired = Mapping[Place, Mapping[str, Pair]]  # by rig, other rig and quantity, by motor id


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
        _fitted(name, other, QUANTITIES[quantity], list(pairs.values()), known)
        for (_, other, quantity), pairs in sorted(rigs.pairs(session, now, name).items())
    ]


def all_lines(paired: Paired, known: Repeatability) -> dict[Place, Translation]:
    """The lines from each rig to each other, as far as enough motors were read on both."""
    found = {}
    for (here, there, quantity), pairs in paired.items():
        line = _fitted(here, there, QUANTITIES[quantity], list(pairs.values()), known).fitted
        if line is not None:
            found[here, there, quantity] = line
    return found


@dataclass(frozen=True)
class LinesOfOthers(Mapping[Place, Translation]):
    """The lines that a motor is judged by: it is no pair of its own line, or it would pull the line after it. Each is
    made as it is asked for: most motors need none of them."""

    motor_id: str
    lines: Mapping[Place, Translation]
    paired: Callable[[], Paired]
    known: Repeatability

    def __getitem__(self, place: Place) -> Translation:
        line = self.lines[place]
        pairs = self.paired()[place]
        if self.motor_id not in pairs:
            return line
        here, there, quantity = place
        others = [pair for i, pair in pairs.items() if i != self.motor_id]
        fitted = _fitted(here, there, QUANTITIES[quantity], others, self.known).fitted if others else None
        if fitted is None:
            raise KeyError(place)
        return fitted

    def __iter__(self) -> Iterator[Place]:
        return (place for place in self.lines if place in self)

    def __len__(self) -> int:
        return sum(1 for _ in self)


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
