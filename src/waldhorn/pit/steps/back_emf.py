"""Back-EMF: the drill turns the motor, the three pairs of leads are read; no power at all."""

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean
from typing import Annotated

from waldhorn.core import back_emf
from waldhorn.core.back_emf import Waveform
from waldhorn.core.errors import Refused
from waldhorn.core.explain import figure
from waldhorn.core.history import Reading
from waldhorn.core.vocabulary import Method
from waldhorn.pit import cautions
from waldhorn.pit.context import CheckContext
from waldhorn.pit.steps.step import Ask, Fields, Step, Taken, View

_PAIRS = {"a": "back_emf_a", "b": "back_emf_b", "c": "back_emf_c"}


class BackEmfFields(Fields):
    """The drill's speed in rpm, and peak volts of A to B, B to C, C to A."""

    rpm: Annotated[float | None, Ask("turned at, rpm", "rpm", required=True)] = None
    a: Annotated[float | None, Ask("A to B, peak V", "back_emf_a", required=True)] = None
    b: Annotated[float | None, Ask("B to C, peak V", "back_emf_b", required=True)] = None
    c: Annotated[float | None, Ask("C to A, peak V", "back_emf_c", required=True)] = None


@dataclass(frozen=True)
class BackEmfView(View):
    """What was read, by pair in volts."""

    rows: Sequence[tuple[str, float]] = ()


class BackEmf(Step[BackEmfFields, BackEmfView]):
    """A motor turned by the drill."""

    name = "back_emf"
    title = "Back-EMF"
    instruction = "Drill in the chuck, leads apart: peak volts of the three pairs at one speed."
    caution = f"{cautions.UNPLUGGED} {cautions.DRILL}"
    order = 55
    fields = BackEmfFields
    measures = tuple(_PAIRS.values())

    def taken(self, ctx: CheckContext, values: BackEmfFields, run: int) -> Taken:
        """The three pairs, and the KV of the drill's school."""
        read = {measure: getattr(values, n) for n, measure in _PAIRS.items()}
        found = [ctx.reading(m, v, run) for m, v in read.items() if v is not None]
        if wave := _wave(values):
            kv = back_emf.peak_kv(wave)
            found.append(ctx.reading("kv", kv, run, method=Method.BACK_EMF.value, throttle_pct=None))
        return Taken(tuple(found))

    def missing(self, ctx: CheckContext, values: BackEmfFields) -> dict[str, str]:
        """Voltages that no motor gives together."""
        if values.rpm is None or values.a is None or values.b is None or values.c is None:
            return {}
        wave = Waveform(values.rpm, values.a, values.b, values.c)
        try:
            back_emf.peak_kv(wave)
            back_emf.unbalance_pct(wave)
        except Refused as refused:
            return {"a": refused.sentence}
        return {}

    def view(self, ctx: CheckContext, values: BackEmfFields, fresh: Sequence[Reading]) -> BackEmfView:
        """KV, unbalance, and what stands out."""
        wave = _wave(values) or _last(ctx, self.readings(ctx))
        if wave is None:
            return BackEmfView()
        rows = (("A to B", wave.ab), ("B to C", wave.bc), ("C to A", wave.ca))
        figures = (
            figure("KV by the drill", "rpm/V", 0, back_emf.peak_kv, wave=wave),
            figure("unbalance", "%", 2, back_emf.unbalance_pct, wave=wave),
        )
        weak = back_emf.weak_phase(wave)
        words = (
            f"Phase {weak[0]} stands {weak[1]:.1f} % below the others: turns that touch, or a joint of it." if weak
            else "The three phases give the same. All of them lower than before would be the magnets.",
            "A powered pull may read up to 5 % more than the drill: the two are never compared.",
        )  # fmt: skip
        return BackEmfView(figures, words, rows)

    def summary(self, ctx: CheckContext) -> str:
        """How often it was turned."""
        count = self.counted(ctx)
        return f"{count} {'run' if count == 1 else 'runs'}" if count else ""


def _wave(values: BackEmfFields) -> Waveform | None:
    """What is typed, once it is whole and can be."""
    if values.rpm is None or values.a is None or values.b is None or values.c is None:
        return None
    wave = Waveform(values.rpm, values.a, values.b, values.c)
    try:
        back_emf.peak_kv(wave)
        back_emf.unbalance_pct(wave)
    except Refused:
        return None
    return wave


def _last(ctx: CheckContext, taken: Sequence[Reading]) -> Waveform | None:
    """What was read last; its speed is that of the KV it gave."""
    run = max((r.run for r in taken if r.accepted), default=0)
    by = {r.measure: r.value for r in taken if r.run == run and r.accepted}
    kv = [r.value for r in ctx.readings if r.measure == "kv" and r.run == run and r.accepted]
    if not kv or set(_PAIRS.values()) - set(by):
        return None
    a, b, c = (by[m] for m in _PAIRS.values())
    return Waveform(kv[-1] * fmean((a, b, c)), a, b, c)


STEP = BackEmf()
