"""The steps of a check: what to do in words, its caution, and the fields it asks for.

One list, in the order technicians work. A step names its fields by measure, so that reading what was typed, its
plausible range and its unit come from the registry of measures.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from waldhorn.core.errors import Refusals, Refused
from waldhorn.core.history import METHODS
from waldhorn.core.measures import MEASURES
from waldhorn.core.units import DIMENSIONS, read_number


@dataclass(frozen=True, slots=True)
class Field:
    """One thing to type. `measure` gives its unit and range; without one it is text or one of `choices`."""

    name: str
    title: str
    measure: str = ""
    choices: tuple[str, ...] = ()
    optional: bool = False

    @property
    def unit(self) -> str:
        return DIMENSIONS[MEASURES[self.measure].dimension].unit if self.measure else ""


@dataclass(frozen=True, slots=True)
class Step:
    """One bead of the wire."""

    name: str
    title: str
    instruction: str
    caution: str
    fields: tuple[Field, ...]


METHOD_WORDS = {
    "loaded-supply": "full throttle, rpm ÷ volts at the motor",
    "fixed-volt": "regulated test voltage",
    "back-emf": "driven by the drill",
}

SETUP = Step(
    "setup",
    "Rig and warmth",
    "Which rig, and how warm is it?",
    "Pack unplugged while you connect. Leads touch neither the can nor each other.",
    (
        Field("rig", "rig"),
        Field("method", "KV taken by", choices=METHODS),
        Field("motor_c", "motor temperature", "temperature", optional=True),
        Field("ambient_c", "air temperature", "temperature", optional=True),
    ),
)
PULL = Step(
    "pull",
    "Full throttle",
    "Hold full throttle and read all three.",
    "Propeller and pinion off, motor clamped, eyes protected, nobody in the plane of rotation. Ten seconds at most.",
    (
        Field("volts", "volts at the motor", "supply_volts"),
        Field("amps", "amps", "no_load_current"),
        Field("rpm", "rpm", "rpm"),
    ),
)
PULL_MEASURES = {field.name: field.measure for field in PULL.fields}
ANSWER = Step("answer", "Answer", "Sign it and hang it back.", "", ())
STEPS: Mapping[str, Step] = {step.name: step for step in (SETUP, PULL, ANSWER)}


def read(step: Step, typed: Mapping[str, str]) -> dict[str, float | str | None]:
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


def read_partly(step: Step, typed: Mapping[str, str]) -> tuple[dict[str, float | str | None], dict[str, str]]:
    """What can be read already, and what is wrong with the rest; an empty field is neither."""
    values: dict[str, float | str | None] = {}
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


def _value(field: Field, text: str) -> float | str:
    if field.choices:
        if text not in field.choices:
            raise Refused(field.name, f"“{text}” is none of {', '.join(field.choices)}")
        return text
    if not field.measure:
        if len(text) > 60:
            raise Refused(field.name, f"{field.title} has {len(text)} signs: 60 at most")
        return text
    measure = MEASURES[field.measure]
    return read_number(text, field.title, measure.dimension, measure.low, measure.high)
