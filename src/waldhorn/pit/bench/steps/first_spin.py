"""First spin at the lowest setting for a few seconds: listen, watch. Rough: stop here, that is the evidence."""

from collections.abc import Sequence
from typing import Annotated

from waldhorn.core.base.history import Reading
from waldhorn.core.base.vocabulary import Purpose, Spin
from waldhorn.pit.bench import cautions
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields
from waldhorn.pit.bench.steps.step import Step, Taken, View

LOWEST_PCT = 15.0


class FirstSpinFields(Fields):
    """How it ran, and at what speed in rpm."""

    heard: Annotated[str | None, Ask("it ran", choices=tuple(Spin), habit=Spin.SMOOTH, required=True)] = None
    rpm: Annotated[float | None, Ask("rpm", "rpm")] = None


class FirstSpin(Step[FirstSpinFields, View]):
    """The first power a motor is given."""

    name = "first_spin"
    title = "First spin"
    instruction = "Lowest setting for three seconds: listen."
    caution = f"{cautions.SPIN} {cautions.PLUG_IN}"
    order = 60
    fields = FirstSpinFields
    plans = frozenset({"full", "quick"})
    powered = True
    live = True
    slow = True
    heard = True
    measures = ("rpm",)
    purposes = (Purpose.FIRST_SPIN,)
    hold_s = 3

    def taken(self, ctx: CheckContext, values: FirstSpinFields, run: int) -> Taken:
        """How it sounded, and the speed if it was read."""
        heard = {"first_spin": Spin(values.heard)} if values.heard else {}
        if values.rpm is None:
            return Taken(check=heard)
        return Taken((ctx.powered("rpm", values.rpm, run, LOWEST_PCT, purpose=Purpose.FIRST_SPIN),), check=heard)

    def view(self, ctx: CheckContext, values: FirstSpinFields, fresh: Sequence[Reading]) -> View:
        """What a rough one means."""
        if values.heard == Spin.ROUGH:
            return View(words=("Rough: stop here, that is the evidence. Bearings, a magnet, or the shaft.",))
        return View()

    def habits(self, ctx: CheckContext) -> dict[str, str]:
        """How it sounded before, in this check."""
        return {"heard": ctx.check.first_spin} if ctx.check.first_spin else {}

    def finished(self, ctx: CheckContext) -> bool:
        """Once somebody has listened."""
        return ctx.check.first_spin is not None

    def summary(self, ctx: CheckContext) -> str:
        """How it sounded."""
        return ctx.check.first_spin or ""


STEP = FirstSpin()
