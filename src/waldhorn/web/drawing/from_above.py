"""A machine seen from above: where each motor sits, as far as its position says, and how much it shakes."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from waldhorn.pit.motors.machines import MachinePosition, MachineView

REACH = 100.0  # from the middle to a motor
MOST_SHAKEN = 5
# How far a word of a position moves a motor from the middle, to the right and forward.
_WORDS = {
    "left": (-1, 0), "port": (-1, 0), "right": (1, 0), "starboard": (1, 0),
    "front": (0, 1), "bow": (0, 1), "fore": (0, 1), "nose": (0, 1),
    "rear": (0, -1), "back": (0, -1), "stern": (0, -1), "aft": (0, -1), "tail": (0, -1),
    "middle": (0, 0), "centre": (0, 0), "center": (0, 0),
}  # fmt: skip


@dataclass(frozen=True)
class Spot:
    """A motor in its place: where it lies, its letters, how much it shakes in fifths of the worst (0 at rest)."""

    tag: str
    position: str
    x: float
    y: float
    shakes: int
    worst: bool


def spots(machine: MachineView) -> list[Spot]:
    """Every motor of a machine in its place; those whose position says nothing stand around it in a ring."""
    placed = [_place(seat) for seat in machine.seats]
    clear = len(set(placed)) == len(placed)
    ring = [_on_ring(i, len(placed)) for i in range(len(placed))]
    culprit = machine.ranking.culprit if machine.ranking else None
    top = max((s.value or 0.0 for s in machine.seats), default=0.0)
    full = top if machine.way != "hand" else float(MOST_SHAKEN)
    return [
        Spot(
            seat.motor.tag,
            seat.motor.position,
            round(REACH * x, 1),
            round(-REACH * y, 1),
            round(MOST_SHAKEN * (seat.value or 0.0) / full) if full else 0,
            seat.name == culprit,
        )
        for seat, (x, y) in zip(machine.seats, placed if clear else ring, strict=True)
    ]


def _place(seat: MachinePosition) -> tuple[float, float]:
    moves = [_WORDS[w] for w in seat.motor.position.casefold().replace(",", " ").split() if w in _WORDS]
    x, y = (float(max(-1, min(1, sum(m[i] for m in moves)))) for i in (0, 1))
    return x, y


def _on_ring(index: int, count: int) -> tuple[float, float]:
    if count == 1:
        return 0.0, 0.0
    turn = 2 * math.pi * index / count
    return math.sin(turn), math.cos(turn)


def box(found: Sequence[Spot]) -> str:
    """The view box that holds all motors with their letters."""
    left, right = min(s.x for s in found) - 90, max(s.x for s in found) + 90
    top, bottom = min(s.y for s in found) - 60, max(s.y for s in found) + 84
    return f"{left:g} {top:g} {right - left:g} {bottom - top:g}"
