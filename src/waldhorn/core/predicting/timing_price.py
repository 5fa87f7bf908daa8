"""What a degree of timing buys and costs with a load on the shaft: rpm, amps, watts and heat.

For a motor whose constants are known at the timing it was read at. Not for setting the end bell to a no-load current
(see `timing`), and not further from the pulls than a few degrees.

References
----------
.. [1] DC-equivalent circuit of a permanent-magnet machine (see `constants`).
.. [2] Bench practice: speed grows in a straight line with the advance, the no-load current by the same share a degree.
.. [3] JCGM 100, Guide to the expression of uncertainty in measurement, 2008.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from waldhorn.core.base.errors import InputError
from waldhorn.core.comparing.equal_conditions import Price
from waldhorn.core.measuring.end_bell import KV_PER_DEG, KV_PER_DEG_U, LEAST_APART_DEG, TimingPull, growth_and_u
from waldhorn.core.predicting.constants import Constants
from waldhorn.core.predicting.operating_point import Load, Outcome, Pack, operating_point

FURTHEST_DEG = 5.0  # beyond the pulls nobody has looked [2]
MOST_HEAT = 1.25  # of the heat now: a motor that was warm is hot with more [2]
LEAST_GAIN = 0.0005  # of the speed, that a step must buy [2]
SPEED_U = 0.003  # how well the speed of a pull repeats, one sigma, as a share [2]
FIGURES = ("rpm", "amps", "watts_out", "efficiency", "heat_w")


@dataclass(frozen=True, slots=True)
class Slopes:
    """How speed and no-load current grow with a degree of advance."""

    speed: Price
    current: Price


def slopes_of(pulls: Sequence[TimingPull]) -> Slopes:
    """How a motor answers to its end bell, from its own sweep as far as that tells.

    Parameters
    ----------
    pulls : sequence of TimingPull
        At several settings, at one voltage; none at all gives what is usual.

    Returns
    -------
    Slopes

    Notes
    -----
    Formula: ln n = k + s·θ by least squares, u_s = 0.003/√Σ(θ − θ̄)²; the mean of s and 0.005 ± 0.002, each weighed by
    1/u²; the current as `timing.growth`

    Source: [2]_, [3]_.

    Examples
    --------
    >>> found = slopes_of([TimingPull(20, 2.0, 25_000), TimingPull(30, 3.0, 26_500)])
    >>> round(found.speed.per_deg, 4), round(found.current.per_deg, 3)
    (0.0058, 0.041)
    """
    turned = [(p.setting_deg, p.rpm) for p in pulls if p.rpm]
    settings = np.array([deg for deg, _ in turned])
    current = Price(*growth_and_u([p for p in pulls if p.amps > 0]))
    if len(turned) < 2 or np.ptp(settings) < LEAST_APART_DEG:
        return Slopes(Price(KV_PER_DEG, KV_PER_DEG_U), current)
    slope, _ = np.polyfit(settings, [math.log(rpm) for _, rpm in turned], 1)
    weight = float(((settings - settings.mean()) ** 2).sum()) / SPEED_U**2
    usual = 1 / KV_PER_DEG_U**2
    found = (float(slope) * weight + KV_PER_DEG * usual) / (weight + usual)
    return Slopes(Price(found, 1 / math.sqrt(weight + usual)), current)


def further_on(constants: Constants, by_deg: float, slopes: Slopes) -> Constants:
    """The constants of a motor whose end bell is turned.

    Parameters
    ----------
    constants : Constants
    by_deg : float
        Electrical degrees further on; below 0 back.
    slopes : Slopes

    Returns
    -------
    Constants

    Notes
    -----
    Formula: Kv·(1 + s·Δθ), I0·e^(c·Δθ)

    Source: [2]_.

    Examples
    --------
    >>> found = further_on(Constants(0.016, 3400, 2.0, 0, 0), 2, Slopes(Price(0.005, 0), Price(0.05, 0)))
    >>> round(found.kv), round(found.no_load_a, 2)
    (3434, 2.21)
    """
    idle = constants.no_load_a * math.exp(slopes.current.per_deg * by_deg)
    turned = constants.no_load and constants.no_load.times(idle / constants.no_load_a)
    return replace(constants, kv=constants.kv * (1 + slopes.speed.per_deg * by_deg), no_load_a=idle, no_load=turned)


def over_timing(
    constants: Constants, pack: Pack, load: Load, slopes: Slopes, degrees: Sequence[float]
) -> list[tuple[float, Outcome]]:
    """What comes out with the end bell turned, by electrical degrees further on; what cannot turn is left out.

    Parameters
    ----------
    constants : Constants
    pack : Pack
    load : Load
    slopes : Slopes
        What a degree costs.
    degrees : sequence of float
        Electrical degrees further on.
    """
    found = []
    for deg in degrees:
        try:
            found.append((deg, operating_point(further_on(constants, deg, slopes), pack, load)))
        except InputError:
            continue
    return found


def of_a_degree(constants: Constants, pack: Pack, load: Load, slopes: Slopes) -> dict[str, tuple[float, float]]:
    """What one degree more buys and costs.

    Parameters
    ----------
    constants : Constants
    pack : Pack
    load : Load
    slopes : Slopes

    Returns
    -------
    dict of str to (float, float)
        By figure of an outcome, its change a degree and one standard uncertainty.

    Raises
    ------
    InputError
        The pack cannot turn it.

    Notes
    -----
    Formula: (x(+½°) − x(−½°)), u² = (∂/∂s·u_s)² + (∂/∂c·u_c)²

    Source: [1]_, [3]_.
    """

    def change(by: Slopes) -> dict[str, float]:
        low, high = (operating_point(further_on(constants, deg, by), pack, load) for deg in (-0.5, 0.5))
        return {name: getattr(high, name) - getattr(low, name) for name in FIGURES}

    speed, current = slopes.speed, slopes.current
    middle = change(slopes)
    faster = change(Slopes(Price(speed.per_deg + speed.u, 0.0), current))
    thirstier = change(Slopes(speed, Price(current.per_deg + current.u, 0.0)))
    return {n: (x, math.hypot(faster[n] - x, thirstier[n] - x)) for n, x in middle.items()}


@dataclass(frozen=True, slots=True)
class Suggested:
    """A setting for a use, in electrical degrees further on than now, what comes out there, and what keeps it from
    going further: "range" where nobody has looked further, "best" at an optimum, "no_faster", or the figure of an
    outcome that is too high."""

    by_deg: float
    outcome: Outcome
    held_by: str


def suggest(course: Sequence[tuple[float, Outcome]], ratings: dict[str, float]) -> tuple[Suggested, Suggested] | None:
    """Settings for economy and for top speed.

    Parameters
    ----------
    course : sequence of (float, Outcome)
        What comes out by degrees further on, 0 among them.
    ratings : dict of str to float
        What the maker allows of figures of an outcome.

    Returns
    -------
    tuple of Suggested, or None
        For economy the most efficient, which is an optimum only where the course goes on beyond it on both sides; for
        top speed the furthest of which every step buys speed, that passes no rating
        and is no more than a quarter hotter than now. None without a course through now.

    Notes
    -----
    Formula: max η; max n with n ≤ rated and heat ≤ 1.25·heat now

    Source: [2]_.
    """
    now = next((o for deg, o in course if deg == 0), None)
    if now is None or len(course) < 2:
        return None
    thrifty = max(course, key=lambda one: (round(one[1].efficiency, 4), -abs(one[0])))
    fastest, held = (0.0, now), ""
    for deg, outcome in (one for one in course if one[0] > 0):
        over = [name for name, most in ratings.items() if getattr(outcome, name) > most]
        if over or outcome.heat_w > MOST_HEAT * now.heat_w:
            held = over[0] if over else "heat_w"
            break
        if outcome.rpm < fastest[1].rpm * (1 + LEAST_GAIN):
            held = "no_faster"
            break
        fastest = (deg, outcome)
    inner = course[0][0] < thrifty[0] < course[-1][0]
    return Suggested(*thrifty, "best" if inner else "range"), Suggested(*fastest, held or "range")
