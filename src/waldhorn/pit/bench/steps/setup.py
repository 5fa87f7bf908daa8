"""Rig and warmth: under which conditions the whole check is taken."""

from collections.abc import Sequence
from typing import Annotated

from waldhorn.core.base.history import Reading
from waldhorn.core.base.vocabulary import Method
from waldhorn.pit.bench import cautions
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields, as_typed
from waldhorn.pit.bench.steps.step import Step, Taken, View


class SetupFields(Fields):
    """The rig, how KV is taken, temperatures in °C, end bell or controller in electrical degrees."""

    rig: Annotated[str | None, Ask("rig", required=True)] = None
    method: Annotated[
        str | None, Ask("KV taken by", choices=tuple(Method), habit=Method.LOADED_SUPPLY, required=True)
    ] = None
    motor_c: Annotated[float | None, Ask("motor temperature, °C", "temperature")] = None
    ambient_c: Annotated[float | None, Ask("air temperature, °C", "temperature")] = None
    timing_set_deg: Annotated[float | None, Ask("timing set to, ° electrical", "timing_mean")] = None


class Setup(Step[SetupFields, View]):
    """Where a check begins."""

    name = "setup"
    title = "Rig and warmth"
    instruction = "Which rig, and how warm is it?"
    caution = f"{cautions.LEADS} {cautions.PLUG_IN} {cautions.PACKS} {cautions.MAINS}"
    order = 0
    fields = SetupFields
    plans = frozenset({"full", "quick", "only"})
    button = "Go on"
    restates = True

    def taken(self, ctx: CheckContext, values: SetupFields, run: int) -> Taken:
        """The conditions, on the check itself."""
        return Taken(check=values.model_dump())

    def view(self, ctx: CheckContext, values: SetupFields, fresh: Sequence[Reading]) -> View:
        """The setting of end bell or controller, as it is at the shaft."""
        setting, poles = values.timing_set_deg, ctx.motor.poles
        if setting is None or not poles:
            return View()
        return View(words=(f"{setting:g}° electrical are {2 * setting / poles:.1f}° at the shaft.",))

    def habits(self, ctx: CheckContext) -> dict[str, str]:
        """What was noted already, else the rig and the end bell of last time."""
        check, last = ctx.check, ctx.before
        if check.rig:
            return as_typed(SetupFields, {n: getattr(check, n) for n in SetupFields.model_fields}, ctx.notation)
        if last is None:
            return {"rig": ctx.usual_rig, "method": Method.LOADED_SUPPLY.value} if ctx.usual_rig else {}
        setting = {"timing_set_deg": f"{last.timing_set_deg:g}"} if last.timing_set_deg is not None else {}
        return {"rig": last.rig, "method": last.method or Method.LOADED_SUPPLY} | setting

    def finished(self, ctx: CheckContext) -> bool:
        """Once the rig is noted."""
        return bool(ctx.check.rig)

    def summary(self, ctx: CheckContext) -> str:
        """The rig, and how warm the motor is."""
        warmth = f", {ctx.check.motor_c:.0f} °C" if ctx.check.motor_c is not None else ""
        return f"{ctx.check.rig}{warmth}" if ctx.check.rig else ""


STEP = Setup()
