"""What a step of a check is: what to do in words, its caution, the fields it asks for (see `fields`), and what becomes
of them. A step computes on the read-only context and returns what is to be stored; it stores nothing.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, ClassVar, Generic, TypeVar

from waldhorn.core.base.conditions import CONDITIONS, Conditions
from waldhorn.core.base.explain import Figure
from waldhorn.core.base.history import Motor, Reading
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.core.measuring.gap import GapFit
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import Observation, groups_of
from waldhorn.core.measuring.quantity import Quantity
from waldhorn.core.rigs import repeatability
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import FieldsOf, as_typed, still_missing
from waldhorn.store.findings import Finding, Stepped
from waldhorn.store.models import StepState

OF_THE_HOUR = ("motor_c", "ambient_c", "throttle_pct")  # said anew each time


@dataclass(frozen=True)
class Curve:
    """A small picture of a step: a line with points on it, both axes named at their ends, an optional goal across and
    a mark along; `beyond` this the line rests on no reading, `before` is the same line as it was, `named` has the words
    of each point beside it, `rays` are lines of equal ratio from nought, each with its words."""

    title: str
    line: Sequence[tuple[float, float]]
    points: Sequence[tuple[float, float, str]]
    x_range: tuple[float, float]
    y_range: tuple[float, float]
    x_words: tuple[str, str]
    y_words: tuple[str, str]
    goal: float | None = None
    mark: float | None = None
    beyond: float | None = None
    before: Sequence[tuple[float, float]] = ()
    named: bool = False
    rays: Sequence[tuple[float, str]] = ()


@dataclass(frozen=True)
class Marks:
    """What a step puts on the drawing: how the rotor leans, detent peaks around the turn (those that stand apart by
    place), the timing of each phase, the lamps' last state and the sensors that are bad."""

    lean: GapFit | None = None
    peaks: Sequence[float] = ()
    odd_peaks: Sequence[int] = ()
    positions: int | None = None
    phases: Mapping[str, float] = field(default_factory=dict)
    lamps: str = ""
    bad_sensors: str = ""


@dataclass(frozen=True)
class View:
    """What a step shows of its numbers: figures that explain themselves, and sentences."""

    figures: tuple[Figure, ...] = ()
    words: tuple[str, ...] = ()


@dataclass(frozen=True)
class Taken:
    """What taking a step stores: readings, findings, changed columns of the check, changed facts of the motor."""

    readings: tuple[Reading, ...] = ()
    findings: tuple[Finding, ...] = ()
    check: Mapping[str, Any] = field(default_factory=dict)
    motor: Motor | None = None

    @property
    def passes_over(self) -> bool:
        """Whether all it stores is that the step was passed over."""
        over = [f for f in self.findings if isinstance(f, Stepped) and f.state is StepState.SKIPPED]
        return 0 < len(over) == len(self.findings) and not (self.readings or self.check or self.motor)


ViewOf = TypeVar("ViewOf", bound=View)


