"""Where the no-load current goes: friction that is there at any speed, and what grows with the speed.

For no-load currents read at full throttle over several voltages, or over throttle settings where the instrument reads
motor amps. Not for one setting alone (see `current`).

References
----------
.. [1] IEC 60034-2-1, Rotating electrical machines: methods for determining losses (segregation of no-load losses).
.. [2] JCGM 100, Guide to the expression of uncertainty in measurement, 2008.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from waldhorn.core.base.conditions import at_full_throttle
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.vocabulary import SetUp
from waldhorn.core.measuring.derivation import DerivationRule, Derived, Inputs, as_read
from waldhorn.core.measuring.quantity import (
    BEARINGS,
    BOARD,
    REWOUND,
    ROTOR,
    TIMING,
    WARMTH,
    BenchTest,
    Limits,
    Quantity,
    named,
)

LEAST_SPEEDS, LEAST_SPAN = 4, 4.0
U_AMPS, DIGIT_A = 0.012, 0.005  # one standard uncertainty of a hand ammeter, as a share, and what its last digit hides
ONE_SPEED = 0.05  # speeds that differ by less than this share are one, read again
WITH_WINDAGE = 5  # speeds from which the part that grows with the square is fitted
LOOSEST = 0.5  # of a part: a fit that knows it less well than that does not tell it
U_WINDAGE = 0.1  # one standard uncertainty of the windage that was not fitted, as a share of the torque at top speed
MOTOR_AMPS = "motor"  # said as the meter of an ammeter that reads the motor's own amps, at part throttle as well


@dataclass(frozen=True, slots=True)
class NoLoad:
    """One no-load point: rpm, A."""

    rpm: float
    amps: float


@dataclass(frozen=True, slots=True)
class Losses:
    """Friction and hysteresis in N·m, what grows with the speed in N·m·s, and with its square in N·m·s² (0 where it was
    not fitted), each with one standard uncertainty. `windage_friction` and `windage_per_speed` are what a windage that
    was not fitted may put into either besides: it cancels between fits over the same speeds."""

    friction: float
    per_speed: float
    per_square: float
    u_friction: float
    u_per_speed: float
    u_per_square: float = 0.0
    windage_friction: float = 0.0
    windage_per_speed: float = 0.0

    def torque(self, rpm: float) -> float:
        """Torque against which it turns at a speed, N·m."""
        omega = rpm * 2 * math.pi / 60
        return self.friction + self.per_speed * omega + self.per_square * omega**2


def fit(points: Sequence[NoLoad], kv: float, u_amps: float | None = None, windage: bool = True) -> Losses:
    """The parts of the no-load current.

    Parameters
    ----------
    points : sequence of NoLoad
        At four speeds or more that span one to four.
    kv : float
        rpm/V.
    u_amps : float, optional
        A, one standard uncertainty of a current; by default that of a hand meter.
    windage : bool
        Whether the part that grows with the square is fitted where five points allow it.

    Returns
    -------
    Losses
        Its uncertainties are widened where the points lie further off the curve than the meter explains.

    Raises
    ------
    InputError
        Too few speeds, or too near each other; in words what is missing.

    Notes
    -----
    Formula: k_t·I0 = T_c + B·ω + D·ω², weighted least squares; D from five points on; u·√(χ²/ν) where χ² > ν;
    without D, the line that a D of a tenth of the top torque would draw is what it may put into T_c and B

    Source: [1]_, [2]_. Limits: dry friction and hysteresis cannot be parted with the magnets in; compare at equal
    temperature.

    Examples
    --------
    >>> read = [NoLoad(6000, 1.3245), NoLoad(12000, 1.6140), NoLoad(18000, 1.9461), NoLoad(25000, 2.3872)]
    >>> found = fit([*read, NoLoad(25000, 2.3872)], 3430)
    >>> f"{found.friction:.2e}, {found.per_speed:.2e}, {found.per_square:.1e}"
    '3.00e-03, 1.00e-06, 1.5e-10'
    """
    speeds = distinct(points)
    if len(speeds) < LEAST_SPEEDS or speeds[-1] < LEAST_SPAN * speeds[0]:
        span = f", {speeds[0]:.0f} to {speeds[-1]:.0f} rpm," if speeds else ""
        raise InputError(
            "rpm",
            f"{len(speeds)} speeds{span} cannot part friction from what grows with the speed: read"
            " four or more, the fastest four times the slowest",
        )
    omega = np.array([p.rpm for p in points]) * 2 * math.pi / 60
    amps = np.array([p.amps for p in points])
    torque_constant = 60 / (2 * math.pi * kv)
    doubt = np.full_like(amps, u_amps) if u_amps else np.hypot(U_AMPS * amps, DIGIT_A)
    order = 2 if windage and len(points) >= WITH_WINDAGE else 1
    scale = omega.max()  # so that the columns are of one size
    table = np.vander(omega / scale, order + 1, increasing=True) / doubt[:, None]
    inverse = np.linalg.inv(table.T @ table)
    solved = inverse @ table.T @ (amps / doubt)
    off = float(np.sum((table @ solved - amps / doubt) ** 2)) / max(1, len(points) - order - 1)
    found = solved * torque_constant
    cov = inverse * torque_constant**2 * max(1.0, off)
    told = Losses(
        float(found[0]),
        float(found[1] / scale),
        float(found[2]) / scale**2 if order > 1 else 0.0,
        math.sqrt(cov[0, 0]),
        math.sqrt(cov[1, 1]) / scale,
        math.sqrt(cov[2, 2]) / scale**2 if order > 1 else 0.0,
    )
    if order > 1:
        return told
    hidden = U_WINDAGE * abs(found[0] + found[1])  # at top speed, where the column of the speed is 1
    lent = inverse @ table.T @ ((omega / scale) ** 2 / doubt) * hidden
    return replace(told, windage_friction=abs(float(lent[0])), windage_per_speed=abs(float(lent[1])) / scale)


def distinct(points: Sequence[NoLoad]) -> list[float]:
    """The speeds, slowest first, those that differ by less than the noise taken for one.

    >>> distinct([NoLoad(6000, 1.3), NoLoad(6010, 1.3), NoLoad(12000, 1.6)])
    [6000, 12000]
    """
    found: list[float] = []
    for rpm in sorted(p.rpm for p in points):
        if not found or rpm > found[-1] * (1 + ONE_SPEED):
            found.append(rpm)
    return found


def current(losses: Losses, rpm: float, kv: float) -> float:
    """The no-load current that losses ask for.

    Parameters
    ----------
    losses : Losses
    rpm, kv : float

    Returns
    -------
    float
        A.

    Notes
    -----
    Formula: I0 = (T_c + B·ω + D·ω²) / k_t

    Source: [1]_.

    Examples
    --------
    >>> new = Losses(3e-3, 1e-6, 1.5e-10, 0, 0, 0)
    >>> worn = Losses(3e-3 * 1.7, 1e-6, 1.5e-10, 0, 0, 0)
    >>> [round(current(worn, n, 3430) / current(new, n, 3430), 2) for n in (6000, 12000, 18000, 25000)]
    [1.57, 1.47, 1.39, 1.32]
    """
    return losses.torque(rpm) * 2 * math.pi * kv / 60


def points_of(given: Inputs) -> tuple[list[NoLoad], float] | None:
    """The no-load points of a check and the KV of its fastest, rpm/V; None without one at full throttle with volts.

    At part throttle only a meter that reads the motor's own amps tells what holds the motor: the supply's are fewer.
    """
    rows = zip(
        given.values["no_load_current"], given.values["rpm"], given.values["supply_volts"], given.under, strict=True
    )
    counted = [
        (amps, rpm, volts, full)
        for amps, rpm, volts, under in rows
        if (full := at_full_throttle(under)) or under.meter == MOTOR_AMPS
    ]
    at_full = [(rpm, volts) for _, rpm, volts, full in counted if full and volts > 0]
    if not at_full:
        return None
    rpm, volts = max(at_full)
    return [NoLoad(n, amps) for amps, n, _, _ in counted if n > 0], rpm / volts


def _parts(given: Inputs) -> Losses | None:
    """Friction and what grows with the speed, by a straight line: a bearing and a shorted loop lie in it, and a check
    of four speeds compares with one of five."""
    found = points_of(given)
    return _line(tuple(found[0]), found[1]) if found else None


@lru_cache(256)
def _line(points: tuple[NoLoad, ...], kv: float) -> Losses | None:
    """Both parts come of one fit."""
    try:
        return fit(points, kv, windage=False)
    except InputError:
        return None


def friction_of_check(given: Inputs) -> Derived | None:
    """Friction and hysteresis over the settings of a check, mN·m."""
    parts = _parts(given)
    return _made(1e3 * parts.friction, 1e3 * parts.u_friction) if parts else None


def slope_of_check(given: Inputs) -> Derived | None:
    """What grows with the speed over the settings of a check, µN·m·s."""
    parts = _parts(given)
    return _made(1e6 * parts.per_speed, 1e6 * parts.u_per_speed) if parts else None


def _made(value: float, u: float) -> Derived | None:
    if value <= 0 or u > LOOSEST * value:
        return None
    return Derived(value, value, u_further=100 * u / value)


FRICTION = Quantity(
    name="friction",
    set_up=SetUp.SUPPLY,
    title="friction",
    symbol="Tc",
    unit="mN·m",
    limits=Limits(25, 60),
    repeatability=4,
    made=(
        DerivationRule(
            of="no_load_current", run=("rpm", "supply_volts"), make=friction_of_check, settings=LEAST_SPEEDS
        ),
        as_read("friction_torque"),
    ),
    same=("rig", "timing_set_deg"),
    per_kelvin=WARMTH,
    reset_by=frozenset({BEARINGS, ROTOR, TIMING, BOARD, REWOUND}),
    test=BenchTest("pull", "spin-up by settings", 60),
    relative=True,
    natural_spread=15,
    decimals=2,
    sayings=named("Friction"),
    part="bearings",
)

SPEED_LOSS = Quantity(
    name="speed_loss",
    set_up=SetUp.SUPPLY,
    title="speed-dependent loss",
    symbol="B",
    unit="µN·m·s",
    limits=Limits(40, 150),
    repeatability=5,
    made=(
        DerivationRule(of="no_load_current", run=("rpm", "supply_volts"), make=slope_of_check, settings=LEAST_SPEEDS),
        as_read("loss_slope"),
    ),
    same=("rig", "timing_set_deg"),
    per_kelvin=WARMTH,
    reset_by=frozenset({BEARINGS, ROTOR, TIMING, BOARD, REWOUND}),
    test=BenchTest("pull", "spin-up by settings", 60),
    relative=True,
    natural_spread=15,
    decimals=2,
    sayings=named("Speed-dependent loss"),
    part="winding",
)
