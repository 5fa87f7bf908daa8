"""Back-EMF: the drill turns the motor, the three pairs of leads are read or recorded; no power at all."""

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean
from typing import Annotated

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.explain import figure
from waldhorn.core.base.history import Reading
from waldhorn.core.base.vocabulary import Method
from waldhorn.core.measuring import back_emf, back_emf_recording
from waldhorn.core.measuring.back_emf import Waveform
from waldhorn.core.measuring.back_emf_recording import Recorded
from waldhorn.pit.bench import cautions
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields
from waldhorn.pit.bench.steps.step import Step, Taken, View

_PAIRS = ("back_emf_a", "back_emf_b", "back_emf_c")


class BackEmfFields(Fields):
    """The drill's speed in rpm and peak volts of A to B, B to C, C to A; or a recording of two channels, and by what
    its volts are divided."""

    rpm: Annotated[float | None, Ask("turned at, rpm", "rpm")] = None
    a: Annotated[float | None, Ask("A to B, peak V", "back_emf_a")] = None
    b: Annotated[float | None, Ask("B to C, peak V", "back_emf_b")] = None
    c: Annotated[float | None, Ask("C to A, peak V", "back_emf_c")] = None
    recording: Annotated[
        str | None, Ask("or a recording: seconds, volts A to B, volts B to C, a row a line", longest=400_000)
    ] = None
    divider: Annotated[
        float | None,
        Ask("its volts are divided by", dimension="count", low=0.001, high=10_000, habit="1", modest=True),
    ] = None


@dataclass(frozen=True)
class BackEmfView(View):
    """What was read, by pair in volts."""

    rows: Sequence[tuple[str, float]] = ()


class BackEmf(Step[BackEmfFields, BackEmfView]):
    """A motor turned by the drill."""

    name = "back_emf"
    title = "Back-EMF"
    instruction = "Drill in the chuck, leads apart: peak volts of the three pairs at one speed, or a recording."
    caution = f"{cautions.UNPLUGGED} {cautions.DRILL}"
    order = 55
    fields = BackEmfFields
    measures = _PAIRS

    def taken(self, ctx: CheckContext, values: BackEmfFields, run: int) -> Taken:
        """The three pairs, and the KV of the drill's school."""
        wave = _wave(ctx, values)
        volts = wave.volts if wave else (values.a, values.b, values.c)
        found = [ctx.reading(m, v, run) for m, v in zip(_PAIRS, volts, strict=True) if v is not None]
        if wave:
            kv = back_emf.peak_kv(wave)
            found.append(ctx.reading("kv", kv, run, method=Method.BACK_EMF.value, throttle_pct=None))
        return Taken(tuple(found))

    def missing(self, ctx: CheckContext, values: BackEmfFields) -> dict[str, str]:
        """A recording that tells nothing, voltages that no motor gives together, or neither."""
        try:
            if values.recording:
                _recorded(ctx, values)
                return {}
            typed = _typed(values)
            if typed is None:
                wanted = {n: getattr(values, n) for n in ("rpm", "a", "b", "c")}
                return {n: "is still to come, or paste a recording" for n, v in wanted.items() if v is None}
            _checked(typed)
        except InputError as refused:
            return {
                refused.field if refused.field == "rpm" else "recording" if values.recording else "a": refused.sentence
            }
        return {}

    def view(self, ctx: CheckContext, values: BackEmfFields, fresh: Sequence[Reading]) -> BackEmfView:
        """KV, unbalance, and what stands out."""
        wave = _wave(ctx, values) or _last(ctx, self.readings(ctx))
        if wave is None:
            return BackEmfView()
        rows = (("A to B", wave.ab), ("B to C", wave.bc), ("C to A", wave.ca))
        figures = (
            figure("KV by the drill", "rpm/V", 0, back_emf.peak_kv, wave=wave),
            figure("unbalance", "%", 2, back_emf.unbalance_pct, wave=wave),
        )
        weak = back_emf.weak_phase(wave)
        words = (
            f"Phase {weak[0]} stands {weak[1]:.1f} % below the others: turns that touch, or a joint of it."
            if weak
            else "The three phases give the same. All of them lower than before would be the magnets.",
            *_of_recording(ctx, values),
            "A powered pull may read up to 5 % more than the drill: the two are never compared.",
        )
        return BackEmfView(figures, words, rows)

    def summary(self, ctx: CheckContext) -> str:
        """How often it was turned."""
        count = self.counted(ctx)
        return f"{count} {'run' if count == 1 else 'runs'}" if count else ""


def _typed(values: BackEmfFields) -> Waveform | None:
    if values.rpm is None or values.a is None or values.b is None or values.c is None:
        return None
    return Waveform(values.rpm, values.a, values.b, values.c)


def _recorded(ctx: CheckContext, values: BackEmfFields) -> Recorded:
    """What the recording tells; raises InputError."""
    seconds, ab, bc = back_emf_recording.read(values.recording or "")
    times = values.divider or 1.0
    found = back_emf_recording.analyse(seconds, ab * times, bc * times, ctx.motor.poles, values.rpm)
    _checked(found.wave)
    return found


def _checked(wave: Waveform) -> Waveform:
    """A waveform that can be; raises InputError."""
    back_emf.peak_kv(wave)
    back_emf.unbalance_pct(wave)
    return wave


def _wave(ctx: CheckContext, values: BackEmfFields) -> Waveform | None:
    """What is typed or recorded, once it is whole and can be."""
    try:
        if values.recording:
            return _recorded(ctx, values).wave
        typed = _typed(values)
        return _checked(typed) if typed else None
    except InputError:
        return None


def _of_recording(ctx: CheckContext, values: BackEmfFields) -> tuple[str, ...]:
    """What only a recording tells: the drill's speed, and a pole pair that stands out."""
    if not values.recording:
        return ()
    try:
        found = _recorded(ctx, values)
    except InputError:
        return ()
    said = [f"The drill turned at {found.wave.rpm:.0f} rpm, {found.hertz:.0f} electrical turns a second."]
    if found.may_be_cut:
        said.append(
            "That is slow: a recorder made for sound cuts it. Drill faster, or use one that shows steady volts."
        )
    odd = found.odd_pair
    if odd:
        way = "below" if odd[1] < 0 else "above"
        said.append(f"One of {len(found.pairs)} pole pairs stands {abs(odd[1]):.1f} % {way} the others: a magnet.")
    elif len(found.pairs) > 1:
        said.append(f"Its {len(found.pairs)} pole pairs give the same: no magnet stands out.")
    return tuple(said)


def _last(ctx: CheckContext, taken: Sequence[Reading]) -> Waveform | None:
    """What was read last; its speed is that of the KV it gave."""
    run = max((r.run for r in taken if r.accepted), default=0)
    by = {r.measure: r.value for r in taken if r.run == run and r.accepted}
    kv = [r.value for r in ctx.readings if r.measure == "kv" and r.run == run and r.accepted]
    if not kv or set(_PAIRS) - set(by):
        return None
    a, b, c = (by[m] for m in _PAIRS)
    return Waveform(kv[-1] * fmean((a, b, c)), a, b, c)


STEP = BackEmf()
