"""The registry: every measure a reading can carry, and every quantity a motor is judged by.

A *measure* is what is written down (volts, rpm, a peak in N·mm). A *quantity* is what is judged: it is made of the
readings of one check (KV from rpm and volts), compares only under equal conditions, and has limits. To add one: write
its module in this package, add its entry here, and give it a step. Nothing else knows the list.

References
----------
.. [1] Bench practice, for limits, repeatability, signatures and what resets what.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from waldhorn.core.base.units import DIMENSIONS
from waldhorn.core.base.vocabulary import EventKind, SetUp, Verdict
from waldhorn.core.measuring import (
    current,
    detent,
    gap,
    kv,
    losses,
    machine,
    noise,
    resistance,
    speed_ripple,
    thermal,
    timing,
)
from waldhorn.core.measuring.derivation import DerivationRule, as_read
from waldhorn.core.measuring.end_bell import CURRENT_PER_DEG, CURRENT_PER_DEG_U, KV_PER_DEG, KV_PER_DEG_U
from waldhorn.core.measuring.quantity import BenchTest, BetweenMotors, Limits, Quantity


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
    ("gap_turned", "gap, rotor turned", "length", 0, 20),
    ("vibration", "vibration", "points", 0, 5),
    ("vibration_rms", "vibration", "acceleration", 0, 500),
    ("temperature", "temperature", "temperature", -40, 300),
    ("temperature_before", "temperature before the run", "temperature", -40, 300),
    ("run_energy", "energy of the standard run", "energy", 0, 10_000_000),
    ("electrical_frequency", "electrical frequency", "frequency", 0, 100_000),
    ("magnet_unevenness", "magnet unevenness", "percent", 0, 100),
    ("sensor_level_spread", "sensor level spread", "percent", 0, 100),
    ("rest_volts", "volts at rest", "voltage", 0, 100),
    ("load_volts", "volts under load", "voltage", 0, 100),
    ("load_current", "amps under load", "current", 0, 1_000),
    ("load_watts", "watts", "power", 0, 100_000),
    ("load_rpm", "rpm under load", "speed", 0, 500_000),
    ("thrust", "thrust", "mass", 0, 1_000_000),
    ("flywheel_torque", "flywheel torque", "moment", 0, 1_000_000),
    ("response", "response", "speed_rate", 0, 10_000_000),
    ("shaft_torque", "torque at the shaft", "moment", 0, 1_000_000),
    ("shaft_power", "power at the shaft", "power", 0, 100_000),
    ("efficiency", "efficiency", "percent", 0, 100),
    ("detent_force", "detent force on the lever", "mass", 0, 100_000),
    ("gap_span", "gap, difference in one look", "length", 0, 20),
    ("idle_current", "controller alone", "current", 0, 500),
    ("winding_resistance_ab", "winding resistance A to B", "resistance", 0.01, 1_000_000),
    ("winding_resistance_bc", "winding resistance B to C", "resistance", 0.01, 1_000_000),
    ("winding_resistance_ca", "winding resistance C to A", "resistance", 0.01, 1_000_000),
    ("back_emf_a", "back-EMF A", "voltage", 0, 100),
    ("back_emf_b", "back-EMF B", "voltage", 0, 100),
    ("back_emf_c", "back-EMF C", "voltage", 0, 100),
    ("coast_down_time", "time to stop", "duration", 0, 600),
    ("friction_torque", "friction torque", "moment", 0, 1_000_000),
    ("loss_slope", "speed-dependent loss", "torque_per_speed", 0, 1_000_000),
)
# What a motor that turns never has none of: a 0 there is a field that was not read.
NEVER_ZERO = frozenset({
    "rpm", "no_load_current", "noise_avg", "noise_background", "load_volts", "load_current", "load_watts", "load_rpm",
    "electrical_frequency", "coast_down_time",
})  # fmt: skip


def _named(title: str, more: str = "{} higher", less: str = "{} lower") -> tuple[str, str, str]:
    return (f"{title} {more}", f"{title} {less}", f"{title} the same")


BEARINGS, ROTOR, SHAFT, TIMING, BOARD, REWOUND = (
    EventKind.BEARINGS_REPLACED, EventKind.ROTOR_REPLACED, EventKind.SHAFT_REPLACED, EventKind.TIMING_CHANGED,
    EventKind.SENSOR_BOARD_REPLACED, EventKind.REWOUND,
)  # fmt: skip
_PULL_WORDS = "full-throttle pull"
_BESIDE_AMPS = ("rpm", "supply_volts")
_SETTINGS_WORDS = "spin-up by settings"
_DETENT_WORDS = "detent, cold and unpowered"
_SWEEP_WORDS = "timing sweep"

_ENTRIES = (
    Quantity(
        name="kv", set_up=SetUp.SUPPLY, title="KV", symbol="KV", unit="rpm/V", limits=Limits(3, 6), repeatability=0.5,
        made=(
            DerivationRule(of="kv", make=kv.of_reading, full_throttle=True),
            DerivationRule(of="rpm", run=("supply_volts",), make=kv.of_run, full_throttle=True),
        ),
        same=("method", "rig", "throttle_pct", "timing_set_deg"), reset_by=frozenset({ROTOR, TIMING, BOARD, REWOUND}),
        may_slip=True,
        test=BenchTest("pull", _PULL_WORDS, 40), relative=True, direction=0, resolution=0.05, natural_spread=1.5,
        decimals=0, worst_means=Verdict.RETIRE, label=kv.label, sayings=_named("KV"), part="magnets",
        between=BetweenMotors(more="turns {} faster", less="turns {} slower", uses={"speed": 1.0}, good_enough=1.0,
                              per_degree=(KV_PER_DEG, KV_PER_DEG_U), quick=True), glance=1, on_tag=1,
    ),
    Quantity(
        name="no_load_current", set_up=SetUp.SUPPLY, title="no-load current", symbol="A", unit="A", limits=Limits(15,
        30), repeatability=3,
        made=(DerivationRule(of="no_load_current", run_maybe=("supply_volts",), make=current.of_run,
        full_throttle=True),), same=("rig", "throttle_pct", "supply_v", "timing_set_deg", "motor_c"),
        reset_by=frozenset({BEARINGS, ROTOR, TIMING, BOARD, REWOUND}),
        may_slip=True,
        test=BenchTest("pull", _PULL_WORDS, 40), relative=True, resolution=0.5, natural_spread=8, decimals=2,
        sayings=("Draws {} more", "Draws {} less", "Draws the same"), part="bearings",
        between=BetweenMotors(more="draws {} more", less="draws {} less", uses={"economy": -1.0, "long life": -0.5},
                              good_enough=8.0, over_volts=(0.6, 0.25), per_degree=(CURRENT_PER_DEG, CURRENT_PER_DEG_U),
                              quick=True), glance=2, on_tag=2,
    ),
    Quantity(
        name="friction", set_up=SetUp.SUPPLY, title="friction", symbol="Tc", unit="mN·m", limits=Limits(25, 60),
        repeatability=4,
        made=(
            DerivationRule(of="no_load_current", run=_BESIDE_AMPS, make=losses.friction_of_check,
            settings=losses.LEAST_SPEEDS), as_read("friction_torque"),
        ),
        same=("rig", "timing_set_deg", "motor_c"), reset_by=frozenset({BEARINGS, ROTOR, TIMING, BOARD, REWOUND}),
        test=BenchTest("pull", _SETTINGS_WORDS, 60), relative=True, natural_spread=15, decimals=2,
        sayings=_named("Friction"), part="bearings",
    ),
    Quantity(
        name="speed_loss", set_up=SetUp.SUPPLY, title="speed-dependent loss", symbol="B", unit="µN·m·s",
        limits=Limits(40, 150), repeatability=5,
        made=(
            DerivationRule(of="no_load_current", run=_BESIDE_AMPS, make=losses.slope_of_check,
            settings=losses.LEAST_SPEEDS), as_read("loss_slope"),
        ),
        same=("rig", "timing_set_deg", "motor_c"), reset_by=frozenset({BEARINGS, ROTOR, TIMING, BOARD, REWOUND}),
        test=BenchTest("pull", _SETTINGS_WORDS, 60), relative=True, natural_spread=15, decimals=2,
        sayings=_named("Speed-dependent loss"), part="winding",
    ),
    Quantity(
        name="speed_ripple", set_up=SetUp.CLAMP, title="wander", symbol="±", unit="%", limits=Limits(0.5, 1.5),
        repeatability=0.06,
        made=(DerivationRule(of="rpm_p2p", run=("rpm",), make=speed_ripple.of_run, full_throttle=True),),
        same=("rig", "throttle_pct"), reset_by=frozenset({BEARINGS, ROTOR, SHAFT, REWOUND}),
        test=BenchTest("pull", "wander at full throttle", 40), absolute=True, resolution=0.02,
        natural_spread=0.1, typical=0.2, strays_by=0.15, decimals=2, stands="Speed wanders by {}",
        sayings=_named("Speed wanders"), part="shaft",
        between=BetweenMotors(more="wanders {} more", less="wanders {} less",
                              uses={"long life": -0.5, "smooth start": -1.0}), glance=3, on_tag=7,
    ),
    Quantity(
        name="timing_mean", set_up=SetUp.SWEEP, title="timing", symbol="°", unit="°", limits=Limits(2, 4),
        repeatability=0.5,
        made=(
            DerivationRule(of="timing_a", run=("timing_b", "timing_c"), make=timing.mean_of_run),
            as_read("timing_mean"),
        ),
        same=("rig", "timing_set_deg"), reset_by=frozenset({ROTOR, TIMING, BOARD, REWOUND}),
        may_slip=True,
        test=BenchTest("timing", _SWEEP_WORDS, 60, sensored_only=True), direction=0, resolution=0.1,
        natural_spread=3, sayings=("Timing {} further on", "Timing {} further back", "Timing the same"), part="sensors",
        between=BetweenMotors(more="is set {} further on", less="is set {} further back", good_enough=1.0, quick=True),
        glance=4, on_tag=4,
    ),
    Quantity(
        name="timing_spread", set_up=SetUp.SWEEP, title="timing spread", symbol="Δ°", unit="°", limits=Limits(2, 4),
        repeatability=0.5,
        made=(DerivationRule(of="timing_a", run=("timing_b", "timing_c"), make=timing.spread_of_run),),
        reset_by=frozenset({ROTOR, BOARD, REWOUND}),
        test=BenchTest("timing", _SWEEP_WORDS, 60, sensored_only=True), absolute=True, resolution=0.1,
        natural_spread=0.4, typical=0.9, stands="Phases {} apart",
        sayings=_named("Phases", "{} further apart", "{} closer"), part="sensors",
        between=BetweenMotors(more="has phases {} further apart", less="has phases {} closer",
                              uses={"smooth start": -0.5}), glance=4,
    ),
    Quantity(
        name="noise_avg", set_up=SetUp.CLAMP, title="noise", symbol="dB", unit="dB", limits=Limits(3, 6,
        noise.LOUD_SMALL_MOTOR_DB), repeatability=1,
        made=(DerivationRule(of="noise_avg", beside=("noise_background",), make=noise.of_reading),),
        same=("rig", "placement", "distance_cm", "meter", "throttle_pct", "supply_v"),
        under_ceiling=noise.close_by,
        reset_by=frozenset({BEARINGS, ROTOR, SHAFT, TIMING, BOARD, REWOUND}),
        may_slip=True,
        test=BenchTest("noise", "noise at the lowest setting", 40), resolution=0.1, natural_spread=1.5,
        sayings=("{} louder", "{} quieter", "As loud"), part="bearings",
        between=BetweenMotors(more="is {} louder", less="is {} quieter", uses={"long life": -1.0}, quick=True),
        glance=5, on_tag=3,
    ),
    Quantity(
        name="temperature", set_up=SetUp.SUPPLY, title="heat", symbol="K", unit="K", limits=Limits(8, 15),
        repeatability=1.5,
        made=(DerivationRule(of="temperature", run_maybe=("temperature_before",), make=thermal.of_reading),),
        same=("rig", "throttle_pct", "timing_set_deg", "supply_v"),
        reset_by=frozenset({BEARINGS, ROTOR, TIMING, BOARD, REWOUND}),
        may_slip=True,
        test=BenchTest("heat", "temperature after the standard run", 120), resolution=0.1, natural_spread=3,
        sayings=("Runs {} hotter", "Runs {} cooler", "Runs as warm"), part="winding",
        between=BetweenMotors(more="runs {} hotter", less="runs {} cooler", uses={"economy": -0.5, "long life": -0.5},
                              over_volts=(1.3, 0.5)), on_tag=6,
    ),
    Quantity(
        name="heat_per_energy", set_up=SetUp.SUPPLY, title="heat of a kilojoule", symbol="K/kJ", unit="K/kJ",
        limits=Limits(30, 60), repeatability=10,
        made=(
            DerivationRule(of="temperature", run=("run_energy",), run_maybe=("temperature_before",),
            make=thermal.per_energy_of_reading),
        ),
        same=("rig", "throttle_pct", "timing_set_deg", "supply_v"),
        reset_by=frozenset({BEARINGS, ROTOR, TIMING, BOARD, REWOUND}),
        test=BenchTest("heat", "temperature and energy of the standard run", 120), relative=True, natural_spread=20,
        sayings=("Runs {} hotter a joule", "Runs {} cooler a joule", "Runs as warm a joule"), part="winding",
    ),
    Quantity(
        name="detent_peak", set_up=SetUp.LEVER, title="detent", symbol="D", unit="N·mm", limits=Limits(6, 12),
        repeatability=5,
        made=(DerivationRule(of="detent_peak", together=True, make=detent.median_of_run),),
        reset_by=frozenset({ROTOR, REWOUND}),
        may_slip=True,
        test=BenchTest("detent", _DETENT_WORDS, 90), relative=True, direction=-1, resolution=0.5,
        natural_spread=4, worst_means=Verdict.RETIRE, sayings=_named("Detent", "{} stronger", "{} weaker"),
        part="magnets",
        between=BetweenMotors(more="clicks {} stronger", less="clicks {} weaker",
                              uses={"smooth start": -0.5, "hold": 1.0}, good_enough=6.0), glance=6, on_tag=5,
    ),
    Quantity(
        name="detent_force", set_up=SetUp.LEVER, title="detent on a lever", symbol="F", unit="g", limits=Limits(6, 12),
        repeatability=5, made=(DerivationRule(of="detent_force", together=True, make=detent.median_of_run),),
        same=("rig", "lever"), reset_by=frozenset({ROTOR, REWOUND}),
        may_slip=True,
        test=BenchTest("detent", _DETENT_WORDS, 90), relative=True, direction=-1, resolution=0.5,
        natural_spread=4, worst_means=Verdict.RETIRE, sayings=_named("Detent on the lever", "{} stronger", "{} weaker"),
        part="magnets",
        between=BetweenMotors(more="holds the lever {} stronger", less="holds the lever {} weaker", good_enough=6.0),
    ),
    Quantity(
        name="detent_variation", set_up=SetUp.LEVER, title="detent variation", symbol="Dv", unit="%",
        limits=Limits(30, 60),
        repeatability=20, made=(DerivationRule(of="detent_peak", together=True, make=detent.variation_of_run),),
        reset_by=frozenset({ROTOR, REWOUND}),
        test=BenchTest("detent", _DETENT_WORDS, 90), relative=True, natural_spread=30,
        worst_means=Verdict.RETIRE, sayings=_named("Detent varies", "{} more", "{} less"),
        between=BetweenMotors(more="clicks {} less evenly", less="clicks {} more evenly"), glance=6,
    ),
    Quantity(
        name="run_out", set_up=SetUp.GAUGE, title="run-out", symbol="mm", unit="mm", limits=Limits(0.08, 0.15),
        repeatability=0.014,
        made=(DerivationRule(of="gap", beside=("gap_turned",), together=True, make=gap.of_run),), same=(),
        reset_by=frozenset({ROTOR, SHAFT, REWOUND}),
        test=BenchTest("gap", "gap at four clock positions", 90), absolute=True, resolution=0.005,
        natural_spread=0.02, typical=0.02, decimals=2, stands="Run-out {}",
        sayings=_named("Run-out"), part="gap",
        between=BetweenMotors(more="runs out {} more", less="runs out {} less"), on_tag=8,
    ),
    Quantity(
        name="vibration", set_up=SetUp.CLAMP, title="vibration", symbol="V", unit="points", limits=Limits(1, 2),
        repeatability=machine.HAND_S, made=(as_read("vibration"),), same=("throttle_pct", "placement"),
        reset_by=frozenset({BEARINGS, ROTOR, SHAFT, REWOUND}),
        against_machine=True, resolution=0.5, natural_spread=0.5,
        sayings=("Shakes {} more", "Shakes {} less", "Shakes no more"), part="shaft",
    ),
    Quantity(
        name="magnet_unevenness", set_up=SetUp.PROBE, title="magnet unevenness", symbol="Mu", unit="%",
        limits=Limits(50, 100),
        repeatability=10, made=(as_read("magnet_unevenness"),), reset_by=frozenset({ROTOR, REWOUND}),
        test=BenchTest("timing", "magnet unevenness by the instrument", 60, sensored_only=True), relative=True,
        natural_spread=30, worst_means=Verdict.RETIRE,
        sayings=_named("Magnet unevenness"),
    ),
    Quantity(
        name="sensor_level_spread", set_up=SetUp.SWEEP, title="sensor level spread", symbol="Sl", unit="%",
        limits=Limits(50, 100),
        repeatability=10, made=(as_read("sensor_level_spread"),), reset_by=frozenset({BOARD, REWOUND}),
        test=BenchTest("timing", "sensor levels by the instrument", 60, sensored_only=True), relative=True,
        natural_spread=30, sayings=_named("Sensor levels spread"),
    ),
    Quantity(
        name="resistance_imbalance", set_up=SetUp.OHMMETER, title="winding imbalance", symbol="Rw", unit="%",
        limits=Limits(2, 4),
        repeatability=0.3, made=(DerivationRule(of=resistance.PAIRS[0], run=resistance.PAIRS[1:],
        make=resistance.of_run),), same=(), reset_by=frozenset({REWOUND}),
        test=BenchTest("resistance", "winding resistance of the three pairs", 120), absolute=True,
        resolution=0.1, natural_spread=0.4, typical=0.5, stands="Winding pairs {} apart",
        sayings=_named("Winding imbalance"), part="winding",
        between=BetweenMotors(more="has phases {} less alike", less="has phases {} more alike"),
    ),
)  # fmt: skip
QUANTITIES: Mapping[str, Quantity] = MappingProxyType({q.name: q for q in _ENTRIES})

# Judged by what KV and detent say together, not measured itself.
MAGNET_STRENGTH = Quantity(
    name="magnet_strength", set_up=SetUp.LEVER, title="magnet strength", symbol="b", unit="%", made=(),
        limits=Limits(3, 6),
    repeatability=0.5, direction=-1, worst_means=Verdict.RETIRE, sayings=_named("Magnets", "{} stronger", "{} weaker"),
    reset_by=frozenset({ROTOR, REWOUND}), part="magnets",
)  # fmt: skip
BETWEEN: Mapping[str, BetweenMotors] = MappingProxyType({n: q.between for n, q in QUANTITIES.items() if q.between})
JUDGED: Mapping[str, Quantity] = MappingProxyType({**QUANTITIES, MAGNET_STRENGTH.name: MAGNET_STRENGTH})
