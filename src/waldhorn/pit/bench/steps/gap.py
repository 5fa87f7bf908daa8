"""The gap around the clock, read with the feeler: run-out and where it opens."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.explain import figure
from waldhorn.core.base.history import Reading
from waldhorn.core.measuring import gap
from waldhorn.pit.bench import cautions
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields
from waldhorn.pit.bench.steps.step import Marks, Step, Taken, View


class GapFields(Fields):
    """Gaps in mm, and the clock angles they were read at in degrees."""

    gaps: Annotated[tuple[float, ...], Ask("gaps, mm", "gap", many=True, required=True, hint="0.6 0.58 0.62 0.6")] = ()
    angles: Annotated[
        tuple[float, ...],
        Ask(
            "at clock angles, °",
            dimension="angle",
            low=-360,
            high=720,
            many=True,
            hint="empty: evenly around",
            modest=True,
        ),
    ] = ()

    def placed(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        """Gaps and their angles, evenly around where none were typed."""
        return self.gaps, self.angles or tuple(360 * i / len(self.gaps) for i in range(len(self.gaps)))


@dataclass(frozen=True)
class GapView(View):
    """The fit of what is typed, or of the last run."""

    fitted: gap.GapFit | None = None


class Gap(Step[GapFields, GapView]):
    """Run-out."""

    name = "gap"
    title = "Gap"
    instruction = "Feeler at four or more places around: type the gaps in a row."
    caution = f"Pack unplugged. Do not force the feeler: it chips magnets. {cautions.MAGNETS}"
    order = 20
    fields = GapFields
    plans = frozenset({"full"})
    measures = ("gap",)
    quantities = ("run_out",)
    part = "gap"
    untested = "not gauged"

    def taken(self, ctx: CheckContext, values: GapFields, run: int) -> Taken:
        """One reading an angle."""
        gaps, angles = values.placed()
        if len(gaps) != len(angles):
            return Taken()
        placed = zip(gaps, angles, strict=True)
        return Taken(tuple(ctx.reading(self.measures[0], g, run, angle_deg=a % 360) for g, a in placed))

    def missing(self, ctx: CheckContext, values: GapFields) -> dict[str, str]:
        """What the fit would refuse."""
        gaps, angles = values.placed()
        try:
            gap.fit(angles, gaps)
        except InputError as refused:
            return {"angles" if refused.field == "angle" or len(gaps) != len(angles) else "gaps": refused.sentence}
        return {}

    def view(self, ctx: CheckContext, values: GapFields, fresh: Sequence[Reading]) -> GapView:
        """Run-out, where it opens, and what does not fit."""
        placed = _angles_and_gaps(fresh) or _angles_and_gaps(self._last(ctx))
        fitted = _fit(placed)
        if fitted is None:
            return GapView()
        inputs = {"angles_deg": [a for a, _ in placed], "gaps_mm": [g for _, g in placed]}
        words = f"Opens towards {fitted.opens_at_deg:.0f}°."
        if fitted.spot is not None:
            where = f"{placed[fitted.spot][0] % 360:.0f}°"
            words = f"One spot, at {where}, does not fit: a loose magnet or a dent, not a bent shaft."
        elif fitted.oval:
            words = "It opens and closes twice per turn: an oval part, not a bent shaft."
        elif fitted.oval_mm is None:
            words += " Six readings would tell a spot or an oval part from a bent shaft."
        figures = (
            figure("run-out", "mm", 2, gap.fit, show=lambda f: f.run_out_mm, **inputs),
            figure("mean gap", "mm", 2, gap.fit, show=lambda f: f.mean_mm, **inputs),
            figure("worst that does not fit", "mm", 2, gap.fit, show=lambda f: f.worst_mm, **inputs),
        )
        return GapView(figures, (words,), fitted)

    def marks(self, ctx: CheckContext, view: GapView | None) -> Marks:
        """The rotor leans by its run-out."""
        return Marks(lean=view.fitted if view else self.last_fit(ctx))

    def last_fit(self, ctx: CheckContext) -> gap.GapFit | None:
        """The last series of this check, fitted."""
        return _fit(_angles_and_gaps(self._last(ctx)))

    def _last(self, ctx: CheckContext) -> Sequence[Reading]:
        runs = [[r for r in run if r.accepted] for run in self.runs(ctx).values()]
        return next((run for run in reversed(runs) if run), [])


def _angles_and_gaps(readings: Sequence[Reading]) -> list[tuple[float, float]]:
    return [(r.angle_deg or 0.0, r.value) for r in readings]


def _fit(placed: Sequence[tuple[float, float]]) -> gap.GapFit | None:
    try:
        return gap.fit([a for a, _ in placed], [g for _, g in placed])
    except InputError:
        return None


STEP = Gap()
