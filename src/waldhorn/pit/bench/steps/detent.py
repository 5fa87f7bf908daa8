"""Detent, cold and unpowered: peaks in a row, with a lever on a scale or as torque."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from typing import Annotated, Any

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.explain import Figure, figure
from waldhorn.core.base.history import Reading
from waldhorn.core.base.units import from_stored, to_stored
from waldhorn.core.measuring import detent
from waldhorn.core.motors.winding import can_be_wound, detent_positions
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields, as_typed
from waldhorn.pit.bench.steps.step import Marks, Step, Taken, View

ON_LEVER = "g on the lever"
TORQUE = "N·mm"
UNITS = (ON_LEVER, TORQUE, "g·cm", "oz·in")


class DetentFields(Fields):
    """The unit, the lever in mm, and the peaks in a row."""

    unit: Annotated[str | None, Ask("read in", choices=UNITS, habit=TORQUE, required=True, modest=True)] = None
    lever_mm: Annotated[float | None, Ask("lever, mm", dimension="length", low=1, high=500, modest=True)] = None
    lever: Annotated[str | None, Ask("or which lever, its length not known", modest=True)] = None
    peaks: Annotated[
        tuple[float, ...],
        Ask("peaks", dimension="count", low=0, high=100_000, many=True, required=True, hint="18.2 18.4 18.1"),
    ] = ()

    @property
    def as_force(self) -> bool:
        """Whether they stay grams on a lever whose length nobody knows: so do those on a lever that is named."""
        return not self.lever_mm and (self.unit == ON_LEVER or bool(self.lever))

    def peaks_found(self) -> list[float]:
        """The peaks in N·mm, or in grams as forces."""
        if self.as_force:
            return list(self.peaks)
        if self.unit == ON_LEVER and self.lever_mm:
            return [detent.torque(p, self.lever_mm) for p in self.peaks]
        return [to_stored(p, self.unit or TORQUE, "torque") for p in self.peaks]


@dataclass(frozen=True)
class DetentView(View):
    """The run at hand, its peaks and those that stand apart."""

    peaks: Sequence[float] = ()
    outliers: Sequence[int] = ()
    stored: bool = False
    unit: str = TORQUE


class Detent(Step[DetentFields, DetentView]):
    """Detent peaks."""

    name = "detent"
    title = "Detent"
    instruction = "Lever on the scale, turn slowly: type each peak as it comes."
    caution = "Pack unplugged, motor cold. Turn slowly: fast reads high."
    order = 30
    fields = DetentFields
    plans = frozenset({"full"})
    measures = ("detent_peak", "detent_force")
    quantities = ("detent_peak", "detent_force", "detent_variation", "magnet_strength")
    part = "magnets"
    untested = "not felt"

    def taken(self, ctx: CheckContext, values: DetentFields, run: int) -> Taken:
        """One reading a position; how it was read is kept for next time."""
        measure, lever = ("detent_force", values.lever or "") if values.as_force else ("detent_peak", "")
        found = tuple(
            ctx.reading(measure, peak, run, position=place, lever=lever)
            for place, peak in enumerate(values.peaks_found(), 1)
            if peak > 0
        )
        unit = ON_LEVER if values.as_force else values.unit or TORQUE
        return Taken(found, check={"lever_unit": unit, "lever_mm": values.lever_mm})

    def missing(self, ctx: CheckContext, values: DetentFields) -> dict[str, str]:
        """Peaks that cannot be, or of which it is not clear what they are."""
        if values.as_force and values.unit not in (ON_LEVER, TORQUE, None):
            return {"unit": f"in {values.unit}, or in grams on “{values.lever}”? Choose, or give its length"}
        try:
            detent.summarise(values.peaks_found())
        except InputError as refused:
            return {"peaks": refused.sentence}
        return {}

    def view(self, ctx: CheckContext, values: DetentFields, fresh: Sequence[Reading]) -> DetentView:
        """Centre, variation, harmonics, and what to look at again."""
        read, turn = self.last_run(ctx, fresh), positions(ctx)
        peaks = [r.value for r in read]
        if not peaks:
            return DetentView(words=(f"{turn} natural positions in a turn.",) if turn else ())
        run = detent.summarise(peaks, turn)
        as_force = read[0].measure == "detent_force"
        unit = "g" if as_force else TORQUE
        inputs: dict[str, Any] = {"peaks": peaks, "positions": turn}
        summed = partial(figure, **inputs)
        figures = [summed("median", unit, 2, detent.summarise, show=lambda r: r.median_nmm)]
        for shown, decimals in () if as_force else (("g·cm", 1), ("oz·in", 2)):
            written: dict[str, Any] = {"stored": run.median_nmm, "unit": shown, "dimension": "torque"}
            figures.append(Figure(f"in {shown}", from_stored(**written), shown, decimals, from_stored, written))
        figures.append(summed("highest", unit, 2, detent.summarise, show=lambda r: r.highest_nmm))
        figures.append(summed("variation", "%", 1, detent.summarise, show=lambda r: r.variation_pct))
        if run.once_per_turn_pct is not None:
            figures.append(summed("once per turn", "%", 1, detent.summarise, show=lambda r: r.once_per_turn_pct))
        if run.alternating_pct is not None:
            figures.append(summed("every second", "%", 1, detent.summarise, show=lambda r: r.alternating_pct))
        words = [f"Force on a lever of unknown length: compares with {_named(read[0])} only."] if as_force else []
        words += _words(ctx, run, peaks, unit)
        return DetentView(tuple(figures), tuple(words), peaks, run.outliers, not fresh, unit)

    def habits(self, ctx: CheckContext) -> dict[str, str]:
        """The unit and the lever used last time."""
        for check in (ctx.check, ctx.before):
            if check and check.lever_unit:
                mine = [r for c in ctx.history.checks for r in c.readings if r.measure == "detent_force"]
                lever = mine[-1].conditions.lever if mine else None
                return {"unit": check.lever_unit} | as_typed(
                    self.fields, {"lever_mm": check.lever_mm, "lever": lever or None}, ctx.notation
                )
        return {"unit": ctx.notation.bare_unit("torque")}

    def marks(self, ctx: CheckContext, view: DetentView | None) -> Marks:
        """Peaks are teeth around the turn."""
        peaks = view.peaks if view else [r.value for r in self.last_run(ctx, ())]
        return Marks(peaks=peaks, odd_peaks=view.outliers if view else (), positions=positions(ctx))

    def last_run(self, ctx: CheckContext, fresh: Sequence[Reading]) -> Sequence[Reading]:
        """The peaks being typed, or those of the last run that count, in order."""
        if fresh:
            return fresh
        runs = self.runs(ctx)
        last = [r for r in list(runs.values())[-1] if r.accepted] if runs else []
        return sorted(last, key=lambda r: r.position or 0)


def positions(ctx: CheckContext) -> int | None:
    """Natural positions of a motor per turn, when its slots and poles are known."""
    slots, poles = ctx.motor.slots, ctx.motor.poles
    return detent_positions(slots, poles) if slots and poles and can_be_wound(slots, poles) else None


def _named(reading: Reading) -> str:
    return f"“{reading.conditions.lever}”" if reading.conditions.lever else "the same lever"


def _words(ctx: CheckContext, run: detent.DetentRun, peaks: Sequence[float], unit: str) -> list[str]:
    words = []
    if run.turns is not None:
        words.append(f"{100 * run.turns:.0f} % of a turn covered.")
    if run.rising:
        words.append("Rising peak by peak: turned ever faster? Fast reads high.")
    for place in run.outliers:
        words.append(
            f"Peak {place + 1} ({peaks[place]:.1f} {unit}) stands apart: a wire on the arm? It does not count."
        )
    if run.once_per_turn_pct is not None and run.once_per_turn_pct > 10:
        words.append(f"Stronger once per turn, towards {run.leans_to_deg:.0f}°: rotor and stator both sit off centre.")
    if run.alternating_pct is not None and run.alternating_pct > 8:
        # With a sound stator the pattern repeats every lcm/slots positions: only where that is two are magnets meant.
        magnets = positions(ctx) == 2 * (ctx.motor.slots or 0)
        words.append(f"Every second position is stronger{': unequal magnets' if magnets else ''}.")
    return words


STEP = Detent()
