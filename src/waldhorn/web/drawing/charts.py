"""A motor over time: one lane a quantity, its baseline band, watch and act marks, events on the same axis.

Across, positions are percentages of the width, so that the lanes stretch with the page while marks and letters keep
their size; up and down they are pixels of a lane of fixed height.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from waldhorn.core.base.conditions import comparable
from waldhorn.core.base.history import Event, History
from waldhorn.core.base.vocabulary import GRAVE, EventKind
from waldhorn.core.judging.baseline import Segment
from waldhorn.core.judging.evidence import Evidence
from waldhorn.core.judging.trend import Trend
from waldhorn.core.judging.verdict import Judgement
from waldhorn.core.measuring.observations import Group
from waldhorn.core.measuring.quantity import Quantity, difference
from waldhorn.web.common.words import EVENT_WORDS, day, number, signed

HEIGHT = 60
_REACH = 1.35  # act limits from the middle to the edge of a lane
_MARGIN = 3.0  # percent left free on either side
_LEAST_BAR = 5.0
_AHEAD = 0.22  # how much of the season so far is shown of the time to come, where something creeps
_EDGE = 6.0  # pixels kept free above and below, so that a mark beyond all limits is still whole


@dataclass(frozen=True)
class Mark:
    """One check: where, how uncertain, and its words."""

    x: float
    y: float
    top: float
    tall: float
    words: str
    now: bool
    comparable: bool
    at: datetime


@dataclass(frozen=True)
class Stretch:
    """One baseline segment of a lane: where it runs and where its band and limits lie."""

    x: float
    width: float
    band_top: float
    band_tall: float
    watch: list[float]
    act: list[float]
    middle: float


@dataclass(frozen=True)
class Lane:
    """One quantity over time."""

    quantity: Quantity
    evidence: Evidence
    parts: Sequence[Segment]
    stretches: list[Stretch]
    marks: list[Mark]
    fan: str = ""
    trend: str = ""


@dataclass(frozen=True)
class Happening:
    """One event on the axis."""

    x: float
    words: str
    detail: str
    day: str
    grave: bool
    letter: str


@dataclass(frozen=True)
class Chart:
    """All lanes on one axis of time."""

    lanes: list[Lane]
    happenings: list[Happening]
    ticks: list[tuple[float, str]]
    height: int = HEIGHT


def chart(history: History, judged: Judgement) -> Chart | None:
    """The chart of a motor, or None before its first check."""
    times = [c.at for c in history.checks if c.readings]
    if not times:
        return None
    told = [e for e in history.events if e.event is not EventKind.RUN]
    start, end = min([*times, *(e.at for e in told)]), max([*times, *(e.at for e in told)])
    trends = {t.quantity: t for t in judged.trends}
    ahead = _AHEAD if any(t.kind == "creep" for t in judged.trends) else 0.0
    span = max(end - start, timedelta(hours=1)) * (1 + ahead)

    def x(at: datetime) -> float:
        return round(_MARGIN + (100 - 2 * _MARGIN) * ((at - start) / span), 2)

    a_day = _runs_a_day(history, start, end)
    lanes = [
        _with_trend(
            _lane(e, judged.segments.get(e.quantity.name, ()), x), trends.get(e.quantity.name), x, start + span, a_day
        )
        for e in judged.evidence
    ]
    letters = "abcdefghijklmnopqrstuvwxyz"
    happenings = [_happening(e, x(e.at), letters[i % 26]) for i, e in enumerate(sorted(told, key=lambda e: e.at))]
    ticks = [(x(start), day(start)), (x(end), day(end))] if end - start > timedelta(days=1) else [(x(end), day(end))]
    return Chart([lane for lane in lanes if lane.marks], happenings, ticks)


def _runs_a_day(history: History, start: datetime, end: datetime) -> float:
    runs = sum(e.count for e in history.events if e.event is EventKind.RUN)
    return runs / max((end - start).total_seconds() / 86_400, 1.0)


def _with_trend(lane: Lane, found: Trend | None, x: Callable[[datetime], float], until: datetime, a_day: float) -> Lane:
    """A lane with the wedge its creep may run in, and the trend in words."""
    if found is None or not lane.marks:
        return lane
    now = lane.marks[-1]
    last, e = now.at, lane.evidence
    days = (until - last).total_seconds() / 86_400
    fan = ""
    if found.kind == "creep" and e.change and days > 0:
        ahead = days * (a_day if found.axis == "runs" else 1.0)
        start = e.change.value
        ends = [_y(e, start + slope * ahead) for slope in (found.slope_low, found.slope_high)]
        fan = f"{now.x},{now.y} {x(until)},{ends[0]} {x(until)},{ends[1]}"
    return replace(lane, fan=fan, trend=trend_words(found, e))


_HARDLY_EVER = 10  # times as long as is likely: no number worth saying


def trend_words(found: Trend, e: Evidence) -> str:
    """A trend in one sentence."""
    axis = found.axis[:-1]
    if found.kind == "step":
        at = f"{found.step_at.day} {found.step_at:%B}" if found.step_at else "once"
        why = f", when it was {EVENT_WORDS[found.step_event]}" if found.step_event in EVENT_WORDS else ""
        return f"{e.quantity.title} jumped on {at}{why}; it does not creep."
    if found.kind == "steady":
        return ""
    words = f"{e.quantity.title} creeps {signed(found.slope, 2)} {e.quantity.change_unit} a {axis}"
    if found.creeping_since:
        words += f" since {found.creeping_since.day} {found.creeping_since:%B}"
    for name, crossed in (("watch", found.watch), ("act", found.act)):
        if crossed and crossed.likely > 0:
            told = crossed.latest is not None and crossed.latest < _HARDLY_EVER * crossed.likely
            latest = f" to {crossed.latest:.0f}" if told else " or more"
            count = f"{crossed.likely:.0f} {axis if round(crossed.likely) == 1 else found.axis}"
            words += f"; past {name} in about {count} ({crossed.earliest:.0f}{latest})"
    return words + "."


def _happening(event: Event, x: float, letter: str) -> Happening:
    grave = event.event in GRAVE
    return Happening(x, EVENT_WORDS[event.event], event.detail, day(event.at), grave, letter)


def _lane(e: Evidence, parts: Sequence[Segment], x: Callable[[datetime], float]) -> Lane:
    stretches: list[Stretch] = []
    marks: list[Mark] = []
    for number_, part in enumerate(parts):
        last = number_ == len(parts) - 1
        end = x(part.groups[-1].at) if not last else 100.0
        begin = x(part.since) if part.since else 0.0
        stretches.append(_stretch(e, begin, end))
        marks.extend(_mark(e, part, g, x(g.at), last and g is part.groups[-1]) for g in part.groups)
    return Lane(e.quantity, e, parts, stretches, marks)


def _y(e: Evidence, change: float) -> float:
    """Pixels from the top for a change; the baseline lies in the middle, or low where only a rise is bad."""
    act = e.limits.act if e.limits else 1.0
    low = -_REACH * act if e.quantity.direction <= 0 else -0.45 * act
    high = _REACH * act if e.quantity.direction >= 0 else 0.45 * act
    share = (min(max(change, low), high) - low) / (high - low)
    return round(_EDGE + (HEIGHT - 2 * _EDGE) * (1 - share), 1)


def _stretch(e: Evidence, begin: float, end: float) -> Stretch:
    watch, act = (e.limits.watch, e.limits.act) if e.limits else (0.5, 1.0)
    signs = [s for s in (-1, 1) if e.quantity.direction in (0, s)]
    top = _y(e, watch) if 1 in signs else 0.0
    bottom = _y(e, -watch) if -1 in signs else float(HEIGHT)
    return Stretch(
        begin,
        round(end - begin, 2),
        top,
        round(bottom - top, 1),
        [_y(e, s * watch) for s in signs],
        [_y(e, s * act) for s in signs],
        _y(e, 0.0),
    )


def _mark(e: Evidence, part: Segment, group: Group, x: float, now: bool) -> Mark:
    reference = part.baseline
    alike = bool(reference and reference.conditions) and comparable(
        e.quantity.same, group.conditions, (reference and reference.conditions) or group.conditions
    )
    base = 0.0 if e.quantity.absolute else reference.value if reference else 0.0
    change = difference(group.value, base, e.quantity.relative) if base or e.quantity.absolute else 0.0
    u = 1.28 * (e.repeatability or e.quantity.repeatability) / len(group.observations) ** 0.5
    top, bottom = _y(e, change + u), _y(e, change - u)
    if bottom - top < _LEAST_BAR:
        top, bottom = (top + bottom - _LEAST_BAR) / 2, (top + bottom + _LEAST_BAR) / 2
    value = f"{number(group.value, e.quantity.decimals)} {e.quantity.unit}"
    words = f"{day(group.at)}: {value}, {signed(change)} {e.quantity.change_unit}"
    if not alike:
        words += ", taken under other conditions"
    return Mark(x, _y(e, change), round(top, 1), round(bottom - top, 1), words, now, alike, group.at)


def values_table(lanes: Sequence[Lane], history: History) -> list[tuple[str, list[str]]]:
    """The same in figures: one row a check, newest first, one cell a lane."""
    at = {c.id: c.at for c in history.checks}
    rows: dict[datetime, dict[str, str]] = {}
    for lane in lanes:
        for part in lane.parts:
            for group in part.groups:
                row = rows.setdefault(at[group.check], {})
                row[lane.quantity.name] = number(group.value, lane.quantity.decimals)
    return [
        (day(when), [cells.get(lane.quantity.name, "–") for lane in lanes])
        for when, cells in sorted(rows.items(), reverse=True)
    ]
