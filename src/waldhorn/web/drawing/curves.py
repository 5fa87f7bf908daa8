"""The small pictures beside a step, as SVG path data in a fixed box."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from waldhorn.pit.bench.steps.step import Curve

WIDTH, HEIGHT = 340, 130
CLOSE = 46  # two words lie on each other
LEFT, RIGHT, TOP, BOTTOM = 44, 12, 12, 26


@dataclass(frozen=True)
class DrawnCurve:
    """A line with points on it, its axes named, and an optional goal across, mark along and line as it was, where rays
    from nought end, in pixels of the box."""

    title: str
    line: str
    points: list[tuple[float, float, str]]
    x_words: tuple[str, str]
    y_words: tuple[str, str]
    goal: float | None
    mark: float | None
    beyond: str
    before: str
    named: bool
    rays: list[tuple[float, float, str]]


def drawn_curve(curve: Curve) -> DrawnCurve:
    """A curve in pixels."""

    def across(x: float) -> float:
        low, high = curve.x_range
        return round(LEFT + (WIDTH - LEFT - RIGHT) * (x - low) / max(high - low, 1e-9), 1)

    def down(y: float) -> float:
        low, high = curve.y_range
        return round(HEIGHT - BOTTOM - (HEIGHT - TOP - BOTTOM) * (y - low) / max(high - low, 1e-9), 1)

    edge = curve.beyond if curve.beyond is not None else math.inf
    near = [(x, y) for x, y in curve.line if x <= edge]
    far = [*near[-1:], *((x, y) for x, y in curve.line if x > edge)]

    def path(through: Sequence[tuple[float, float]]) -> str:
        return "M" + "L".join(f"{across(x)} {down(y)}" for x, y in through) if len(through) > 1 else ""

    points = [(across(x), down(y), words) for x, y, words in curve.points]
    goal = down(curve.goal) if curve.goal is not None else None
    mark = across(curve.mark) if curve.mark is not None else None
    return DrawnCurve(
        curve.title,
        path(near),
        points,
        curve.x_words,
        curve.y_words,
        goal,
        mark,
        path(far),
        path(curve.before),
        curve.named,
        _rays(curve, across, down),
    )


def _rays(
    curve: Curve, across: Callable[[float], float], down: Callable[[float], float]
) -> list[tuple[float, float, str]]:
    """Where each ray leaves the picture, those that end close to one before left out."""
    right, top = curve.x_range[1], curve.y_range[1]
    kept: list[tuple[float, float, str]] = []
    for slope, words in curve.rays:
        x = min(right, top / slope)
        end = (across(x), down(x * slope), words)
        if all(abs(end[0] - a) + abs(end[1] - b) > CLOSE for a, b, _ in kept):
            kept.append(end)
    return kept
