"""What a step of a check is: what to do in words, its caution, the fields it asks for, and reading what was typed.

A step names its fields by measure, so that plausible range and unit come from the registry of measures. The steps
themselves are in `panels`, one module each; their order and the lists of them in `run`.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from waldhorn.core.errors import Refusals, Refused
from waldhorn.core.history import COOLING, MARKS, METHODS, Motor
from waldhorn.core.measures import MEASURES
from waldhorn.core.units import DIMENSIONS, read_number
from waldhorn.store.models import ReadingRow

Value = float | str | list[float] | None
MOST_NUMBERS = 200
LONGEST_TEXT = 60


@dataclass(frozen=True, slots=True)
class Field:
    """One thing to type.

    `measure` gives its unit and range; without one it is text, or a number of `dimension` between `low` and `high`,
    or one of `choices`. `many` takes numbers in a row. `habit` is what stands there at first.
    """

    name: str
    title: str
    measure: str = ""
    choices: tuple[str, ...] = ()
    optional: bool = False
    many: bool = False
    dimension: str = ""
    low: float = 0.0
    high: float = 1e9
    hint: str = ""
    habit: str = ""
    longest: int = LONGEST_TEXT
    modest: bool = False

    @property
    def unit(self) -> str:
        """The unit a bare number is taken to have."""
        dimension = MEASURES[self.measure].dimension if self.measure else self.dimension
        return DIMENSIONS[dimension].unit if dimension else ""

    @property
    def numeric(self) -> bool:
        """Whether it takes a number."""
        return bool(self.measure or self.dimension)


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """One bead of the wire. `measures` and `mark` tell which readings of a check are its own; `quantities` are those
    whose meaning is shown beside it; one that `stays` is gone on with after each taking."""

    name: str
    title: str
    instruction: str
    caution: str = ""
    fields: tuple[Field, ...] = ()
    powered: bool = False
    runs_wanted: int = 1
    measures: tuple[str, ...] = ()
    mark: str = ""
    quantities: tuple[str, ...] = ()
    hold_s: int = 0
    stays: bool = False
    applies: Callable[[Motor], bool] = lambda motor: True

    def owns(self, row: ReadingRow) -> bool:
        """Whether a stored reading was taken in this step."""
        if row.measure not in self.measures:
            return False
        return row.note.startswith(self.mark) if self.mark else not row.note.startswith(_OTHERS)


_OTHERS = tuple(m for m in MARKS if m != COOLING)  # cooling is read in the step of the standard run

METHOD_WORDS = {
    "loaded-supply": "full throttle, rpm ÷ volts at the motor",
    "fixed-volt": "regulated test voltage",
    "back-emf": "driven by the drill",
}

SETUP = Step(
    name="setup",
    title="Rig and warmth",
    instruction="Which rig, and how warm is it?",
    caution="Pack unplugged while you connect. Leads touch neither the can nor each other.",
    fields=(
        Field("rig", "rig"),
        Field("method", "KV taken by", choices=METHODS),
        Field("motor_c", "motor temperature", "temperature", optional=True),
        Field("ambient_c", "air temperature", "temperature", optional=True),
        Field("timing_set_deg", "end bell set to", "timing_mean", optional=True),
    ),
)
ANSWER = Step(name="answer", title="Answer", instruction="Sign it and hang it back.")


def read(step: Step, typed: Mapping[str, str]) -> dict[str, Value]:
    """Every field of a step that was typed, read; raises Refusals with a sentence a field, missing ones too."""
    values, wrong = read_partly(step, typed)
    for field in step.fields:
        if field.name not in values and field.name not in wrong:
            if field.optional:
                values[field.name] = None
            else:
                wrong[field.name] = f"{field.title} is still to come"
    if wrong:
        raise Refusals(wrong)
    return values


def read_partly(step: Step, typed: Mapping[str, str]) -> tuple[dict[str, Value], dict[str, str]]:
    """What can be read already, and what is wrong with the rest; an empty field is neither."""
    values: dict[str, Value] = {}
    wrong: dict[str, str] = {}
    for field in step.fields:
        text = typed.get(field.name, "").strip()
        if not text:
            continue
        try:
            values[field.name] = _value(field, text)
        except Refused as refused:
            wrong[field.name] = refused.sentence
    return values, wrong


def _value(field: Field, text: str) -> Value:
    if field.choices:
        if text not in field.choices:
            raise Refused(field.name, f"“{text}” is none of {', '.join(field.choices)}")
        return text
    if not field.numeric:
        if len(text) > field.longest:
            raise Refused(field.name, f"{field.title} has {len(text)} signs: {field.longest} at most")
        return text
    if field.many:
        words = text.replace(";", " ").split()
        if len(words) > MOST_NUMBERS:
            raise Refused(field.name, f"{len(words)} numbers are more than one run: {MOST_NUMBERS} at most")
        return [_number(field, word.rstrip(",")) for word in words if word.rstrip(",")]
    return _number(field, text)


def _number(field: Field, text: str) -> float:
    if not field.measure:
        return read_number(text, field.title, field.dimension, field.low, field.high)
    measure = MEASURES[field.measure]
    return read_number(text, field.title, measure.dimension, measure.low, measure.high)
