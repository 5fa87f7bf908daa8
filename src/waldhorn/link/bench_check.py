"""A check made on the simulated bench without waiting for it: the steps, the captures, the sweep, the heat.

The same instrument and the same rule of settling as in a live run, only that nobody waits for the clock.
"""

from collections.abc import Iterator
from datetime import datetime, timedelta
from typing import Any

from waldhorn.core.history import FULL_STEP, Motor
from waldhorn.link import lines
from waldhorn.link.capture import Captured, Watch
from waldhorn.link.instrument import RATE_HZ, Instrument, Meter
from waldhorn.link.motor_model import STANDARD_RUN_S
from waldhorn.link.motor_model import Motor as BenchMotor
from waldhorn.link.spinning import Supply
from waldhorn.store.readings import NewReading

STEPS = (1, 4, FULL_STEP)
RUNS = 2
_LONGEST_S = 9.0


def live_check(
    motor: BenchMotor, facts: Motor, rig: str, method: str, at: datetime, ambient_c: float, seed: int
) -> Iterator[NewReading]:
    """The readings of a check on the simulated bench, two runs of everything that repeats."""
    run_to_run = Meter(volts=0.001, amps=0.004, rpm=0.0003)
    supply = Supply(motor.build.rated_v * 1.01)
    bench = Instrument(motor, seed, supply, facts.sensored, meter=run_to_run, ambient_c=ambient_c)
    bench.obey(lines.write(cmd="poles", value=facts.poles or motor.build.poles))
    shared: dict[str, Any] = {"rig": rig, "ambient_c": ambient_c}
    loudest: dict[int, float] = {}
    clock = at
    for run in range(1, RUNS + 1):
        clock += timedelta(minutes=2)
        setting_up = 1 + 0.004 * float(bench.rng.standard_normal())  # no clip sits twice alike
        for step in STEPS:
            taken = hold(bench, step)
            if taken is None:
                continue
            loudest.setdefault(step, taken.sound_db or 0.0)
            if step == FULL_STEP:
                under: dict[str, Any] = {
                    "step": step,
                    "method": method,
                    "motor_c": round(taken.motor_c or ambient_c, 1),
                }
                amps = taken.amps * (1 + 0.018 * float(bench.rng.standard_normal()))
                yield NewReading(clock, "supply_volts", round(taken.volts * setting_up, 2), run, **under, **shared)
                yield NewReading(clock, "no_load_current", round(amps, 2), run, **under, **shared)
                yield NewReading(clock, "rpm", round(taken.rpm, -1), run, **under, **shared)
                yield NewReading(clock, "rpm_p2p", round(taken.rpm_p2p, -1), run, **under, **shared)
        if facts.sensored and (sweep := swept(bench)):
            for phase, angle in zip("abc", (sweep.a, sweep.b, sweep.c), strict=True):
                yield NewReading(clock, f"timing_{phase}", angle, run, **shared)
    yield NewReading(clock, "noise_background", round(56 + 3 * bench.rng.random(), 1), placement="stand", **shared)
    for step, level in loudest.items():
        heard = level + 0.6 * float(bench.rng.standard_normal())
        yield NewReading(clock, "noise_avg", round(heard, 1), step=step, placement="stand", **shared)
    surface = ambient_c + motor.rise_k() * (1 + 0.04 * float(bench.rng.standard_normal()))
    yield NewReading(clock + timedelta(seconds=STANDARD_RUN_S), "temperature", round(surface, 1), **shared)


def hold(bench: Instrument, step: int) -> Captured | None:
    """Hold a step until it is captured; None when it must be stopped or does not spin."""
    watch = Watch(max_a=1000)
    for tick in range(int(_LONGEST_S * RATE_HZ)):
        if tick % RATE_HZ == 0:
            bench.obey(lines.write(cmd="throttle", step=step))
        for line in bench.tick():
            message = lines.read(line)
            found = watch.feed(message) if isinstance(message, lines.Sample) else None
            if isinstance(found, Captured):
                return found
    return None


def swept(bench: Instrument) -> lines.Sweep | None:
    """Let the instrument sweep the timing; None when it reports trouble."""
    bench.obey(lines.write(cmd="sweep_timing"))
    for tick in range(int(_LONGEST_S * RATE_HZ)):
        if tick % RATE_HZ == 0:
            bench.silent_s = 0.0
        for line in bench.tick():
            message = lines.read(line)
            if isinstance(message, lines.Sweep):
                return message
            if isinstance(message, lines.Trouble):
                return None
    return None
