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
from waldhorn.core.measuring import (
    current,
    detent,
    gap,
    hall,
    kv,
    losses,
    machine,
    magnets,
    noise,
    resistance,
    speed_ripple,
    thermal,
    timing,
)
from waldhorn.core.measuring.quantity import BetweenMotors, Quantity


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


_ENTRIES = (
    kv.KV,
    current.NO_LOAD_CURRENT,
    losses.FRICTION,
    losses.SPEED_LOSS,
    speed_ripple.SPEED_RIPPLE,
    timing.TIMING_MEAN,
    timing.TIMING_SPREAD,
    noise.NOISE,
    thermal.TEMPERATURE,
    thermal.HEAT_PER_ENERGY,
    detent.DETENT_PEAK,
    detent.DETENT_FORCE,
    detent.DETENT_VARIATION,
    gap.RUN_OUT,
    machine.VIBRATION,
    magnets.MAGNET_UNEVENNESS,
    hall.SENSOR_LEVEL_SPREAD,
    resistance.RESISTANCE_IMBALANCE,
)
QUANTITIES: Mapping[str, Quantity] = MappingProxyType({q.name: q for q in _ENTRIES})

BETWEEN: Mapping[str, BetweenMotors] = MappingProxyType({n: q.between for n, q in QUANTITIES.items() if q.between})
JUDGED: Mapping[str, Quantity] = MappingProxyType({**QUANTITIES, magnets.MAGNET_STRENGTH.name: magnets.MAGNET_STRENGTH})
