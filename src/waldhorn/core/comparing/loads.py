"""Load rows side by side: which motor makes more thrust on the same propeller and pack, for how many watts, and where
two curves cross.

A row is the same load where propeller and pack agree. Nothing is drawn on beyond the rows that were read.

References
----------
.. [1] Fritsch, Carlson, Monotone Piecewise Cubic Interpolation, SIAM J. Numer. Anal. 17 (1980).
.. [2] Bench practice: a stand shows thrust to two in a hundred from one mounting of the propeller to the next.
"""

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cached_property
from itertools import combinations, pairwise
from statistics import NormalDist, median, stdev
from typing import Any

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.base.conditions import FULL_THROTTLE_PCT, at_full_throttle
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import History, Reading
from waldhorn.core.base.text import key_of
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.core.measuring import load
from waldhorn.core.measuring.propellers import Known, named

MOUNTING_PCT = 2.0  # one sigma of thrust and of watts, of one row against the next time [2]
LEAST_FOR_SCATTER = 3
SURE = 0.9
LIKE_VOLTS = 0.03
_SAMPLES = 400
Floats = NDArray[np.float64]
_READ = {
    "rest_volts": "rest_volts",
    "volts": "load_volts",
    "amps": "load_current",
    "watts_shown": "load_watts",
    "rpm": "load_rpm",
    "thrust_g": "thrust",
    "surface_c": "temperature",
}


@dataclass(frozen=True, slots=True)
class LoadRead:
    """One row as read: the propeller by its one name and as it was written, pack, cells, throttle in percent; V at rest
    and under load, A, W as shown and as counted, rpm, thrust in g. What was not read is None; `sure` where its name
    can be read in one way only."""

    motor: str
    propeller: str
    written: str
    pack: str
    cells: int | None
    throttle_pct: float
    at: datetime | None = None
    diameter: float | None = None
    rest_volts: float | None = None
    volts: float | None = None
    amps: float | None = None
    watts_shown: float | None = None
    watts: float | None = None
    rpm: float | None = None
    thrust_g: float | None = None
    surface_c: float | None = None
    sure: bool = True

    @property
    def source(self) -> str:
        """What drove it: the cells where they are known, else the pack's name."""
        return f"{self.cells}S" if self.cells else " ".join(self.pack.split())

    @property
    def load(self) -> tuple[str, str]:
        """Rows of one load have the same."""
        return self.propeller, self.source.casefold()

    @property
    def grams_per_watt(self) -> float | None:
        """g/W, where both were read."""
        return load.grams_per_watt(self.thrust_g, self.watts) if self.thrust_g and self.watts else None

    @property
    def full(self) -> bool:
        """Whether it was read at full throttle."""
        return self.throttle_pct >= FULL_THROTTLE_PCT - 3


def rows_of(
    history: History, propellers: Known | None = None, packs: Mapping[str, float] | None = None
) -> list[LoadRead]:
    """The load rows of a motor that count, in the order they were read.

    Parameters
    ----------
    history : History
    propellers : mapping of str to Propeller, optional
        By what names the pit knows them.
    packs : mapping of str to float, optional
        The cells of the pit's packs, by `key_of` of their name.

    Returns
    -------
    list of LoadRead
        Runs of one check on one propeller, pack and throttle are rows of their own.
    """
    found = []
    for check in sorted(history.checks, key=lambda c: c.at):
        by: dict[tuple[object, ...], list[Reading]] = {}
        for r in check.readings:
            if r.accepted and r.purpose is Purpose.LOAD:
                c = r.conditions
                by.setdefault((r.run, c.on_shaft, c.throttle_pct, c.pack, c.cells), []).append(r)
        found += [_row(history.motor.tag, run, propellers or {}, packs or {}) for run in by.values()]
    return found


@dataclass(frozen=True, slots=True)
class PackUnsaid:
    """A motor whose rows lack the pack that others drove the same propeller with: how many rows, and which pack."""

    motor: str
    rows: int
    source: str


def packs_unsaid(rows: Sequence[LoadRead]) -> list[PackUnsaid]:
    """The motors that no pack is said of, beside others of which it is: where these agree on one pack.

    Parameters
    ----------
    rows : sequence of LoadRead
        Of all the motors.
    """
    found = []
    for motor in dict.fromkeys(r.motor for r in rows):
        bare = [r for r in rows if r.motor == motor and not r.source]
        driven = {r.propeller for r in bare}
        sources = {r.source for r in rows if r.motor != motor and r.propeller in driven and r.source}
        if len(sources) == 1:
            found.append(PackUnsaid(motor, len(bare), *sources))
    return found


