"""What each fault would do to each number, beside what was seen: a table of signs, each as large as the change."""

from collections.abc import Sequence
from dataclasses import dataclass

from waldhorn.core.judging.evidence import Evidence
from waldhorn.core.judging.faults import SIGNATURES
from waldhorn.core.judging.verdict import Judgement
from waldhorn.core.judging.weighing import Fault
from waldhorn.web.common.words import signed

MOST_FAULTS = 5
SIZES = ((1.0, 3, "much"), (0.5, 2, "somewhat"), (0.15, 1, "a little"))  # shares of the limit to act


@dataclass(frozen=True)
class Sign:
    """A change: how large it is drawn, from 0 to 3, whether down, and in words."""

    size: int
    down: bool
    words: str


@dataclass(frozen=True)
class Row:
    """A quantity: what was seen of it, in figures too, and what each fault would do."""

    title: str
    seen: Sign
    change: str
    cells: Sequence[Sign]


@dataclass(frozen=True)
class Grid:
    """The likeliest faults and a row for each quantity that was compared."""

    faults: Sequence[Fault]
    rows: Sequence[Row]


def fault_grid(judged: Judgement) -> Grid:
    """The grid of an answer; without rows where nothing was compared."""
    single = [f for f in judged.faults if f.fault in SIGNATURES and not f.also]
    faults = single[:MOST_FAULTS]
    compared = [e for e in judged.evidence if e.change is not None and e.limits is not None]
    return Grid(faults, [_row(e, faults) for e in compared] if faults else [])


def _row(e: Evidence, faults: Sequence[Fault]) -> Row:
    act = e.limits.act if e.limits else e.quantity.limits.act
    value = e.change.value if e.change else 0.0
    cells = [sign(SIGNATURES[f.fault].get(e.quantity.name, 0.0) / act) for f in faults]
    return Row(e.quantity.title, sign(value / act), f"{signed(value)} {e.quantity.change_unit}", cells)


def sign(share: float) -> Sign:
    """How a change is drawn that is this share of the limit to act.

    >>> sign(1.2).words, sign(-0.6).words, sign(0.05).size
    ('up much', 'down somewhat', 0)
    """
    for least, size, words in SIZES:
        if abs(share) >= least:
            return Sign(size, share < 0, f"{'down' if share < 0 else 'up'} {words}")
    return Sign(0, False, "as it was")
