"""Winding resistance: three pairs of leads with four wires."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from typing import Annotated, Any

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.explain import figure
from waldhorn.core.base.history import Reading
from waldhorn.core.measuring import resistance
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields, as_typed
from waldhorn.pit.bench.steps.step import Step, Taken, View

_PAIR = {"ab": "A to B", "bc": "B to C", "ca": "C to A"}


class ResistanceFields(Fields):
    """The three pairs in mΩ, and how warm the winding was."""

    ab: Annotated[float | None, Ask("A to B, mΩ", "winding_resistance_ab", required=True)] = None
    bc: Annotated[float | None, Ask("B to C, mΩ", "winding_resistance_bc", required=True)] = None
    ca: Annotated[float | None, Ask("C to A, mΩ", "winding_resistance_ca", required=True)] = None
    winding_c: Annotated[float | None, Ask("winding, °C", "temperature", required=True, modest=True)] = None


@dataclass(frozen=True)
class ResistanceView(View):
    """The three pairs as a row by letter, as read and at 25 °C."""

    rows: Sequence[tuple[str, float, float | None]] = ()


class Resistance(Step[ResistanceFields, ResistanceView]):
    """The three pairs."""

    name = "resistance"
    title = "Winding"
    instruction = "Four wires, three pairs, each both ways round."
    caution = "Pack unplugged, leads off the controller. 1 to 5 A in short pulses: the winding warms while measured."
    order = 45
    fields = ResistanceFields
    takes_part = True
    measures = resistance.PAIRS
    quantities = ("resistance_imbalance",)
    part = "winding"
    untested = "not measured"

    def taken(self, ctx: CheckContext, values: ResistanceFields, run: int) -> Taken:
        """One reading a pair, with the temperature of the winding beside it."""
        pairs = zip(resistance.PAIRS, (values.ab, values.bc, values.ca), strict=True)
        read = partial(ctx.reading, run=run, motor_c=values.winding_c)
        return Taken(tuple(read(name, value) for name, value in pairs if value is not None))

    def missing(self, ctx: CheckContext, values: ResistanceFields) -> dict[str, str]:
        """Pairs that no winding has."""
        if None in (values.ab, values.bc, values.ca):
            return {}
        try:
            resistance.phases(values.ab or 0, values.bc or 0, values.ca or 0)
        except InputError as refused:
            return {"ab": refused.sentence}
        return {}

    def view(self, ctx: CheckContext, values: ResistanceFields, fresh: Sequence[Reading]) -> ResistanceView:
        """The pairs at 25 °C, the phases, and how unequal they are."""
        runs = self.runs(ctx)
        last = list(fresh) or [r for r in (list(runs.values())[-1] if runs else []) if r.accepted]
        pairs = {r.measure[-2:]: r.value for r in last}
        warm = next((r.conditions.motor_c for r in last if r.conditions.motor_c is not None), None)
        cold = {
            n: figure(f"{_PAIR[n]} at 25 °C", "mΩ", 2, resistance.at_reference, milliohm=v, winding_c=warm)
            for n, v in pairs.items()
            if warm is not None
        }
        rows = tuple((_PAIR[n], v, float(cold[n].value) if n in cold else None) for n, v in pairs.items())
        figures = list(cold.values())
        words: tuple[str, ...] = ()
        if len(pairs) == 3:
            three: dict[str, Any] = {n: c.value for n, c in cold.items()} or pairs
            try:
                figures.append(figure("imbalance", "%", 2, resistance.imbalance_pct, **three))
                figures += [
                    figure(f"phase {p.upper()}", "mΩ", 2, resistance.phases, show=partial(_of, p), **three)
                    for p in "abc"
                ]
            except InputError as refused:
                words = (refused.sentence,)
        return ResistanceView(tuple(figures), words, rows)

    def habits(self, ctx: CheckContext) -> dict[str, str]:
        """A motor that has not run has its own temperature still."""
        return as_typed(self.fields, {"winding_c": ctx.check.motor_c}, ctx.notation)


def _of(phase: str, found: resistance.Phases) -> float:
    return float(getattr(found, phase))


STEP = Resistance()
