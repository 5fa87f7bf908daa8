"""Pictures of a rig: the chart of a reference motor on it, and what a study of it read."""

from dataclasses import dataclass

from waldhorn.core.rigs import calibration
from waldhorn.pit.judging.between_rigs import Beside
from waldhorn.pit.rigs.rigs import Charted
from waldhorn.pit.rigs.studies import StudyView
from waldhorn.web.common.words import day

WIDTH, HEIGHT, PAD = 520, 110, 14
_LEAST_REACH = 1.5
_SCALE = 44  # room for the scale of a study
STUDY_HEIGHT = 220
FIT_WIDTH, FIT_HEIGHT = 240, 180


@dataclass(frozen=True)
class Dot:
    """One reading: where, and its words."""

    x: float
    y: float
    words: str
    out: bool = False


@dataclass(frozen=True)
class ChartDrawn:
    """The chart of one quantity of a reference motor: its line with a band, in a box of WIDTH × HEIGHT."""

    title: str
    says: str
    out: bool
    dots: list[Dot]
    line: str
    band: str
    middle: float
    first_day: str


def chart(charted: Charted) -> ChartDrawn:
    """Draw a chart: the average that remembers as a line, its limits as a band, each reading as a dot."""
    c = charted.chart
    reach = max(_LEAST_REACH, *(abs(c.averages)), *c.limits)
    count = len(c.times)

    def at(i: int, value: float) -> tuple[float, float]:
        x = PAD + (WIDTH - 2 * PAD) * (i / (count - 1) if count > 1 else 0.5)
        held = max(-1.0, min(1.0, value / reach))
        return round(x, 1), round(HEIGHT / 2 - (HEIGHT / 2 - PAD) * held, 1)

    def path(values: list[tuple[float, float]]) -> str:
        return " ".join(f"{'ML'[i > 0]}{x} {y}" for i, (x, y) in enumerate(values))

    upper = [at(i, v) for i, v in enumerate(c.limits)]
    lower = [at(i, -v) for i, v in enumerate(c.limits)]
    dots = [
        Dot(*at(i, x), f"{day(c.times[i])}: {x:+.1f} standard deviations".replace("-", "−"), bool(c.out[i]))
        for i, x in enumerate(c.changes)
    ]
    last_out = next((at for at, out in zip(reversed(c.times), reversed(c.out), strict=True) if out), None)
    open_end = bool(charted.drifted) and charted.drifted[-1].until is None
    if last_out is None:
        says = "Right."
    else:
        says = f"Out on {day(last_out)}." if open_end else f"Right again; was out on {day(last_out)}."
    return ChartDrawn(
        c.quantity.title,
        says,
        open_end,
        dots,
        path([at(i, v) for i, v in enumerate(c.averages)]),
        f"{path(upper)} L{' L'.join(f'{x} {y}' for x, y in reversed(lower))} Z",
        HEIGHT / 2,
        day(c.times[0]),
    )


@dataclass(frozen=True)
class StudyDrawn:
    """What a study read: a column a motor, a stroke a visit, a dot a run, in a box of WIDTH × STUDY_HEIGHT."""

    columns: list[tuple[float, str]]
    strokes: list[tuple[float, float, float]]
    dots: list[Dot]
    low: str
    high: str


def study(found: StudyView) -> StudyDrawn | None:
    """Draw a study, or None before anything was read."""
    every = [x for visits in found.by_motor for values in visits for x in values]
    if not every:
        return None
    low, high = min(every), max(every)
    span = (high - low) or 1.0
    wide = (WIDTH - PAD - _SCALE) / len(found.tags)

    def y(value: float) -> float:
        return round(PAD + (STUDY_HEIGHT - 50) * (1 - (value - low) / span), 1)

    columns, strokes, dots = [], [], []
    for i, (tag, visits) in enumerate(zip(found.tags, found.by_motor, strict=True)):
        columns.append((round(_SCALE + wide * (i + 0.5), 1), tag))
        for v, values in enumerate(visits):
            x = round(_SCALE + wide * (i + (v + 1) / (found.row.visits + 1)), 1)
            strokes.append((x, y(max(values)), y(min(values))))
            dots += [Dot(x, y(value), f"{tag}, visit {v + 1}: {value:g} {found.unit}") for value in values]
    return StudyDrawn(columns, strokes, dots, f"{low:g}", f"{high:g}")


@dataclass(frozen=True)
class Cross:
    """One motor on two rigs: where, its uncertainty both ways, and its words."""

    x: float
    y: float
    cross: str
    words: str


@dataclass(frozen=True)
class FitDrawn:
    """The line between two rigs with its band, in a box of FIT_WIDTH × FIT_HEIGHT."""

    title: str
    other: str
    dots: list[Cross]
    line: str
    band: str


def fit(b: Beside) -> FitDrawn:
    """Draw the same motors on both rigs and the line through them; only where there is one."""
    line = b.fitted
    if line is None:
        raise ValueError("there is no line to draw")
    xs, ys = [x for x, _ in b.pairs], [y for _, y in b.pairs]
    low, high = min(xs), max(xs)
    spread = (high - low) or 1.0
    ends = [low - 0.08 * spread, high + 0.08 * spread]
    at_ends = [calibration.translated(x, b.u[0], line) for x in ends]
    foot = min(*ys, *(y - u for y, u in at_ends))
    tall = (max(*ys, *(y + u for y, u in at_ends)) - foot) or 1.0

    def place(x: float, y: float) -> tuple[float, float]:
        across = PAD + (FIT_WIDTH - 2 * PAD) * (x - ends[0]) / (ends[1] - ends[0])
        return round(across, 1), round(FIT_HEIGHT - PAD - (FIT_HEIGHT - 2 * PAD) * (y - foot) / tall, 1)

    def path(points: list[tuple[float, float]]) -> str:
        return " ".join(f"{'ML'[i > 0]}{px} {py}" for i, (px, py) in enumerate(points))

    dots = []
    for x, y in b.pairs:
        across = path([place(x - b.u[0], y), place(x + b.u[0], y)])
        up = path([place(x, y - b.u[1]), place(x, y + b.u[1])])
        dots.append(Cross(*place(x, y), f"{across} {up}", f"{x:.4g} here, {y:.4g} on {b.other} {b.quantity.unit}"))
    upper = [place(x, y + u) for x, (y, u) in zip(ends, at_ends, strict=True)]
    lower = [place(x, y - u) for x, (y, u) in zip(ends, at_ends, strict=True)]
    middle = [place(x, y) for x, (y, _) in zip(ends, at_ends, strict=True)]
    return FitDrawn(b.quantity.title, b.other, dots, path(middle), path([*upper, *reversed(lower)]) + " Z")
