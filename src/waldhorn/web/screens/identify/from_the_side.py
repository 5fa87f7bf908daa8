"""A size name read both ways, as motors seen from the side on one scale, the can as it was measured around each."""

from collections.abc import Sequence
from dataclasses import dataclass

from waldhorn.core.motors.identification import SizeName

LONG, ACROSS = 150.0, 104.0  # the room for the largest of them


@dataclass(frozen=True)
class Side:
    """One reading: its length and diameter in the picture, and those of the can where they were measured; no `ends`
    where the name says no length."""

    size: SizeName
    long: float
    across: float
    ends: bool
    can_long: float | None
    can_across: float | None


def sides(sizes: Sequence[SizeName], can_mm: float | None, length_mm: float | None) -> list[Side]:
    """A picture each; what is of unknown length is drawn as long as it is wide."""
    named = [(s.length_mm or s.diameter_mm, s.diameter_mm) for s in sizes]
    every = [*named, (length_mm or 1.0, can_mm or 1.0)]
    scale = min(min(LONG / long, ACROSS / across) for long, across in every)
    can_long, can_across = (None if mm is None or can_mm is None else mm * scale for mm in (length_mm, can_mm))
    return [
        Side(s, long * scale, across * scale, s.length_mm is not None, can_long, can_across)
        for s, (long, across) in zip(sizes, named, strict=True)
    ]