def _row(motor: str, run: Sequence[Reading], propellers: Known, packs: Mapping[str, float]) -> LoadRead:
    under, by = run[0].conditions, {r.measure: r.value for r in run}
    known = {name: by.get(measure) for name, measure in _READ.items()}
    on_shaft = named(under.on_shaft, propellers)
    throttle = FULL_THROTTLE_PCT if at_full_throttle(under) or under.throttle_pct is None else under.throttle_pct
    said = under.cells or on_shaft.cells or packs.get(key_of(under.pack))
    cells = round(said) if said else None
    watts = load.power(load.LoadRow("", None, known["volts"], known["amps"], known["watts_shown"]))
    return LoadRead(
        motor,
        on_shaft.name,
        under.on_shaft,
        under.pack,
        cells,
        throttle,
        run[0].at,
        on_shaft.diameter,
        watts=watts,
        sure=on_shaft.sure,
        **known,
    )


@dataclass(frozen=True, slots=True)
class LoadDifference:
    """Two motors on the same load at full throttle, the second less the first: thrust as read and brought to the
    first's volts (None: not known how), g; its uncertainty, g; percent of the first; how probable it is that the second
    makes more; amps, watts and rpm where both were read; by how much the second turns faster, percent of their mean,
    and the mean watts of the two; `rows` are those it was taken from."""

    propeller: str
    pack: str
    motors: tuple[str, str]
    thrust_g: float | None
    at_equal_volts_g: float | None
    u: float | None
    per_cent_of_first: float | None
    p: float | None
    volts: tuple[float | None, float | None] = (None, None)
    amps: float | None = None
    watts: float | None = None
    rpm: float | None = None
    diameter: float | None = None
    faster_pct: float | None = None
    mean_watts: float | None = None
    rows: tuple[LoadRead, LoadRead] | None = None

    @property
    def telling_g(self) -> float | None:
        """The thrust that is judged: at equal volts where it is known, else as read."""
        return self.thrust_g if self.at_equal_volts_g is None else self.at_equal_volts_g


@dataclass(frozen=True, slots=True)
class LoadCrossing:
    """Where two motors on one propeller need the same watts: at which thrust, g, with its uncertainty; above it the one
    named `above` needs less."""

    propeller: str
    motors: tuple[str, str]
    at_thrust_g: float
    u: float
    above: str


Speed = Callable[[LoadRead, float], float | None]  # share of its speed that a row would have at other volts


def full_rows(rows: Iterable[LoadRead]) -> dict[tuple[str, str], list[LoadRead]]:
    """Rows at full throttle by load."""
    by: dict[tuple[str, str], list[LoadRead]] = {}
    for row in rows:
        if row.full:
            by.setdefault(row.load, []).append(row)
    return by


def middle(rows: Sequence[LoadRead]) -> LoadRead:
    """Rows of one load as one: the median of what was read of each."""

    def of(name: str) -> float | None:
        known = [v for r in rows if (v := getattr(r, name)) is not None]
        return median(known) if known else None

    values: dict[str, Any] = {name: of(name) for name in (*_READ, "watts")}
    return replace(rows[-1], **values)


def near(rows: Sequence[LoadRead], volts: float | None) -> list[LoadRead]:
    """Those of these rows that were read at about these volts, all where volts were not read.

    Parameters
    ----------
    rows : sequence of LoadRead
        Rows read under load.
    volts : float or None
        V; None where they were not read.
    """
    if volts is None:
        return list(rows)
    return [r for r in rows if r.volts is None or abs(r.volts / volts - 1) <= LIKE_VOLTS]


def latest(rows: Sequence[LoadRead]) -> LoadRead:
    """Rows of one load as one, at the volts of the last."""
    return middle(near(rows, rows[-1].volts))


def at_like_volts(
    first: Sequence[LoadRead], second: Sequence[LoadRead]
) -> tuple[Sequence[LoadRead], Sequence[LoadRead]]:
    """The rows of two motors on one load that lie nearest in volts: a pack that was half empty is another load.

    Parameters
    ----------
    first, second : sequence of LoadRead
    """
    pairs = [(abs(math.log(a.volts / b.volts)), a.volts, b.volts) for a in first for b in second if a.volts and b.volts]
    if not pairs:
        return first, second
    _, one, two = min(pairs)
    return near(first, one), near(second, two)


