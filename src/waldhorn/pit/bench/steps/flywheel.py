"""Flywheel: torque from how fast a known inertia speeds up, response, and the score against the fleet."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.explain import figure
from waldhorn.core.base.history import Reading
from waldhorn.core.base.traces import read_trace
from waldhorn.core.comparing.score import score_of
from waldhorn.core.measuring import flywheel
from waldhorn.core.motors.leads import comparable_mass
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields
from waldhorn.pit.bench.steps.step import Curve, Step, Taken, View
from waldhorn.store.findings import FlywheelTrace

Trace = tuple[list[float], list[float]]


class FlywheelFields(Fields):
    """A trace of seconds and rpm, the inertia in kg·m², and the speed the torque is stated at."""

    trace: Annotated[str | None, Ask("seconds, rpm", longest=60_000, required=True, hint="0.00, 2500")] = None
    inertia: Annotated[
        float | None,
        Ask("inertia with the rotor's, kg·m²", dimension="count", low=1e-9, high=10, required=True, modest=True),
    ] = None
    at_rpm: Annotated[float | None, Ask("torque at, rpm", "rpm", required=True, modest=True)] = None


@dataclass(frozen=True)
class FlywheelView(View):
    """The trace: seconds and rpm."""

    seconds: Sequence[float] = ()
    rpm: Sequence[float] = ()


class Flywheel(Step[FlywheelFields, FlywheelView]):
    """Torque and response."""

    name = "flywheel"
    title = "Flywheel"
    instruction = "Paste the speed trace: seconds, rpm, a line each."
    caution = "Flywheel tight and guarded, nobody in its plane; never beyond its or the rotor's rated speed."
    order = 130
    fields = FlywheelFields
    powered = True
    measures = ("flywheel_torque", "response")
    hold_s = 10
    wants_fleet = True

    def taken(self, ctx: CheckContext, values: FlywheelFields, run: int) -> Taken:
        """Torque and response, and the trace itself."""
        if not values.trace or values.inertia is None or values.at_rpm is None:
            return Taken()
        try:
            seconds, rpm = trace_of(values.trace)
            torque = flywheel.torque(values.inertia, seconds, rpm, values.at_rpm)
            response = flywheel.response(seconds, rpm)
        except InputError:
            return Taken()
        found = tuple(
            ctx.reading(m, v, run, on_shaft="flywheel")
            for m, v in (("flywheel_torque", torque), ("response", response))
        )
        return Taken(found, (FlywheelTrace(ctx.check.id, values.trace, values.inertia, values.at_rpm, ctx.now),))

    def missing(self, ctx: CheckContext, values: FlywheelFields) -> dict[str, str]:
        """A trace that does not say."""
        if not values.trace or values.inertia is None or values.at_rpm is None:
            return {}
        try:
            flywheel.torque(values.inertia, *trace_of(values.trace), values.at_rpm)
        except InputError as refused:
            return {refused.field if refused.field in FlywheelFields.asks() else "trace": refused.sentence}
        return {}

    def view(self, ctx: CheckContext, values: FlywheelFields, fresh: Sequence[Reading]) -> FlywheelView:
        """Torque, response and score."""
        kept = ctx.trace()
        trace, inertia, at_rpm = values.trace, values.inertia, values.at_rpm
        if not trace and kept:
            trace, inertia, at_rpm = kept.trace, kept.inertia_kgm2, kept.at_rpm
        try:
            seconds, rpm = trace_of(trace or "")
            if not seconds or inertia is None or at_rpm is None:
                return FlywheelView(seconds=seconds, rpm=rpm)
            course: dict[str, Any] = {"seconds": seconds, "rpm": rpm}
            figures = [
                figure(
                    "torque, net of drag", "mN·m", 1, flywheel.torque, inertia_kgm2=inertia, at_rpm=at_rpm, **course
                ),
                figure("response", "rpm/s", 0, flywheel.response, **course),
            ]
        except InputError:
            return FlywheelView()
        fastest = max(rpm)
        figures.append(figure("energy it stores", "J", 0, flywheel.stored_energy, inertia_kgm2=inertia, rpm=fastest))
        mine = {"flywheel_torque": float(figures[0].value), "response": float(figures[1].value)}
        rest = {tag: f for tag, f in ctx.fleet.items() if tag != ctx.motor.tag}
        tag, mass = ctx.motor.tag, comparable_mass(ctx.motor.mass_g, ctx.motor.lead_mm, ctx.motor.lead_awg)
        inputs: dict[str, Any] = {
            "motor": tag,
            "fleet": {tag: mine, **{t: f for t, (f, _) in rest.items()}},
            "masses_g": {tag: mass, **{t: m for t, (_, m) in rest.items()}},
        }
        if score_of(**inputs) is not None:
            figures.append(figure("score in its class", "", 0, score_of, **inputs))
        return FlywheelView(tuple(figures), (), seconds, rpm)

    def curve(self, view: FlywheelView) -> Curve | None:
        """Speed over time."""
        if len(view.seconds) < 2:
            return None
        end, top = max(view.seconds), max(view.rpm)
        line = list(zip(view.seconds, view.rpm, strict=True))
        return Curve(
            "speed over time",
            line,
            (),
            (min(view.seconds), end),
            (0.0, top),
            ("0", f"{end:g} s"),
            ("0", f"{top:.0f} rpm"),
        )


def trace_of(words: str) -> Trace:
    """Seconds and rpm of a typed or pasted trace. Raises InputError with the line."""
    found = read_trace(words)
    return [seconds for seconds, _ in found], [rpm for _, rpm in found]


STEP = Flywheel()
