"""The answer: signing it and hanging the motor back."""

from collections.abc import Sequence

from waldhorn.core.base.history import Reading
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Fields
from waldhorn.pit.bench.steps.step import Step, Taken, View


class Answer(Step[Fields, View]):
    """Where a check ends."""

    name = "answer"
    title = "Answer"
    instruction = "Sign it and hang it back."
    order = 1000
    fields = Fields
    plans = frozenset({"full", "quick", "only"})

    def taken(self, ctx: CheckContext, values: Fields, run: int) -> Taken:
        """Nothing is measured here; see `signing`."""
        return Taken()

    def view(self, ctx: CheckContext, values: Fields, fresh: Sequence[Reading]) -> View:
        """Nothing to compute."""
        return View()

    def finished(self, ctx: CheckContext) -> bool:
        """Once the check is closed."""
        return not ctx.check.open

    def summary(self, ctx: CheckContext) -> str:
        """That it is closed."""
        return "" if ctx.check.open else "closed"


STEP = Answer()
