"""Setting the end bell to a current: how the current grows with the timing, and what to try next.

More timing buys speed at the top and costs current, heat and efficiency; `timing_price` says what a degree is worth.

References
----------
.. [1] Bench practice.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta
from statistics import stdev

import numpy as np

from waldhorn.core.base.conditions import at_full_throttle
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Reading
from waldhorn.core.base.vocabulary import Purpose

BEYOND_DEG = 5.0  # never propose a setting further than this beyond the pulls made [1]
KV_PER_DEG, KV_PER_DEG_U = 0.005, 0.002  # share of KV a degree of advance buys [1]
CURRENT_PER_DEG, CURRENT_PER_DEG_U = 0.05, 0.02  # growth of no-load current a degree, before pulls show it [1]
BETWEEN_METERS_U = 0.02  # of the ratio of two meters, one sigma, however well the pairs agree [1]
CURRENT_U = 0.03  # how well a pull repeats, one sigma, as a share of the current [1]
ODD_REPEAT = 4.0  # standard uncertainties of a pull: no two of one setting lie so far apart by chance
ONE_STATE = timedelta(days=30)  # so long a motor that was not touched pulls as it did [1]
_PULLS = (Purpose.TIMING_PULL, Purpose.STANDARD)
LEAST_APART_DEG = 2.0  # pulls nearer than this show nothing of the growth [1]


@dataclass(frozen=True, slots=True)
class TimingPull:
    """One pull at a timing setting: electrical degrees, A as the meter shows it, rpm (None when not read), and how many
    of the amps the controller takes for itself."""

    setting_deg: float
    amps: float
    rpm: float | None = None
    idle: float = 0.0

    @property
    def own(self) -> float:
        """What the motor itself draws, A."""
        return self.amps - self.idle


def pulls_of(readings: Sequence[Reading]) -> list[TimingPull]:
    """The pulls at full throttle among readings whose setting was noted: those of a sweep, and standard ones within a
    month of the last, before wear shows in them.

    Parameters
    ----------
    readings : sequence of Reading
        Of one motor, in any order.
    """
    pulled = [r for r in readings if r.accepted and r.purpose in _PULLS and at_full_throttle(r.conditions)]
    last = max((r.at for r in pulled), default=None)
    by: dict[object, dict[str, Reading]] = {}
    for r in pulled:
        if r.purpose is Purpose.TIMING_PULL or (last and last - r.at <= ONE_STATE):
            by.setdefault((r.purpose, r.at, r.run), {})[r.measure] = r
    found = []
    for run in by.values():
        amps, rpm, idle = (run.get(name) for name in ("no_load_current", "rpm", "idle_current"))
        if amps and amps.conditions.timing_set_deg is not None:
            setting = amps.conditions.timing_set_deg
            pull = TimingPull(setting, amps.value, rpm.value if rpm else None, idle.value if idle else 0.0)
            found += [pull] if pull.own > 0 else []
    return found


@dataclass(frozen=True, slots=True)
class Proposal:
    """The next setting in electrical degrees, whether the setting is reached, and why."""

    setting_deg: float
    reached: bool
    words: str


def odd_repeat(pulls: Sequence[TimingPull]) -> tuple[TimingPull, TimingPull] | None:
    """Two pulls at one setting that lie further apart than pulls repeat: one of them, or the setting, is wrong.

    >>> odd_repeat([TimingPull(24, 2.0), TimingPull(24, 2.05)])
    >>> odd_repeat([TimingPull(24, 2.0), TimingPull(24, 2.6)])
    (TimingPull(setting_deg=24, amps=2.0, rpm=None, idle=0.0), TimingPull(setting_deg=24, amps=2.6, rpm=None, idle=0.0))
    """
    alike = ((a, b) for i, a in enumerate(pulls) for b in pulls[i + 1 :] if a.setting_deg == b.setting_deg)
    return next((p for p in alike if abs(math.log(p[1].own / p[0].own)) > ODD_REPEAT * CURRENT_U), None)


def between_meters(mine: Sequence[TimingPull], other: Sequence[TimingPull]) -> tuple[float, float] | None:
    """What one meter shows of another, by the settings that were pulled with both.

    Parameters
    ----------
    mine, other : sequence of TimingPull
        Pulls of one motor, by one meter each.

    Returns
    -------
    (ratio, u) or None
        Amps of the one over amps of the other, no unit, with one standard uncertainty; None without a setting in
        common.

    Notes
    -----
    Formula: geometric mean of a/b over the settings in common, a and b the mean of their pulls; u = s(ratio)/√n, never
    below 2 % of it

    Source: [1]_.

    Examples
    --------
    >>> hand, analyser = [[TimingPull(10, a), TimingPull(22, b)] for a, b in ((2.60, 9.20), (1.88, 6.62))]
    >>> ratio, u = between_meters(hand, analyser)
    >>> round(ratio, 3), round(6.5 / ratio, 2), round(6.5 / ratio * u / ratio, 2)
    (1.386, 4.69, 0.09)
    """
    logs = []
    for setting in {p.setting_deg for p in mine} & {p.setting_deg for p in other}:
        one, two = ([p.amps for p in pulls if p.setting_deg == setting] for pulls in (mine, other))
        logs.append(math.log(sum(one) / len(one) / (sum(two) / len(two))))
    if not logs:
        return None
    ratio = math.exp(sum(logs) / len(logs))
    scatter = stdev(logs) / math.sqrt(len(logs)) if len(logs) > 1 else 0.0
    return ratio, ratio * max(scatter, BETWEEN_METERS_U)


def growth(pulls: Sequence[TimingPull]) -> float:
    """Growth of the no-load current a degree.

    Parameters
    ----------
    pulls : sequence of TimingPull
        Currents above 0. Less than 2° apart the usual 5 % a degree is taken.

    Returns
    -------
    float
        1/°, never under 0.5 % a degree.

    Raises
    ------
    InputError
        A current that is not above zero.

    Notes
    -----
    Formula: ln I0 = k + c·θ by least squares, u_c = 0.03/√Σ(θ − θ̄)²; the mean of c and 0.05 ± 0.02, each weighed by
    1/u²

    Source: [1]_.

    Examples
    --------
    >>> round(growth([TimingPull(20, 2.0), TimingPull(30, 2.0 * math.exp(0.4))]), 4)
    0.0404
    """
    return growth_and_u(pulls)[0]


def growth_and_u(pulls: Sequence[TimingPull]) -> tuple[float, float]:
    """Growth of the no-load current a degree, and its standard uncertainty, both 1/°; see `growth`.

    >>> growth_and_u([])
    (0.05, 0.02)
    """
    if any(p.own <= 0 for p in pulls):
        raise InputError("amps", "a pull of 0 A says nothing of how the current grows")
    settings = [p.setting_deg for p in pulls]
    if not _apart(settings):
        return CURRENT_PER_DEG, CURRENT_PER_DEG_U
    c, _ = np.polyfit(settings, [math.log(p.own) for p in pulls], 1)
    middle = sum(settings) / len(settings)
    weight = sum((s - middle) ** 2 for s in settings) / CURRENT_U**2
    usual = 1 / CURRENT_PER_DEG_U**2
    found = (float(c) * weight + CURRENT_PER_DEG * usual) / (weight + usual)
    return max(found, 0.005), 1 / math.sqrt(weight + usual)


def _apart(settings: Sequence[float]) -> bool:
    return bool(settings) and max(settings) - min(settings) >= LEAST_APART_DEG


def propose(pulls: Sequence[TimingPull], target_a: float, tolerance_a: float, resolution_deg: float = 1.0) -> Proposal:
    """The next setting on the way to a no-load current.

    Parameters
    ----------
    pulls : sequence of TimingPull, one at least
        In any order, currents above 0.
    target_a : float
        A, as the meter shows it.
    tolerance_a : float
        A, how close is close enough.
    resolution_deg : float
        electrical degrees, the finest step the end bell allows.

    Returns
    -------
    Proposal

    Raises
    ------
    InputError
        No pull yet, a pull of 0 A, or a target that is not above zero.

    Notes
    -----
    Formula: θ = θᵢ + ln(I_target / Iᵢ) / c from the nearest pull, by 2° at least while c is not shown, or between the
    two pulls that bracket the target; never more than 5° beyond the pulls made, rounded to what the end bell can be
    set to

    Source: [1]_.

    Examples
    --------
    >>> propose([TimingPull(20, 2.0), TimingPull(25, 2.5)], 3.0, 0.05).setting_deg
    29.0
    """
    if not pulls:
        raise InputError("amps", "pull once at the setting it has now: that is where the way starts")
    if any(p.own <= 0 for p in pulls):
        raise InputError("amps", "a pull of 0 A says nothing of how the current grows")
    if target_a <= 0 or resolution_deg <= 0:
        raise InputError("target", "target current and end-bell step must be above 0")
    nearest = min(pulls, key=lambda p: (abs(math.log(p.amps / target_a)), p.setting_deg))
    own_target = max(target_a - nearest.idle, target_a / 10)  # the controller's own amps do not grow with the timing
    if abs(nearest.amps - target_a) <= tolerance_a:
        return Proposal(nearest.setting_deg, True, f"{nearest.amps:.2f} A is within {tolerance_a:g} A of the target")
    below = max((p for p in pulls if p.amps < target_a), key=lambda p: p.setting_deg, default=None)
    above = min((p for p in pulls if p.amps > target_a), key=lambda p: p.setting_deg, default=None)
    if below and above and below.setting_deg < above.setting_deg:
        share = math.log(own_target / below.own) / math.log(above.own / below.own)
        wanted = below.setting_deg + share * (above.setting_deg - below.setting_deg)
        words = f"between {below.setting_deg:g}° and {above.setting_deg:g}°"
    else:
        way = math.log(own_target / nearest.own) / growth(pulls)
        words = f"current grows {100 * growth(pulls):.1f} % a degree"
        if not _apart([p.setting_deg for p in pulls]) and abs(way) < LEAST_APART_DEG:
            way = math.copysign(LEAST_APART_DEG, way)
            words += f"; two pulls {LEAST_APART_DEG:g}° apart show how it grows in this motor"
        wanted = nearest.setting_deg + way
    return _within_reach(pulls, wanted, nearest, resolution_deg, words)


def _within_reach(
    pulls: Sequence[TimingPull], wanted: float, nearest: TimingPull, resolution: float, words: str
) -> Proposal:
    settings = [p.setting_deg for p in pulls]
    low, high = min(settings) - BEYOND_DEG, max(settings) + BEYOND_DEG
    setting = round(min(max(wanted, low), high) / resolution) * resolution
    setting = min(max(setting, math.ceil(low / resolution) * resolution), math.floor(high / resolution) * resolution)
    if any(abs(setting - s) < resolution / 2 for s in settings):
        said = f"the end bell goes in steps of {resolution:g}°: {nearest.amps:.2f} A is as close as it gets"
        return Proposal(nearest.setting_deg, True, said)
    if not low <= wanted <= high:
        words += f", but no further than {BEYOND_DEG:g}° beyond the pulls made"
    return Proposal(round(setting, 3), False, words)


def knee(pulls: Sequence[TimingPull], least_rpm_per_a: float) -> float | None:
    """Where the next degree buys less than a chosen rpm per extra amp.

    Parameters
    ----------
    pulls : sequence of TimingPull
        Three or more with rpm, at different settings.
    least_rpm_per_a : float
        rpm per A.

    Returns
    -------
    float
        electrical degrees within the pulls made, or None when the knee is not among them.

    Notes
    -----
    Formula: (d rpm/dθ) / (dI0/dθ) = chosen; rpm by a straight line, a parabola from four pulls on; I0 = e^(k + c·θ)

    Source: [1]_.

    Examples
    --------
    >>> made = [TimingPull(t, 2 * math.exp(0.05 * t), 24_000 + 120 * t) for t in (0, 10, 20, 30)]
    >>> round(knee(made, 600) or 0, 1)
    13.9
    """
    full = [p for p in pulls if p.rpm is not None and p.own > 0]
    if len({p.setting_deg for p in full}) < 3 or least_rpm_per_a <= 0:
        return None
    settings = np.array([p.setting_deg for p in full])
    speed = np.polyfit(settings, [p.rpm or 0.0 for p in full], 2 if len(set(settings)) >= 4 else 1)
    c, k = np.polyfit(settings, np.log([p.own for p in full]), 1)
    degrees = np.linspace(settings.min(), settings.max(), 601)
    bought = np.polyval(np.polyder(speed), degrees) / (c * np.exp(k + c * degrees))
    under = np.flatnonzero(bought < least_rpm_per_a)
    return float(degrees[under[0]]) if len(under) and under[0] > 0 else None
