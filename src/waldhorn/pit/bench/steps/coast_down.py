"""Coast-down: how long a motor that is let go takes to stop, typed, or from a pasted trace."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from waldhorn.core.base import traces
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.explain import Figure, figure
from waldhorn.core.base.history import Reading
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.core.measuring import coast_down
from waldhorn.pit.bench import cautions
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields
from waldhorn.pit.bench.steps.step import Step, Taken, View

MEASURE = "coast_down_time"
DISC = "disc"  # on the shaft of a coast-down that finds the rotor's inertia; it is compared with none without
SAME_START = 0.05  # coast-downs compare that begin within this share of one speed
MATTERS = 0.15  # a share by which it stops sooner that a hand on a stopwatch can tell
RAD_S = 2 * math.pi / 60  # of one rpm
_GCM2 = 1e-7  # kg·m² in one g·cm²


class CoastDownFields(Fields):
    """The speed it was let go at, the time to stop in s, or a trace of s and rpm; the rotor's inertia in g·cm², or that
    of a disc that was on its shaft, from which the rotor's follows."""

    rpm: Annotated[float | None, Ask("let go at, rpm", "rpm")] = None
    seconds: Annotated[float | None, Ask("time to stop, s", MEASURE)] = None
    trace: Annotated[str | None, Ask("or a trace: seconds and rpm, a pair a line", longest=60_000)] = None
    inertia: Annotated[
        float | None,
        Ask("rotor's inertia, g·cm²", dimension="count", low=0.01, high=100_000, modest=True, hint="where it is known"),
    ] = None
    disc: Annotated[
        float | None,
        Ask(
            "a disc was on the shaft, g·cm²",
            dimension="count",
            low=0.01,
            high=100_000,
            modest=True,
            hint="to find the rotor's",
        ),
    ] = None


@dataclass(frozen=True)
class CoastDownView(View):
    """The runs of this check: rpm, seconds."""

    rows: Sequence[tuple[float, float]] = ()


class CoastDown(Step[CoastDownFields, CoastDownView]):
    """A motor let go."""

    name = "coast_down"
    title = "Coast-down"
    instruction = "Full speed, let go, and time it until it stands."
    caution = (
        f"The controller must let go and not brake: set its brake to off first. {cautions.SPIN} Never stop it by hand."
    )
    order = 95
    fields = CoastDownFields
    powered = True
    heard = True
    measures = (MEASURE, "rpm", "friction_torque", "loss_slope")
    purposes = (Purpose.COAST_DOWN,)

    def taken(self, ctx: CheckContext, values: CoastDownFields, run: int) -> Taken:
        """The start and the time to stop; the torques where the inertia is known."""
        rpm, seconds, out = _coast_down(values)
        found = {"rpm": rpm, MEASURE: seconds}
        if out is not None and values.inertia:
            inertia = values.inertia * _GCM2
            found |= {
                "friction_torque": 1e3 * out.friction_per_inertia * inertia,
                "loss_slope": 1e6 * out.loss_per_inertia * inertia,
            }
        on_shaft = DISC if values.disc else ""
        return Taken(
            tuple(
                ctx.reading(m, v, run, Purpose.COAST_DOWN, on_shaft=on_shaft) for m, v in found.items() if v is not None
            )
        )

    def missing(self, ctx: CheckContext, values: CoastDownFields) -> dict[str, str]:
        """A trace that is none, or neither a trace nor a time."""
        if values.trace:
            try:
                coast_down.fit(traces.read_trace(values.trace))
            except InputError as refused:
                return {"trace": refused.sentence}
            return {}
        wanted = {"rpm": values.rpm, "seconds": values.seconds}
        return {n: "is still to come, or paste a trace" for n, v in wanted.items() if v is None}

    def view(self, ctx: CheckContext, values: CoastDownFields, fresh: Sequence[Reading]) -> CoastDownView:
        """What the coast-down tells, and how it was before."""
        rows = [r for run in self.runs(ctx).values() if (r := _row(run))]
        now = _row(fresh) or (rows[-1] if rows else None)
        figures: list[Figure] = []
        _, _, out = _coast_down(values)
        if out is not None:
            figures = [
                figure(
                    "friction per inertia",
                    "1/s²",
                    0,
                    coast_down.fit,
                    show=lambda o: o.friction_per_inertia,
                    trace=traces.read_trace(values.trace or ""),
                ),
                figure(
                    "loss per inertia",
                    "1/s",
                    2,
                    coast_down.fit,
                    show=lambda o: o.loss_per_inertia,
                    trace=traces.read_trace(values.trace or ""),
                ),
            ]
        if values.disc and (with_disc := _with(fresh, DISC)):
            return CoastDownView((*figures, *_rotor(values.disc, with_disc, rows)), _with_disc(rows), rows)
        words = _against(ctx, now) if now else ()
        return CoastDownView(tuple(figures), words, rows + ([now] if fresh and now else []))

    def summary(self, ctx: CheckContext) -> str:
        """The time to stop."""
        rows = [r for run in self.runs(ctx).values() if (r := _row(run))]
        return f"{rows[-1][1]:.2f} s" if rows else ""


