"""The drawing of a motor, true to its own kind, slots and poles: geometry in, SVG path data out.

The view is along the shaft. Windings carry their phase and the direction of current by the star of slots; what is
not known is drawn dotted. Findings are written where the part is, by leader lines.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from waldhorn.core.base.history import Motor
from waldhorn.core.judging.evidence import Evidence
from waldhorn.core.measuring.measures import JUDGED
from waldhorn.core.motors.facts import impossible
from waldhorn.core.motors.winding import CoilSide, layout
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.bench.steps.step import AnyStep
from waldhorn.web.common.words import number, signed
from waldhorn.web.drawing.marks import DrawnMarks

MOST_SLOTS_DRAWN = 48


@dataclass(frozen=True)
class Wires:
    """All wires of one phase that carry current one way, as one path of circles and one of marks."""

    phase: str
    into: bool
    circles: str
    marks: str


@dataclass(frozen=True)
class Magnet:
    """One magnet face."""

    path: str
    north: bool
    x: float
    y: float


@dataclass(frozen=True)
class Leader:
    """A part's name and finding, with the line that leads to it."""

    part: str
    finding: str
    state: str
    line: str
    x: float
    y: float
    end: bool
    test: str


@dataclass(frozen=True)
class Drawing:
    """Everything the template draws, in a square of 400 around (0, 0)."""

    outrunner: bool
    title: str
    slots: str
    wires: list[Wires]
    magnets: list[Magnet]
    rings: dict[str, float]
    name_magnets: bool
    leaders: list[Leader]
    box: str
    marks: DrawnMarks


_INRUNNER: dict[str, float] = {
    "can": 190, "iron": 178, "slot_out": 160, "slot_in": 106, "bore": 97,
    "magnet_out": 88, "magnet_in": 50, "hub": 46, "shaft": 20,
}  # fmt: skip
_OUTRUNNER: dict[str, float] = {
    "can": 190, "iron": 178, "magnet_out": 176, "magnet_in": 158, "bore": 150,
    "slot_out": 138, "slot_in": 78, "hub": 56, "shaft": 18,
}  # fmt: skip


def draw(
    motor: Motor, evidence: Sequence[Evidence] = (), tall: bool = False, marks: DrawnMarks | None = None
) -> Drawing:
    """The drawing of a motor with what has been found of its parts, written beside it or above and below."""
    outrunner = motor.kind == "outrunner"
    rings = dict(_OUTRUNNER if outrunner else _INRUNNER)
    wrong = impossible(Motor(tag="x", poles=motor.poles, slots=motor.slots))
    poles = motor.poles if motor.poles and "poles" not in wrong else None
    slots = motor.slots if motor.slots and not wrong and motor.slots <= MOST_SLOTS_DRAWN else None
    sides = layout(slots, poles) if slots and poles else None
    known = f"{slots or 'unknown number of'} slots, {poles or 'unknown number of'} poles"
    return Drawing(
        outrunner=outrunner,
        title=f"{motor.kind or 'motor'} {motor.tag}".strip() + f" seen along its shaft, {known}",
        slots="".join(_slot(i, slots, rings) for i in range(slots)) if slots else "",
        wires=_wires(sides, slots, rings) if sides and slots else [],
        magnets=[_magnet(i, poles, rings) for i in range(poles)] if poles else [],
        rings=rings,
        name_magnets=(poles or 0) <= (14 if outrunner else 8),
        leaders=_leaders(motor, evidence, tall, marks or DrawnMarks()) if evidence else [],
        box=_BOX_ALONE if not evidence else _BOX_TALL if tall else _BOX_WIDE,
        marks=marks or DrawnMarks(),
    )


def _at(radius: float, turn: float) -> tuple[float, float]:
    angle = 2 * math.pi * turn - math.pi / 2
    return radius * math.cos(angle), radius * math.sin(angle)


def _point(radius: float, turn: float) -> str:
    x, y = _at(radius, turn)
    return f"{x:.1f} {y:.1f}"


def _wedge(inner: float, outer: float, start: float, end: float) -> str:
    """A piece of a ring between two turns."""
    return (
        f"M{_point(inner, start)}L{_point(outer, start)}A{outer} {outer} 0 0 1 {_point(outer, end)}"
        f"L{_point(inner, end)}A{inner} {inner} 0 0 0 {_point(inner, start)}Z"
    )


def _slot(index: int, slots: int, rings: dict[str, float]) -> str:
    half = 0.31 / slots
    return _wedge(rings["slot_in"], rings["slot_out"], index / slots - half, index / slots + half)


def _magnet(index: int, poles: int, rings: dict[str, float]) -> Magnet:
    half = 0.42 / poles
    middle = index / poles + 0.02
    x, y = _at((rings["magnet_in"] + rings["magnet_out"]) / 2, middle)
    path = _wedge(rings["magnet_in"], rings["magnet_out"], middle - half, middle + half)
    return Magnet(path, index % 2 == 0, round(x, 1), round(y, 1))


