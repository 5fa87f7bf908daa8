"""Load rows as a chart: thrust over watts with rays of equal grams per watt, the same rows over throttle or thrust."""

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from waldhorn.core.base.history import Motor
from waldhorn.core.comparing.loads import LoadRead
from waldhorn.core.measuring.load import RAYS_G_PER_W

WIDTH, HEIGHT = 760, 440
LEFT, RIGHT, TOP, BOTTOM = 64, 24, 34, 52
STYLES = 6  # marks and line styles, so that motors are told apart without colour
LINE, NAME = 16, 76  # of words in the chart: their height, and what a name takes
_TICKS = 5

Value = Callable[[LoadRead], float | None]


@dataclass(frozen=True)
class Kind:
    """What is drawn over what: its words, and where a rated limit of the motors lies on its axis across."""

    title: str
    across_words: str
    up_words: str
    across: Value
    up: Value
    limit: str = ""
    rays: bool = False


KINDS: Mapping[str, Kind] = {
    "thrust-watts": Kind(
        "thrust over watts", "watts into the motor", "thrust, g",
        lambda r: r.watts, lambda r: r.thrust_g, "rated_w", rays=True,
    ),
    "thrust-throttle": Kind(
        "thrust over throttle", "throttle, %", "thrust, g", lambda r: r.throttle_pct, lambda r: r.thrust_g,
    ),
    "amps-throttle": Kind("amps over throttle", "throttle, %", "A", lambda r: r.throttle_pct, lambda r: r.amps),
    "economy-thrust": Kind(
        "g/W over thrust", "thrust, g", "g/W", lambda r: r.thrust_g, lambda r: r.grams_per_watt,
    ),
    "rpm-throttle": Kind("rpm over throttle", "throttle, %", "rpm", lambda r: r.throttle_pct, lambda r: r.rpm),
    "rpm-watts": Kind("rpm over watts", "watts into the motor", "rpm", lambda r: r.watts, lambda r: r.rpm, "rated_w"),
}  # fmt: skip


@dataclass(frozen=True)
class Dot:
    """A row, or words: where it lies and what it says."""

    x: float
    y: float
    words: str


@dataclass(frozen=True)
class Series:
    """A motor on one propeller and pack: its line where it was read at several throttles, its dots, its style, and the
    motor's name where its last dot is."""

    motor: str
    style: int
    line: str
    dots: Sequence[Dot]
    label: Dot | None


@dataclass(frozen=True)
class Ray:
    """A line of equal grams per watt, and where its words stand."""

    x: float
    y: float
    words: str


@dataclass(frozen=True)
class LoadChart:
    """The chart in pixels of its box."""

    kind: str
    title: str
    across_words: str
    up_words: str
    series: Sequence[Series]
    across_ticks: Sequence[tuple[float, str]]
    up_ticks: Sequence[tuple[float, str]]
    rays: Sequence[Ray]
    limits: Sequence[Dot]


def kinds_of(rows: Sequence[LoadRead]) -> list[str]:
    """The charts for which there is anything to draw: two dots at least, over throttle only where it varies."""
    found = []
    for name, kind in KINDS.items():
        dots = [(x, y) for r in rows if (x := kind.across(r)) is not None and (y := kind.up(r)) is not None]
        if len(dots) > 1 and len({x for x, _ in dots}) > 1:
            found.append(name)
    return found


def load_chart(rows: Sequence[LoadRead], motors: Mapping[str, Motor], name: str) -> LoadChart:
    """These rows as a chart of this kind."""
    kind = KINDS[name]
    drawn = [(r, x, y) for r in rows if (x := kind.across(r)) is not None and (y := kind.up(r)) is not None]
    right, across_ticks = _axis(max(x for _, x, _ in drawn))
    top, up_ticks = _axis(max(y for _, _, y in drawn))

    def across(x: float) -> float:
        return round(LEFT + (WIDTH - LEFT - RIGHT) * x / right, 1)

    def down(y: float) -> float:
        return round(HEIGHT - BOTTOM - (HEIGHT - TOP - BOTTOM) * y / top, 1)

    styles = {motor: i % STYLES for i, motor in enumerate(motors)}
    by: dict[tuple[str, str, str], list[tuple[LoadRead, float, float]]] = {}
    for row, x, y in drawn:
        by.setdefault((row.motor, *row.load), []).append((row, x, y))
    series = []
    names: dict[str, Dot] = {}
    for (motor, *_), points in sorted(by.items(), key=lambda item: -max(x for _, x, _ in item[1])):
        points = sorted(points, key=lambda p: p[1])
        dots = [Dot(across(x), down(y), _words(r, kind)) for r, x, y in points]
        swept = len({r.throttle_pct for r, _, _ in points}) > 1
        line = "M" + "L".join(f"{d.x} {d.y}" for d in dots) if swept else ""
        label = None if motor in names else _clear(Dot(dots[-1].x, dots[-1].y, motor), names.values())
        if label:
            names[motor] = label
        series.append(Series(motor, styles[motor], line, dots, label))
    limits: dict[float, list[str]] = {}
    for m in motors.values():
        if kind.limit and (most := getattr(m, kind.limit)) and most < right:
            limits.setdefault(most, []).append(m.tag)
    return LoadChart(
        name,
        kind.title,
        kind.across_words,
        kind.up_words,
        series,
        [(across(v), w) for v, w in across_ticks],
        [(down(v), w) for v, w in up_ticks],
        _rays(right, top, across, down) if kind.rays else [],
        [Dot(across(v), i * LINE, f"rated, {', '.join(limits[v])}") for i, v in enumerate(sorted(limits))],
    )


def _clear(name: Dot, others: Iterable[Dot]) -> Dot:
    """A motor's name, lower where another's would lie under it."""
    others = list(others)
    while any(abs(name.x - o.x) < NAME and abs(name.y - o.y) < LINE for o in others):
        name = replace(name, y=name.y + LINE)
    return name


def _axis(most: float) -> tuple[float, list[tuple[float, str]]]:
    """The end of an axis from nought, and its round numbers."""
    rough = max(most, 1e-9) / _TICKS
    size = 10.0 ** math.floor(math.log10(rough))
    step = next(s * size for s in (1, 2, 2.5, 5, 10) if s * size >= rough)
    count = math.ceil(most / step + 0.15)
    return count * step, [(i * step, f"{i * step:g}") for i in range(1, count + 1)]


def _rays(right: float, top: float, across: Callable[[float], float], down: Callable[[float], float]) -> list[Ray]:
    found = []
    for grams in RAYS_G_PER_W:
        x = min(right, top / grams)
        found.append(Ray(across(x), down(min(top, x * grams)), f"{grams} g/W"))
    # words of rays that end close together would lie on each other
    kept: list[Ray] = []
    for ray in found:
        if all(abs(ray.x - k.x) + abs(ray.y - k.y) > 46 for k in kept):
            kept.append(ray)
    return kept


def _words(row: LoadRead, kind: Kind) -> str:
    x, y = kind.across(row), kind.up(row)
    on = " ".join(filter(None, (row.propeller, row.source)))
    return f"{row.motor}, {on}: {y:.4g} {kind.up_words.split(', ')[-1]} at {x:.4g}, {row.throttle_pct:g} %"
