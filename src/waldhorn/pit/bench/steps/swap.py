"""Motor or controller: this motor and a known good one, on the machine's controller and on the bench."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from waldhorn.core.base.explain import figure
from waldhorn.core.base.history import TRIALS, CrossTried, Reading
from waldhorn.core.base.vocabulary import Ran
from waldhorn.core.measuring import swap_test
from waldhorn.pit.bench import cautions
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields
from waldhorn.pit.bench.steps.step import Step, Taken, View

NOT_TRIED = "not tried"
_HOW = (NOT_TRIED, *Ran)


def _ran(title: str) -> Ask:
    return Ask(title, choices=_HOW, habit=NOT_TRIED, required=True)


class SwapFields(Fields):
    """How each ran; what was not tried is left open."""

    own_machine: Annotated[str | None, _ran("this one, in the machine")] = None
    own_bench: Annotated[str | None, _ran("this one, on the bench")] = None
    known_machine: Annotated[str | None, _ran("a good one, in the machine")] = None
    known_bench: Annotated[str | None, _ran("a good one, on the bench")] = None
    other_cable: Annotated[str | None, _ran("this one, other sensor cable")] = None


@dataclass(frozen=True)
class SwapView(View):
    """What the trials prove."""

    finding: swap_test.CrossFinding | None = None


class Swap(Step[SwapFields, SwapView]):
    """Two motors on two controllers."""

    name = "swap"
    title = "Swap"
    instruction = "Motor or controller? Swap each for a known good one: how does it run?"
    caution = f"Unplug before every swap. {cautions.SPIN} {cautions.PLUG_IN}"
    order = 135
    fields = SwapFields
    powered = True
    hold_s = 5

    def taken(self, ctx: CheckContext, values: SwapFields, run: int) -> Taken:
        """The trials, with those of this check that were tried before."""
        trials = self._trials(ctx, values)
        if trials == self._known(ctx):
            return Taken()
        tried = {n: trials.get(n) for n in TRIALS}
        return Taken(findings=(CrossTried(check=ctx.check.id, at=ctx.now, **tried),))

    def missing(self, ctx: CheckContext, values: SwapFields) -> dict[str, str]:
        """Nothing tried at all."""
        return {} if self._trials(ctx, values) else {"own_machine": "say how one of them ran"}

    def view(self, ctx: CheckContext, values: SwapFields, fresh: Sequence[Reading]) -> SwapView:
        """What that proves, how surely, and what to try next."""
        trials, sensored = self._trials(ctx, values), ctx.motor.may_have_sensors
        found = swap_test.judge_cross(trials, sensored)
        if not trials:
            return SwapView((), (found.words,), found)
        shown = figure(
            "the motor",
            "%",
            0,
            swap_test.judge_cross,
            trials=trials,
            sensored=sensored,
            show=lambda f: 100 * f.suspects[swap_test.Suspect.MOTOR],
        )
        return SwapView((shown,), (found.words,), found)

    def habits(self, ctx: CheckContext) -> dict[str, str]:
        """What was tried already, in this check."""
        return {n: ran.value for n, ran in self._known(ctx).items()}

    def finished(self, ctx: CheckContext) -> bool:
        """Once one trial is noted."""
        return bool(self._known(ctx))

    def summary(self, ctx: CheckContext) -> str:
        """The likeliest suspect."""
        known = self._known(ctx)
        if not known:
            return ""
        found = swap_test.judge_cross(known, ctx.motor.may_have_sensors).suspects
        return str(max(found, key=lambda s: (found[s], s)))

    def _known(self, ctx: CheckContext) -> dict[str, Ran]:
        mine = [c for c in ctx.found.crossed if c.check == ctx.check.id]
        return max(mine, key=lambda c: c.at).trials if mine else {}

    def _trials(self, ctx: CheckContext, values: SwapFields) -> dict[str, Ran]:
        typed = {n: said for n in swap_test.INVOLVED if (said := getattr(values, n))}
        known = {n: ran for n, ran in self._known(ctx).items() if n not in typed}
        return known | {n: Ran(said) for n, said in typed.items() if said != NOT_TRIED}


STEP = Swap()
