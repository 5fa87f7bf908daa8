"""What a used motor is worth to a buyer, as a share of a new one, from how it is judged and where it is going.

Not an asking price and not a valuation: what it is expected to save somebody who would otherwise buy a new one.

References
----------
.. [1] Raiffa, Schlaifer, Applied Statistical Decision Theory, 1961 (expected value over what may be the case).
.. [2] Bench practice, for what a sound used motor fetches and how long one is expected to run.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from waldhorn.core.base.vocabulary import NoteKind, Verdict
from waldhorn.core.judging.evidence import Evidence
from waldhorn.core.judging.sentences import has_moved
from waldhorn.core.judging.trend import Trend

SOUND_AND_USED = 0.8  # of a new one: it carries no warranty, and nobody knows who held it [2]
FOR_PARTS = 0.1  # of a new one: screws, bell, leads, a rotor or a stator [2]
A_LIFE = {"runs": 60.0, "days": 180.0}  # a season: a limit further off than that takes nothing from it [2]
WORTH_A_WORD = 0.02


@dataclass(frozen=True, slots=True)
class Wear:
    """What is left of a motor's life, 0 to 1, the quantity that uses it up, whether a repair brings it back, and in how
    many runs or days its limit is crossed where it creeps (`axis`); quantity "" where nothing wears."""

    left: float
    quantity: str = ""
    mendable: bool = False
    until: float | None = None
    axis: str = ""


@dataclass(frozen=True, slots=True)
class Worth:
    """A share of new, what it is if all that is doubtful turns out well or badly, and what it is made of."""

    share: float
    at_best: float
    at_worst: float
    wear: Wear
    mended_first: bool


def wear_of(evidence: Sequence[Evidence], trends: Sequence[Trend]) -> Wear:
    """How much of the way to a limit is left, by what has moved furthest or creeps fastest.

    Parameters
    ----------
    evidence : sequence of Evidence
    trends : sequence of Trend

    Returns
    -------
    Wear

    Notes
    -----
    Formula: min over quantities of the headroom of what has moved, and of the runs (days) to its limit over a season

    Source: [2]_.
    """
    by = {e.quantity.name: e for e in evidence}
    found = [Wear(1.0)]
    for e in evidence:
        if e.change and e.fresh and has_moved(e) and not e.has(NoteKind.RIG_OUT):
            found.append(Wear(min(1.0, max(0.0, e.change.headroom)), e.quantity.name, _mendable(e)))
    for t in trends:
        if t.act and t.quantity in by:
            left = min(1.0, max(0.0, t.act.likely) / A_LIFE[t.axis])
            found.append(Wear(left, t.quantity, _mendable(by[t.quantity]), t.act.likely, t.axis))
    return min(found, key=lambda w: w.left)


def _mendable(e: Evidence) -> bool:
    return e.quantity.worst_means is Verdict.REPAIR


def worth(wear: Wear, due_mendable: float, due_for_good: float, repair: float) -> Worth:
    """What a used motor is worth.

    Parameters
    ----------
    wear : Wear
    due_mendable, due_for_good : float
        Probability that something is due that can be mended, and that cannot.
    repair : float
        What a repair costs, as a share of a new motor.

    Returns
    -------
    Worth

    Notes
    -----
    Formula: w = (1 − p_m − p_g)·w_s + p_m·max(0.8 − r, 0.1) + p_g·0.1; w_s = max(0.8·ℓ, 0.8 − r where a repair brings
    back what is worn, 0.1), ℓ the life left

    Source: [1]_, [2]_.

    Examples
    --------
    >>> round(worth(Wear(1.0), 0.0, 0.0, 0.3).share, 2), round(worth(Wear(1.0), 0.9, 0.0, 0.3).share, 2)
    (0.8, 0.53)
    """
    as_it_is = SOUND_AND_USED * wear.left
    mended = max(SOUND_AND_USED - repair, FOR_PARTS)
    first = wear.mendable and mended > as_it_is
    running = max(mended if first else as_it_is, FOR_PARTS)
    due = min(1.0, due_mendable + due_for_good)
    share = (1 - due) * running + due_mendable * mended + due_for_good * FOR_PARTS
    cases = ((1 - due, running), (due_mendable, mended), (due_for_good, FOR_PARTS))
    may_be = [value for p, value in cases if p >= WORTH_A_WORD]
    return Worth(share, max(may_be), min(may_be), wear, first and due < 1 - WORTH_A_WORD)
