"""A case: what is known of a motor and weighed, from which its answer is made."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property, lru_cache

from waldhorn.core.base.history import History
from waldhorn.core.base.vocabulary import FAULTS, FaultKind
from waldhorn.core.judging import pole_question, weighing
from waldhorn.core.judging.evidence import Evidence
from waldhorn.core.judging.evidence_sources import would_have_shown
from waldhorn.core.judging.faults import ENTRY
from waldhorn.core.judging.hands import Finding
from waldhorn.core.judging.pole_question import PoleQuestion
from waldhorn.core.judging.remedies import Prices
from waldhorn.core.judging.repairs import NoBetter
from waldhorn.core.judging.trend import Trend
from waldhorn.core.judging.weighing import Fault, Posterior
from waldhorn.core.judging.worth import Deciding
from waldhorn.core.measuring.measures import QUANTITIES

_NAMED = 2 / 3  # from here on a part is named alone
_WORTH_NAMING = 0.15  # of a part that may have to be changed


@lru_cache
def kindred(quantity: str) -> frozenset[str]:
    """The quantities that start from the same readings as one of them.

    >>> sorted(kindred("no_load_current"))
    ['friction', 'no_load_current', 'speed_loss']
    """
    primaries = set(QUANTITIES[quantity].primaries)
    return frozenset(n for n, q in QUANTITIES.items() if n == quantity or primaries & set(q.primaries))


@dataclass(frozen=True)
class Case:
    """What an answer is made from."""

    known: History
    evidence: tuple[Evidence, ...]
    judged: tuple[Evidence, ...]
    posterior: Posterior
    weighed: tuple[Fault, ...]
    impossible: tuple[FaultKind, ...] = ()
    prices: Prices = field(default_factory=Prices)
    no_better: tuple[NoBetter, ...] = ()
    trends: tuple[Trend, ...] = ()
    hands: tuple[Finding, ...] = ()
    weigh: Callable[[Sequence[Evidence]], Posterior] = lambda judged: weighing.weigh(())

    def without(self, quantities: Sequence[str]) -> Posterior:
        """What everything but these quantities says, and what is made of the same readings as they are."""
        kin = {n for q in quantities for n in kindred(q)}
        return self.weigh([e for e in self.judged if e.quantity.name not in kin])

    def none(self) -> float:
        """Probability that nothing is wrong with the motor."""
        return next(f.probability for f in self.weighed if f.fault is FaultKind.NONE)

    @property
    def possible(self) -> tuple[FaultKind, ...]:
        """The faults this motor can have."""
        return tuple(f for f in FAULTS if f not in self.impossible)

    @cached_property
    def hidden(self) -> tuple[FaultKind, ...]:
        """The faults that would not have shown, had they been there at their act limit."""
        told = [e.residual for e in self.judged if e.residual and not e.against_label]
        return tuple(f for f in self.possible if ENTRY[f].looked_for and not would_have_shown(told, f))

    @cached_property
    def first_look(self) -> bool:
        """Whether it was never on the bench before, so that nothing of its own is there to compare with."""
        return len([c for c in self.known.checks if c.readings]) < 2

    @cached_property
    def timing_unseen(self) -> bool:
        """Whether there is no earlier timing to compare with, so that nothing can show that it moved."""
        return not any(e.quantity.name == "timing_mean" and e.residual for e in self.judged) and any(
            e.quantity.name == "timing_mean" and not e.expected for e in self.evidence
        )

    @cached_property
    def poles(self) -> PoleQuestion | None:
        """The pole count that explains KV better than anything that could be wrong, if one does."""
        found = next((e for e in self.judged if e.quantity.name == "kv"), None)
        if found is None or found.now is None or found.change is None or found.residual is None:
            return None
        return pole_question.question(self.known, found, lambda: self.without(("kv",)).weights)

    @cached_property
    def deciding(self) -> Deciding:
        """What tests are worth."""
        return Deciding(self.posterior, self.prices)

    def presence(self, fault: FaultKind) -> float:
        """Probability that a fault is there, however small."""
        return weighing.presence(self.posterior, fault).probability

    def sure(self, among: Sequence[FaultKind]) -> tuple[FaultKind, ...]:
        """Those of these faults that are as good as named; a part is changed on its name."""
        return tuple(f for f in among if self.presence(f) >= _NAMED)

    def parts(self, among: Sequence[FaultKind]) -> tuple[FaultKind, ...]:
        """The faults of these that may be it, likeliest first."""
        by = {f: self.presence(f) for f in among}
        order = sorted(by, key=lambda f: (-by[f], f))
        return tuple(f for f in order if by[f] >= _WORTH_NAMING) or tuple(order[:1])
