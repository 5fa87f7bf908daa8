"""Constants of a motor of which too little was read to fit them: from its pulls, its siblings, its label and its size.

As wide as these leave it, which is far: one row under load tells more than all of them. Not for judging.

References
----------
.. [1] Hendershot, Miller, Design of Brushless Permanent-Magnet Machines, 2010: k_t²/R goes with the mass to the 5/3 in
   motors of one shape, the torque of the losses about with the mass.
.. [2] Bench practice: what motors of a kind have of these, and how far they lie apart.
.. [3] A maker's label is the nominal of a series, one standard deviation of a motor about it 5 %.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median, stdev

import numpy as np

from waldhorn.core.base.history import Motor
from waldhorn.core.motors.leads import comparable_mass
from waldhorn.core.predicting import constants as core
from waldhorn.core.predicting.constants import Constants, Floats, NoLoadCurrent, Row

# One standard uncertainty, of the logarithm, of what each is taken from.
U_PULLED, U_SIBLING_KV, U_LABEL = 0.01, 0.02, 0.05
U_SIBLING_OHM, U_ALIKE_OHM, U_KIND_OHM = 0.10, 0.4, 0.7
U_PULLED_IDLE, U_SIBLING_IDLE, U_KIND_IDLE = 0.10, 0.15, 0.6
LABELS_ALIKE = 0.1
# By kind: k_t²/R over mass to the 5/3, N²·m²/(Ω·kg^5/3), and torque of the losses over mass, N·m/kg [2].
USUAL = {"outrunner": (0.10, 0.10), "inrunner": (0.02, 0.035), "": (0.045, 0.06)}
G_PER_CM3 = 4.5  # of a motor by its outer size: iron, copper and air [2]
USUAL_CELLS, CELL_V = 3, 3.7
Known = Sequence[tuple[Motor, Constants]]


@dataclass(frozen=True)
class Guess:
    """Constants that were not measured, one standard uncertainty of the logarithm of each, and what they rest on."""

    constants: Constants
    u_resistance: float
    u_kv: float
    u_idle: float
    rests_on: Sequence[str]

    def shaken(self, rng: np.random.Generator, count: int) -> tuple[Floats, Floats, Floats, Floats, Floats, Floats]:
        """As `Measured.shaken`, without rows."""
        ohm, kv, idle = (np.exp(u * rng.standard_normal(count)) for u in (self.u_resistance, self.u_kv, self.u_idle))
        none = np.empty((count, 0))
        return self.constants.resistance_ohm * ohm, 1 / (self.constants.kv * kv), idle, none, none, none


def guess(motor: Motor, pulls: Sequence[Row], known: Known) -> Guess | None:
    """Constants of a motor as far as anything tells of them.

    Parameters
    ----------
    motor : Motor
    pulls : sequence of Row
        Its own without load, at full throttle; may be none.
    known : sequence of (Motor, Constants)
        Other motors whose constants were measured.

    Returns
    -------
    Guess or None
        None where neither label nor pull nor sibling tells its KV, or nothing tells its size.

    Notes
    -----
    Formula: Kv of its pulls, else its siblings, else its label; R = k_t²/(c·m^5/3), c of its siblings, else of motors
    of its kind, else as is usual; I0 of its pulls, else its siblings, else k_t·I0 = d·m

    Source: [1]_, [2]_, [3]_.

    Examples
    --------
    >>> found = guess(Motor("A", kind="outrunner", label_kv=920, mass_g=56), [], [])
    >>> round(found.constants.resistance_ohm, 2), round(found.constants.kv), list(found.rests_on)
    (0.13, 920, ['its label', 'its size'])
    """
    siblings = [(m, c) for m, c in known if _are_siblings(motor, m)]
    turned = _kv(motor, pulls, siblings)
    if turned is None:
        return None
    kv, u_kv, speed_from = turned
    of_winding = _resistance(motor, kv, siblings, known)
    if of_winding is None:
        return None
    ohm, u_ohm, winding_from = of_winding
    idle, u_idle, idle_from = _no_load(motor, kv, pulls, siblings)
    if pulls:
        kv = median([r.rpm / (r.volts - r.amps * ohm) for r in pulls])
    constants = Constants(ohm, kv, idle.amps, u_ohm * ohm, u_kv * kv, no_load=idle)
    return Guess(constants, u_ohm, u_kv, u_idle, tuple(dict.fromkeys((speed_from, winding_from, idle_from))))


def _are_siblings(motor: Motor, other: Motor) -> bool:
    """Whether two are of one model and one winding, as far as their labels say."""
    if not motor.model or motor.model.strip().casefold() != other.model.strip().casefold():
        return False
    labels = motor.label_kv, other.label_kv
    return not all(labels) or abs(math.log((labels[0] or 1) / (labels[1] or 1))) < LABELS_ALIKE


def _apart(values: Sequence[float], least: float) -> float:
    """How far values lie apart, of their logarithms, no less than is usual."""
    return max(least, stdev([math.log(v) for v in values])) if len(values) > 2 else least


def _kv(motor: Motor, pulls: Sequence[Row], siblings: Known) -> tuple[float, float, str] | None:
    if pulls:
        return median([r.rpm / r.volts for r in pulls]), U_PULLED, "its pulls"
    if siblings:
        read = [c.kv for _, c in siblings]
        return median(read), _apart(read, U_SIBLING_KV), _siblings(siblings)
    return (motor.label_kv, U_LABEL, "its label") if motor.label_kv else None


def _siblings(siblings: Known) -> str:
    tags = [m.tag for m, _ in siblings]
    return f"its siblings {', '.join(tags[:3])}{' and others' if len(tags) > 3 else ''}"


def _resistance(motor: Motor, kv: float, siblings: Known, known: Known) -> tuple[float, float, str] | None:
    if siblings:
        read = [core.wound_for(c, kv).resistance_ohm for _, c in siblings]
        return median(read), _apart(read, U_SIBLING_OHM), _siblings(siblings)
    mass = mass_of(motor)
    if mass is None:
        return None
    alike = [c.torque_constant**2 / c.resistance_ohm / kg ** (5 / 3) for m, c, kg in _of_kind(motor, known)]
    shape, u = (median(alike), _apart(alike, U_ALIKE_OHM)) if len(alike) > 1 else (USUAL[motor.kind][0], U_KIND_OHM)
    return (60 / (2 * math.pi * kv)) ** 2 / (shape * mass ** (5 / 3)), u, "its size"


def _no_load(motor: Motor, kv: float, pulls: Sequence[Row], siblings: Known) -> tuple[NoLoadCurrent, float, str]:
    if pulls and (read := core.no_load_current(pulls)):
        return read, U_PULLED_IDLE, "its pulls"
    speed = kv * CELL_V * (motor.rated_cells or USUAL_CELLS)
    if siblings:
        amps = median([core.wound_for(c, kv).no_load_at(speed) for _, c in siblings])
        return NoLoadCurrent(amps, speed), U_SIBLING_IDLE, _siblings(siblings)
    torque = USUAL[motor.kind][1] * (mass_of(motor) or 0.0)
    return NoLoadCurrent(torque * 2 * math.pi * kv / 60, speed), U_KIND_IDLE, "its size"


def _of_kind(motor: Motor, known: Known) -> list[tuple[Motor, Constants, float]]:
    return [(m, c, kg) for m, c in known if m.kind == motor.kind and (kg := mass_of(m)) and c.resistance_ohm > 0]


def mass_of(motor: Motor) -> float | None:
    """Mass in kg, by the scale or by the outer size; None where neither is known.

    >>> mass_of(Motor("A", mass_g=56)), round(mass_of(Motor("A", can_mm=28, length_mm=26)), 3)
    (0.056, 0.072)
    >>> mass_of(Motor("A", can_mm=28)), mass_of(Motor("A", length_mm=26))
    (None, None)
    """
    if grams := comparable_mass(motor.mass_g, motor.lead_mm, motor.lead_awg):
        return grams / 1000
    if motor.can_mm and motor.length_mm:
        return G_PER_CM3 * math.pi / 4 * motor.can_mm**2 * motor.length_mm / 1e6
    return None
