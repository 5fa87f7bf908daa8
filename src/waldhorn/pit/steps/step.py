"""What a step of a check is: what to do in words, its caution, the fields it asks for, and what becomes of them.

Fields are Pydantic models, so that a form and a file say the same: each is asked for with `Ask`, which names a measure
or a dimension and so knows unit and range, and reads what people write. Every field may be empty while one types;
those `required` must be there before a step is taken. A step computes on the read-only context and returns what is to
be stored; it stores nothing.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, ClassVar, Generic, TypeVar

from pydantic import BaseModel, ConfigDict, GetCoreSchemaHandler, ValidationError
from pydantic_core import CoreSchema, PydanticCustomError, core_schema

from waldhorn.core import repeats
from waldhorn.core.conditions import Conditions
from waldhorn.core.errors import Refused
from waldhorn.core.explain import Figure
from waldhorn.core.gap import GapFit
from waldhorn.core.history import Motor, Reading
from waldhorn.core.measures import MEASURES, QUANTITIES, Quantity
from waldhorn.core.observations import Observation, groups_of
from waldhorn.core.units import DIMENSIONS, bare_unit, read_number, written
from waldhorn.core.vocabulary import Purpose
from waldhorn.pit.context import CheckContext
from waldhorn.store.findings import Finding
from waldhorn.store.models import StepState

MOST_NUMBERS = 200
LONGEST_TEXT = 60


@dataclass(frozen=True, slots=True)
class Ask:
    """How one thing is asked for.

    `measure` gives its unit and range; without one it is text, or a number of `dimension` between `low` and `high`,
    or one of `choices`; `offered` values are proposed, any other may be typed. `many` takes numbers in a row. `habit`
    is what stands there at first; a `modest` field is drawn smaller.
    """

    title: str
    measure: str = ""
    dimension: str = ""
    low: float = 0.0
    high: float = 1e9
    choices: tuple[str, ...] = ()
    offered: tuple[str, ...] = ()
    required: bool = False
    many: bool = False
    hint: str = ""
    habit: str = ""
    modest: bool = False
    longest: int = LONGEST_TEXT

    @property
    def numeric(self) -> bool:
        """Whether it takes a number."""
        return bool(self.measure or self.dimension)

    @property
    def unit(self) -> str:
        """The unit a bare number is taken to have."""
        return bare_unit(self.of) if self.of else ""

    @property
    def of(self) -> str:
        """The dimension of what is asked for."""
        return MEASURES[self.measure].dimension if self.measure else self.dimension

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        """Reads what was typed before it is validated."""
        return core_schema.no_info_before_validator_function(self.read, handler(source))

    def read(self, given: Any) -> Any:
        """What was typed, or came as a number, as a value; raises the sentence that says what is wrong."""
        try:
            return self._value(given.strip()) if isinstance(given, str) else self._checked(given)
        except Refused as refused:
            raise PydanticCustomError("refused", "{sentence}", {"sentence": refused.sentence}) from refused

    def _value(self, text: str) -> Any:
        if not text:
            return () if self.many else None
        if self.choices:
            if text not in self.choices:
                raise Refused(self.title, f"“{text}” is none of {', '.join(self.choices)}")
            return text
        if not self.numeric:
            if len(text) > self.longest:
                raise Refused(self.title, f"{self.title} has {len(text)} signs: {self.longest} at most")
            return text
        if not self.many:
            return self._number(text)
        words = [w.rstrip(",") for w in text.replace(";", " ").split()]
        if len(words) > MOST_NUMBERS:
            raise Refused(self.title, f"{len(words)} numbers are more than one run: {MOST_NUMBERS} at most")
        return tuple(self._number(word) for word in words if word)

    def _checked(self, given: Any) -> Any:
        """A value that is no text must be what its text would be."""
        if isinstance(given, (list, tuple)):
            return tuple(self._checked(g) for g in given)
        if not isinstance(given, (int, float)):
            return given
        return self._value(f"{given!r} {DIMENSIONS[self.of].unit}" if self.of else repr(given))

    def _number(self, text: str) -> float:
        bounds = MEASURES[self.measure] if self.measure else self
        return read_number(text, self.title, self.of, bounds.low, bounds.high)


class Fields(BaseModel):
    """What a step asks for. Every field is None (or empty) until it is there."""

    model_config = ConfigDict(frozen=True, extra="ignore")

    @classmethod
    def asks(cls) -> dict[str, Ask]:
        """How each field is asked for, in order."""
        found = {name: next((m for m in info.metadata if isinstance(m, Ask)), None)
                 for name, info in cls.model_fields.items()}  # fmt: skip
        return {name: ask for name, ask in found.items() if ask}


def as_typed(fields: type[Fields], values: Mapping[str, Any]) -> dict[str, str]:
    """Values as they stand in the fields of a step; what is not known stands in none."""
    asks = fields.asks()
    return {
        n: v if isinstance(v, str) else written(v, asks[n].of or "count") for n, v in values.items() if v is not None
    }


FieldsOf = TypeVar("FieldsOf", bound=Fields)


def read_partly(fields: type[FieldsOf], typed: Mapping[str, Any]) -> tuple[FieldsOf, dict[str, str]]:
    """What can be read already, and what is wrong with the rest; an empty field is neither."""
    given = {name: typed[name] for name in fields.asks() if typed.get(name) not in (None, "")}
    try:
        return fields.model_validate(given), {}
    except ValidationError as error:
        wrong = {str(e["loc"][0]): e["msg"] for e in error.errors(include_url=False)}
        return fields.model_validate({n: v for n, v in given.items() if n not in wrong}), wrong


def still_missing(values: Fields) -> dict[str, str]:
    """The required fields that are empty."""
    asks = values.asks()
    return {
        n: f"{a.title} is still to come" for n, a in asks.items() if a.required and getattr(values, n) in (None, ())
    }


@dataclass(frozen=True)
class Curve:
    """A small picture of a step: a line with points on it, both axes named at their ends, an optional goal across and
    a mark along; `beyond` this the line rests on no reading, `before` is the same line as it was."""

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
    measures: ClassVar[tuple[str, ...]] = ()
    purposes: ClassVar[tuple[Purpose, ...]] = (Purpose.STANDARD,)
    quantities: ClassVar[tuple[str, ...]] = ()
    hold_s: ClassVar[int] = 0
    stays: ClassVar[bool] = False
    wants_fleet: ClassVar[bool] = False
    part: ClassVar[str] = ""
    untested: ClassVar[str] = ""
    button: ClassVar[str] = "Take it"
    fields_template: ClassVar[str] = "_fields.html"

    @property
    def template(self) -> str:
        """The template that draws its fields and what it shows."""
        return f"steps/{self.name}.html"

    def applies(self, motor: Motor) -> bool:
        """Whether a motor can do it."""
        return True

    def asks_for(self, name: str, motor: Motor) -> bool:
        """Whether a field makes sense for a motor."""
        return True

    def needs(self, ctx: CheckContext, name: str) -> bool:
        """Whether a required field is required in this check."""
        return True

    def taken(self, ctx: CheckContext, values: FieldsOf, run: int) -> Taken:
        """What becomes of the fields, whole or half."""
        raise NotImplementedError

    def missing(self, ctx: CheckContext, values: FieldsOf) -> dict[str, str]:
        """What is wrong between fields that are each right."""
        return {}

    def view(self, ctx: CheckContext, values: FieldsOf, fresh: Sequence[Reading]) -> ViewOf:
        """What it shows of what was taken and of what is typed."""
        raise NotImplementedError

    def habits(self, ctx: CheckContext) -> dict[str, str]:
        """What stands in its fields at first."""
        return {}

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

    def agreement(self, ctx: CheckContext) -> dict[str, repeats.Agreement]:
        """Whether the runs of this check agree, by quantity, once there are two."""
        found = {}
        for name in self.quantities:
            quantity = QUANTITIES.get(name)
            values = [o.value for o in self.observations(ctx, quantity)] if quantity else []
            if quantity and len(values) > 1:
                found[name] = repeats.agreement(values, ctx.repeatability(name), quantity.relative)
        return found

    def observations(self, ctx: CheckContext, quantity: Quantity) -> Sequence[Observation]:
        """The latest observations of a quantity in this check that compare with each other."""
        groups = groups_of(ctx.own_history(), quantity)
        return groups[-1].observations if groups else ()

    def is_skipped(self, ctx: CheckContext) -> bool:
        """Whether it was passed over in this check."""
        return ctx.step_states().get(self.name) is StepState.SKIPPED


AnyStep = Step[Any, Any]
