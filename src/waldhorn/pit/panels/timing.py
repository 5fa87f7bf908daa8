"""Timing: the automatic sweep, three phases, twice."""

from collections.abc import Sequence

from waldhorn.core import timing
from waldhorn.core.explain import figure
from waldhorn.pit.desk import Desk, View
from waldhorn.pit.panels.panel import Panel, Values, number, text
from waldhorn.pit.steps import Field, Step
from waldhorn.store.readings import NewReading

STEP = Step(
    name="timing",
    title="Timing",
    instruction="Start the sweep: read all three phases.",
    caution="It spins by itself: motor clamped, nobody in the plane of rotation.",
    fields=(
        Field("a", "A, °", "timing_a"),
        Field("b", "B, °", "timing_b"),
        Field("c", "C, °", "timing_c"),
        Field("sweep", "it swept", choices=("evenly", "hunted"), habit="evenly", modest=True),
    ),
    powered=True,
    runs_wanted=2,
    measures=("timing_a", "timing_b", "timing_c"),
    quantities=("timing_mean", "timing_spread"),
    hold_s=15,
    applies=lambda motor: motor.sensored,
)


def readings(desk: Desk, values: Values, run: int) -> list[NewReading]:
    """The phases that were read."""
    phases = {name: number(values, name) for name in "abc"}
    return [desk.reading(f"timing_{name}", v, run) for name, v in phases.items() if v is not None]


def notices(desk: Desk, values: Values) -> dict[str, tuple[str, str]]:
    """Whether it swept evenly; one hunted sweep is remembered."""
    swept = text(values, "sweep")
    return {"sweep": (swept, "")} if swept and desk.said("sweep") != "hunted" else {}


def view(desk: Desk, values: Values, fresh: Sequence[NewReading]) -> View:
    """Mean, spread, mechanical degrees, and the runs."""
    rows = [{r.measure[-1]: r.value for r in taken if r.accepted} for taken in desk.runs_of(STEP).values()]
    if fresh:
        rows.append({r.measure[-1]: r.value for r in fresh})
    last = next((r for r in reversed(rows) if len(r) == 3), None)
    if last is None:
        return View(picture=None, more={"phases": rows})
    phases = {f"{name}_deg": last[name] for name in "abc"}
    mean = timing.mean_of_phases(**phases)
    figures = [
        figure("mean", mean, "° electrical", 1, timing.mean_of_phases, **phases),
        figure("spread", timing.spread_of_phases(**phases), "°", 1, timing.spread_of_phases, **phases),
    ]
    if desk.motor.poles:
        turned = timing.mechanical(mean, desk.motor.poles)
        figures.append(figure("at the end bell", turned, "° mechanical", 1, timing.mechanical, electrical_deg=mean,
                              poles=desk.motor.poles))  # fmt: skip
    full = [timing.mean_of_phases(r["a"], r["b"], r["c"]) for r in rows if len(r) == 3]
    words = [f"Runs differ by {max(full) - min(full):.1f}°."] if len(full) > 1 else []
    if (text(values, "sweep") or desk.said("sweep")) == "hunted":
        words.append("It hunted while it swept: sensor board, its magnet, or the rotor.")
    return View(tuple(figures), tuple(words), last, {"phases": rows})


PANEL = Panel(STEP, view, readings, notices)
