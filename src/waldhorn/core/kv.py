"""KV: no-load speed per volt, its corrections, and how it stands against the label.

Three ways of taking KV are in use and each sample carries its own; they are never mixed. The corrections are
shown beside the raw value. Not for pole finding (see `poles`) and not for change over time (see `change`).

References
----------
.. [1] Hendershot, Miller, Design of Brushless Permanent-Magnet Machines, 2010 (E = k ω; flux and temperature).
.. [2] Bench practice.
"""

import math
from collections.abc import Sequence

from waldhorn.core.errors import Refused
from waldhorn.core.history import FULL_THROTTLE_PCT, MARKS, Conditions, Motor, Reading, Sample

REFERENCE_C = 25.0
FLUX_PER_K = {"neodymium": -0.0011, "samarium-cobalt": -0.0004, "ferrite": -0.0020}  # reversible, 1/K [1]
UNKNOWN_TEMPERATURE_K = 6.0  # one sigma of a motor "at room temperature" that nobody measured [2]


def from_speed(rpm: float, volts: float) -> float:
    """KV from speed and the voltage at the motor.

    Formula: KV = rpm / V

    Parameters
    ----------
    rpm : float, rpm
    volts : float, V, read at the motor at that moment

    Returns
    -------
    float, rpm/V

    Raises
    ------
    Refused : the voltage is not above zero

    Source: definition.

    >>> round(from_speed(25_120, 7.38))
    3404
    """
    if volts <= 0:
        raise Refused("volts", f"volts at the motor {volts:g} V must be above 0")
    return rpm / volts


def from_back_emf(rpm: float, volts_rms: float) -> float:
    """KV of a motor driven by the drill, from the RMS voltage between two leads.

    Formula: KV = rpm / (√2 · V_rms)

    Parameters
    ----------
    rpm : float, rpm, from the electrical frequency
    volts_rms : float, V RMS between two leads

    Returns
    -------
    float, rpm/V

    Raises
    ------
    Refused : the voltage is not above zero

    Source: peak of a sine, [1]_.

    >>> round(from_back_emf(1_000, 0.5 / math.sqrt(2)))
    2000
    """
    return from_speed(rpm, volts_rms * math.sqrt(2))


def at_reference_temperature(kv: float, motor_c: float, magnet: str) -> float:
    """KV the motor would show at 25 °C.

    The flux of a warm magnet falls, so KV reads high when warm.

    Formula: KV(25 °C) = KV · (1 + α · (T − 25)), α per kelvin of the magnet material

    Parameters
    ----------
    kv : float, rpm/V
    motor_c : float, °C
    magnet : str, neodymium, samarium-cobalt or ferrite

    Returns
    -------
    float, rpm/V

    Source: reversible temperature coefficients, [1]_.

    >>> round(at_reference_temperature(3400, 45, "neodymium"), 1)
    3325.2
    """
    return kv * (1 + FLUX_PER_K[magnet] * (motor_c - REFERENCE_C))


def without_winding_drop(rpm: float, volts: float, amps: float, resistance_ohm: float) -> float:
    """KV with the drop across the winding taken out.

    Formula: KV₀ = rpm / (V − I0 · R)

    Parameters
    ----------
    rpm : float, rpm
    volts : float, V at the motor
    amps : float, A, no-load current
    resistance_ohm : float, Ω between two leads

    Returns
    -------
    float, rpm/V

    Raises
    ------
    Refused : the drop is as large as the voltage

    Source: [1]_.

    >>> round(without_winding_drop(25_000, 7.4, 2.0, 0.02), 1)
    3396.7
    """
    return from_speed(rpm, volts - amps * resistance_ohm)


def label(motor: Motor) -> float | None:
    """The KV on the label, rpm/V, when there is one."""
    return motor.label_kv


def samples(readings: Sequence[Reading], motor: Motor) -> list[Sample]:
    """KV at 25 °C of each full-throttle run of one check.

    Parameters
    ----------
    readings : the accepted readings of one check, in any order
    motor : Motor, for its magnet material

    Returns
    -------
    list of Sample, by run; `raw` is KV as it was read. A run without a noted temperature is taken to be at
    25 °C and says so, with a further uncertainty of α · 6 K.
    """
    volts = {_key(r): r.value for r in readings if r.measure == "supply_volts"}
    found: dict[tuple[int, str, str], tuple[float, Conditions]] = {}
    for reading in readings:
        if not at_full_throttle(reading):
            continue
        if reading.measure == "rpm" and volts.get(_key(reading), 0) > 0:
            supply = volts[_key(reading)]
            found.setdefault(_place(reading), (_kv_of(reading, supply), reading.conditions))
        elif reading.measure == "kv":
            found[_place(reading)] = (reading.value, reading.conditions)
    return [
        _sample(raw, run, conditions, motor)
        for (run, _, _), (raw, conditions) in sorted(found.items(), key=lambda i: i[0])
    ]


def at_full_throttle(reading: Reading) -> bool:
    """Whether a reading was taken at full throttle in the standard run (no throttle noted means full)."""
    throttle = reading.conditions.throttle_pct
    if reading.note.startswith(MARKS):
        return False
    return throttle is None or throttle >= FULL_THROTTLE_PCT - 0.5


def _kv_of(rpm: Reading, volts: float) -> float:
    if rpm.conditions.method == "back-emf":
        return from_back_emf(rpm.value, volts)
    return from_speed(rpm.value, volts)


def _key(reading: Reading) -> tuple[int, str, float | None]:
    return (reading.run, reading.conditions.rig, reading.conditions.throttle_pct)


def _place(reading: Reading) -> tuple[int, str, str]:
    return (reading.run, reading.conditions.rig, reading.conditions.method)


def _sample(raw: float, run: int, conditions: Conditions, motor: Motor) -> Sample:
    if conditions.motor_c is None:
        doubt = abs(FLUX_PER_K[motor.magnet]) * UNKNOWN_TEMPERATURE_K * 100
        return Sample(raw, run, conditions, raw, doubt, "motor temperature not noted, taken as 25 °C")
    return Sample(at_reference_temperature(raw, conditions.motor_c, motor.magnet), run, conditions, raw)
