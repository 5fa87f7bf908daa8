"""Winding resistance: three pairs of leads with four wires."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Annotated, Any

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.explain import figure
from waldhorn.core.base.history import Reading
from waldhorn.core.measuring import resistance
from waldhorn.core.measuring.quantity import REWOUND
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
                words = self._since(ctx, pairs, warm)
            except InputError as refused:
                words = (refused.sentence,)
        return ResistanceView(tuple(figures), words, rows)

    def _since(self, ctx: CheckContext, pairs: Mapping[str, float], warm: float | None) -> tuple[str, ...]:
        """What the pairs say against their own past, the first time all three were read since it was wound."""
        wound = max((e.at for e in ctx.history.events if e.event in REWOUND), default=None)
        for check in sorted(ctx.history.checks, key=lambda c: c.at):
            mine = [r for r in check.readings if self.owns(r) and r.accepted and (wound is None or r.at > wound)]
            then = {r.measure[-2:]: r for r in mine}
            if check.id == ctx.check.id or len(then) < 3:
                continue
            temperatures = [r.conditions.motor_c for r in then.values()]
            if (warm is None) != (None in temperatures):
                return ()  # of one the warmth is not known: all three would move by it
            past = [_cold(then[n].value, then[n].conditions.motor_c) for n in _PAIR]
            moved = resistance.by_sign(past, [_cold(pairs[n], warm) for n in _PAIR])
            words = _SIGN_WORDS[moved.sign]
            if not words:
                return ()
            share, when = f"{abs(100 * moved.change):.1f} %", f"{check.at.day} {check.at:%B}"
            return (words.format(where=moved.where.upper(), share=share, when=when, way=_way(moved.change)),)
        return ()

    def habits(self, ctx: CheckContext) -> dict[str, str]:
        """A motor that has not run has its own temperature still."""
        return as_typed(self.fields, {"winding_c": ctx.check.motor_c}, ctx.notation)


_SIGN_WORDS = {
    resistance.Sign.SAME: "",
    resistance.Sign.TURN: "Both pairs at {where} {share} lower than on {when}: a turn of phase {where} is shorted."
    " No more power.",
    resistance.Sign.JOINT: "Both pairs at {where} {share} higher than on {when}: the lead or joint {where}.",
    resistance.Sign.ONE_PAIR: "{where} alone {share} {way} than on {when}: clip it anew; in a delta it is that phase.",
    resistance.Sign.ALIKE: "All three {share} {way} than on {when}: warmth or meter. Copper gains 3.85 % in 10 K.",
    resistance.Sign.OTHER: "The pairs moved otherwise than one turn or one joint moves them: clip all anew.",
}


def _way(change: float) -> str:
    return "lower" if change < 0 else "higher"


def _cold(milliohm: float, winding_c: float | None) -> float:
    return milliohm if winding_c is None else resistance.at_reference(milliohm, winding_c)


def _of(phase: str, found: resistance.Phases) -> float:
    return float(getattr(found, phase))


STEP = Resistance()
