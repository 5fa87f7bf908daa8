"""Gap again, with the rotor turned by half a turn: which part is bent."""

from collections.abc import Sequence

from waldhorn.core.base.history import Reading
from waldhorn.core.measuring import gap
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps import gap as gap_step
from waldhorn.pit.bench.steps.gap import Gap, GapFields, GapView
from waldhorn.pit.bench.steps.step import Marks


class GapTurned(Gap):
    """Run-out once more."""

    name = "gap_turned"
    title = "Gap, turned"
    instruction = "Turn the rotor by half a turn and gauge the same places again."
    order = 21
    plans = frozenset()
    measures = ("gap_turned",)
    part = ""
    untested = ""

    def view(self, ctx: CheckContext, values: GapFields, fresh: Sequence[Reading]) -> GapView:
        """The series itself, and what the two together tell."""
        found = super().view(ctx, values, fresh)
        first = gap_step.STEP.last_fit(ctx)
        if found.fitted is None:
            return found
        if first is None:
            return GapView(found.figures, ("Gauge it as it stands first: that is the step before.",), found.fitted)
        return GapView(found.figures, (_which(first, found.fitted),), found.fitted)

    def marks(self, ctx: CheckContext, view: GapView | None) -> Marks:
        """The drawing shows the rotor as it stood first."""
        return Marks()


def _which(first: gap.GapFit, turned: gap.GapFit) -> str:
    """Which part is bent, where the rotor was turned between two series."""
    if first.oval_mm is None or turned.oval_mm is None:
        return "Six angles or more in both series tell which part is bent."
    found = gap.parted(first, turned)
    both = f"{found.dynamic_mm:.2f} mm turn with the rotor, {found.static_mm:.2f} mm stay where they are"
    if max(found.dynamic_mm, found.static_mm) < gap.SPOT_MM:
        return f"{both}: nothing is bent that a feeler would find."
    if found.dynamic_mm > 2 * found.static_mm:
        return f"{both}: shaft or bell, opening towards {found.dynamic_at_deg:.0f}°."
    if found.static_mm > 2 * found.dynamic_mm:
        return f"{both}: the stator or the mount, not the shaft."
    return f"{both}: both have a part in it."


STEP = GapTurned()
