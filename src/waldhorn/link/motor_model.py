"""The motor behind the simulated bench: a permanent-magnet motor in its steady state, with physical causes of faults.

A fault enters as what it is (weaker magnets, more bearing friction, an eccentric rotor, a loop of shorted turns,
a turned sensor board) and its signs follow; nothing here knows the table that judging uses.

References
----------
.. [1] Hendershot, Miller, Design of Brushless Permanent-Magnet Machines, 2010 (V = I R + k ω, T = k I, iron loss).
"""

import math
from dataclasses import dataclass, field

from waldhorn.core.kv import FLUX_PER_K, REFERENCE_C
from waldhorn.core.winding import detent_positions

COPPER_PER_K = 0.00393  # 1/K
_AMBIENT_REFERENCE_C = 23.0


@dataclass(frozen=True, slots=True)
class Build:
    """A motor as built. KV in rpm/V at 25 °C, resistance in Ω, losses as the share of I0 at `rated_v`."""

    kv: float
    resistance_ohm: float
    rated_v: float
    no_load_a: float
    poles: int
    slots: int
    magnet: str = "neodymium"
    timing_deg: float = 0.0
    detent_nmm: float = 15.0
    noise_db: float = 80.0
    heat_k: float = 22.0
    bearing_share: float = 0.45
    phase_offsets_deg: tuple[float, float, float] = (0.3, -0.4, 0.1)


@dataclass(frozen=True, slots=True)
class Condition:
    """What has become of it. All zero is as new."""

    magnet_loss: float = 0.0  # share of magnet strength lost
    weak_magnet: float = 0.0  # share lost by one magnet only
    bearing_wear: float = 0.0  # added friction, as a share of the bearing friction as built
    roughness: float = 0.0  # 0 smooth, 1 rough enough to hear and to see in the speed
    eccentricity_mm: float = 0.0
    shorted_share: float = 0.0  # braking of the shorted loop, as a share of the iron loss
    board_turned_deg: float = 0.0
    board_noise_deg: float = 0.0


@dataclass(frozen=True, slots=True)
class Spin:
    """A steady no-load spin."""

    volts: float
    rpm: float
    amps: float
    rpm_p2p: float


@dataclass(frozen=True, slots=True)
class Motor:
    """A motor on the bench: its build and its condition."""

    build: Build
    condition: Condition = field(default_factory=Condition)

    def strength(self, motor_c: float) -> float:
        """Magnet strength, 1 as new at 25 °C."""
        lost = self.condition.magnet_loss + self.condition.weak_magnet / self.build.poles
        return (1 - lost) * (1 + FLUX_PER_K[self.build.magnet] * (motor_c - REFERENCE_C))

    def spin(self, volts: float, motor_c: float = REFERENCE_C) -> Spin:
        """The steady speed and current at a voltage, by fixed-point iteration of V = I R + k ω, T = k I."""
        build, condition = self.build, self.condition
        flux = 60 / (2 * math.pi * build.kv)  # V·s/rad and N·m/A at full strength
        strength = self.strength(motor_c)
        advance = condition.board_turned_deg
        resistance = build.resistance_ohm * (1 + COPPER_PER_K * (motor_c - REFERENCE_C))
        rated_speed = (build.rated_v - build.no_load_a * build.resistance_ohm) / flux
        rated_torque = flux * build.no_load_a
        amps = build.no_load_a
        for _ in range(40):
            speed = (volts - amps * resistance) / (flux * strength) * (1 + 0.005 * advance)
            share = speed / rated_speed
            bearing = build.bearing_share * (1 + condition.bearing_wear) * (0.5 + 0.5 * share)
            bearing += 0.5 * condition.eccentricity_mm * share
            iron = (1 - build.bearing_share) * strength**2 * (0.4 + 0.6 * share) * (1 + condition.shorted_share)
            amps = rated_torque * (bearing + iron) / (flux * strength) * math.exp(0.05 * advance)
        rpm = speed * 60 / (2 * math.pi)
        unrest = 0.0018 + 0.012 * condition.roughness + 0.05 * condition.eccentricity_mm + 0.02 * condition.weak_magnet
        unrest += 0.0025 * condition.board_noise_deg + 0.006 * min(1.0, condition.shorted_share)
        return Spin(volts, rpm, amps, rpm * unrest)

    def timing(self, phase_noise: tuple[float, float, float] = (0.0, 0.0, 0.0)) -> tuple[float, float, float]:
        """Timing of the three phases, electrical degrees."""
        pull = (1.0, -0.5, -0.5)
        stray = self.condition.board_noise_deg / 1.5 + 2 * self.condition.weak_magnet
        a, b, c = (
            self.build.timing_deg + self.condition.board_turned_deg + offset + pull[i] * stray + phase_noise[i]
            for i, offset in enumerate(self.build.phase_offsets_deg)
        )
        return a, b, c

    def sound_db(self, share_of_full: float) -> float:
        """Sound level at 10 cm on the stand, dB, at a share of full speed: the powers of its sources add up."""
        condition = self.condition
        magnetic = 10 ** (self.build.noise_db / 10)
        bearings = 3.2 * magnetic * condition.roughness
        unbalance = 15 * magnetic * condition.eccentricity_mm + 1.5 * magnetic * condition.weak_magnet
        return 10 * math.log10(magnetic + bearings + unbalance) + 28 * math.log10(max(share_of_full, 0.02))

    def rise_k(self) -> float:
        """Surface rise after the standard run, K: the losses against those as built."""
        spin, fresh = self.spin(self.build.rated_v), Motor(self.build).spin(self.build.rated_v)
        return self.build.heat_k * (spin.amps * spin.volts) / (fresh.amps * fresh.volts)

    def detent_peaks(self, motor_c: float = REFERENCE_C) -> list[float]:
        """Peak torque at each natural position of one turn, N·mm."""
        count = detent_positions(self.build.slots, self.build.poles)
        peak = self.build.detent_nmm * self.strength(motor_c) ** 2
        peaks = []
        for k in range(count):
            turn = k / count
            lean = 1 + 1.6 * self.condition.eccentricity_mm * math.cos(2 * math.pi * turn)
            weak = self.condition.weak_magnet if int(turn * self.build.poles) == 0 else 0.0
            peaks.append(peak * lean * (1 - weak))
        return peaks

    def gap_mm(self, clock_deg: float) -> float:
        """Air gap at a clock angle, mm."""
        return 0.6 + self.condition.eccentricity_mm / 2 * math.cos(math.radians(clock_deg - 40))
