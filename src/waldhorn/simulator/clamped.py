"""Which motor is clamped in the simulated bench: the one of the demo with that tag as its season left it, or one made
from the facts of a motor and a seed."""

from dataclasses import replace

import numpy as np

from waldhorn.core.base.history import Motor as Facts
from waldhorn.core.motors.winding import can_be_wound
from waldhorn.simulator.analyser import Instrument
from waldhorn.simulator.dynamics import Supply
from waldhorn.simulator.fault_injection import broken
from waldhorn.simulator.motor_model import Build, Condition, MotorModel
from waldhorn.simulator.season import MODELS, as_it_is


def instrument_for(facts: Facts, seed: int, fault: str = "", severity: float = 1.0) -> Instrument:
    """The simulated bench with a motor clamped: of the demo by its tag, else built from its facts.

    Raises InputError for a fault that is not known.
    """
    known = as_it_is(facts.tag)
    motor = known or MotorModel(_built_from(facts), Condition())
    if fault:
        motor = MotorModel(motor.build, broken(fault, severity))
    supply = Supply(motor.build.rated_v * 1.01)
    return Instrument(
        motor, seed, supply, sensored=facts.may_have_sensors, name=f"simulated bench, {facts.tag or 'a motor'}"
    )


def _built_from(facts: Facts) -> Build:
    poles = facts.poles or (4 if facts.kind == "inrunner" else 14)
    slots = facts.slots if facts.slots and can_be_wound(facts.slots, poles) else 12
    kv = facts.label_kv or (3400.0 if facts.kind == "inrunner" else 900.0)
    volts = 7.4 if kv > 1200 else 11.1
    return Build(
        kv,
        0.016 * 3400 / kv,
        volts,
        2.2 * (kv / 3400) ** 0.5,
        poles,
        slots,
        facts.magnet,
        timing_deg=24.0 if facts.may_have_sensors else 0.0,
    )


def simulated(seed: int, fault: str = "none", severity: float = 1.0, current: str = "motor") -> Instrument:
    """A bench with a motor made from a seed: the same seed gives the same motor and the same noise.

    Raises InputError for a fault that is not known.
    """
    rng = np.random.default_rng([seed, 1])
    names = sorted(MODELS)
    facts, build, _ = MODELS[names[int(rng.integers(len(names)))]]
    own = replace(
        build,
        kv=build.kv * (1 + 0.008 * rng.standard_normal()),
        no_load_a=build.no_load_a * (1 + 0.04 * rng.standard_normal()),
    )
    motor = MotorModel(own, broken(fault, severity))
    name = f"simulated bench, {facts.model} of seed {seed}"
    return Instrument(
        motor, seed, Supply(own.rated_v * 1.01), sensored=facts.may_have_sensors, name=name, current=current
    )
