"""The registry: every measure a reading can carry, and every quantity a motor is judged by.

A *measure* is what is written down (volts, rpm, a peak in N·mm). A *quantity* is what is judged: it is made of
the readings of one check (KV from rpm and volts), compares only under equal conditions, and has limits. To add
one: write its module in this package, add its entry here, and give it a panel. Nothing else knows the list.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from types import MappingProxyType

from waldhorn.core import current, kv
from waldhorn.core.history import Motor, Reading, Sample
from waldhorn.core.units import DIMENSIONS


@dataclass(frozen=True, slots=True)
class Measure:
    """A measure as stored: its dimension (a key of `units.DIMENSIONS`) and its plausible range, in stored units."""

    name: str
    title: str
    dimension: str
    low: float
    high: float

    @property
    def unit(self) -> str:
        return DIMENSIONS[self.dimension].unit


@dataclass(frozen=True, slots=True)
class Limits:
    """Change at which to watch and to act, in the quantity's change unit (percent, or its own unit)."""

    watch: float
    act: float


@dataclass(frozen=True, slots=True)
class Quantity:
    """A quantity that is judged.

    `samples` makes it of one check's accepted readings. `same` names the conditions that must agree before two
    samples compare. `relative` changes are in percent of the baseline, others in the quantity's own unit.
    `direction` is +1 when only a rise is bad, -1 when only a fall is, 0 when both are. `repeatability` is one
    standard deviation of a repeat, in the change unit; `resolution` one step of the display, likewise.
    `sayings` word a rise, a fall and no change.
    `natural_spread` is one standard deviation between sound motors of one model, in the change unit.
    """

    name: str
    title: str
    symbol: str
    unit: str
    relative: bool
    direction: int
    limits: Limits
    repeatability: float
    resolution: float
    natural_spread: float
    decimals: int
    same: tuple[str, ...]
    samples: Callable[[Sequence[Reading], Motor], list[Sample]]
    label: Callable[[Motor], float | None] = field(default=lambda motor: None)
    sayings: tuple[str, str, str] = ("{} more", "{} less", "as before")

    @property
    def change_unit(self) -> str:
        return "%" if self.relative else self.unit


def _measures(*rows: tuple[str, str, str, float, float]) -> Mapping[str, Measure]:
    return MappingProxyType({row[0]: Measure(*row) for row in rows})


MEASURES: Mapping[str, Measure] = _measures(
    ("kv", "KV", "speed_per_volt", 1, 100_000),
    ("rpm", "rpm", "speed", 0, 500_000),
    ("supply_volts", "volts at the motor", "voltage", 0.1, 100),
    ("no_load_current", "no-load current", "current", 0, 500),
    ("rpm_p2p", "rpm peak to peak", "speed", 0, 500_000),
    ("timing_a", "timing A", "angle", -90, 90),
    ("timing_b", "timing B", "angle", -90, 90),
    ("timing_c", "timing C", "angle", -90, 90),
    ("timing_mean", "timing", "angle", -90, 90),
    ("noise_avg", "noise", "level", 0, 150),
    ("noise_peak", "noise peak", "level", 0, 160),
    ("noise_background", "background noise", "level", 0, 150),
    ("detent_peak", "detent peak", "torque", 0, 10_000),
    ("gap", "gap", "length", 0, 20),
    ("vibration", "vibration", "points", 0, 5),
    ("vibration_rms", "vibration", "acceleration", 0, 500),
    ("temperature", "temperature", "temperature", -40, 300),
    ("electrical_frequency", "electrical frequency", "frequency", 0, 100_000),
    ("rotor_asymmetry", "rotor asymmetry", "percent", 0, 100),
    ("sensor_strength_deviation", "sensor strength deviation", "percent", 0, 100),
    ("end_bell_deviation", "end bell deviation", "angle", -90, 90),
    ("winding_resistance_ab", "winding resistance A to B", "resistance", 0.01, 1_000_000),
    ("winding_resistance_bc", "winding resistance B to C", "resistance", 0.01, 1_000_000),
    ("winding_resistance_ca", "winding resistance C to A", "resistance", 0.01, 1_000_000),
)

QUANTITIES: Mapping[str, Quantity] = MappingProxyType(
    {
        q.name: q
        for q in (
            Quantity(
                "kv", "KV", "KV", "rpm/V", True, 0, Limits(3, 6), 0.5, 0.05, 1.5, 0,
                ("method", "rig", "throttle_pct", "timing_set_deg"),
                kv.samples, kv.label, ("KV {} higher", "KV {} lower", "KV the same"),
            ),
            Quantity(
                "no_load_current", "no-load current", "A", "A", True, +1, Limits(15, 30), 3, 0.5, 8, 2,
                ("rig", "throttle_pct", "supply_v", "timing_set_deg", "motor_c"),
                current.samples, sayings=("Draws {} more", "Draws {} less", "Draws the same"),
            ),
        )
    }
)  # fmt: skip
