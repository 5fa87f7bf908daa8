"""What a quantity is that a motor is judged by: how it is made, what compares, and what its changes mean.

The quantities themselves are in `measures`.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.history import Motor
from waldhorn.core.base.vocabulary import EventKind, SetUp, Verdict
from waldhorn.core.measuring.derivation import DerivationRule

WARMTH = (-0.003, 0.003)  # of what friction and field draw: grease thins, flux falls (bench practice)
# What is renewed, in short: `reset_by` of most quantities names several.
BEARINGS, ROTOR, SHAFT = EventKind.BEARINGS_REPLACED, EventKind.ROTOR_REPLACED, EventKind.SHAFT_REPLACED
TIMING, BOARD, REWOUND = EventKind.TIMING_CHANGED, EventKind.SENSOR_BOARD_REPLACED, EventKind.REWOUND


@dataclass(frozen=True, slots=True)
class Limits:
    """Change at which to watch and to act, in the quantity's change unit (percent, or its own unit); `ceiling` is the
    value, in its unit, that stands for the act limit where a motor has nothing to compare with."""

    watch: float
    act: float
    ceiling: float | None = None


@dataclass(frozen=True, slots=True)
class BenchTest:
    """The test of the bench that yields a quantity: the step that does it, what to do in words, how long it takes."""

    step: str
    words: str
    seconds: int
    sensored_only: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class BetweenMotors:
    """How a quantity compares between motors: the words for more and less of it; what it weighs in which use, in watch
    limits, above 0 where more is better; `good_enough` how far apart motors of one set may lie, in the change unit,
    where a class says nothing, and None where it does not make sets; `over_volts` the power of the voltage that a value
    grows with, `per_degree` what a degree of advance makes of it, as a share, each with its uncertainty; `quick` for
    what is read in a minute, so that two runs are asked for."""

    more: str
    less: str
    uses: Mapping[str, float] = field(default_factory=dict)
    good_enough: float | None = None
    over_volts: tuple[float, float] | None = None
    per_degree: tuple[float, float] | None = None
    quick: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Quantity:
    """A quantity that is judged.

    `made` are the rules that make it of a check's readings, the first that applies to a run wins. `same` names
    the conditions that must agree before two observations compare; `reset_by` the events that void its past. What a
    fault does to it stands with the fault (`judging.faults`). `relative` changes are in percent of the baseline,
    others in the quantity's own unit; limits of an `absolute` one lie on the value itself. `direction` is +1 when
    only a rise is bad, -1 when only a fall is, 0 when both are. `repeatability` is one standard deviation of a
    repeat, in the change unit, and that of clamping anew as well until a rig has shown its own, `strays_by` the
    share of the value that a repeat strays besides, `per_kelvin` what a kelvin of the motor makes of it, as a share,
    with its uncertainty (0 and one where it is brought to 25 °C as it is made); `set_up` is what it shares with other
    quantities and can be wrong; `resolution` one step of the display, likewise. `natural_spread` is one standard
    deviation between sound motors of one model, in the change unit, `typical` the value of a sound motor where that is
    known of all.
    `may_slip` where a value is read as it is, so that its ratio to the one before tells of a slip. `under_ceiling` says
    under which conditions an absolute limit may be held against it. `against_machine` quantities compare with the other
    motors of the machine. `worst_means` is the answer when this one alone is past its act limit. `sayings` word a rise,
    a fall and no change, `stands` the value of an absolute one; `part` is where it sits on the drawing. `between` is
    how it compares between motors, None where it does not; `glance` its strip on the rack, which several may share (0:
    none), `on_tag` how early it goes into the code of a tag (0: not).
    """

    name: str
    title: str
    symbol: str
    unit: str
    limits: Limits
    repeatability: float
    set_up: SetUp
    made: tuple[DerivationRule, ...]
    same: tuple[str, ...] = ("rig",)
    reset_by: frozenset[EventKind] = frozenset()
    test: BenchTest | None = None
    relative: bool = False
    absolute: bool = False
    against_machine: bool = False
    direction: int = 1
    resolution: float = 0.0
    natural_spread: float = 0.0
    typical: float | None = None
    strays_by: float = 0.0
    per_kelvin: tuple[float, float] | None = None
    may_slip: bool = False
    under_ceiling: Callable[[Conditions], bool] = field(default=lambda under: True)
    decimals: int = 1
    worst_means: Verdict = Verdict.REPAIR
    label: Callable[[Motor], float | None] = field(default=lambda motor: None)
    sayings: tuple[str, str, str] = ("{} more", "{} less", "as before")
    stands: str = ""
    part: str = ""
    between: BetweenMotors | None = None
    glance: int = 0
    on_tag: int = 0

    @property
    def may_have_ceiling(self) -> bool:
        """Whether a value of its own stands for the act limit where there is nothing to compare with."""
        return not self.absolute and not self.against_machine and self.direction == 1

    @property
    def change_unit(self) -> str:
        return "%" if self.relative else self.unit

    @property
    def primaries(self) -> tuple[str, ...]:
        """The measures an observation starts from."""
        return tuple(rule.of for rule in self.made)

    @property
    def inputs(self) -> frozenset[str]:
        """Every measure it is made of."""
        return frozenset(m for rule in self.made for m in rule.inputs)


def difference(now: float, baseline: float, relative: bool) -> float:
    """Change from baseline to now.

    Parameters
    ----------
    now, baseline : float
        Same unit; baseline not zero if `relative`.
    relative : bool

    Returns
    -------
    float
        percent or the unit.

    Notes
    -----
    Formula: Δ = 100 · (now / baseline − 1) if relative, else now − baseline

    Source: definition.

    Examples
    --------
    >>> round(difference(88.9, 81.2, False), 1)
    7.7
    """
    return 100 * (now / baseline - 1) if relative else now - baseline


def named(title: str, more: str = "{} higher", less: str = "{} lower") -> tuple[str, str, str]:
    """The sayings of a quantity that is called by its name.

    Parameters
    ----------
    title : str
        As a sentence begins with it.
    more : str
        A rise; {} is its size.
    less : str
        A fall, likewise.
    """
    return (f"{title} {more}", f"{title} {less}", f"{title} the same")
