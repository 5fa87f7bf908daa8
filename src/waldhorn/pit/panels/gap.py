"""The gap around the clock, read with the feeler: run-out and where it opens."""

from collections.abc import Sequence

from waldhorn.core import gap
from waldhorn.core.errors import Refused
from waldhorn.core.explain import figure
from waldhorn.pit.desk import Desk, View
from waldhorn.pit.panels.panel import Panel, Values, numbers
from waldhorn.pit.steps import Field, Step
from waldhorn.store.readings import NewReading

STEP = Step(
    name="gap",
    title="Gap",
    instruction="Feeler at four or more places around: type the gaps in a row.",
    caution="Pack unplugged. Do not force the feeler: it chips magnets.",
    fields=(
        Field("gaps", "gaps, mm", "gap", many=True, hint="0.6 0.58 0.62 0.6"),
        Field("angles", "at clock angles, °", dimension="angle", low=-360, high=720, many=True, optional=True,
              hint="empty: evenly around", modest=True),
    ),
    measures=("gap",),
    quantities=("run_out",),
)  # fmt: skip


def _placed(values: Values) -> tuple[list[float], list[float]]:
    gaps, angles = numbers(values, "gaps"), numbers(values, "angles")
    return gaps, angles or [360 * i / len(gaps) for i in range(len(gaps))]


def readings(desk: Desk, values: Values, run: int) -> list[NewReading]:
    """One reading an angle."""
    gaps, angles = _placed(values)
    if len(gaps) != len(angles):
        return []
    return [desk.reading("gap", g, run, angle_deg=a % 360) for g, a in zip(gaps, angles, strict=True)]


def missing(desk: Desk, values: Values) -> dict[str, str]:
    """What the fit would refuse."""
    gaps, angles = _placed(values)
    try:
        gap.fit(angles, gaps)
    except Refused as refused:
        return {"angles" if refused.field == "angle" or len(gaps) != len(angles) else "gaps": refused.sentence}
    return {}


def view(desk: Desk, values: Values, fresh: Sequence[NewReading]) -> View:
    """The fit of what is typed, or of the last run."""
    placed = [(r.angle_deg or 0.0, r.value) for r in fresh]
    runs = desk.runs_of(STEP)
    if not placed and runs:
        placed = [(r.angle_deg or 0.0, r.value) for r in list(runs.values())[-1]]
    if len(placed) < gap.LEAST_READINGS:
        return View()
    angles, gaps = [p[0] for p in placed], [p[1] for p in placed]
    try:
        fitted = gap.fit(angles, gaps)
    except Refused:
        return View()
    inputs = {"angles_deg": angles, "gaps_mm": gaps}
    words = f"Opens towards {fitted.opens_at_deg:.0f}°."
    if fitted.spot is not None:
        where = f"{angles[fitted.spot] % 360:.0f}°"
        words = f"One spot, at {where}, does not fit: a loose magnet or a dent, not a bent shaft."
    return View(
        (
            figure("run-out", fitted.run_out_mm, "mm", 2, gap.fit, **inputs),
            figure("mean gap", fitted.mean_mm, "mm", 2, gap.fit, **inputs),
            figure("worst that does not fit", fitted.worst_mm, "mm", 2, gap.fit, **inputs),
        ),
        (words,),
        fitted,
    )


PANEL = Panel(STEP, view, readings, missing=missing)