def scatter_g(rows: Sequence[LoadRead]) -> float:
    """How well the thrust of a load is known, one sigma, g: by its own repeats where there are enough, never better
    than one mounting of the propeller.

    >>> round(scatter_g([LoadRead("A", "6 x 4", "", "", 3, 100, thrust_g=1000)]), 1)
    20.0
    """
    read = [r.thrust_g for r in rows if r.thrust_g]
    if not read:
        return 0.0
    mounting = MOUNTING_PCT / 100 * median(read)
    return max(mounting, stdev(read)) if len(read) >= LEAST_FOR_SCATTER else mounting


def difference(
    first: Sequence[LoadRead], second: Sequence[LoadRead], faster: Mapping[str, Speed] | None = None
) -> LoadDifference:
    """How two motors differ on one load.

    Parameters
    ----------
    first, second : sequence of LoadRead
        Rows of each on the load, at full throttle.
    faster : mapping of motor to Speed or None
        How a motor's speed changes with its volts, where that is known.

    Returns
    -------
    LoadDifference

    Notes
    -----
    Formula: T₂ − T₁; at equal volts T₂·(n(V₁)/n(V₂))² − T₁; p = Φ(d/u), u² = u(T₁)² + u(T₂)²

    Source: [2]_; a fixed propeller's thrust goes with the square of its speed.

    Examples
    --------
    >>> a, b = (LoadRead(m, "6 x 4.5", "", "", 3, 100, volts=v, thrust_g=t) for m, v, t in
    ...         (("A", 11.0, 1180), ("B", 11.0, 1070)))
    >>> found = difference([a], [b])
    >>> found.thrust_g, round(found.u, 1), round(found.per_cent_of_first, 1), found.p < 0.001
    (-110, 31.9, -9.3, True)
    """
    one, two = (middle(rows) for rows in at_like_volts(first, second))
    thrust = at_equal = u = per_cent = p = None
    if one.thrust_g and two.thrust_g:
        thrust = two.thrust_g - one.thrust_g
        u = math.hypot(scatter_g(first), scatter_g(second))
        per_cent = 100 * thrust / one.thrust_g
        if one.volts and two.volts:
            speed = (faster or {}).get(two.motor)
            share = speed(two, one.volts) if speed else None
            at_equal = thrust if one.volts == two.volts else None
            if share:
                at_equal = two.thrust_g * share**2 - one.thrust_g
        p = NormalDist().cdf((thrust if at_equal is None else at_equal) / u) if u else None
    less = {
        name: b - a
        for name in ("amps", "watts", "rpm")
        if (a := getattr(one, name)) is not None and (b := getattr(two, name)) is not None
    }
    mean_watts = (one.watts + two.watts) / 2 if one.watts and two.watts else None
    faster_pct = 200 * (two.rpm - one.rpm) / (two.rpm + one.rpm) if one.rpm and two.rpm else None
    return LoadDifference(
        one.propeller,
        one.source,
        (one.motor, two.motor),
        thrust,
        at_equal,
        u,
        per_cent,
        p,
        (one.volts, two.volts),
        diameter=one.diameter,
        faster_pct=faster_pct,
        mean_watts=mean_watts,
        rows=(one, two),
        **less,
    )


LEAST_FASTER_PCT = 0.5


def closes(found: Sequence[LoadDifference]) -> float | None:
    """By what share the lead of the faster of two is smaller under their heaviest load than under their lightest: a
    faster winding falls off more, through the current it draws. None with fewer than two loads, or no lead to begin
    with.

    >>> light = LoadDifference("6 x 4", "3S", ("A", "B"), None, None, None, None, None, faster_pct=4.0, mean_watts=120)
    >>> closes([light, replace(light, faster_pct=1.0, mean_watts=200)])
    0.75
    """
    known = sorted((d.mean_watts, d.faster_pct) for d in found if d.mean_watts and d.faster_pct is not None)
    if len(known) < 2 or abs(known[0][1]) < LEAST_FASTER_PCT:
        return None
    return 1 - known[-1][1] / known[0][1]


