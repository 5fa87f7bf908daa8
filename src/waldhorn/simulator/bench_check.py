"""A check made on the simulated bench without waiting for it: the settings, the captures, the sweep, the heat.

The same instrument and the same rule of settling as in a live run, only that nobody waits for the clock.
"""

from collections.abc import Iterator
from dataclasses import replace
from datetime import datetime, timedelta

import numpy as np

from waldhorn.core.base.conditions import FULL_THROTTLE_PCT, Conditions
from waldhorn.core.base.history import Motor, Reading
from waldhorn.core.base.vocabulary import Placement
from waldhorn.core.measuring.losses import MOTOR_AMPS
from waldhorn.instruments import line_protocol
from waldhorn.instruments.capture import Captured, SettleDetector
from waldhorn.instruments.guards import Guards
from waldhorn.instruments.safety_envelope import SafetyEnvelope
from waldhorn.simulator.analyser import RATE_HZ, Instrument, Meter
from waldhorn.simulator.dynamics import Supply
from waldhorn.simulator.motor_model import STANDARD_RUN_S, MotorModel

BY_SETTINGS = tuple(pct for pct in line_protocol.USUAL_SETTINGS if pct < FULL_THROTTLE_PCT)
SETTINGS = (15.0, 50.0, FULL_THROTTLE_PCT)
RUNS = 2
_LONGEST_S = 9.0


def live_check(
    motor: MotorModel,
    facts: Motor,
    rig: str,
    method: str,
    at: datetime,
    ambient_c: float,
    seed: int,
    by_settings: bool = False,
) -> Iterator[Reading]:
    """The readings of a check on the simulated bench, two runs of everything that repeats; where it is spun up
    `by_settings`, those below full throttle once, with the motor's own amps."""
    run_to_run = Meter(volts=0.001, amps=0.004, rpm=0.0003)
    supply = Supply(motor.build.rated_v * 1.01)
    bench = Instrument(motor, seed, supply, facts.may_have_sensors, meter=run_to_run, ambient_c=ambient_c)
    bench.obey(line_protocol.write(cmd="poles", value=facts.poles or motor.build.poles))
    shared = Conditions(rig=rig, ambient_c=ambient_c)
    loudest: dict[float, float] = {}
    volts: float | None = None
    clock = at
    for run in range(1, RUNS + 1):
        clock += timedelta(minutes=2)
        setting_up = 1 + 0.004 * float(bench.rng.standard_normal())  # no clip sits twice alike
        for pct in SETTINGS:
            taken = hold(bench, pct)
            if taken is None:
                continue
            loudest.setdefault(pct, taken.sound_db or 0.0)
            if pct == FULL_THROTTLE_PCT:
                warm = round(taken.motor_c or ambient_c, 1)
                under = replace(shared, throttle_pct=pct, method=method, motor_c=warm)
                amps = taken.amps * (1 + 0.018 * float(bench.rng.standard_normal()))
                volts = round(taken.volts * setting_up, 2)
                for measure, value in (
                    ("supply_volts", volts),
                    ("no_load_current", round(amps, 2)),
                    ("rpm", round(taken.rpm, -1)),
                    ("rpm_p2p", round(taken.rpm_p2p, -1)),
                ):
                    yield Reading(measure, value, clock, run, under)
                if by_settings and run == 1:
                    yield from _part_throttle(motor, supply, run_to_run, replace(under, meter=MOTOR_AMPS), clock, seed)
        if facts.may_have_sensors and (sweep := swept(bench)):
            for phase, angle in zip("abc", (sweep.a, sweep.b, sweep.c), strict=True):
                yield Reading(f"timing_{phase}", angle, clock, run, shared)
    heard = replace(shared, placement=Placement.STAND.value, distance_cm=10.0, meter="pit meter", supply_v=volts)
    yield Reading("noise_background", round(56 + 3 * bench.rng.random(), 1), clock, conditions=heard)
    for pct, level in loudest.items():
        loud = level + 0.6 * float(bench.rng.standard_normal())
        yield Reading("noise_avg", round(loud, 1), clock, conditions=replace(heard, throttle_pct=pct))
    surface = ambient_c + motor.rise_k() * (1 + 0.04 * float(bench.rng.standard_normal()))
    yield Reading(
        "temperature",
        round(surface, 1),
        clock + timedelta(seconds=STANDARD_RUN_S),
        conditions=replace(shared, supply_v=volts),
    )


def _part_throttle(
    motor: MotorModel, supply: Supply, meter: Meter, under: Conditions, at: datetime, seed: int
) -> Iterator[Reading]:
    """The settings below full throttle, as they settle."""
    rng = np.random.default_rng([seed, 13])
    for pct in BY_SETTINGS:
        spun = motor.spin(pct / 100 * supply.rest_v, under.motor_c or 25.0)
        strays = 1 + rng.standard_normal(3) * (meter.volts, 2 * meter.amps, meter.rpm)
        for (measure, value, digits), stray in zip(
            (("supply_volts", spun.volts, 2), ("no_load_current", spun.amps, 2), ("rpm", spun.rpm, -1)),
            strays,
            strict=True,
        ):
            yield Reading(measure, round(value * float(stray), digits), at, 1, replace(under, throttle_pct=pct))


def hold(bench: Instrument, pct: float) -> Captured | None:
    """Hold a setting until it is captured; None when it must be stopped or does not spin."""
    detector, guards = SettleDetector(), Guards(SafetyEnvelope(max_a=1000))
    for tick in range(int(_LONGEST_S * RATE_HZ)):
        if tick % RATE_HZ == 0:
            bench.obey(line_protocol.write(cmd="throttle", pct=pct))
        for message in bench.messages():
            if not isinstance(message, line_protocol.Sample):
                continue
            found = detector.feed(message)
            guards.command(detector.pct, message.t)
            guards.heard(message, message.t)
            if found and found.pct == pct and not guards.tripped:
                return found
    return None


def swept(bench: Instrument) -> line_protocol.Sweep | None:
    """Let the instrument sweep the timing; None when it reports trouble."""
    bench.obey(line_protocol.write(cmd="sweep_timing"))
    for tick in range(int(_LONGEST_S * RATE_HZ)):
        if tick % RATE_HZ == 0:
            bench.silent_s = 0.0
        for message in bench.messages():
            if isinstance(message, line_protocol.Sweep):
                return message
            if isinstance(message, line_protocol.Trouble):
                return None
    return None