class Step(Generic[FieldsOf, ViewOf]):
    """One bead of the wire.

    `order` is its place among all steps, `plans` the lists it belongs to (full, quick); without one it is done on
    demand. `measures` and `purposes` tell which readings of a check are its own; `quantities` are those whose meaning
    is shown beside it; a `slow` one never leaves the lowest setting; one that `stays` is gone on with after each
    taking; `part` is what it tests on the drawing, `untested` what is said there before.
    """

    name: ClassVar[str]
    title: ClassVar[str]
    instruction: ClassVar[str]
    order: ClassVar[int]
    fields: type[FieldsOf]
    caution: ClassVar[str] = ""
    plans: ClassVar[frozenset[str]] = frozenset()
    powered: ClassVar[bool] = False
    live: ClassVar[bool] = False
    slow: ClassVar[bool] = False
    runs_wanted: ClassVar[int] = 1
    takes_part: ClassVar[bool] = False  # of its readings: one is enough, the others may stay empty
    restates: ClassVar[bool] = False  # its fields say how the check stands; they are no readings of their own
    measures: ClassVar[tuple[str, ...]] = ()
    purposes: ClassVar[tuple[Purpose, ...]] = (Purpose.STANDARD,)
    quantities: ClassVar[tuple[str, ...]] = ()
    hold_s: ClassVar[int] = 0
    heard: ClassVar[bool] = False  # a recording of it can be kept
    stays: ClassVar[bool] = False
    wants_fleet: ClassVar[bool] = False
    part: ClassVar[str] = ""
    untested: ClassVar[str] = ""
    button: ClassVar[str] = "Take it"
    fields_template: ClassVar[str] = "bench/_fields.html"

    @property
    def template(self) -> str:
        """The template that draws its fields and what it shows."""
        return f"bench/steps/{self.name}.html"

    def applies(self, motor: Motor) -> bool:
        """Whether a motor can do it."""
        return True

    def asks_for(self, name: str, motor: Motor) -> bool:
        """Whether a field makes sense for a motor."""
        return True

    def taken(self, ctx: CheckContext, values: FieldsOf, run: int) -> Taken:
        """What becomes of the fields, whole or half."""
        raise NotImplementedError

    def missing(self, ctx: CheckContext, values: FieldsOf) -> dict[str, str]:
        """What is wrong between fields that are each right."""
        return {}

    def refused(self, ctx: CheckContext, values: FieldsOf, wrong: Mapping[str, str]) -> dict[str, str]:
        """Why it cannot be taken, by field: what is `wrong` already, what is still to come, what is wrong between
        fields that are each right. What was read is never refused because something else was not, where it
        `takes_part`."""
        missing, asks = still_missing(values), values.asks()
        if not wrong and self.takes_part and self.taken(ctx, values, self.next_run(ctx)).readings:
            missing = {n: words for n, words in missing.items() if not asks[n].measure}
        return {**missing, **wrong} or self.missing(ctx, values)

    def view(self, ctx: CheckContext, values: FieldsOf, fresh: Sequence[Reading]) -> ViewOf:
        """What it shows of what was taken and of what is typed."""
        raise NotImplementedError

    def offers(self, ctx: CheckContext) -> Mapping[str, Sequence[str]]:
        """What is offered in a field, besides what may be typed."""
        return {}

    def habits(self, ctx: CheckContext) -> dict[str, str]:
        """What stands in its fields at first."""
        return {}

    def as_before(self, ctx: CheckContext) -> dict[str, str]:
        """Under what it was read the last time on this rig of this motor, as it is typed: what no habit says and one
        key takes."""
        before = [r for c in ctx.history.checks for r in c.readings if self.owns(r)]
        here = [r for r in before if not ctx.check.rig or r.conditions.rig in ("", ctx.check.rig)]
        if not here:
            return {}
        last, habits = max(here, key=lambda r: r.at).conditions, self.habits(ctx)
        said = {name: getattr(last, condition) for name, condition in self.conditions().items()}
        typed = as_typed(self.fields, {n: v for n, v in said.items() if v != ""}, ctx.notation)
        return {n: v for n, v in typed.items() if not habits.get(n)}

    def conditions(self) -> dict[str, str]:
        """Its fields that say under what it is read, but for warmth, which is never as before: condition by field."""
        return {n: n for n in self.fields.asks() if n in CONDITIONS and n not in OF_THE_HOUR}

    def marks(self, ctx: CheckContext, view: ViewOf | None) -> Marks:
        """What it puts on the drawing; the view is there when it is the step at hand."""
        return Marks()

    def curve(self, view: ViewOf) -> Curve | None:
        """Its small picture."""
        return None

    def finished(self, ctx: CheckContext) -> bool:
        """Whether it has what it needs."""
        return self.counted(ctx) >= self.runs_wanted and not self.discordant(ctx)

    def summary(self, ctx: CheckContext) -> str:
        """What it has to show for itself, in a few words; empty when nothing yet."""
        counted, runs = self.counted(ctx), len(self.runs(ctx))
        words = f"{counted} {'run' if counted == 1 else 'runs'}" if counted else ""
        return words + (f", {runs - counted} aside" if runs > counted else "")

    # what it finds of its own in a check

    def owns(self, reading: Reading) -> bool:
        """Whether a reading was taken in this step."""
        return reading.measure in self.measures and reading.purpose in self.purposes

    def readings(self, ctx: CheckContext) -> list[Reading]:
        """Its readings of this check."""
        return [r for r in ctx.readings if self.owns(r)]

    def runs(self, ctx: CheckContext) -> dict[int, list[Reading]]:
        """Its readings by run."""
        found: dict[int, list[Reading]] = {}
        for reading in self.readings(ctx):
            found.setdefault(reading.run, []).append(reading)
        return dict(sorted(found.items()))

    def next_run(self, ctx: CheckContext) -> int:
        """The number its next run gets."""
        return max(self.runs(ctx), default=0) + 1

    def counted(self, ctx: CheckContext) -> int:
        """How many of its runs count."""
        return sum(any(r.accepted and self.counts(r.conditions) for r in run) for run in self.runs(ctx).values())

    def counts(self, conditions: Conditions) -> bool:
        """Whether a run under these conditions is one of those wanted."""
        return True

    def discordant(self, ctx: CheckContext) -> bool:
        """Whether its runs disagree so that another is needed."""
        return any(a.ask_again for a in self.agreement(ctx).values())

    def agreement(self, ctx: CheckContext) -> dict[str, repeatability.Agreement]:
        """Whether the runs of this check agree, by quantity, once there are two."""
        found = {}
        for name in self.quantities:
            quantity = QUANTITIES.get(name)
            values = [o.value for o in self.observations(ctx, quantity)] if quantity else []
            if quantity and len(values) > 1:
                found[name] = repeatability.agreement(values, ctx.repeatability(name), quantity.relative)
        return found

    def observations(self, ctx: CheckContext, quantity: Quantity) -> Sequence[Observation]:
        """The latest observations of a quantity in this check that compare with each other."""
        groups = groups_of(ctx.own_history(), quantity)
        return groups[-1].observations if groups else ()

    def is_skipped(self, ctx: CheckContext) -> bool:
        """Whether it was passed over in this check."""
        return ctx.step_states().get(self.name) is StepState.SKIPPED


AnyStep = Step[Any, Any]