def differences(
    by_motor: Mapping[str, Sequence[LoadRead]], faster: Mapping[str, Speed] | None = None
) -> list[LoadDifference]:
    """All that two of these motors drove alike at full throttle, in the order of the propellers.

    Parameters
    ----------
    by_motor : mapping of str to sequence of LoadRead
        Rows by tag.
    faster : mapping of str to callable or None
        By tag: what a motor's speed would be at other volts, rpm.

    Examples
    --------
    >>> differences({"A": [LoadRead("A", "6 x 4", "", "", 3, 100)], "B": [LoadRead("B", "6 x 4", "", "", 4, 100)]})
    []
    """
    full = {motor: full_rows(rows) for motor, rows in by_motor.items()}
    found = [
        difference(full[a][on], full[b][on], faster)
        for a, b in combinations(full, 2)
        for on in full[a]
        if on in full[b]
    ]
    return sorted(found, key=lambda d: (d.diameter or math.inf, d.propeller, d.pack))


@dataclass(frozen=True)
class ThrottleCurve:
    """What a motor does with one propeller and pack over its throttle, between the settings that were read: percent, g
    and W, rising."""

    motor: str
    propeller: str
    source: str
    throttle_pct: tuple[float, ...]
    thrust_g: tuple[float, ...]
    watts: tuple[float, ...]

    def throttle_at(self, thrust_g: float) -> float:
        """Throttle that makes this thrust.

        Parameters
        ----------
        thrust_g : float
            g.

        Returns
        -------
        float
            percent.

        Raises
        ------
        InputError
            It lies outside the rows read.

        Notes
        -----
        Formula: monotone cubic through the rows (PCHIP), solved for the thrust

        Source: [1]_.

        Examples
        --------
        >>> rows = ThrottleCurve("A", "6 x 4", "4S", (25, 50, 75, 100), (120, 330, 620, 900), (12, 42, 98, 170))
        >>> round(rows.throttle_at(300), 1), round(rows.watts_at(300), 1)
        (46.9, 37.2)
        """
        if not self.thrust_g[0] <= thrust_g <= self.thrust_g[-1]:
            raise InputError(
                "thrust",
                f"{thrust_g:.0f} g lies outside what was read of {self.motor}: "
                f"{self.thrust_g[0]:.0f} to {self.thrust_g[-1]:.0f} g",
            )
        ends = self.throttle_pct[0], self.throttle_pct[-1]
        for at, read in zip(ends, (self.thrust_g[0], self.thrust_g[-1]), strict=True):
            if thrust_g == read:
                return at
        from scipy.optimize import brentq

        return float(brentq(lambda at: float(self._thrust(at)) - thrust_g, *ends))

    def watts_at(self, thrust_g: float) -> float:
        """Watts that make this thrust; see `throttle_at`."""
        return float(self._power(self.throttle_at(thrust_g)))

    def sampled(self, thrust_g: Floats) -> Floats:
        """Watts for many thrusts within the rows at once, read off the curve at so many points that no stand tells."""
        found: Floats = np.interp(thrust_g, *self._samples)
        return found

    @cached_property
    def _samples(self) -> tuple[Floats, Floats]:
        at = np.linspace(self.throttle_pct[0], self.throttle_pct[-1], _SAMPLES)
        return self._thrust(at), self._power(at)

    @cached_property
    def _thrust(self) -> Any:
        return _monotone(self.throttle_pct, self.thrust_g)

    @cached_property
    def _power(self) -> Any:
        return _monotone(self.throttle_pct, self.watts)


def _monotone(x: Sequence[float], y: Sequence[float]) -> Any:
    from scipy.interpolate import PchipInterpolator  # half a second to load, which most pages do without

    return PchipInterpolator(x, y)


def throttle_curve(rows: Iterable[LoadRead]) -> ThrottleCurve | None:
    """The rows of one motor, propeller and pack as a curve; None with fewer than two settings, or where more throttle
    did not make more thrust and watts."""
    by: dict[float, list[LoadRead]] = {}
    for row in rows:
        if row.thrust_g and row.watts:
            by.setdefault(row.throttle_pct, []).append(row)
    points = [middle(by[t]) for t in sorted(by)]
    if len(points) < 2:
        return None
    thrust, watts = tuple(r.thrust_g or 0.0 for r in points), tuple(r.watts or 0.0 for r in points)
    if any(b <= a for one in (thrust, watts) for a, b in pairwise(one)):
        return None
    return ThrottleCurve(points[0].motor, points[0].propeller, points[0].source, tuple(sorted(by)), thrust, watts)


def curves(rows: Iterable[LoadRead]) -> list[ThrottleCurve]:
    """Every curve of these rows, motor by motor."""
    by: dict[tuple[str, str, str], list[LoadRead]] = {}
    for row in rows:
        by.setdefault((row.motor, *row.load), []).append(row)
    return [found for mine in by.values() if (found := throttle_curve(mine))]


