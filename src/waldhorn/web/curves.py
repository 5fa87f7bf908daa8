"""The small pictures beside a step: current over timing, cooling, a speed trace, as SVG path data in a fixed box."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from waldhorn.core.timing import Pull
from waldhorn.pit.desk import View

WIDTH, HEIGHT = 340, 130
_LEFT, _RIGHT, _TOP, _BOTTOM = 44, 12, 12, 26


@dataclass(frozen=True)
class Curve:
    """A line with points on it, its axes named, and an optional goal line across."""

    title: str
    line: str
    points: list[tuple[float, float, str]]
    x_words: tuple[str, str]
    y_words: tuple[str, str]
    goal: float | None = None
    mark: float | None = None


def curve_of(step: str, view: View) -> Curve | None:
    """The picture of a step, or None for those without one."""
    if step == "set_timing" and view.picture:
        return _timing(view)
    if step == "heat" and view.picture:
        return _cooling(view)
    if step == "flywheel" and view.picture:
        seconds, rpm = view.picture
        return _trace(seconds, rpm)
    return None


class _Box:
    """Where values lie in the box."""

    def __init__(self, xs: Sequence[float], ys: Sequence[float]) -> None:
        self.x0, self.x1 = min(xs), max(max(xs), min(xs) + 1e-9)
        self.y0, self.y1 = min(ys), max(max(ys), min(ys) + 1e-9)

    def at(self, x: float, y: float) -> tuple[float, float]:
        """Pixels of a point."""
        across = _LEFT + (WIDTH - _LEFT - _RIGHT) * (x - self.x0) / (self.x1 - self.x0)
        down = HEIGHT - _BOTTOM - (HEIGHT - _TOP - _BOTTOM) * (y - self.y0) / (self.y1 - self.y0)
        return round(across, 1), round(down, 1)

    def path(self, points: Sequence[tuple[float, float]]) -> str:
        """A line through points."""
        return "M" + "L".join("{} {}".format(*self.at(x, y)) for x, y in points)


def _timing(view: View) -> Curve:
    pulls: Sequence[Pull] = view.more["pulls"]
    target, proposal = view.more["target"], view.more["proposal"]
    _, c = view.picture
    settings = [p.setting_deg for p in pulls] + ([proposal.setting_deg] if proposal else [])
    low, high = min(settings) - 2, max(settings) + 2
    middle = sum(p.setting_deg for p in pulls) / len(pulls)
    level = sum(math.log(p.amps) for p in pulls) / len(pulls)
    fitted = [(d, math.exp(level + c * (d - middle))) for d in (low + (high - low) * i / 40 for i in range(41))]
    ys = [y for _, y in fitted] + [p.amps for p in pulls] + ([target] if target else [])
    box = _Box([low, high], [min(ys) * 0.95, max(ys) * 1.05])
    points = [(*box.at(p.setting_deg, p.amps), f"{p.setting_deg:g}°: {p.amps:.2f} A") for p in pulls]
    mark = box.at(proposal.setting_deg, box.y0)[0] if proposal and not proposal.reached else None
    goal = box.at(low, target)[1] if target else None
    return Curve("no-load current over timing, with the pulls", box.path(fitted), points, (f"{low:g}°", f"{high:g}°"),
                 (f"{box.y0:.1f} A", f"{box.y1:.1f} A"), goal, mark)  # fmt: skip


def _cooling(view: View) -> Curve:
    cooling, start = view.picture
    rows, at = view.more["rows"], view.more["comparable_at"]
    times = [(r.at - start).total_seconds() for r in rows]
    end = max(max(times), (at - start).total_seconds() if at else 0.0, 60.0) * 1.05
    fitted = [(end * i / 40, cooling.at(end * i / 40)) for i in range(41)]
    ys = [y for _, y in fitted] + [r.value for r in rows] + [cooling.ambient_c]
    box = _Box([0, end], [min(ys) - 1, max(ys) + 1])
    points = [(*box.at(t, r.value), f"{t / 60:.1f} min: {r.value:.1f} °C") for t, r in zip(times, rows, strict=True)]
    mark = box.at((at - start).total_seconds(), box.y0)[0] if at else None
    return Curve("temperature while it cools", box.path(fitted), points, ("0", f"{end / 60:.0f} min"),
                 (f"{box.y0:.0f} °C", f"{box.y1:.0f} °C"), box.at(0, cooling.ambient_c)[1], mark)  # fmt: skip


def _trace(seconds: Sequence[float], rpm: Sequence[float]) -> Curve | None:
    if len(seconds) < 2:
        return None
    box = _Box(seconds, [0, max(rpm)])
    return Curve("speed over time", box.path(list(zip(seconds, rpm, strict=True))), [], ("0", f"{max(seconds):g} s"),
                 ("0", f"{max(rpm):.0f} rpm"))  # fmt: skip
