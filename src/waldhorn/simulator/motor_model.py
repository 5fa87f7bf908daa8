"""The motor behind the simulated bench: a permanent-magnet motor in its steady state, with physical causes of faults.

A fault enters as what it is (weaker magnets, more bearing friction, an eccentric rotor, a loop of shorted turns,
a turned sensor board) and its signs follow; nothing here knows the table that judging uses.

References
----------
.. [1] Hendershot, Miller, Design of Brushless Permanent-Magnet Machines, 2010 (V = I R + k ω, T = k I, iron loss).
.. [2] Harris, Kotzalas, Rolling Bearing Analysis, 5th ed., 2007 (friction of the load, friction of the grease).
"""

import math
from dataclasses import dataclass, field

from waldhorn.core.measuring import cogging
from waldhorn.core.measuring.kv import FLUX_PER_K, REFERENCE_C
from waldhorn.core.measuring.thermal import copper_resistance

STANDARD_RUN_S = 60.0  # how long the standard run lasts, after which `heat_k` is reached
TIMING_CURRENT = 0.05  # growth of the no-load current a degree of advance
TIMING_SPEED = 0.005  # growth of the speed a degree of advance
DRY = 0.7  # of a bearing's friction at rated speed: what its load makes, at any speed [2]; the rest is grease
WORN_DRY = 0.9  # ... of what wear adds to it
HYSTERESIS = 0.4  # of the iron loss's torque at rated speed; the rest are eddy currents, which grow with the speed [1]
GAP_MM = 0.6
STATOR_OFF = 0.03  # how much stronger the field is on the near side of a stator as it is fitted
TURNS_LOST = 0.081  # of one phase, for a shorted loop that brakes as much as the iron does


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
    magnet_spread: float = 0.014  # how far the magnets differ as built: one grade holds its strength to about 1 %
    runout_mm: float = 0.012  # as built
    inertia_kgm2: float = 2.4e-6
    cooling_s: float = 420.0


@dataclass(frozen=True, slots=True)
class Condition:
    """What has become of it. All zero is as new; each is a physical cause, its signs follow."""

    magnet_loss: float = 0.0  # share of magnet strength lost by all magnets
    weak_magnet: float = 0.0  # share lost by one magnet only
    loose: float = 0.0  # a magnet that shifts under way: 1 is felt at once
    bearing_wear: float = 0.0  # added friction, as a share of the bearing friction as built
    roughness: float = 0.0  # 0 smooth, 1 rough enough to hear and to see in the speed
    eccentricity_mm: float = 0.0  # run-out added to that as built
    shorted_share: float = 0.0  # braking of the shorted loop, as a share of the iron loss
    board_turned_deg: float = 0.0
    board_noise_deg: float = 0.0  # how far one sensor's edge strays
    sensor_bias_deg: float = 0.0  # how far a dying sensor carries the mean along


@dataclass(frozen=True, slots=True)
class Spin:
    """A steady no-load spin: V, rpm, A, rpm peak to peak."""

    volts: float
    rpm: float
    amps: float
    rpm_p2p: float


