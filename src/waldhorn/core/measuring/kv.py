"""KV: no-load speed per volt, its corrections, and how it stands against the label.

Three ways of taking KV are in use and each sample carries its own; they are never mixed. The corrections are
shown beside the raw value. Not for pole finding (see `poles`) and not for change over time (see `change`).

References
----------
.. [1] Hendershot, Miller, Design of Brushless Permanent-Magnet Machines, 2010 (E = k ω; flux and temperature).
.. [2] Bench practice.
"""

import math

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor
from waldhorn.core.base.vocabulary import Method, NoteKind, SetUp, Verdict
from waldhorn.core.measuring.derivation import DerivationRule, Derived, Inputs
from waldhorn.core.measuring.end_bell import KV_PER_DEG, KV_PER_DEG_U
from waldhorn.core.measuring.quantity import (
    BOARD,
    REWOUND,
    ROTOR,
    TIMING,
    BenchTest,
    BetweenMotors,
    Limits,
    Quantity,
    named,
)

REFERENCE_C = 25.0
FLUX_PER_K = {"neodymium": -0.0011, "samarium-cobalt": -0.0004, "ferrite": -0.0020}  # reversible, 1/K [1]
UNKNOWN_TEMPERATURE_K = 6.0  # one sigma of a motor "at room temperature" that nobody measured [2]


def from_speed(rpm: float, volts: float) -> float:
    """KV from speed and the voltage at the motor.

    Parameters
    ----------
    rpm : float
        rpm.
    volts : float
        V, read at the motor at that moment.

    Returns
    -------
    float
        rpm/V.

    Raises
    ------
    InputError
        The voltage is not above zero.

    Notes
    -----
    Formula: KV = rpm / V

    Source: definition.

    Examples
    --------
    >>> round(from_speed(25_120, 7.38))
    3404
    """
    if volts <= 0:
        raise InputError("volts", f"volts at the motor {volts:g} V must be above 0")
    return rpm / volts


def from_back_emf(rpm: float, volts_rms: float) -> float:
    """KV of a motor driven by the drill, from the RMS voltage between two leads.

    Parameters
    ----------
    rpm : float
        rpm, from the electrical frequency.
    volts_rms : float
        V RMS between two leads.

    Returns
    -------
    float
        rpm/V.

    Raises
    ------
    InputError
        The voltage is not above zero.

    Notes
    -----
    Formula: KV = rpm / (√2 · V_rms)

    Source: peak of a sine, [1]_.

    Examples
    --------
    >>> round(from_back_emf(1_000, 0.5 / math.sqrt(2)))
    2000
    """
    return from_speed(rpm, volts_rms * math.sqrt(2))


def at_reference_temperature(kv: float, motor_c: float, magnet: str) -> float:
    """KV the motor would show at 25 °C.

    The flux of a warm magnet falls, so KV reads high when warm.

    Parameters
    ----------
    kv : float
        rpm/V.
    motor_c : float
        °C.
    magnet : str
        Neodymium, samarium-cobalt or ferrite.

    Returns
    -------
    float
        rpm/V.

    Notes
    -----
    Formula: KV(25 °C) = KV · (1 + α · (T − 25)), α per kelvin of the magnet material

    Source: reversible temperature coefficients, [1]_.

    Examples
    --------
    >>> round(at_reference_temperature(3400, 45, "neodymium"), 1)
    3325.2
    """
    return kv * (1 + FLUX_PER_K[magnet] * (motor_c - REFERENCE_C))


def without_winding_drop(rpm: float, volts: float, amps: float, resistance_ohm: float) -> float:
    """KV with the drop across the winding taken out.

    Parameters
    ----------
    rpm : float
        rpm.
    volts : float
        V at the motor.
    amps : float
        A, no-load current.
    resistance_ohm : float
        Ω between two leads.

    Returns
    -------
    float
        rpm/V.

    Raises
    ------
    InputError
        The drop is as large as the voltage.

    Notes
    -----
    Formula: KV₀ = rpm / (V − I0 · R)

    Source: [1]_.

    Examples
    --------
    >>> round(without_winding_drop(25_000, 7.4, 2.0, 0.02), 1)
    3396.7
    """
    return from_speed(rpm, volts - amps * resistance_ohm)


def label(motor: Motor) -> float | None:
    """The KV on the label, rpm/V, when there is one."""
    return motor.label_kv


def of_run(given: Inputs) -> Derived:
    """KV at 25 °C of a run in which speed and volts were read."""
    rpm, volts = given.one("rpm"), given.one("supply_volts")
    raw = from_back_emf(rpm, volts) if given.conditions.method == Method.BACK_EMF else from_speed(rpm, volts)
    return at_25(raw, given)


def of_reading(given: Inputs) -> Derived:
    """KV at 25 °C of a run in which KV itself was read."""
    return at_25(given.one("kv"), given)


def at_25(raw: float, given: Inputs) -> Derived:
    """KV as read, brought to 25 °C; a motor whose temperature was not noted is taken to be at 25 °C, with the doubt
    that brings.

    Parameters
    ----------
    raw : float
        rpm/V, as read.
    given : Inputs
        What was read beside it.
    """
    warm = given.conditions.motor_c
    if warm is None:
        doubt = abs(FLUX_PER_K[given.motor.magnet]) * UNKNOWN_TEMPERATURE_K * 100
        return Derived(raw, raw, doubt, note=NoteKind.TEMPERATURE_ASSUMED)
    return Derived(at_reference_temperature(raw, warm, given.motor.magnet), raw)


KV = Quantity(
    name="kv",
    set_up=SetUp.SUPPLY,
    title="KV",
    symbol="KV",
    unit="rpm/V",
    limits=Limits(3, 6),
    repeatability=0.5,
    made=(
        DerivationRule(of="kv", make=of_reading, full_throttle=True),
        DerivationRule(of="rpm", run=("supply_volts",), make=of_run, full_throttle=True),
    ),
    same=("method", "rig", "throttle_pct", "timing_set_deg"),
    reset_by=frozenset({ROTOR, TIMING, BOARD, REWOUND}),
    per_kelvin=(0.0, abs(FLUX_PER_K["neodymium"])),
    may_slip=True,
    test=BenchTest("pull", "full-throttle pull", 40),
    relative=True,
    direction=0,
    resolution=0.05,
    natural_spread=1.5,
    decimals=0,
    worst_means=Verdict.RETIRE,
    label=label,
    sayings=named("KV"),
    part="magnets",
    between=BetweenMotors(
        more="turns {} faster",
        less="turns {} slower",
        uses={"speed": 1.0},
        good_enough=1.0,
        per_degree=(KV_PER_DEG, KV_PER_DEG_U),
        quick=True,
    ),
    glance=1,
    on_tag=1,
)
