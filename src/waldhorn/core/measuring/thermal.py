"""Temperature: the rise after the standard run, and how a motor cools until two can be compared.

Not for magnets (their temperature coefficient is in `kv`).

References
----------
.. [1] Incropera, DeWitt, Fundamentals of Heat and Mass Transfer, ch. 5 (lumped capacitance, exponential cooling).
.. [2] IEC 60034-1 (temperature coefficient of copper).
.. [3] Bench practice.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.vocabulary import SetUp
from waldhorn.core.measuring.derivation import DerivationRule, Derived, Inputs
from waldhorn.core.measuring.quantity import (
    BEARINGS,
    BOARD,
    REWOUND,
    ROTOR,
    TIMING,
    BenchTest,
    BetweenMotors,
    Limits,
    Quantity,
)

COPPER_ZERO_C = 235.0  # below zero, where copper's resistance would vanish if its line went on [2]
COMPARABLE_K = 3.0  # two motors this close in temperature compare [3]
REST_C = 45.0  # surface: from here on a rest before the next pull [3]
RUN_S = 28.0  # the standard run at the usual five settings: 3 + 3 × 5 + 10 s [3]
USUAL_TAU_S = 420.0  # how a small motor cools, until its own readings show it [3]
_LEAST_EXCESS_K = 0.5
SOAK_S = 90.0  # heat comes from the winding until then [3]
_LEAST_SETTLED, _STEPS = 3, 12


@dataclass(frozen=True, slots=True)
class Cooling:
    """Exponential cooling: excess over ambient at time 0 in K, time constant in s, ambient in °C."""

    excess_k: float
    tau_s: float
    ambient_c: float

    def at(self, seconds: float) -> float:
        """Temperature at a time, °C."""
        return self.ambient_c + self.excess_k * math.exp(-seconds / self.tau_s)


def rise(surface_c: float, ambient_c: float) -> float:
    """Rise above ambient after the standard run.

    Parameters
    ----------
    surface_c : float
        °C, right after the run.
    ambient_c : float
        °C.

    Returns
    -------
    float
        K.

    Notes
    -----
    Formula: rise = T − Ta

    Source: definition.

    Examples
    --------
    >>> rise(47.5, 22.0)
    25.5
    """
    return surface_c - ambient_c


def rise_of_run(
    surface_c: float, ambient_c: float, before_c: float, seconds: float = RUN_S, tau_s: float = USUAL_TAU_S
) -> float:
    """Rise that the run itself has caused: without what the motor started with.

    Parameters
    ----------
    surface_c, ambient_c, before_c : float
        °C, right after the run, of the air, and of the motor before it.
    seconds : float
        s, how long the run took.
    tau_s : float
        s, time constant of cooling.

    Returns
    -------
    float
        K.

    Notes
    -----
    Formula: rise = (T − Ta) − (T0 − Ta)·e^(−t/τ)

    Source: [1]_.

    Examples
    --------
    >>> round(rise_of_run(47, 22, 34, 60, 420), 2)
    14.6
    """
    return rise(surface_c, ambient_c) - (before_c - ambient_c) * math.exp(-seconds / tau_s)


def thermal_resistance(rise_k: float, energy_j: float, seconds: float, tau_s: float = USUAL_TAU_S) -> float:
    """How much warmer the motor would stay for each watt it turns to heat.

    Parameters
    ----------
    rise_k : float
        K, see `rise_of_run`.
    energy_j : float
        J, ∫V·I dt of the run.
    seconds : float
        s, how long the run took.
    tau_s : float
        s, time constant of cooling.

    Returns
    -------
    float
        K/W.

    Raises
    ------
    InputError
        No energy or no time.

    Notes
    -----
    Formula: R_th = rise / (E/t · (1 − e^(−t/τ)))

    Source: [1]_.

    Examples
    --------
    >>> round(thermal_resistance(14.597, 999, 60, 420), 2)
    6.59
    """
    if energy_j <= 0 or seconds <= 0:
        raise InputError("energy", f"{energy_j:g} J in {seconds:g} s heat nothing: both above 0")
    return rise_k / (energy_j / seconds * (1 - math.exp(-seconds / tau_s)))


def rise_per_energy(rise_k: float, energy_j: float) -> float:
    """Rise for each kilojoule, so that runs of different length compare.

    Parameters
    ----------
    rise_k : float
        K.
    energy_j : float
        J.

    Returns
    -------
    float
        K/kJ.

    Raises
    ------
    InputError
        No energy.

    Notes
    -----
    Formula: 1000 · rise / E

    Source: [3]_.

    Examples
    --------
    >>> round(rise_per_energy(14.597, 999), 2)
    14.61
    """
    if energy_j <= 0:
        raise InputError("energy", f"{energy_j:g} J heat nothing: above 0")
    return 1000 * rise_k / energy_j


def fit_cooling(seconds: Sequence[float], surface_c: Sequence[float], ambient_c: float) -> Cooling:
    """Fit how a motor cools, from two or more readings.

    Parameters
    ----------
    seconds : n ≥ 2 floats
        s since the first reading.
    surface_c : n floats
        °C.
    ambient_c : float
        °C.

    Returns
    -------
    Cooling

    Raises
    ------
    InputError
        Fewer than two readings above ambient at different times, or a motor that does not cool.

    Notes
    -----
    Formula: T(t) = Ta + ΔT·e^(−t/τ) by least squares, the first 90 s dropped where three readings are left: until then
    heat still comes from the winding. Of two readings the line through their logarithms.

    Source: [1]_.

    Examples
    --------
    >>> round(fit_cooling([0, 60], [62.0, 22 + 40 / math.e], 22.0).tau_s, 6)
    60.0
    >>> soaked = [47.0, 41.1, 38.0, 35.7, 33.9, 32.3, 30.9, 29.7, 28.7, 27.8, 27.0]
    >>> round(fit_cooling(range(0, 601, 60), soaked, 22.0).tau_s)
    414
    """
    above = [(t, c - ambient_c) for t, c in zip(seconds, surface_c, strict=True) if c - ambient_c > _LEAST_EXCESS_K]
    settled = [(t, k) for t, k in above if t >= SOAK_S]
    points = settled if len({t for t, _ in settled}) >= _LEAST_SETTLED else above
    if len({t for t, _ in points}) < 2:
        raise InputError("temperature", f"two readings more than {_LEAST_EXCESS_K} K above ambient show how it cools")
    mean_t = sum(t for t, _ in points) / len(points)
    mean_l = sum(math.log(k) for _, k in points) / len(points)
    slope = sum((t - mean_t) * (math.log(k) - mean_l) for t, k in points) / sum((t - mean_t) ** 2 for t, _ in points)
    if slope >= 0:
        raise InputError("temperature", "it does not cool: read again in a minute, on the same spot")
    excess, tau = math.exp(mean_l - slope * mean_t), -1 / slope
    return Cooling(*(_least_squares(points, excess, tau) if len(points) > 2 else (excess, tau)), ambient_c)


def _least_squares(points: Sequence[tuple[float, float]], excess: float, tau: float) -> tuple[float, float]:
    """Excess and time constant by Gauss and Newton from a first guess: rounded readings near the air weigh no more than
    the others, as they do in their logarithms."""
    t, k = (np.array(column) for column in zip(*points, strict=True))
    for _ in range(_STEPS):
        decay = np.exp(-t / tau)
        slopes = np.column_stack((decay, excess * decay * t / tau**2))
        step, *_ = np.linalg.lstsq(slopes, k - excess * decay, rcond=None)
        excess, tau = excess + float(step[0]), max(tau + float(step[1]), tau / 2)
    return excess, tau


def seconds_until(cooling: Cooling, target_c: float, within_k: float = COMPARABLE_K) -> float:
    """Time after the first reading at which a motor has come within a few kelvin of a temperature.

    Parameters
    ----------
    cooling : Cooling
    target_c : float
        °C, what it shall be comparable with; ambient at the lowest.
    within_k : float
        K.

    Returns
    -------
    float
        s.

    Notes
    -----
    Formula: t = τ·ln((T0 − Ta) / (T_target + ΔT − Ta)), not before 0

    Source: [1]_.

    Examples
    --------
    >>> round(seconds_until(Cooling(40.0, 300.0, 22.0), 22.0), 1)
    777.1
    """
    goal = max(target_c, cooling.ambient_c) + within_k - cooling.ambient_c
    return max(0.0, cooling.tau_s * math.log(cooling.excess_k / goal))


def copper_resistance(resistance_25: float, copper_c: float) -> float:
    """Resistance of a copper winding at a temperature.

    Parameters
    ----------
    resistance_25 : float
        Any unit, at 25 °C.
    copper_c : float
        °C.

    Returns
    -------
    float
        The same unit.

    Notes
    -----
    Formula: R(T) = R25·(235 + T) / 260

    Source: [2]_.

    Examples
    --------
    >>> round(copper_resistance(16.0, 75.0), 3)
    19.077
    """
    return resistance_25 * (COPPER_ZERO_C + copper_c) / (COPPER_ZERO_C + 25)


def of_reading(given: Inputs) -> Derived | None:
    """Rise of the standard run, without what the motor started with where that was noted; None where the air was
    not."""
    ambient = given.conditions.ambient_c
    if ambient is None:
        return None
    surface, before = given.one("temperature"), given.maybe("temperature_before")
    if before is None:
        return Derived(rise(surface, ambient), surface)
    return Derived(rise_of_run(surface, ambient, before), surface)


def per_energy_of_reading(given: Inputs) -> Derived | None:
    """Rise of the standard run for each kilojoule, K/kJ: what compares when a run was cut short. None where the motor
    came out no warmer than it went in, or nothing was put in."""
    energy, found = given.one("run_energy"), of_reading(given)
    if found is None or found.value <= 0 or energy <= 0:
        return None
    return Derived(rise_per_energy(found.value, energy), found.raw)


TEMPERATURE = Quantity(
    name="temperature",
    set_up=SetUp.SUPPLY,
    title="heat",
    symbol="K",
    unit="K",
    limits=Limits(8, 15),
    repeatability=1.5,
    made=(DerivationRule(of="temperature", run_maybe=("temperature_before",), make=of_reading),),
    same=("rig", "throttle_pct", "timing_set_deg", "supply_v"),
    reset_by=frozenset({BEARINGS, ROTOR, TIMING, BOARD, REWOUND}),
    may_slip=True,
    test=BenchTest("heat", "temperature after the standard run", 120),
    resolution=0.1,
    natural_spread=3,
    sayings=("Runs {} hotter", "Runs {} cooler", "Runs as warm"),
    part="winding",
    between=BetweenMotors(
        more="runs {} hotter", less="runs {} cooler", uses={"economy": -0.5, "long life": -0.5}, over_volts=(1.3, 0.5)
    ),
    on_tag=6,
)

HEAT_PER_ENERGY = Quantity(
    name="heat_per_energy",
    set_up=SetUp.SUPPLY,
    title="heat of a kilojoule",
    symbol="K/kJ",
    unit="K/kJ",
    limits=Limits(30, 60),
    repeatability=10,
    made=(
        DerivationRule(
            of="temperature", run=("run_energy",), run_maybe=("temperature_before",), make=per_energy_of_reading
        ),
    ),
    same=("rig", "throttle_pct", "timing_set_deg", "supply_v"),
    reset_by=frozenset({BEARINGS, ROTOR, TIMING, BOARD, REWOUND}),
    test=BenchTest("heat", "temperature and energy of the standard run", 120),
    relative=True,
    natural_spread=20,
    sayings=("Runs {} hotter a joule", "Runs {} cooler a joule", "Runs as warm a joule"),
    part="winding",
)
