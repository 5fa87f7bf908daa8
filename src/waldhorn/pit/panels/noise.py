"""Noise: background first, then step one, half and full, at one stand and one distance."""

from collections.abc import Sequence

from waldhorn.core import noise
from waldhorn.core.errors import Refused
from waldhorn.core.explain import figure
from waldhorn.core.history import FULL_STEP, PLACEMENTS
from waldhorn.pit.desk import Desk, View
from waldhorn.pit.panels.panel import Panel, Values, number, text
from waldhorn.pit.steps import Field, Step
from waldhorn.store.models import ReadingRow
from waldhorn.store.readings import NewReading

STEPS = {"step_one": 1, "half": FULL_STEP // 2, "full": FULL_STEP}
STEP = Step(
    name="noise",
    title="Noise",
    instruction="Same stand, same distance: hall first, then three steps.",
    caution="Above 85 dB wear hearing protection. Motor clamped, nobody in the plane of rotation.",
    fields=(
        Field("background", "hall, dB", "noise_background"),
        Field("step_one", "step one, dB", "noise_avg", optional=True),
        Field("half", "half, dB", "noise_avg", optional=True),
        Field("full", "full, dB", "noise_avg", optional=True),
        Field("placement", "placed", choices=PLACEMENTS, habit="stand", modest=True),
        Field("distance_cm", "distance, cm", dimension="count", low=1, high=500, habit="10", modest=True),
    ),
    powered=True,
    measures=("noise_avg", "noise_background"),
    quantities=("noise_avg",),
    hold_s=5,
)


def readings(desk: Desk, values: Values, run: int) -> list[NewReading]:
    """The background and the levels, with their placement; the distance stands in the note."""
    placement, distance = text(values, "placement") or "stand", number(values, "distance_cm")
    more = {"placement": placement, "note": f"{distance:g} cm" if distance else ""}
    found = []
    if (background := number(values, "background")) is not None:
        found.append(desk.reading("noise_background", background, run, **more))
    for name, step in STEPS.items():
        if (level := number(values, name)) is not None:
            found.append(desk.reading("noise_avg", level, run, step=step, **more))
    return found


def missing(desk: Desk, values: Values) -> dict[str, str]:
    """A level too close to the hall, or none at all."""
    background = number(values, "background")
    levels = {name: level for name in STEPS if (level := number(values, name)) is not None}
    if background is None:
        return {}
    wrong = {}
    for name, level in levels.items():
        try:
            noise.without_background(level, background)
        except Refused as refused:
            wrong[name] = refused.sentence
    return wrong or ({} if levels else {"full": "one level at least is still to come"})


def view(desk: Desk, values: Values, fresh: Sequence[NewReading]) -> View:
    """Each level with the hall taken out, and what is telling."""
    taken: Sequence[NewReading | ReadingRow] = fresh or [r for r in desk.rows_of(STEP) if r.accepted]
    background = next((r.value for r in taken if r.measure == "noise_background"), None)
    figures, words = [], []
    for name, step in STEPS.items():
        level = next((r.value for r in taken if r.measure == "noise_avg" and r.step == step), None)
        if level is None or background is None:
            continue
        inputs = {"level_db": level, "background_db": background}
        try:
            own = noise.without_background(**inputs)
        except Refused:
            continue
        title = name.replace("_", " ")
        figures.append(figure(f"{title}, hall out", own.level_db, "dB", 1, noise.without_background, **inputs))
        if own.negligible and name == "full":
            words.append("The hall hardly matters here.")
        words += _telling(desk, step, own.level_db)
    return View(tuple(figures), tuple(dict.fromkeys(words)))


def _telling(desk: Desk, step: int, level: float) -> list[str]:
    if step == FULL_STEP and level > noise.LOUD_SMALL_MOTOR_DB:
        return [f"Above {noise.LOUD_SMALL_MOTOR_DB:g} dB: too loud for a small motor, whatever it was before."]
    healthy = healthy_full(desk)
    if step == 1 and healthy is not None and noise.telltale(level, healthy):
        return [f"Louder at step one than it was at full when sound ({healthy:.1f} dB): that is telling."]
    return []


def healthy_full(desk: Desk) -> float | None:
    """What this motor made at full throttle on its first check with noise."""
    earlier = sorted((c for c in desk.history.checks if c.id != str(desk.check.id)), key=lambda c: c.at)
    for check in earlier:
        found = noise.samples([r for r in check.readings if r.accepted], desk.motor)
        full = [s.value for s in found if s.conditions.throttle_pct == 100.0]
        if full:
            return full[0]
    return None


def habits(desk: Desk) -> dict[str, str]:
    """Placement and distance of last time."""
    last = desk.rows_of(STEP)
    placement = last[-1].placement if last else "stand"
    return {"placement": placement or "stand", "distance_cm": f"{noise.DISTANCE_CM:g}"}


PANEL = Panel(STEP, view, readings, missing=missing, habits=habits)
