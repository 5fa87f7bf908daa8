"""Fault injection: each fault as its physical causes, sized so that severity 1 is at its act limit.

The sizes come from bench practice; the signs on the bench follow from the motor model. `scatter` strays every cause
of a fault apart, as no two bearings wear alike.
"""

from collections.abc import Mapping
from dataclasses import fields

import numpy as np

from waldhorn.core.base.errors import InputError
from waldhorn.simulator.motor_model import Condition

CAUSES: Mapping[str, Mapping[str, float]] = {
    "demagnetised_rotor": {"magnet_loss": 0.0585},
    "cracked_magnet": {"weak_magnet": 0.085, "loose": 1.0},
    "worn_bearing": {"bearing_wear": 0.72, "roughness": 1.0},
    "bent_shaft": {"eccentricity_mm": 0.145},
    "shorted_turn": {"shorted_share": 1.45},
    "timing_moved": {"board_turned_deg": 4.1},
    "failing_sensor": {"board_noise_deg": 4.2, "sensor_bias_deg": 2.0},
}
_EITHER_WAY = ("board_turned_deg", "sensor_bias_deg")
_NAMES = tuple(f.name for f in fields(Condition))
SCATTER = 0.4


def broken(fault: str, severity: float = 1.0, rng: np.random.Generator | None = None) -> Condition:
    """A motor's condition with one fault.

    Parameters
    ----------
    fault : a key of CAUSES, or none
    severity : float, 1 is at the act limit
    rng : given, every cause but the first strays by a uniform ±40 %, and what may turn either way does

    Returns
    -------
    Condition

    Raises
    ------
    InputError : a fault that is not known

    >>> broken("worn_bearing", 0.5).roughness
    0.5
    """
    if fault == "none":
        return Condition()
    if fault not in CAUSES:
        raise InputError("fault", f"“{fault}” is no fault: none, {', '.join(CAUSES)}")
    way = 1.0 if rng is None else float(rng.choice((-1.0, 1.0)))
    values = {}
    for place, (name, size) in enumerate(CAUSES[fault].items()):
        stray = 1.0 if rng is None or place == 0 else 1 + SCATTER * float(rng.uniform(-1, 1))
        values[name] = size * severity * stray * (way if name in _EITHER_WAY else 1.0)
    return Condition(**values)


def together(*conditions: Condition) -> Condition:
    """Several causes at once: they add up."""
    return Condition(*(sum(getattr(c, n) for c in conditions) for n in _NAMES))


def grown(condition: Condition, share: float) -> Condition:
    """The same causes, grown only so far."""
    return Condition(*(share * getattr(condition, n) for n in _NAMES))
