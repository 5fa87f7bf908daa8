"""Detent: the torque that holds an unpowered rotor in its natural positions.

Peaks are read with a lever on a scale, or typed as torque. Whether more detent is better or worse depends on the use
of the motor; only its change is judged. Not for the winding (see `winding` for the number of positions).

References
----------
.. [1] Hendershot, Miller, Design of Brushless Permanent-Magnet Machines, 2010 (cogging torque, lcm of slots, poles).
.. [2] Iglewicz, Hoaglin, How to Detect and Handle Outliers, 1993 (modified z-score over 3.5).
.. [3] BIPM, The International System of Units, 9th ed., 2019 (standard gravity).
.. [4] Bench practice.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from math import fsum
from statistics import median

import numpy as np

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.units import STANDARD_GRAVITY
from waldhorn.core.base.vocabulary import SetUp, Verdict
from waldhorn.core.measuring.derivation import DerivationRule, Derived, Inputs
from waldhorn.core.measuring.kv import FLUX_PER_K, REFERENCE_C
from waldhorn.core.measuring.outliers import kept, outliers
from waldhorn.core.measuring.quantity import REWOUND, ROTOR, BenchTest, BetweenMotors, Limits, Quantity, named

LEAST_FOR_TREND = 6
LEAST_FOR_VARIATION = 4
RISING_PCT = 4.0  # a series that rises by less is not worth a word [4]
LEVER_PCT = 1.0  # one sigma of setting the lever up again, shared by all peaks of a run [4]


@dataclass(frozen=True, slots=True)
class DetentRun:
    """One run of peaks: torques in N·mm, variation and harmonics in percent of the median.

    `outliers` are places in the list; `turns` how much of a turn was covered (None when slots or poles are not
    known); `once_per_turn_pct`, `leans_to_deg` and `alternating_pct` are None under one whole turn.
    """

    median_nmm: float
    highest_nmm: float
    variation_pct: float
    outliers: tuple[int, ...]
    rising: bool
    turns: float | None
    once_per_turn_pct: float | None
    leans_to_deg: float | None
    alternating_pct: float | None


def torque(mass_g: float, lever_mm: float) -> float:
    """Torque of a lever pressing on a scale.

    Parameters
    ----------
    mass_g : float
        g, what the scale shows.
    lever_mm : float
        mm, from the shaft's centre to the scale.

    Returns
    -------
    float
        N·mm.

    Raises
    ------
    InputError
        The lever is not longer than zero.

    Notes
    -----
    Formula: T = m·g·L; with m in g and L in mm, T(N·mm) = m × 9.80665×10⁻³ × L

    Source: [3]_.

    Examples
    --------
    >>> round(torque(62.5, 30.0), 2)
    18.39
    """
    if lever_mm <= 0:
        raise InputError("lever", f"a lever of {lever_mm:g} mm turns nothing: measure from the shaft to the scale")
    return mass_g * STANDARD_GRAVITY * 1e-3 * lever_mm


def scatter(peaks: Sequence[float]) -> float:
    """Scatter around the turn, comparable between runs of different length: the range grows with the peaks.

    Parameters
    ----------
    peaks : sequence of float, two at least
        Any unit, outliers left out.

    Returns
    -------
    float
        percent.

    Notes
    -----
    Formula: 100·s / median, s the standard deviation of the peaks

    Source: [4]_.

    Examples
    --------
    >>> round(scatter([18.0, 20.0, 19.0]), 2)
    5.26
    """
    mean = fsum(peaks) / len(peaks)
    return 100 * math.sqrt(fsum((p - mean) ** 2 for p in peaks) / (len(peaks) - 1)) / median(peaks)


def variation(peaks: Sequence[float]) -> float:
    """Variation around the turn: how far the strongest place is from the weakest.

    Parameters
    ----------
    peaks : sequence of float, one at least
        Any unit, outliers left out.

    Returns
    -------
    float
        percent.

    Notes
    -----
    Formula: 100·(max − min) / median

    Source: [4]_.

    Examples
    --------
    >>> round(variation([18.0, 20.0, 19.0]), 2)
    10.53
    """
    return 100 * (max(peaks) - min(peaks)) / median(peaks)


def summarise(peaks: Sequence[float], positions: int | None = None) -> DetentRun:
    """What one run of peaks, in the order they were felt, says.

    Parameters
    ----------
    peaks : sequence of float, one at least
        N·mm.
    positions : int or None
        Natural positions per turn.

    Returns
    -------
    DetentRun
        Outliers count for `highest_nmm` only when all peaks are, and not for variation and harmonics.

    Raises
    ------
    InputError
        No peaks, or one that is not above zero.

    Notes
    -----
    Formula: robust centre = median; once per turn: least squares on cos, sin of the rotor angle 360°·k/positions;
    alternating: mean of every second peak against the others

    Source: [1]_, [2]_, [4]_.

    Examples
    --------
    >>> summarise([18.0, 18.4, 18.2]).median_nmm
    18.2
    """
    if not peaks:
        raise InputError("peaks", "no peak typed yet: turn the body slowly and write down each peak")
    if min(peaks) <= 0:
        raise InputError("peaks", f"a peak of {min(peaks):g} cannot be: above 0")
    odd = outliers(peaks)
    placed = [(k, p) for k, p in enumerate(peaks) if k not in odd]
    values = [p for _, p in placed]
    centre = median(values)
    turns = len(peaks) / positions if positions else None
    lean = _once_per_turn(placed, positions) if positions and len(peaks) >= positions >= 4 else None
    alternating = _alternating(placed) if positions and len(peaks) >= positions >= 4 else None
    return DetentRun(
        centre,
        max(values),
        variation(values),
        odd,
        _rising(values),
        turns,
        100 * lean[0] / centre if lean else None,
        lean[1] if lean else None,
        100 * alternating / centre if alternating is not None else None,
    )


def _once_per_turn(placed: Sequence[tuple[int, float]], positions: int) -> tuple[float, float]:
    turn = 2 * np.pi * np.array([k for k, _ in placed]) / positions
    design = np.column_stack([np.ones_like(turn), np.cos(turn), np.sin(turn)])
    (_, a, b), *_ = np.linalg.lstsq(design, np.array([p for _, p in placed]), rcond=None)
    return math.hypot(a, b), math.degrees(math.atan2(b, a)) % 360


def _alternating(placed: Sequence[tuple[int, float]]) -> float:
    even, odd = ([p for k, p in placed if k % 2 == side] for side in (0, 1))
    return abs(float(np.mean(even) - np.mean(odd))) / 2 if even and odd else 0.0


def _rising(values: Sequence[float]) -> bool:
    """Turning ever faster reads ever higher."""
    if len(values) < LEAST_FOR_TREND:
        return False
    from scipy.stats import kendalltau  # takes half a second to load, and not every command feels peaks

    found = kendalltau(range(len(values)), values)
    third = max(1, len(values) // 3)
    gain = 100 * (median(values[-third:]) / median(values[:third]) - 1)
    return bool(found.statistic > 0.5 and found.pvalue < 0.01 and gain > RISING_PCT)


def at_reference_temperature(torque_nmm: float, motor_c: float, magnet: str) -> float:
    """Detent the motor would show at 25 °C.

    Parameters
    ----------
    torque_nmm : float
        N·mm.
    motor_c : float
        °C.
    magnet : str
        Neodymium, samarium-cobalt or ferrite.

    Returns
    -------
    float
        N·mm.

    Notes
    -----
    Formula: T(25 °C) = T / (1 + α·(T_m − 25))², α per kelvin of the magnet material

    Source: [1]_.

    Examples
    --------
    >>> round(at_reference_temperature(18.0, 35.0, "neodymium"), 2)
    18.4
    """
    return torque_nmm / (1 + FLUX_PER_K[magnet] * (motor_c - REFERENCE_C)) ** 2


def median_of_run(given: Inputs) -> Derived | None:
    """Median detent at 25 °C of the peaks of a run, torques or forces on one lever, outliers left out. A median is
    worth two thirds of its peaks; that lever and scale stray as one stands in what clamping anew strays. A motor whose
    temperature was not noted is taken to be cold."""
    [felt] = (v for n, v in given.values.items() if n in ("detent_peak", "detent_force"))
    peaks = kept(felt)
    if not peaks:
        return None
    raw = median(peaks)
    warm = given.conditions.motor_c
    value = raw if warm is None else at_reference_temperature(raw, warm, given.motor.magnet)
    return Derived(value, raw, LEVER_PCT, max(1, round(2 / math.pi * len(peaks))))


def variation_of_run(given: Inputs) -> Derived | None:
    """Scatter around the turn of a run of at least four peaks, outliers left out, in percent of the median."""
    peaks = kept(given.values["detent_peak"])
    found = scatter(peaks) if len(peaks) >= LEAST_FOR_VARIATION else 0.0
    return Derived(found, found) if found > 0 else None


DETENT_PEAK = Quantity(
    name="detent_peak",
    set_up=SetUp.LEVER,
    title="detent",
    symbol="D",
    unit="N·mm",
    limits=Limits(6, 12),
    repeatability=5,
    made=(DerivationRule(of="detent_peak", together=True, make=median_of_run),),
    reset_by=frozenset({ROTOR, REWOUND}),
    may_slip=True,
    test=BenchTest("detent", "detent, cold and unpowered", 90),
    relative=True,
    direction=-1,
    resolution=0.5,
    natural_spread=4,
    worst_means=Verdict.RETIRE,
    sayings=named("Detent", "{} stronger", "{} weaker"),
    part="magnets",
    between=BetweenMotors(
        more="clicks {} stronger", less="clicks {} weaker", uses={"smooth start": -0.5, "hold": 1.0}, good_enough=6.0
    ),
    glance=6,
    on_tag=5,
)

DETENT_FORCE = Quantity(
    name="detent_force",
    set_up=SetUp.LEVER,
    title="detent on a lever",
    symbol="F",
    unit="g",
    limits=Limits(6, 12),
    repeatability=5,
    made=(DerivationRule(of="detent_force", together=True, make=median_of_run),),
    same=("rig", "lever"),
    reset_by=frozenset({ROTOR, REWOUND}),
    may_slip=True,
    test=BenchTest("detent", "detent, cold and unpowered", 90),
    relative=True,
    direction=-1,
    resolution=0.5,
    natural_spread=4,
    worst_means=Verdict.RETIRE,
    sayings=named("Detent on the lever", "{} stronger", "{} weaker"),
    part="magnets",
    between=BetweenMotors(more="holds the lever {} stronger", less="holds the lever {} weaker", good_enough=6.0),
)

DETENT_VARIATION = Quantity(
    name="detent_variation",
    set_up=SetUp.LEVER,
    title="detent variation",
    symbol="Dv",
    unit="%",
    limits=Limits(30, 60),
    repeatability=20,
    made=(DerivationRule(of="detent_peak", together=True, make=variation_of_run),),
    reset_by=frozenset({ROTOR, REWOUND}),
    test=BenchTest("detent", "detent, cold and unpowered", 90),
    relative=True,
    natural_spread=30,
    worst_means=Verdict.RETIRE,
    sayings=named("Detent varies", "{} more", "{} less"),
    between=BetweenMotors(more="clicks {} less evenly", less="clicks {} more evenly"),
    glance=6,
)