@dataclass(frozen=True, slots=True)
class MotorModel:
    """A motor on the bench: its build and its condition."""

    build: Build
    condition: Condition = field(default_factory=Condition)

    def strength(self, motor_c: float) -> float:
        """Magnet strength, 1 as new at 25 °C."""
        lost = self.condition.magnet_loss + self.condition.weak_magnet / self.build.poles
        return (1 - lost) * (1 + FLUX_PER_K[self.build.magnet] * (motor_c - REFERENCE_C))

    def resistance(self, motor_c: float) -> float:
        """Winding resistance between two leads, Ω."""
        return copper_resistance(self.build.resistance_ohm, motor_c)

    def flux(self, motor_c: float) -> float:
        """Volts per rad/s and N·m per A: shorted turns link less of it."""
        linked = sum(self._turns()) / 3
        return 60 / (2 * math.pi * self.build.kv) * self.strength(motor_c) * linked

    def _turns(self) -> tuple[float, float, float]:
        """The share of each phase's turns that still link the magnets: the shorted ones of the first do not."""
        return 1 - TURNS_LOST * min(self.condition.shorted_share, 3.0), 1.0, 1.0

    def winding_pairs(self, motor_c: float = REFERENCE_C) -> tuple[float, float, float]:
        """Resistance between each two leads of a wye winding, Ω: shorted turns are missing from their phase."""
        a, b, c = (self.resistance(motor_c) / 2 * share for share in self._turns())
        return a + b, b + c, c + a

    def back_emf_pairs(self, rpm: float, motor_c: float = REFERENCE_C) -> tuple[float, float, float]:
        """Amplitude of the fundamental between each two leads of a wye winding turned at a speed, V."""
        turns = self._turns()
        whole = 60 / (2 * math.pi * self.build.kv) * self.strength(motor_c) * rpm * 2 * math.pi / 60
        pairs = ((turns[i], turns[(i + 1) % 3]) for i in range(3))
        a, b, c = (whole * math.sqrt((p * p + q * q + p * q) / 3) for p, q in pairs)  # phases 120° apart
        return a, b, c

    def advance_deg(self) -> float:
        """Electrical degrees by which the timing is off what the motor was built with."""
        return self.condition.board_turned_deg

    def back_emf(self, rpm: float, motor_c: float) -> float:
        """Voltage the turning motor makes, V."""
        return self.flux(motor_c) * rpm * 2 * math.pi / 60 / (1 + TIMING_SPEED * self.advance_deg())

    def drag_torque(self, rpm: float, motor_c: float) -> float:
        """Torque that friction and iron loss hold against it at a speed, N·m [1]_, [2]_."""
        build, condition = self.build, self.condition
        rated = (build.rated_v - build.no_load_a * build.resistance_ohm) * build.kv
        share = max(rpm, 0.0) / rated
        wear = condition.bearing_wear + 0.06 * condition.loose
        bearing = DRY + (1 - DRY) * share + wear * (WORN_DRY + (1 - WORN_DRY) * share)
        unbalance = 0.9 * condition.eccentricity_mm * share**2  # its force presses on the bearings
        iron = HYSTERESIS + (1 - HYSTERESIS + condition.shorted_share) * share
        drag = build.bearing_share * bearing + unbalance
        drag += (1 - build.bearing_share) * self.strength(motor_c) ** 2 * iron
        return 60 / (2 * math.pi * build.kv) * build.no_load_a * drag

    def drag_amps(self, rpm: float, motor_c: float) -> float:
        """Current that turns it against its friction and iron loss at a speed, A."""
        return self.drag_torque(rpm, motor_c) / self.flux(motor_c) * math.exp(TIMING_CURRENT * self.advance_deg())

    def spin(self, volts: float, motor_c: float = REFERENCE_C, magnet_c: float | None = None) -> Spin:
        """The steady speed and current at a voltage, where V = I·R + k·ω and k·I = T_drag(ω) [1]_; the magnets are as
        warm as the motor where nothing else is said."""
        rpm, amps = 0.0, self.build.no_load_a
        resistance = self.resistance(motor_c)
        magnet_c = motor_c if magnet_c is None else magnet_c
        per_volt = 1 / self.back_emf(1.0, magnet_c)
        for _ in range(60):
            before = amps
            rpm = max(0.0, volts - amps * resistance) * per_volt
            amps = self.drag_amps(rpm, magnet_c)
            if abs(amps - before) < 1e-9:
                break
        return Spin(volts, rpm, amps, rpm * self.unrest())

    def driving(self, rest_v: float, inner_ohm: float, k: float, motor_c: float = REFERENCE_C) -> Spin:
        """The steady speed and current with a propeller of power k·n³ on its shaft, on a supply that sags [1]_."""
        ohm, flux = self.resistance(motor_c) + inner_ohm, self.flux(motor_c)

        def amps_at(rpm: float) -> float:
            return (rest_v - self.back_emf(rpm, motor_c)) / ohm

        def spare(rpm: float) -> float:
            return flux * (amps_at(rpm) - self.drag_amps(rpm, motor_c)) - k * rpm**2 * 60 / (2 * math.pi)

        from scipy.optimize import brentq

        rpm = float(brentq(spare, 1.0, rest_v / self.back_emf(1.0, motor_c)))
        return Spin(rest_v - inner_ohm * amps_at(rpm), rpm, amps_at(rpm), rpm * self.unrest())

    def unrest(self) -> float:
        """How far the speed wanders, peak to peak, as a share of the speed."""
        c = self.condition
        found = 0.0018 + 0.012 * c.roughness + 0.052 * c.eccentricity_mm + 0.014 * c.loose
        return found + 0.0025 * c.board_noise_deg + 0.004 * min(1.5, c.shorted_share)

    def timing(self, phase_noise: tuple[float, float, float] = (0.0, 0.0, 0.0)) -> tuple[float, float, float]:
        """Timing of the three phases, electrical degrees."""
        condition = self.condition
        pull = (1.0, -0.5, -0.5)
        stray = condition.board_noise_deg / 1.5 + 1.9 * condition.loose + 0.45 * min(1.5, condition.shorted_share)
        moved = condition.board_turned_deg + condition.sensor_bias_deg
        a, b, c = (
            self.build.timing_deg + moved + offset + pull[i] * stray + phase_noise[i]
            for i, offset in enumerate(self.build.phase_offsets_deg)
        )
        return a, b, c

    def sound_db(self, share_of_full: float) -> float:
        """Sound level at 10 cm on the stand, dB, at a share of full speed: the powers of its sources add up."""
        c = self.condition
        magnetic = 1 + 0.17 * min(1.5, c.shorted_share) + 0.09 * c.board_noise_deg + 0.03 * abs(c.board_turned_deg)
        unbalance = 14 * c.eccentricity_mm + 1.5 * c.loose
        total = magnetic + 3.0 * c.roughness + unbalance
        return self.build.noise_db + 10 * math.log10(total) + 28 * math.log10(max(share_of_full, 0.02))

    def shake_points(self) -> float:
        """What a hand on the mount feels, 0 none to 5 violent."""
        c = self.condition
        return min(5.0, 0.6 + 13 * c.eccentricity_mm + 2.0 * c.loose + 1.0 * c.roughness)

    def heat_w(self, volts: float, amps: float) -> float:
        """Power that warms it while it spins without load, W."""
        return volts * amps

    def rise_k(self) -> float:
        """Surface rise after the standard run, K: its losses against those as built."""
        spin, fresh = self.spin(self.build.rated_v), MotorModel(self.build).spin(self.build.rated_v)
        local = 1 + 0.08 * min(1.5, self.condition.shorted_share)  # a shorted turn heats where one measures
        return self.build.heat_k * local * self.heat_w(spin.volts, spin.amps) / self.heat_w(fresh.volts, fresh.amps)

    def detent_peaks(self, motor_c: float = REFERENCE_C) -> list[float]:
        """Peak torque at each natural position of one turn, N·mm."""
        build, condition = self.build, self.condition
        whole = (1 - condition.magnet_loss) * (1 + FLUX_PER_K[build.magnet] * (motor_c - REFERENCE_C))
        magnets = [1 + build.magnet_spread * math.cos(2.4 * face + 0.7) for face in range(build.poles)]
        magnets[0] *= 1 - condition.weak_magnet
        rotor_off = (build.runout_mm + condition.eccentricity_mm) / GAP_MM  # B² grows by twice what the gap shrinks
        return [build.detent_nmm * whole**2 * p for p in cogging.pattern(build.slots, magnets, rotor_off, STATOR_OFF)]

    def gap_mm(self, clock_deg: float) -> float:
        """Air gap at a clock angle, mm."""
        out = self.build.runout_mm + self.condition.eccentricity_mm
        return GAP_MM + out / 2 * math.cos(math.radians(clock_deg - 40))

    def hall(self, turn: float) -> str:
        """The three lamps at a rotor angle given in turns, each sensor offset as its phase is."""
        lamps = ""
        for place, offset in enumerate(self.build.phase_offsets_deg):
            electrical = (turn * self.build.poles / 2 * 360 - 120 * place + offset) % 360
            lamps += "1" if electrical < 180 else "0"
        return lamps
