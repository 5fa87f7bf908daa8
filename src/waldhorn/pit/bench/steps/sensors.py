"""Hall sensors, turned by hand: the lamp states as they come."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.explain import figure
from waldhorn.core.base.history import LampsSeen, Motor, Reading
from waldhorn.core.base.vocabulary import HallKind, Turning
from waldhorn.core.measuring import hall
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields
from waldhorn.pit.bench.steps.step import Marks, Step, Taken, View

_SUMMARY = {
    HallKind.GOOD: "six states in order", HallKind.STUCK: "stuck", HallKind.INVERTED: "inverted",
    HallKind.SWAPPED: "swapped wires", HallKind.INCOMPLETE: "states missing",
}  # fmt: skip


class SensorsFields(Fields):
    """The lamps A B C as they stepped, and which way the shaft was turned."""

    states: Annotated[str | None, Ask("lamps", longest=600, required=True, hint="101 100 110 010 011 001")] = None
    turned: Annotated[
        str | None,
        Ask("turned, seen from the shaft", choices=tuple(Turning), habit=Turning.NOT_NOTED, required=True, modest=True),
    ] = None


@dataclass(frozen=True)
class SensorsView(View):
    """The finding as the lamps come in, and the last state."""

    finding: hall.HallFinding | None = None
    last: str = ""


class Sensors(Step[SensorsFields, SensorsView]):
    """The three lamps."""

    name = "sensors"
    title = "Sensors"
    instruction = "Turn the shaft slowly one way: write the lamps A B C as they step."
    caution = "Sensor cable only, phases open: leads touch neither the can nor each other."
    order = 40
    fields = SensorsFields
    plans = frozenset({"full"})
    fields_template = "bench/steps/sensors_fields.html"

    def applies(self, motor: Motor) -> bool:
        """A sensorless motor has no lamps."""
        return motor.may_have_sensors

    def taken(self, ctx: CheckContext, values: SensorsFields, run: int) -> Taken:
        """What the lamps say, with the states seen."""
        if not values.states or self.missing(ctx, values):
            return Taken()
        turned = Turning(values.turned or Turning.NOT_NOTED)
        states = hall.read_states(values.states)
        found = hall.judge_states(states, usual_direction(ctx, turned))
        seen = LampsSeen(ctx.check.id, found.kind, tuple(states), turned, found.direction, ctx.now)
        return Taken(findings=(seen,))

    def missing(self, ctx: CheckContext, values: SensorsFields) -> dict[str, str]:
        """Lamps that cannot be read."""
        try:
            hall.read_states(values.states or "")
        except InputError as refused:
            return {"states": refused.sentence}
        return {}

    def view(self, ctx: CheckContext, values: SensorsFields, fresh: Sequence[Reading]) -> SensorsView:
        """The finding as the lamps come in."""
        known = ctx.lamps()
        turned = Turning(values.turned or Turning.NOT_NOTED)
        try:
            states = hall.read_states(values.states or "")
        except InputError:
            return SensorsView()
        if not states and known:
            states, turned = list(known.states), known.turned
        if not states:
            return SensorsView()
        usual = usual_direction(ctx, turned)
        found = hall.judge_states(states, usual)
        shown = figure(
            "states seen", "", 0, hall.judge_states, show=lambda f: f"{f.seen} of 6", states=states, turned=usual
        )
        return SensorsView((shown,), (found.words,), found, states[-1])

    def finished(self, ctx: CheckContext) -> bool:
        """Once all six states were seen, or something is wrong with them."""
        known = ctx.lamps()
        return known is not None and known.kind is not HallKind.INCOMPLETE

    def summary(self, ctx: CheckContext) -> str:
        """The kind of finding."""
        known = ctx.lamps()
        return _SUMMARY[known.kind] if known else ""

    def marks(self, ctx: CheckContext, view: SensorsView | None) -> Marks:
        """Lamps lit, dark or struck through."""
        if view and view.finding:
            return Marks(lamps=view.last, bad_sensors=view.finding.sensors)
        known = ctx.lamps()
        return Marks(lamps=known.states[-1]) if known and known.states else Marks()


def usual_direction(ctx: CheckContext, turned: Turning) -> int:
    """Which order this motor gave in earlier checks when it was turned that way; 0 when that is not known."""
    if turned is Turning.NOT_NOTED:
        return 0
    sound = [f for f in ctx.found.lamps if f.check != ctx.check.id and f.kind is HallKind.GOOD and f.turned is turned]
    return max(sound, key=lambda f: f.at).direction if sound else 0


STEP = Sensors()
