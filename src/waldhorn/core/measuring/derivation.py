"""What a quantity is made of: which readings belong together, and what a function of their values gets and gives.

The declarations stand in `measures`, the engine that follows them in `observations`.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.history import Motor
from waldhorn.core.base.vocabulary import NoteKind


@dataclass(frozen=True, slots=True)
class Inputs:
    """The values that make one observation: by measure, in order of position or clock angle; their conditions, and
    the motor they were read on. `angles_deg` are the clock angles of the first measure's values, `under` the conditions
    of each where they were read at several settings."""

    values: Mapping[str, tuple[float, ...]]
    conditions: Conditions
    motor: Motor
    angles_deg: tuple[float, ...] = ()
    under: tuple[Conditions, ...] = ()

    def one(self, measure: str) -> float:
        """The single value of a measure."""
        return self.values[measure][0]

    def maybe(self, measure: str) -> float | None:
        """The single value of a measure, or None when it was not read."""
        found = self.values.get(measure)
        return found[0] if found else None


@dataclass(frozen=True, slots=True)
class Derived:
    """What inputs yield: the value to judge and the value as read, in the quantity's unit.

    `u_further` is a standard uncertainty beyond that of repeating, in the quantity's change unit; `n` how many
    readings stand behind the value; `note` what had to be assumed; `supply_v` a voltage read beside it; `resolution`
    one step of the display, likewise, where it is not the quantity's usual one.
    """

    value: float
    raw: float | None = None
    u_further: float = 0.0
    n: int = 1
    note: NoteKind | None = None
    supply_v: float | None = None
    resolution: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class DerivationRule:
    """One way to make a quantity.

    Each reading of `of` makes an observation, or all of a run `together`, or all of a check over so many `settings` or
    more, each with the `run` measures read at that setting. `run` measures must have been read in the same run, and
    `beside` ones are taken along where they were read in the same check at the same place. `make` returns None where
    the values yield nothing.
    """

    of: str
    make: Callable[[Inputs], Derived | None]
    run: tuple[str, ...] = ()
    run_maybe: tuple[str, ...] = ()
    beside: tuple[str, ...] = ()
    together: bool = False
    settings: int = 0
    full_throttle: bool = False

    @property
    def inputs(self) -> tuple[str, ...]:
        """Every measure it looks at."""
        return (self.of, *self.run, *self.run_maybe, *self.beside)


def as_read(measure: str) -> DerivationRule:
    """The rule of a measure that is judged as it is read.

    >>> as_read("vibration").inputs
    ('vibration',)
    """
    return DerivationRule(of=measure, make=lambda given: Derived(given.one(measure), given.one(measure)))
