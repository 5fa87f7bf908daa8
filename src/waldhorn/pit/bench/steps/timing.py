"""Timing: the automatic sweep, three phases, twice."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Any

from waldhorn.core.base.explain import figure
from waldhorn.core.base.history import Motor, Reading
from waldhorn.core.base.vocabulary import Sweep
from waldhorn.core.measuring import timing
from waldhorn.pit.bench import cautions
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields
from waldhorn.pit.bench.steps.step import Marks, Step, Taken, View


class TimingFields(Fields):
    """The three phases in electrical degrees, and how it swept."""

    a: Annotated[float | None, Ask("A, °", "timing_a", required=True)] = None
    b: Annotated[float | None, Ask("B, °", "timing_b", required=True)] = None
    c: Annotated[float | None, Ask("C, °", "timing_c", required=True)] = None
    sweep: Annotated[
        str | None, Ask("it swept", choices=tuple(Sweep), habit=Sweep.EVENLY, required=True, modest=True)
    ] = None


@dataclass(frozen=True)
class TimingView(View):
    """The sweeps as rows of phases."""

    rows: Sequence[Mapping[str, float]] = ()


class Timing(Step[TimingFields, TimingView]):
    """The sweep."""

    name = "timing"
    title = "Timing"
    instruction = "Start the sweep: read all three phases."
    caution = f"It spins by itself. {cautions.SPIN}"
    order = 80
    fields = TimingFields
    takes_part = True
    plans = frozenset({"full"})
    powered = True
    live = True
    slow = True
    runs_wanted = 2
    measures = ("timing_a", "timing_b", "timing_c")
    quantities = ("timing_mean", "timing_spread")
    hold_s = 15
    part = "sensors"
    untested = "not swept"

    def applies(self, motor: Motor) -> bool:
        """A sensorless motor loses the timing test."""
        return motor.may_have_sensors

    def taken(self, ctx: CheckContext, values: TimingFields, run: int) -> Taken:
        """The phases that were read; one hunted sweep is remembered."""
        phases = ((name, getattr(values, name)) for name in "abc")
        found = tuple(ctx.reading(f"timing_{name}", v, run) for name, v in phases if v is not None)
        if not values.sweep or ctx.check.sweep is Sweep.HUNTED:
            return Taken(found)
        return Taken(found, check={"sweep": Sweep(values.sweep)})

    def view(self, ctx: CheckContext, values: TimingFields, fresh: Sequence[Reading]) -> TimingView:
        """Mean, spread, mechanical degrees, and the runs."""
        rows = self.rows(ctx, fresh)
        last = next((r for r in reversed(rows) if len(r) == 3), None)
        if last is None:
            return TimingView(rows=rows)
        phases: dict[str, Any] = {f"{name}_deg": last[name] for name in "abc"}
        mean = figure("mean", "° electrical", 1, timing.mean_of_phases, **phases)
        figures = [mean, figure("spread", "°", 1, timing.spread_of_phases, **phases)]
        if ctx.motor.poles:
            figures.append(
                figure(
                    "at the end bell",
                    "° mechanical",
                    1,
                    timing.mechanical,
                    electrical_deg=mean.value,
                    poles=ctx.motor.poles,
                )
            )
        full = [timing.mean_of_phases(r["a"], r["b"], r["c"]) for r in rows if len(r) == 3]
        words = [f"Runs differ by {max(full) - min(full):.1f}°."] if len(full) > 1 else []
        if Sweep.HUNTED in (values.sweep, ctx.check.sweep):
            words.append("It hunted while it swept: sensor board, its magnet, or the rotor.")
        return TimingView(tuple(figures), tuple(words), rows)

    def marks(self, ctx: CheckContext, view: TimingView | None) -> Marks:
        """Three hands."""
        rows = view.rows if view else self.rows(ctx, ())
        return Marks(phases=next((r for r in reversed(rows) if len(r) == 3), {}))

    def rows(self, ctx: CheckContext, fresh: Sequence[Reading]) -> list[dict[str, float]]:
        """Each sweep's phases by letter, the one being typed last."""
        rows = [{r.measure[-1]: r.value for r in run if r.accepted} for run in self.runs(ctx).values()]
        return [*rows, {r.measure[-1]: r.value for r in fresh}] if fresh else rows


STEP = Timing()