def _coast_down(values: CoastDownFields) -> tuple[float | None, float | None, coast_down.CoastDown | None]:
    """Start, time to stop, and the fit where there is a trace that can be fitted."""
    if not values.trace:
        return values.rpm, values.seconds, None
    try:
        out = coast_down.fit(traces.read_trace(values.trace))
    except InputError:
        return values.rpm, values.seconds, None
    return round(out.start_rpm), round(coast_down.time_to_stop(out), 3), out


def _row(run: Sequence[Reading]) -> tuple[float, float] | None:
    """Start and time of a coast-down of the bare rotor."""
    return _with(run, "")


def _with(run: Sequence[Reading], on_shaft: str) -> tuple[float, float] | None:
    by = {r.measure: r.value for r in run if r.accepted and r.conditions.on_shaft == on_shaft}
    return (by["rpm"], by[MEASURE]) if "rpm" in by and MEASURE in by else None


def _rotor(disc: float, now: tuple[float, float], rows: Sequence[tuple[float, float]]) -> list[Figure]:
    """The rotor's inertia from this coast-down with a disc and the last without, from about the same speed."""
    bare = next((r for r in reversed(rows) if abs(r[0] / now[0] - 1) <= SAME_START), None)
    if bare is None or not bare[1] < now[1]:
        return []
    slowing = {"slowing_alone": bare[0] * RAD_S / bare[1], "slowing_with": now[0] * RAD_S / now[1]}
    return [
        figure(
            "rotor's inertia",
            "g·cm²",
            1,
            coast_down.inertia_by_disc,
            show=lambda j: j / _GCM2,
            added=disc * _GCM2,
            **slowing,
        )
    ]


def _with_disc(rows: Sequence[tuple[float, float]]) -> tuple[str, ...]:
    if not rows:
        return ("Let the bare rotor coast down first, from the same speed.",)
    return ("The disc makes it run longer: by how much tells the rotor's inertia. A disc adds windage.",)


def _against(ctx: CheckContext, now: tuple[float, float]) -> tuple[str, ...]:
    """How it ran out before, from about the same speed."""
    for check in sorted((c for c in ctx.history.checks if c.id != ctx.check.id), key=lambda c: c.at):
        runs: dict[int, list[Reading]] = {}
        for r in check.readings:
            if r.purpose is Purpose.COAST_DOWN:
                runs.setdefault(r.run, []).append(r)
        before = next((b for run in runs.values() if (b := _row(run))), None)
        if before and abs(before[0] / now[0] - 1) <= SAME_START:
            day = f"{check.at:%d %B}".lstrip("0")
            share = now[1] / before[1] - 1
            if share < -MATTERS:
                return (
                    f"It stops {-100 * share:.0f} % sooner than on {day} ({before[1]:.2f} s): friction, or a"
                    " shorted loop that brakes; warm bearings coast longer.",
                )
            return (f"On {day} it took {before[1]:.2f} s: no more than a stopwatch leaves open.",)
    return ("The first of its kind: it is what later ones are held against.",)


STEP = CoastDown()
