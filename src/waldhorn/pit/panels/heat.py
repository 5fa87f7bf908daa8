"""Temperature right after the standard run, and how it cools until two motors can be compared."""

from collections.abc import Sequence
from datetime import datetime, timedelta

from waldhorn.core import thermal
from waldhorn.core.errors import Refused
from waldhorn.core.explain import figure
from waldhorn.core.history import COOLING
from waldhorn.pit.desk import Desk, View
from waldhorn.pit.panels.panel import Panel, Values, number
from waldhorn.pit.steps import Field, Step
from waldhorn.store.models import ReadingRow
from waldhorn.store.readings import NewReading

STEP = Step(
    name="heat",
    title="Heat",
    instruction="Surface, right after the run; again while it cools.",
    caution="Hot surfaces: let it cool before you touch it.",
    fields=(
        Field("surface_c", "surface", "temperature"),
        Field("ambient_c", "air", "temperature", modest=True),
        Field("compare_c", "compare with a motor at", "temperature", optional=True, modest=True, hint="empty: air"),
    ),
    measures=("temperature",),
    quantities=("temperature",),
)


def readings(desk: Desk, values: Values, run: int) -> list[NewReading]:
    """The first reading of a check ends the standard run; the following ones show how it cools."""
    surface, ambient = number(values, "surface_c"), number(values, "ambient_c")
    if surface is None:
        return []
    first = not any(r.accepted for r in desk.rows_of(STEP))
    return [
        desk.reading("temperature", surface, 1 if first else run, ambient_c=ambient,
                     note="" if first else COOLING)
    ]  # fmt: skip


def notices(desk: Desk, values: Values) -> dict[str, tuple[str, str]]:
    """What it shall be compared with."""
    goal = number(values, "compare_c")
    return {"compare_c": (f"{goal:g}", "")} if goal is not None else {}


def cooling_of(rows: Sequence[ReadingRow]) -> tuple[thermal.Cooling, datetime] | None:
    """How it cools, and when the first reading was; None while two readings do not show it."""
    taken = sorted((r for r in rows if r.accepted and r.ambient_c is not None), key=lambda r: r.at)
    if len(taken) < 2:
        return None
    seconds = [(r.at - taken[0].at).total_seconds() for r in taken]
    try:
        return thermal.fit_cooling(seconds, [r.value for r in taken], taken[0].ambient_c or 0.0), taken[0].at
    except Refused:
        return None


def comparable_at(rows: Sequence[ReadingRow], goal: str) -> datetime | None:
    """When it can be compared with a motor at that temperature, or at air temperature."""
    found = cooling_of(rows)
    if found is None:
        return None
    cooling, start = found
    target = float(goal) if goal else cooling.ambient_c
    return start + timedelta(seconds=thermal.seconds_until(cooling, target))


def view(desk: Desk, values: Values, fresh: Sequence[NewReading]) -> View:
    """Rise, cooling, and when it is comparable."""
    rows = [r for r in desk.rows_of(STEP) if r.accepted]
    first = rows[0] if rows else None
    surface, ambient = number(values, "surface_c"), number(values, "ambient_c")
    if first is not None:
        surface, ambient = first.value, first.ambient_c
    figures, words = [], []
    if surface is not None and ambient is not None:
        inputs = {"surface_c": surface, "ambient_c": ambient}
        figures.append(figure("rise", thermal.rise(**inputs), "K", 1, thermal.rise, **inputs))
        if surface >= thermal.STOP_C:
            words.append(f"{surface:.0f} °C is past {thermal.STOP_C:g} °C: stop, let it cool.")
        elif surface >= thermal.EDGE_C:
            words.append(f"{surface:.0f} °C is at the edge for repeated pulls.")
    found = cooling_of(rows)
    goal = desk.said("compare_c")
    at = comparable_at(rows, goal)
    if found and at:
        cooling, start = found
        seconds = [(r.at - start).total_seconds() for r in rows]
        figures.append(figure("cools by 63 % in", cooling.tau_s / 60, "min", 1, thermal.fit_cooling, seconds=seconds,
                              surface_c=[r.value for r in rows], ambient_c=cooling.ambient_c))  # fmt: skip
        target = float(goal) if goal else cooling.ambient_c
        figures.append(figure("comparable in all", thermal.seconds_until(cooling, target) / 60, "min", 1,
                              thermal.seconds_until, cooling=cooling, target_c=target))  # fmt: skip
    elif rows:
        words.append("Read it again in a minute or two: two readings show when it is comparable.")
    return View(tuple(figures), tuple(words), found, {"comparable_at": at, "rows": rows})


def done(desk: Desk) -> str:
    """The temperature, and when it is comparable."""
    rows = [r for r in desk.rows_of(STEP) if r.accepted]
    if not rows:
        return ""
    at = comparable_at(rows, desk.said("compare_c"))
    return f"{rows[0].value:.0f} °C" + (f", comparable {at.astimezone():%H:%M}" if at else "")


def habits(desk: Desk) -> dict[str, str]:
    """The air as noted before."""
    ambient = desk.check.ambient_c
    return {"ambient_c": f"{ambient:g}"} if ambient is not None else {}


PANEL = Panel(STEP, view, readings, notices, done=done, habits=habits)