_STEPS = 60


def crossing(first: ThrottleCurve, second: ThrottleCurve) -> LoadCrossing | None:
    """Where two motors on one propeller need the same watts for the same thrust; None where their curves do not meet
    within what was read of both, or differ by no more than they can be read.

    Parameters
    ----------
    first, second : ThrottleCurve

    Notes
    -----
    Formula: W₁(T) = W₂(T); u(T) = √2·u(W)/|d(W₂ − W₁)/dT|, no less than the mounting and no more than the rows reach

    Source: [1]_, [2]_.
    """
    low = max(first.thrust_g[0], second.thrust_g[0])
    high = min(first.thrust_g[-1], second.thrust_g[-1])
    if not low < high:
        return None

    def apart(thrust: float) -> float:
        return second.watts_at(thrust) - first.watts_at(thrust)

    grid = np.linspace(low, high, _STEPS + 1)
    watts = first.sampled(grid)
    values = second.sampled(grid) - watts
    telling = np.abs(values) > math.sqrt(2) * MOUNTING_PCT / 100 * watts
    at = next((i for i in range(_STEPS) if values[i] * values[i + 1] < 0), None)
    # curves that differ by no more than they can be read cross anywhere
    if at is None or not (any(telling[: at + 1]) and any(telling[at + 1 :])):
        return None
    from scipy.optimize import brentq

    near, far = (float(grid[i]) for i in (max(at - 1, 0), min(at + 2, _STEPS)))
    thrust = float(brentq(apart, near, far)) if apart(near) * apart(far) < 0 else float(grid[at])
    slope = float(abs(values[at + 1] - values[at]) / (grid[at + 1] - grid[at]))
    u_watts = math.sqrt(2) * MOUNTING_PCT / 100 * first.watts_at(thrust)
    u = min(high - low, max(u_watts / slope, MOUNTING_PCT / 100 * thrust))
    above = first.motor if values[at + 1] > 0 else second.motor
    return LoadCrossing(first.propeller, (first.motor, second.motor), thrust, u, above)


def crossings(found: Sequence[ThrottleCurve]) -> list[LoadCrossing]:
    """Every crossing of two motors on one propeller and pack."""
    pairs = (
        (a, b)
        for a, b in combinations(found, 2)
        if a.motor != b.motor and (a.propeller, a.source.casefold()) == (b.propeller, b.source.casefold())
    )
    return [c for a, b in pairs if (c := crossing(a, b))]


@dataclass(frozen=True, slots=True)
class Hover:
    """A machine held in the air: thrust to weight, and for each motor the throttle, W, and how long a pack lasts; None
    where nothing was read there."""

    thrust_to_weight: float
    throttle_pct: float | None
    watts: float | None
    minutes: float | None


KEPT_BACK = 0.2  # of a pack


def hover(
    curve: ThrottleCurve | None, most_g: float, mass_g: float, motors: int, watt_hours: float | None = None
) -> Hover:
    """What motors of a kind do in a machine of a given mass.

    Parameters
    ----------
    curve : ThrottleCurve or None
    most_g : float
        g, thrust of one at full throttle.
    mass_g : float
        g, of the machine as it flies.
    motors : int
    watt_hours : float or None
        Wh of the pack.

    Returns
    -------
    Hover

    Notes
    -----
    Formula: m/N of each motor from its curve; t = 60·E·(1 − 0.2)/(N·W), a fifth of the pack kept back

    Source: [2]_.

    Examples
    --------
    >>> rows = ThrottleCurve("A", "6 x 4", "4S", (25, 50, 75, 100), (120, 330, 620, 900), (12, 42, 98, 170))
    >>> found = hover(rows, 900, 1200, 4, 1.5 * 14.8)
    >>> found.thrust_to_weight, round(found.throttle_pct, 1), round(found.watts, 1), round(found.minutes, 1)
    (3.0, 46.9, 37.2, 7.2)
    """
    if not (mass_g > 0 and motors > 0):
        raise InputError("mass", "a machine weighs something and has a motor")
    share = mass_g / motors
    try:
        throttle = curve.throttle_at(share) if curve else None
        watts = curve.watts_at(share) if curve else None
    except InputError:
        throttle = watts = None
    minutes = 60 * watt_hours * (1 - KEPT_BACK) / (motors * watts) if watts and watt_hours else None
    return Hover(motors * most_g / mass_g, throttle, watts, minutes)
