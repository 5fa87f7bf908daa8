"""Dynamics of a motor: speed, current, temperature and lamps over time, from the motor model and a supply that sags.

Exact for a constant voltage between two ticks: the speed settles with the electromechanical time constant, the
temperature with the cooling one. Not the instrument's line (see `instrument`).

References
----------
.. [1] Hendershot, Miller, Design of Brushless Permanent-Magnet Machines, 2010 (τ_m = J·R/k², V = I·R + k·ω).
"""

import math
from dataclasses import dataclass

import numpy as np

from waldhorn.simulator.motor_model import STANDARD_RUN_S, MotorModel, Spin

MAGNET_LAG_S = 90.0  # how long the magnets take to become as warm as the case
COAST_STEP_S = 0.002
DRIVE_OHM = 0.02  # what the drive and the leads add to the winding while it speeds up
_WANDER_HZ = 3.1  # how fast a held speed wanders to and fro


@dataclass(frozen=True, slots=True)
class Supply:
    """A pack or a bench supply: rest voltage in V, inner resistance in Ω, largest current in A."""

    rest_v: float
    inner_ohm: float = 0.004
    most_a: float = 60.0

    def under(self, amps: float) -> float:
        """Voltage under a load, V."""
        return max(0.0, self.rest_v - self.inner_ohm * amps)


@dataclass(frozen=True, slots=True)
class Tick:
    """What is true at a moment, without any noise of measuring: s, V, A, rpm, turns, °C, dB."""

    t: float
    pct: float
    volts: float
    amps: float
    rpm: float
    turn: float
    motor_c: float
    sound_db: float


class Dynamics:
    """A motor clamped on a bench; `advance` lets time pass."""

    def __init__(self, motor: MotorModel, supply: Supply, rng: np.random.Generator, ambient_c: float = 22.0) -> None:
        self.motor, self.supply, self.ambient_c = motor, supply, ambient_c
        self.rng = rng
        self.pct = 0.0
        self.t = 0.0
        self.rpm = 0.0
        self.amps = 0.0
        self.turn = 0.0
        self.motor_c = self.magnet_c = ambient_c
        self.released = False
        self.phase = float(rng.uniform(0, 2 * math.pi))
        build = motor.build
        fresh = MotorModel(build).spin(build.rated_v)
        self._k_per_w = build.heat_k / (fresh.volts * fresh.amps) / (1 - math.exp(-STANDARD_RUN_S / build.cooling_s))
        self._full_rpm = fresh.rpm
        self._goal_at, self._goal_is = (-1.0, -1.0, -1.0), fresh

    def time_constant_s(self) -> float:
        """Electromechanical time constant, s: τ = J·R/k²."""
        flux = self.motor.flux(self.magnet_c)
        return self.motor.build.inertia_kgm2 * (self.motor.resistance(self.motor_c) + DRIVE_OHM) / flux**2

    def advance(self, seconds: float) -> Tick:
        """Let time pass at the present throttle, or with the phases open."""
        self.released = self.released and self.pct == 0
        if self.released:
            return self._coast(seconds)
        duty = self.pct / 100
        volts = duty * self.supply.under(self.amps)
        goal = self._goal(volts)
        share = 1 - math.exp(-seconds / max(self.time_constant_s(), 1e-4))
        self.rpm += (goal.rpm - self.rpm) * share
        self.turn = (self.turn + self.rpm / 60 * seconds) % 1.0
        speeding = (volts - self.motor.back_emf(self.rpm, self.magnet_c)) / (
            self.motor.resistance(self.motor_c) + DRIVE_OHM
        )
        settled = abs(goal.rpm - self.rpm) < 0.002 * max(goal.rpm, 1.0)
        drawn = goal.amps if settled else max(speeding, 0.0)
        self.amps = min(drawn, self.supply.most_a) if self.pct else 0.0
        self._warm(volts * self.amps, seconds)
        return self._tick(volts, seconds)

    def release(self) -> None:
        """Let go: the phases are open, and nothing but friction and iron loss stops it."""
        self.pct, self.released = 0.0, True

    def _coast(self, seconds: float) -> Tick:
        """J·dω/dt = −T_drag(ω), in steps so short that the torque hardly changes within one."""
        self.amps = 0.0
        for _ in range(max(1, round(seconds / COAST_STEP_S))):
            slower = self.motor.drag_torque(self.rpm, self.magnet_c) / self.motor.build.inertia_kgm2
            self.rpm = max(0.0, self.rpm - slower * COAST_STEP_S * 60 / (2 * math.pi))
        self.turn = (self.turn + self.rpm / 60 * seconds) % 1.0
        self._warm(0.0, seconds)
        return self._tick(0.0, seconds)

    def _tick(self, volts: float, seconds: float) -> Tick:
        self.t += seconds
        self.phase += 2 * math.pi * _WANDER_HZ * seconds * float(self.rng.uniform(0.6, 1.4))
        wander = 0.5 * self.motor.unrest() * math.sin(self.phase)
        share_of_full = self.rpm / self._full_rpm
        sound = self.motor.sound_db(share_of_full) if self.rpm > 60 else 0.0
        rpm = self.rpm * (1 + wander) if self.pct else self.rpm
        return Tick(self.t, self.pct, volts, self.amps, max(rpm, 0.0), self.turn, self.motor_c, sound)

    def _goal(self, volts: float) -> Spin:
        """The steady spin at a voltage; worked out again only when voltage or temperature has moved."""
        place = (round(volts, 3), round(self.motor_c, 1), round(self.magnet_c, 1))
        if place != self._goal_at:
            self._goal_at, self._goal_is = place, self.motor.spin(*place)
        return self._goal_is

    def _warm(self, watts: float, seconds: float) -> None:
        local = 1 + 0.08 * min(1.5, self.motor.condition.shorted_share)
        goal = self.ambient_c + self._k_per_w * watts * local
        self.motor_c += (goal - self.motor_c) * (1 - math.exp(-seconds / self.motor.build.cooling_s))
        self.magnet_c += (self.motor_c - self.magnet_c) * (1 - math.exp(-seconds / MAGNET_LAG_S))
