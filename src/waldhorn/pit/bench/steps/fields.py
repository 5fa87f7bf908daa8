"""What a step asks for: fields that know their unit and range, and read what people write.

Fields are Pydantic models, so that a form and a file say the same: each is asked for with `Ask`, which names a measure
or a dimension. Every field may be empty while one types; those `required` must be there before a step is taken.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, TypeVar

from pydantic import BaseModel, ConfigDict, GetCoreSchemaHandler, ValidationError, ValidationInfo
from pydantic_core import CoreSchema, PydanticCustomError, core_schema

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.units import AS_STORED, DIMENSIONS, Notation, read_number
from waldhorn.core.measuring.measures import MEASURES, NEVER_ZERO

MOST_NUMBERS = 200
LONGEST_TEXT = 60


@dataclass(frozen=True, slots=True)
class Ask:
    """How one thing is asked for.

    `measure` gives its unit and range; without one it is text, or a number of `dimension` between `low` and `high`,
    or one of `choices`; `offered` values are proposed, any other may be typed. `many` takes numbers in a row. `habit`
    is what stands there at first; a `modest` field is drawn smaller, and a `folded` one is opened by who wants it.
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
    folded: bool = False
    longest: int = LONGEST_TEXT

    @property
    def numeric(self) -> bool:
        """Whether it takes a number."""
        return bool(self.measure or self.dimension)

    @property
    def of(self) -> str:
        """The dimension of what is asked for."""
        return MEASURES[self.measure].dimension if self.measure else self.dimension

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        """Reads what was typed before it is validated."""
        return core_schema.with_info_before_validator_function(self.read, handler(source))

    def read(self, given: Any, told: ValidationInfo) -> Any:
        """What was typed, or came as a number, as a value; raises the sentence that says what is wrong. A pit's
        notation is told as the context of the validation."""
        notation = told.context or AS_STORED
        try:
            return self._value(given.strip(), notation) if isinstance(given, str) else self._checked(given)
        except InputError as refused:
            raise PydanticCustomError("refused", "{sentence}", {"sentence": refused.sentence}) from refused

    def _value(self, text: str, notation: Notation = AS_STORED) -> Any:
        if not text:
            return () if self.many else None
        if self.choices:
            if text not in self.choices:
                raise InputError(self.title, f"“{text}” is none of {', '.join(self.choices)}")
            return text
        if not self.numeric:
            if len(text) > self.longest:
                raise InputError(self.title, f"{self.title} has {len(text)} characters: {self.longest} at most")
            return text
        if not self.many:
            return self._number(text, notation)
        words = [w.rstrip(",") for w in text.replace(";", " ").split()]
        if len(words) > MOST_NUMBERS:
            raise InputError(self.title, f"{len(words)} numbers are more than one run: {MOST_NUMBERS} at most")
        return tuple(self._number(word, notation) for word in words if word)

    def _checked(self, given: Any) -> Any:
        """A value that is no text must be what its text would be."""
        if isinstance(given, (list, tuple)):
            return tuple(self._checked(g) for g in given)
        if not isinstance(given, (int, float)):
            return given
        return self._value(f"{given!r} {DIMENSIONS[self.of].unit}" if self.of else repr(given))

    def _number(self, text: str, notation: Notation) -> float:
        bounds = MEASURES[self.measure] if self.measure else self
        number = read_number(text, self.title, self.of, bounds.low, bounds.high, notation)
        if number == 0 and self.measure in NEVER_ZERO:
            raise InputError(self.title, f"0 {MEASURES[self.measure].unit} was not read: leave it empty")
        return number


class Fields(BaseModel):
    """What a step asks for. Every field is None (or empty) until it is there."""

    model_config = ConfigDict(frozen=True, extra="ignore")

    @classmethod
    def asks(cls) -> dict[str, Ask]:
        """How each field is asked for, in order."""
        found = {
            name: next((m for m in info.metadata if isinstance(m, Ask)), None)
            for name, info in cls.model_fields.items()
        }
        return {name: ask for name, ask in found.items() if ask}


def as_typed(fields: type[Fields], values: Mapping[str, Any], notation: Notation) -> dict[str, str]:
    """Values as they stand in the fields of a step; what is not known stands in none."""
    asks = fields.asks()
    known = {n: v for n, v in values.items() if v is not None}
    return {n: v if isinstance(v, str) else notation.written(v, asks[n].of or "count") for n, v in known.items()}


FieldsOf = TypeVar("FieldsOf", bound=Fields)


def read_partly(
    fields: type[FieldsOf], typed: Mapping[str, Any], notation: Notation
) -> tuple[FieldsOf, dict[str, str]]:
    """What can be read already, and what is wrong with the rest; an empty field is neither."""
    given = {name: typed[name] for name in fields.asks() if typed.get(name) not in (None, "")}
    try:
        return fields.model_validate(given, context=notation), {}
    except ValidationError as error:
        wrong = {str(e["loc"][0]): e["msg"] for e in error.errors(include_url=False)}
        right = {n: v for n, v in given.items() if n not in wrong}
        return fields.model_validate(right, context=notation), wrong


def still_missing(values: Fields) -> dict[str, str]:
    """The required fields that are empty."""
    asks = values.asks()
    return {
        n: f"{a.title} is still to come" for n, a in asks.items() if a.required and getattr(values, n) in (None, ())
    }
