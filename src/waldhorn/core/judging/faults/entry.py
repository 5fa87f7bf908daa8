"""What a fault is to the judge: what it does to every quantity, how it is said, what is done about it, what it comes of
and what ends it.

References
----------
.. [1] Bench practice.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

from waldhorn.core.base.vocabulary import EventKind, FaultKind, Verdict


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultEntry:
    """A fault. `words` name it in a sentence, `short` in a table, `part` where it is repaired or watched; `paragraph`
    says what breaks, what that does to the numbers and why.

    `signature` is the change of each quantity for the fault at its act limit (severity 1), in the quantity's change
    unit; it may move those of `either_way` in both directions, those of `compound` grow by the same share with every
    further degree, and `model_spreads` says where the size of a sign is less sure than usual, as a share of
    it. `after` is how much likelier an event makes it [1]_, `found_by` how often eyes and hands find it at its act
    limit, bad and in doubt, by what they look at (see `hands`) [1]_; `ended_by` the repairs that end it; one that
    is not `looked_for` shows where it matters, and need not be ruled out before a motor is kept. `share` is how
    common it is against the others [1]_.
    """

    kind: FaultKind
    words: str
    short: str
    part: str
    paragraph: str
    remedy: Verdict
    remedy_words: str
    ended_by: tuple[EventKind, ...]
    signature: Mapping[str, float]
    either_way: frozenset[str] = frozenset()
    compound: frozenset[str] = frozenset()
    model_spreads: Mapping[str, float] = field(default_factory=dict)
    after: Mapping[EventKind, float] = field(default_factory=dict)
    found_by: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    sensored_only: bool = False
    looked_for: bool = True
    share: float = 1.0
