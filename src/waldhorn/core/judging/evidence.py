"""Evidence: what one quantity now says against its baseline, with its uncertainty and its state.

How it comes about stands in `assessing`, how it is said in words in `sentences`.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum
from typing import Any

from waldhorn.core.base.vocabulary import NoteKind, Source, State
from waldhorn.core.judging.baseline import Baseline
from waldhorn.core.judging.change import Change, RunUncertainty
from waldhorn.core.judging.evidence_sources import Residual
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.quantity import Limits, Quantity
from waldhorn.core.rigs.repeatability import Spread

DRIFT_SHARE = 0.15  # one sigma of a sound motor's own drift, as a share of its watch limit (bench practice)
LET_COOL_K = 10.0  # a motor so much warmer than it was is let cool before it is pulled again (bench practice)
FRESH = timedelta(days=21)  # readings of one state of a motor may be gathered over so long

Peers = Mapping[str, Sequence[Baseline]]  # quantity name to the own baselines of the model's other motors


class EvidenceKind(StrEnum):
    """What a piece of evidence rests on."""

    NOT_MEASURED = "not_measured"
    RESET_SINCE = "reset_since"
    NOTHING_TO_COMPARE = "nothing_to_compare"
    COMPARED = "compared"
    ABSOLUTE = "absolute"
    MAGNET_STRENGTH = "magnet_strength"


@dataclass(frozen=True, slots=True)
class Note:
    """Something to be said beside a number; `values` are what its sentence needs."""

    kind: NoteKind
    values: tuple[Any, ...] = ()


@dataclass(frozen=True, slots=True)
class Evidence:
    """One quantity now against its baseline; see docs/formats.md for the fields.

    `reference` is the value the change is taken from where `baseline` is the zero of an absolute quantity, `u_of_runs`
    what the uncertainty is made of, `residual` the change as evidence of faults, with the drift a sound motor is
    allowed; None when it does not count: nothing to compare with, or too old (`fresh` is false then). `seen` is in how
    many visits in a row it lay beyond watch, `torn` whether its runs lie so far apart that one of them would,
    `expected` whether a reading of it would have something to compare with, `model` what the others of its
    model read, `setting` the throttle in percent it was read at (None: at several, or not noted). `reason` is the
    sentence, put in last.
    """

    quantity: Quantity
    kind: EvidenceKind
    state: State
    now: float | None = None
    raw: float | None = None
    n_now: int = 0
    baseline: Baseline | None = None
    reference: Baseline | None = None
    change: Change | None = None
    limits: Limits | None = None
    u_of_runs: RunUncertainty | None = None
    notes: tuple[Note, ...] = ()
    residual: Residual | None = None
    fresh: bool = True
    at: datetime | None = None
    strengths: tuple[float, float] | None = None
    seen: int = 0
    torn: bool = False
    expected: bool = True
    model: Baseline | None = None
    setting: float | None = None
    reason: str = ""

    @property
    def repeatability(self) -> float:
        """One standard deviation of a repeat on its rig, change unit; 0 where there is none."""
        return self.u_of_runs.run if self.u_of_runs else 0.0

    @property
    def warmer(self) -> bool:
        """Whether it is less sure because the motor is so much warmer than it was."""
        by = self.reference.brought if self.reference else None
        return by is not None and by.by == "warmth" and by.now - by.then > LET_COOL_K

    @property
    def of_change(self) -> float:
        """How much of the change is correction of the past to the conditions of now, 0 to 1."""
        r = self.reference
        if r is None or self.change is None or r.as_read is None or not (r.value and r.as_read):
            return 0.0
        uncorrected = self.change.value + (
            100 * (r.value / r.as_read - 1) * (1 + self.change.value / 100)
            if self.quantity.relative
            else r.value - r.as_read
        )
        largest = max(abs(uncorrected), abs(self.change.value))
        return min(1.0, abs(uncorrected - self.change.value) / largest) if largest else 0.0

    @property
    def against_label(self) -> bool:
        """Whether it is held against a label, which is no measurement of this motor."""
        return self.baseline is not None and self.baseline.source is Source.LABEL

    def has(self, kind: NoteKind) -> bool:
        """Whether this has to be said beside it."""
        return any(n.kind is kind for n in self.notes)

    @property
    def leans_on_model(self) -> bool:
        """Whether other motors of the model could change it: it is compared with them, or with nothing yet."""
        if self.kind is EvidenceKind.NOTHING_TO_COMPARE:
            return True
        return self.reference is not None and self.reference.source in (Source.MODEL, Source.YARDSTICK)


def default_repeatability(rig: str, quantity: str) -> Spread:
    """How well a rig is taken to repeat that has not shown it yet: clamping anew spreads it as far as a repeat
    does.

    Parameters
    ----------
    rig, quantity : str
        Its name.
    """
    usual = QUANTITIES[quantity].repeatability
    return Spread(usual, usual)


def u_moved(e: Evidence) -> float:
    """Standard uncertainty of how far an absolute quantity has moved from its own past, change unit."""
    return e.residual.u if e.residual else 0.0
