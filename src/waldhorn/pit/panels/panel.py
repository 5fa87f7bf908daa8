"""What every panel offers, and what most of them share."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from waldhorn.pit.desk import Desk, View
from waldhorn.pit.steps import Step, Value
from waldhorn.store.acts import Operation
from waldhorn.store.readings import NewReading

Values = Mapping[str, Value]


def no_readings(desk: Desk, values: Values, run: int) -> list[NewReading]:
    """For steps that yield no readings."""
    return []


def nothing_noticed(desk: Desk, values: Values) -> dict[str, tuple[str, str]]:
    """For steps that yield no findings."""
    return {}


def nothing_besides(desk: Desk, values: Values) -> list[Operation]:
    """For steps that change nothing but readings and findings."""
    return []


def nothing_needed(desk: Desk, values: Values) -> dict[str, str]:
    """For steps in which every field stands for itself."""
    return {}


@dataclass(frozen=True)
class Panel:
    """A step with what it does.

    `readings` and `notices` make readings and findings of what is typed, whole or half; `missing` says what is still
    wrong between fields; `besides` does what else taking it means and returns what undoes that; `view` shows it;
    `done` says in a few words what the step has to show, empty when nothing yet; `habits` fills its fields at first.
    """

    step: Step
    view: Callable[[Desk, Values, Sequence[NewReading]], View]
    readings: Callable[[Desk, Values, int], list[NewReading]] = no_readings
    notices: Callable[[Desk, Values], dict[str, tuple[str, str]]] = nothing_noticed
    missing: Callable[[Desk, Values], dict[str, str]] = nothing_needed
    besides: Callable[[Desk, Values], list[Operation]] = nothing_besides
    done: Callable[[Desk], str] | None = None
    habits: Callable[[Desk], dict[str, str]] = lambda desk: {}

    def said(self, desk: Desk) -> str:
        """What the step has to show for itself, in a few words."""
        if self.done:
            return self.done(desk)
        counted, aside = desk.counted(self.step), len(desk.runs_of(self.step))
        words = f"{counted} {'run' if counted == 1 else 'runs'}" if counted else ""
        return words + (f", {aside - counted} aside" if aside > counted else "")


def number(values: Values, name: str) -> float | None:
    """A value as a number, None when it is not there."""
    value = values.get(name)
    return float(value) if isinstance(value, (int, float)) else None


def numbers(values: Values, name: str) -> list[float]:
    """A value as a list of numbers, empty when it is not there."""
    value = values.get(name)
    return [float(v) for v in value] if isinstance(value, list) else []


def text(values: Values, name: str) -> str:
    """A value as text, empty when it is not there."""
    value = values.get(name)
    return value if isinstance(value, str) else ""