def _wires(sides: Sequence[tuple[CoilSide, CoilSide]], slots: int, rings: dict[str, float]) -> list[Wires]:
    middle = (rings["slot_in"] + rings["slot_out"]) / 2
    width = 2 * math.pi * middle * 0.62 / slots
    radius = max(2.0, min(7.0, width / 4.6))
    found: dict[tuple[str, int], tuple[list[str], list[str]]] = {}
    depth = rings["slot_out"] - rings["slot_in"]
    for index, pair in enumerate(sides):
        for place, side in enumerate(pair):
            circles, marks = found.setdefault((side.phase, side.sign), ([], []))
            for row in range(2 if slots <= 24 else 1):
                across = (place - 0.5) * width * 0.5 / middle / (2 * math.pi)
                x, y = _at(rings["slot_in"] + depth * (0.3 + 0.42 * row), index / slots + across)
                circles.append(_circle(x, y, radius))
                marks.append(_mark(x, y, radius, side.sign < 0))
    return [
        Wires(phase, sign < 0, "".join(circles), "".join(marks)) for (phase, sign), (circles, marks) in found.items()
    ]


def _circle(x: float, y: float, radius: float) -> str:
    r = f"{radius:.1f}"
    across = f"{2 * radius:.1f}"
    return f"M{x - radius:.1f} {y:.1f}a{r} {r} 0 1 0 {across} 0a{r} {r} 0 1 0 -{across} 0"


def _mark(x: float, y: float, radius: float, into: bool) -> str:
    """A cross where the current goes into the page, a point where it comes out."""
    if not into:
        return _circle(x, y, radius * 0.28)
    d = radius * 0.5
    return f"M{x - d:.1f} {y - d:.1f}l{2 * d:.1f} {2 * d:.1f}M{x - d:.1f} {y + d:.1f}l{2 * d:.1f} {-2 * d:.1f}"


_BOX_ALONE, _BOX_WIDE, _BOX_TALL = "-205 -205 410 410", "-330 -215 660 430", "-212 -302 424 604"
# part: (ring pair and turn it lies at; where its words stand, wide and tall; whether they end at the right)
_PLACES = {
    "winding": (("slot_in", "slot_out"), 0.835, (-320, -148), (-206, -276), False),
    "magnets": (("magnet_in", "magnet_out"), 0.12, (320, -160), (206, -276), True),
    "sensors": (("bore", "bore"), 0.62, (-320, 172), (-206, 246), False),
    "gap": (("bore", "magnet_out"), 0.76, (-320, 14), (-206, 186), False),
    "bearings": (("shaft", "hub"), 0.4, (320, 172), (206, 246), True),
    "shaft": (("shaft", "shaft"), 0.24, (320, 14), (206, 186), True),
}
_UNDERLINE = 108
_GRAVITY = {"past": 0, "watch": 1, "unproven": 2}
# Of each part: the quantities that speak of it, magnet strength before what it is made of, and the step that tests it.
_QUANTITIES: Mapping[str, Sequence[str]] = {
    part: [q.name for q in [*JUDGED.values()][::-1] if q.part == part] for part in _PLACES
}
_TESTS: Mapping[str, AnyStep] = {step.part: step for step in STEPS.values() if step.part}


def _leaders(motor: Motor, evidence: Sequence[Evidence], tall: bool, marks: DrawnMarks) -> list[Leader]:
    rings = _OUTRUNNER if motor.kind == "outrunner" else _INRUNNER
    by_name = {e.quantity.name: e for e in evidence if e.now is not None}
    eye = dict(marks.parts)
    leaders = []
    for part, ((inner, outer), turn, wide_at, tall_at, end) in _PLACES.items():
        if part == "sensors" and not motor.may_have_sensors:
            continue
        if tall and part in ("gap", "shaft"):
            continue
        x, y = tall_at if tall else wide_at
        known = [by_name[q] for q in _QUANTITIES[part] if q in by_name]
        found = min(known, key=lambda e: _GRAVITY.get(e.state, 3) if e.fresh else 4, default=None)
        to_x, to_y = _at((rings[inner] + rings[outer]) / 2, turn)
        elbow = x - _UNDERLINE if end else x + _UNDERLINE
        line = f"M{x} {y + 6}H{elbow}L{to_x:.0f} {to_y:.0f}"
        finding, state = _finding(part, found), found.state if found and found.fresh else "untested"
        if part in eye and state not in ("past", "watch"):
            finding, state = (
                f"{finding}, {eye[part]}" if found else eye[part],
                "past" if eye[part] == "bad" else "watch",
            )
        leaders.append(Leader(part, finding, state, line, x, y, end, _TESTS[part].name))
    return leaders


def _finding(part: str, found: Evidence | None) -> str:
    if found is None:
        return _TESTS[part].untested
    q = found.quantity
    if found.change is None:
        return "no baseline"
    if q.absolute:
        return f"{number(found.now, q.decimals)} {q.unit}"
    change = f"{signed(found.change.value)} {q.change_unit}"
    return change if q.symbol == q.change_unit else f"{q.symbol} {change}"
