"""The registry: every measure a reading can carry, and every quantity a motor is judged by.

A *measure* is what is written down (volts, rpm, a peak in N·mm). A *quantity* is what is judged: it is made of
the readings of one check (KV from rpm and volts), compares only under equal conditions, and has limits. To add
one: write its module in this package, add its entry here, and give it a panel. Nothing else knows the list.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from types import MappingProxyType

from waldhorn.core import current, detent, gap, kv, machine, noise, own_figures, steadiness, thermal, timing
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


@dataclass(frozen=True, slots=True, kw_only=True)
class Quantity:
    """A quantity that is judged.

    `samples` makes it of one check's accepted readings of the measures it is `made_of`. `same` names the conditions
    that must agree before two samples compare. `relative` changes are in percent of the baseline, others in the
    quantity's own unit; limits of an `absolute` one lie on the value itself. `direction` is +1 when only a rise is
    bad, -1 when only a fall is, 0 when both are. `repeatability` is one standard deviation of a repeat, in the change
    unit; `resolution` one step of the display, likewise. `natural_spread` is one standard deviation between sound
    motors of one model, in the change unit, `typical` the value of a sound motor where that is known of all.
    `against_machine` quantities compare with the other motors of the machine. `worst_means` is the answer when this
    one alone is past its act limit. `sayings` word a rise, a fall and no change.
    """

    name: str
    title: str
    symbol: str
    unit: str
    limits: Limits
    repeatability: float
    made_of: frozenset[str]
    samples: Callable[[Sequence[Reading], Motor], list[Sample]]
    same: tuple[str, ...] = ("rig",)
    relative: bool = False
    absolute: bool = False
    against_machine: bool = False
    direction: int = 1
    resolution: float = 0.0
    natural_spread: float = 0.0
    typical: float | None = None
    decimals: int = 1
    worst_means: str = "repair"
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
    ("rest_volts", "volts at rest", "voltage", 0, 100),
    ("load_volts", "volts under load", "voltage", 0, 100),
    ("load_current", "amps under load", "current", 0, 1_000),
    ("load_watts", "watts", "power", 0, 100_000),
    ("load_rpm", "rpm under load", "speed", 0, 500_000),
    ("thrust", "thrust", "mass", 0, 1_000_000),
    ("flywheel_torque", "flywheel torque", "moment", 0, 1_000_000),
    ("response", "response", "speed_rate", 0, 10_000_000),
    ("winding_resistance_ab", "winding resistance A to B", "resistance", 0.01, 1_000_000),
    ("winding_resistance_bc", "winding resistance B to C", "resistance", 0.01, 1_000_000),
    ("winding_resistance_ca", "winding resistance C to A", "resistance", 0.01, 1_000_000),
)


def _named(title: str, more: str = "{} higher", less: str = "{} lower") -> tuple[str, str, str]:
    return (f"{title} {more}", f"{title} {less}", f"{title} the same")


QUANTITIES: Mapping[str, Quantity] = MappingProxyType(
    {
        q.name: q
        for q in (
            Quantity(
                made_of=frozenset(("kv", "rpm", "supply_volts")),
                name="kv", title="KV", symbol="KV", unit="rpm/V", limits=Limits(3, 6), repeatability=0.5,
                samples=kv.samples, same=("method", "rig", "throttle_pct", "timing_set_deg"), relative=True,
                direction=0, resolution=0.05, natural_spread=1.5, decimals=0, worst_means="retire", label=kv.label,
                sayings=_named("KV"),
            ),
            Quantity(
                made_of=frozenset(("no_load_current", "supply_volts")),
                name="no_load_current", title="no-load current", symbol="A", unit="A", limits=Limits(15, 30),
                repeatability=3, samples=current.samples,
                same=("rig", "throttle_pct", "supply_v", "timing_set_deg", "motor_c"), relative=True, resolution=0.5,
                natural_spread=8, decimals=2, sayings=("Draws {} more", "Draws {} less", "Draws the same"),
            ),
            Quantity(
                made_of=frozenset(("rpm_p2p", "rpm")),
                name="steadiness", title="steadiness", symbol="±", unit="%", limits=Limits(0.5, 1.5),
                repeatability=0.06, samples=steadiness.samples, same=("rig", "throttle_pct"), absolute=True,
                resolution=0.02, natural_spread=0.1, typical=0.2, decimals=2, sayings=_named("Speed wanders"),
            ),
            Quantity(
                made_of=frozenset((*timing.PHASES, "timing_mean")),
                name="timing_mean", title="timing", symbol="°", unit="°", limits=Limits(2, 4), repeatability=0.5,
                samples=timing.samples, same=("rig", "timing_set_deg"), direction=0, resolution=0.1, natural_spread=3,
                sayings=("Timing {} further on", "Timing {} back", "Timing the same"),
            ),
            Quantity(
                made_of=frozenset((*timing.PHASES,)),
                name="timing_spread", title="timing spread", symbol="Δ°", unit="°", limits=Limits(2, 4),
                repeatability=0.5, samples=timing.spread_samples, same=("rig",), absolute=True, resolution=0.1,
                natural_spread=0.4, typical=0.9, sayings=_named("Phases", "{} further apart", "{} closer"),
            ),
            Quantity(
                made_of=frozenset(("noise_avg", "noise_background")),
                name="noise_avg", title="noise", symbol="dB", unit="dB", limits=Limits(3, 6), repeatability=1,
                samples=noise.samples, same=("rig", "placement", "throttle_pct"), resolution=0.1, natural_spread=1.5,
                sayings=("{} louder", "{} quieter", "As loud"),
            ),
            Quantity(
                made_of=frozenset(("temperature",)),
                name="temperature", title="heat", symbol="K", unit="K", limits=Limits(8, 15), repeatability=1.5,
                samples=thermal.samples, same=("rig", "throttle_pct", "timing_set_deg"), resolution=0.1,
                natural_spread=3, sayings=("Runs {} hotter", "Runs {} cooler", "Runs as warm"),
            ),
            Quantity(
                made_of=frozenset(("detent_peak",)),
                name="detent_peak", title="detent", symbol="D", unit="N·mm", limits=Limits(6, 12), repeatability=5,
                samples=detent.samples, relative=True, direction=-1, resolution=0.5, natural_spread=4,
                worst_means="retire", sayings=_named("Detent", "{} stronger", "{} weaker"),
            ),
            Quantity(
                made_of=frozenset(("detent_peak",)),
                name="detent_variation", title="detent variation", symbol="Dv", unit="%", limits=Limits(30, 60),
                repeatability=20, samples=detent.variation_samples, relative=True, natural_spread=30,
                worst_means="retire", sayings=_named("Detent varies", "{} more", "{} less"),
            ),
            Quantity(
                made_of=frozenset(("gap",)),
                name="run_out", title="run-out", symbol="mm", unit="mm", limits=Limits(0.08, 0.15),
                repeatability=0.014, samples=gap.samples, same=(), absolute=True, resolution=0.005,
                natural_spread=0.02, typical=0.02, decimals=2, sayings=_named("Run-out"),
            ),
            Quantity(
                made_of=frozenset(("vibration",)),
                name="vibration", title="vibration", symbol="V", unit="points", limits=Limits(1, 2),
                repeatability=machine.HAND_S, samples=own_figures.samples_of("vibration"),
                same=("throttle_pct", "placement"), against_machine=True, resolution=0.5, natural_spread=0.5,
                sayings=("Shakes {} more", "Shakes {} less", "Shakes no more"),
            ),
            Quantity(
                made_of=frozenset(("rotor_asymmetry",)),
                name="rotor_asymmetry", title="rotor asymmetry", symbol="RA", unit="%", limits=Limits(50, 100),
                repeatability=10, samples=own_figures.samples_of("rotor_asymmetry"), relative=True,
                natural_spread=30, worst_means="retire", sayings=_named("Rotor asymmetry"),
            ),
            Quantity(
                made_of=frozenset(("sensor_strength_deviation",)),
                name="sensor_strength_deviation", title="sensor strength", symbol="SS", unit="%",
                limits=Limits(50, 100), repeatability=10,
                samples=own_figures.samples_of("sensor_strength_deviation"), relative=True, natural_spread=30,
                sayings=_named("Sensor strength deviates", "{} more", "{} less"),
            ),
        )
    }
)  # fmt: skip
# Judged by what KV and detent say together, not measured itself.
MAGNET_STRENGTH = Quantity(
    name="magnet_strength", title="magnet strength", symbol="b", unit="%", made_of=frozenset(), limits=Limits(3, 6),
    repeatability=0.5,
    samples=lambda readings, motor: [], direction=-1, worst_means="retire",
    sayings=_named("Magnets", "{} stronger", "{} weaker"),
)  # fmt: skip
