"""Poles: counted, by a reference motor on the same drill, or by a tachometer; and putting a wrong setting right."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from statistics import fmean
from typing import Annotated, Any

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.explain import Figure, figure
from waldhorn.core.base.history import Motor, PoleFinding, Reading
from waldhorn.core.base.vocabulary import PolesBy, Purpose
from waldhorn.core.judging.hands import open_findings
from waldhorn.core.measuring import inspection, poles
from waldhorn.core.motors.facts import MOST_POLES, impossible
from waldhorn.pit.bench import cautions
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields, read_partly
from waldhorn.pit.bench.steps.step import Curve, Step, Taken, View


class PolesFields(Fields):
    """A count, or frequencies in Hz with the speed they were read at."""

    counted: Annotated[float | None, Ask("counted", dimension="count", low=2, high=MOST_POLES, hint="opened it")] = None
    frequency_hz: Annotated[
        tuple[float, ...], Ask("its frequency, Hz", "electrical_frequency", many=True, hint="116.8 116.5")
    ] = ()
    reference_hz: Annotated[
        tuple[float, ...],
        Ask("reference motor, Hz", "electrical_frequency", many=True, hint="same drill, full trigger"),
    ] = ()
    reference_poles: Annotated[
        float | None, Ask("its poles", dimension="count", low=2, high=MOST_POLES, modest=True)
    ] = None
    shaft_rpm: Annotated[tuple[float, ...], Ask("or tachometer, rpm", "rpm", many=True, modest=True)] = ()

    def called(self) -> poles.PoleCount | None:
        """What the frequencies say, or None while they are not enough; raises InputError."""
        if not self.frequency_hz:
            return None
        if self.shaft_rpm:
            return poles.from_tachometer(self.frequency_hz, self.shaft_rpm)
        if not self.reference_hz or not self.reference_poles:
            return None
        return poles.from_reference(self.frequency_hz, self.reference_hz, int(self.reference_poles))


@dataclass(frozen=True)
class PolesView(View):
    """Candidates, and a re-basing that is offered as (set, true)."""

    called: poles.PoleCount | None = None
    rebase: tuple[int, int] | None = None


class Poles(Step[PolesFields, PolesView]):
    """The pole count."""

    name = "poles"
    title = "Poles"
    instruction = "Count the magnets, or let the drill tell."
    caution = f"{cautions.DRILL} {cautions.MAGNETS}"
    order = 50
    fields = PolesFields
    plans = frozenset({"full"})
    wants_fleet = True
    measures = ("electrical_frequency",)
    purposes = (Purpose.STANDARD, Purpose.REFERENCE)

    def taken(self, ctx: CheckContext, values: PolesFields, run: int) -> Taken:
        """The frequencies, the finding, and a settled count as a fact of the motor."""
        if is_reference(ctx, values):
            note = f"reference, {ctx.motor.poles} poles"
            read = [
                ctx.reading("electrical_frequency", f, run, purpose=Purpose.REFERENCE, note=note)
                for f in values.frequency_hz
            ]
            same = PoleFinding(ctx.check.id, ctx.motor.poles, ctx.motor.poles_known_by, None, ctx.now)
            return Taken(tuple(read), (same,))
        readings = [ctx.reading("electrical_frequency", f, run) for f in values.frequency_hz]
        count = values.reference_poles
        note = f"reference, {count:g} poles" if count else "reference"
        readings += [
            ctx.reading("electrical_frequency", f, run, purpose=Purpose.REFERENCE, note=note)
            for f in (values.reference_hz if values.frequency_hz or self._reread(ctx, values) else ())
        ]
        known = settled(values)
        if known is None:
            return Taken(tuple(readings), self._unsettled(ctx, values))
        before = ctx.motor.poles if ctx.motor.poles and ctx.motor.poles != known[0] else None
        found = PoleFinding(ctx.check.id, known[0], known[1], before, ctx.now)
        return Taken(tuple(readings), (found,), motor=_with_poles(ctx, *known))

    def _unsettled(self, ctx: CheckContext, values: PolesFields) -> tuple[PoleFinding, ...]:
        if values.frequency_hz:
            return (PoleFinding(ctx.check.id, None, "", None, ctx.now),)
        if ctx.motor.poles:
            return (PoleFinding(ctx.check.id, ctx.motor.poles, ctx.motor.poles_known_by, None, ctx.now),)
        return ()

    def missing(self, ctx: CheckContext, values: PolesFields) -> dict[str, str]:
        """A count that cannot be, or frequencies without what they need."""
        if values.counted is not None:
            if values.counted != int(values.counted):
                return {"counted": f"{values.counted:g} poles cannot be: a whole, even number"}
            wrong = impossible(replace(ctx.motor, poles=int(values.counted)))
            return {"counted": wrong["poles"]} if "poles" in wrong else {}
        if values.frequency_hz:
            if stop := inspection.forbidding(open_findings(ctx.history)):
                items = ", ".join(item.title for item in stop)
                return {"frequency_hz": f"no turning by a drill until it is mended: {items}. Count the magnets"}
            if is_reference(ctx, values):
                return {}
            try:
                if values.called() is None:
                    return {"reference_hz": "how fast is the drill? A reference motor with its poles, or a tachometer"}
            except InputError as refused:
                field = refused.field if refused.field in ("reference_poles", "reference_hz") else "frequency_hz"
                return {field: refused.sentence}
        elif values.shaft_rpm or self._reread(ctx, values):
            return {"frequency_hz": "its own frequency is still to come"}
        elif not ctx.motor.poles:
            return {"counted": "nobody knows yet: count, or type two frequencies"}
        return {}

    def view(self, ctx: CheckContext, values: PolesFields, fresh: Sequence[Reading]) -> PolesView:
        """Candidates with their probabilities, and what is odd about the count."""
        words, offer = [], rebase_offer(ctx)
        if ctx.motor.poles:
            words.append(f"{ctx.motor.poles} poles so far, {ctx.motor.poles_known_by or 'nobody said by what'}.")
        if is_reference(ctx, values):
            rpm = poles.speed(fmean(values.frequency_hz), ctx.motor.poles or 2)
            words.append(
                f"Read as the reference: the drill turns at {rpm:.0f} rpm. It stands there for the next motor."
            )
            return PolesView(words=tuple(words), rebase=offer)
        try:
            called = values.called()
        except InputError:
            return PolesView(words=tuple(words), rebase=offer)
        if called is None:
            counted = values.counted
            odd = poles.odd_count(int(counted), ctx.motor) if counted and int(counted) == counted else ""
            return PolesView(words=(*words, odd) if odd else tuple(words), rebase=offer)
        if called.poles and (odd := poles.odd_count(called.poles, ctx.motor)):
            words.append(odd)
        return PolesView(tuple(_figures(values, called)), (called.words, *words), called, offer)

    def curve(self, view: PolesView) -> Curve | None:
        """The candidates on a ruler of pole counts, each as high as it is likely."""
        if view.called is None:
            return None
        likely = view.called.candidates
        low, high = min(c.poles for c in likely) - 2, max(c.poles for c in likely) + 2
        return Curve(
            "how likely each pole count is",
            [],
            [(c.poles, c.probability, f"{c.poles} poles: {100 * c.probability:.0f} in 100") for c in likely],
            (float(low), float(high)),
            (0.0, 1.1),
            (f"{low} poles", f"{high} poles"),
            ("0", "certain"),
            mark=float(view.called.poles) if view.called.poles else None,
            named=True,
        )

    def habits(self, ctx: CheckContext) -> dict[str, str]:
        """The reference motor stays on the drill: its poles, and its frequency as read last today."""
        return {n: ctx.drill[n] for n in ("reference_hz", "reference_poles") if ctx.drill.get(n)}

    def _reread(self, ctx: CheckContext, values: PolesFields) -> bool:
        """Whether the reference motor was read anew, and does not just stand there from the motor before."""
        there, _ = read_partly(PolesFields, self.habits(ctx), ctx.notation)
        return bool(values.reference_hz) and values.reference_hz != there.reference_hz

    def finished(self, ctx: CheckContext) -> bool:
        """Once a count is settled."""
        known = ctx.poles()
        return known is not None and known.poles is not None

    def summary(self, ctx: CheckContext) -> str:
        """The count, or that it is not settled."""
        known = ctx.poles()
        if known is None:
            return ""
        if known.poles is None:
            return "not settled"
        by = ctx.motor.poles_known_by
        return f"{ctx.motor.poles}{f', {by}' if by else ''}" if ctx.motor.poles else ""


def is_reference(ctx: CheckContext, values: PolesFields) -> bool:
    """Whether a motor whose poles are known is read as the reference of the drill: its frequency alone."""
    alone = bool(values.frequency_hz) and not (values.reference_hz or values.shaft_rpm or values.counted)
    return alone and bool(ctx.motor.poles and ctx.motor.poles_known_by)


def settled(values: PolesFields) -> tuple[int, PolesBy] | None:
    """The count that is known now, and by what; None when it is not settled or was not asked."""
    if values.counted:
        return int(values.counted), PolesBy.COUNTED
    try:
        called = values.called()
    except InputError:
        return None
    return (called.poles, PolesBy.ELECTRICAL) if called and called.poles else None


def rebase_offer(ctx: CheckContext) -> tuple[int, int] | None:
    """(set, true) when earlier readings were taken with another pole setting and can be re-based."""
    known = ctx.poles()
    if known is None or known.before is None or known.rebased or not ctx.motor.poles:
        return None
    return (known.before, ctx.motor.poles) if known.before != ctx.motor.poles else None


def _with_poles(ctx: CheckContext, count: int, known_by: PolesBy) -> Motor | None:
    if (ctx.motor.poles, ctx.motor.poles_known_by) == (count, known_by):
        return None
    facts = replace(ctx.motor, poles=count, poles_known_by=known_by)
    return replace(facts, slots=None) if "slots" in impossible(facts) else facts


def _figures(values: PolesFields, called: poles.PoleCount) -> list[Figure]:
    inputs: dict[str, Any] = {"frequency_hz": values.frequency_hz}
    function: Callable[..., poles.PoleCount] = poles.from_tachometer
    if values.shaft_rpm:
        inputs["shaft_rpm"] = values.shaft_rpm
    else:
        function = poles.from_reference
        inputs |= {"reference_hz": values.reference_hz, "reference_poles": int(values.reference_poles or 0)}
    figures = [
        figure(f"{c.poles} poles", f"%, {100 * c.mismatch:+.1f} % off", 0, function, show=_probability(i), **inputs)
        for i, c in enumerate(called.candidates)
    ]
    return [*figures, figure("shaft", "rpm", 0, function, show=lambda found: found.rpm, **inputs)]


def _probability(place: int) -> Callable[[poles.PoleCount], float]:
    return lambda found: 100 * found.candidates[place].probability


STEP = Poles()
