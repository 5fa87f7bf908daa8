"""Spin up: volts, amps, rpm and how far it wanders, by settings or at full throttle, twice."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import Annotated, Any

from waldhorn.core.base.conditions import FULL_THROTTLE_PCT, Conditions, at_full_throttle
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.explain import Figure, figure
from waldhorn.core.base.history import Reading
from waldhorn.core.base.vocabulary import Method
from waldhorn.core.judging.sentences import decimals_for
from waldhorn.core.measuring import current, kv, losses, speed_ripple
from waldhorn.core.rigs import repeatability
from waldhorn.instruments.line_protocol import USUAL_SETTINGS
from waldhorn.pit.bench import cautions, loss_curve
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.loss_curve import SpinUp
from waldhorn.pit.bench.steps.fields import Ask, Fields
from waldhorn.pit.bench.steps.step import Curve, Step, Taken, View

MEASURES_OF = {"volts": "supply_volts", "amps": "no_load_current", "rpm": "rpm", "p2p": "rpm_p2p"}
OFFERED_PCT = tuple(f"{pct:g}" for pct in USUAL_SETTINGS)


SUPPLY_AMPS = "supply"
MOTOR_AMPS_OF_RIG = f"{losses.MOTOR_AMPS} amps"  # as a rig's page says it


class PullFields(Fields):
    """One pull: V at the motor, A, rpm, rpm peak to peak, throttle in percent, and whose amps the meter reads."""

    volts: Annotated[float | None, Ask("volts at the motor", "supply_volts", required=True)] = None
    amps: Annotated[float | None, Ask("amps", "no_load_current", required=True)] = None
    rpm: Annotated[float | None, Ask("rpm", "rpm", required=True)] = None
    p2p: Annotated[float | None, Ask("wanders by, rpm", "rpm_p2p", modest=True)] = None
    throttle_pct: Annotated[
        float | None,
        Ask("throttle, %", dimension="percent", low=0.5, high=100, habit="100", modest=True, offered=OFFERED_PCT),
    ] = None
    ammeter: Annotated[
        str | None, Ask("amps of the", choices=(SUPPLY_AMPS, losses.MOTOR_AMPS), habit=SUPPLY_AMPS, modest=True)
    ] = None


@dataclass(frozen=True)
class SpinUpRow:
    """One run as a row: KV at 25 °C and as read, amps, speed per amp, wander in percent; None is not known yet."""

    run: int
    throttle_pct: float
    kv: float | None
    kv_raw: float | None
    amps: float | None
    wander: float | None
    volts: float | None
    rpm: float | None
    typed: bool = False
    aside: str = ""

    @property
    def full(self) -> bool:
        """Whether it was at full throttle."""
        return at_full_throttle(Conditions(throttle_pct=self.throttle_pct))


@dataclass(frozen=True)
class PullView(View):
    """The runs as rows, whether they agree, and the current over speed where several settings were read."""

    rows: Sequence[SpinUpRow] = ()
    spin_up: SpinUp | None = None
    agreement: Mapping[str, repeatability.Agreement] = field(default_factory=dict)


class Pull(Step[PullFields, PullView]):
    """Full throttle, twice."""

    name = "pull"
    title = "Full throttle"
    instruction = "Full throttle: read all of it."
    caution = f"{cautions.SPIN} {cautions.SECONDS} {cautions.METER}"
    order = 70
    fields = PullFields
    takes_part = True
    plans = frozenset({"full", "quick"})
    powered = True
    live = True
    runs_wanted = 2
    measures = ("supply_volts", "no_load_current", "rpm", "rpm_p2p")
    quantities = ("kv", "no_load_current", "friction", "speed_loss", "speed_ripple")
    hold_s = 10
    part = "shaft"
    untested = "not spun"

    def taken(self, ctx: CheckContext, values: PullFields, run: int) -> Taken:
        """What was typed of one run."""
        pct = FULL_THROTTLE_PCT if values.throttle_pct is None else values.throttle_pct
        meter = {"no_load_current": losses.MOTOR_AMPS if values.ammeter == losses.MOTOR_AMPS else ""}
        found = ((measure, getattr(values, name)) for name, measure in MEASURES_OF.items())
        return Taken(
            tuple(
                ctx.powered(measure, value, run, pct, meter=meter.get(measure, ""))
                for measure, value in found
                if value is not None
            )
        )

    def view(self, ctx: CheckContext, values: PullFields, fresh: Sequence[Reading]) -> PullView:
        """The runs as rows, their agreement, and the figures of the last one."""
        rows = self.rows(ctx, fresh)
        last = next((p for p in reversed(rows) if p.kv or p.amps), None)
        figures = _figures(ctx, last) if last else []
        if growth := _growth(rows):
            figures.append(growth)
        agreement = {n: a for n, a in self.agreement(ctx).items() if n != "speed_ripple" or a.ask_again}
        spun = loss_curve.spin_up(ctx, (*self.readings(ctx), *fresh))
        figures += _parts(spun) if spun and spun.now else []
        words = (f"Friction and what grows with the speed: {spun.refused}.",) if spun and spun.refused else ()
        if spun and spun.now and len(spun.points) < losses.WITH_WINDAGE:
            off = 1e3 * spun.now.windage_friction
            words = (f"Four speeds do not tell windage: friction may be {off:.2g} mN·m off, the same each time.",)
        return PullView(tuple(figures), (*words, *_not_read(rows)), rows, spun, agreement)

    def curve(self, view: PullView) -> Curve | None:
        """No-load current over speed."""
        return loss_curve.curve(view.spin_up) if view.spin_up else None

    def habits(self, ctx: CheckContext) -> dict[str, str]:
        """Full throttle, and the motor's own amps where the rig is said to read them, or they were read before."""
        motors = ctx.rig_reads == MOTOR_AMPS_OF_RIG
        motors = motors or any(r.conditions.meter == losses.MOTOR_AMPS for r in self.readings(ctx))
        return {"throttle_pct": f"{FULL_THROTTLE_PCT:g}", "ammeter": losses.MOTOR_AMPS if motors else SUPPLY_AMPS}

    def counts(self, conditions: Conditions) -> bool:
        """Only full throttle is wanted twice; part throttle comes along."""
        return at_full_throttle(conditions)

    def summary(self, ctx: CheckContext) -> str:
        """How many full-throttle runs count, how many were at part throttle, and how many stand aside."""
        rows = self.rows(ctx, ())
        counted = [p for p in rows if not p.aside]
        full, part = sum(p.full for p in counted), sum(not p.full for p in counted)
        words = [f"{full} {'run' if full == 1 else 'runs'}"] if full else []
        words += [f"{part} at part throttle"] if part else []
        words += [f"{len(rows) - len(counted)} aside"] if len(rows) > len(counted) else []
        return ", ".join(words)

    def rows(self, ctx: CheckContext, fresh: Sequence[Reading]) -> list[SpinUpRow]:
        """Every run so far, the one being typed last."""
        rows = []
        for run, taken in self.runs(ctx).items():
            aside = next((r.aside_reason or "set aside" for r in taken if not r.accepted), "")
            rows.append(_row(ctx, run, taken, False, aside))
        if fresh:
            rows.append(_row(ctx, fresh[0].run, fresh, True, ""))
        return rows


def _row(ctx: CheckContext, run: int, found: Sequence[Reading], typed: bool, aside: str) -> SpinUpRow:
    by = {r.measure: r.value for r in found}
    volts, amps, rpm, p2p = (by.get(m) for m in MEASURES_OF.values())
    conditions = found[0].conditions
    raw = value = None
    if volts and rpm:
        raw = kv.from_back_emf(rpm, volts) if conditions.method == Method.BACK_EMF else kv.from_speed(rpm, volts)
        warm = conditions.motor_c
        value = raw if warm is None else kv.at_reference_temperature(raw, warm, ctx.motor.magnet)
    percent = FULL_THROTTLE_PCT if conditions.throttle_pct is None else conditions.throttle_pct
    wander = speed_ripple.wander(p2p, rpm) if p2p is not None and rpm else None
    return SpinUpRow(run, percent, value, raw, amps, wander, volts, rpm, typed, aside)


def _figures(ctx: CheckContext, p: SpinUpRow) -> list[Figure]:
    magnet, warm, by_drill = ctx.motor.magnet, ctx.check.motor_c, ctx.check.method == Method.BACK_EMF
    found = []
    if p.kv_raw and p.rpm and p.volts:
        if by_drill:
            found.append(figure("KV as read", "rpm/V", 0, kv.from_back_emf, rpm=p.rpm, volts_rms=p.volts))
        else:
            found.append(figure("KV as read", "rpm/V", 0, kv.from_speed, rpm=p.rpm, volts=p.volts))
        if warm is not None:
            found.append(
                figure("KV at 25 °C", "rpm/V", 0, kv.at_reference_temperature, kv=p.kv_raw, motor_c=warm, magnet=magnet)
            )
        resistance = ctx.winding_ohm()
        if resistance and p.amps and p.volts > p.amps * resistance:
            found.append(
                figure(
                    "KV without winding drop",
                    "rpm/V",
                    0,
                    kv.without_winding_drop,
                    rpm=p.rpm,
                    volts=p.volts,
                    amps=p.amps,
                    resistance_ohm=resistance,
                )
            )
    if p.kv and p.amps:
        found.append(
            figure("speed per amp", "rpm/V per A", 0, current.speed_per_amp, kv=p.kv, no_load_current_a=p.amps)
        )
    if p.wander is not None and p.rpm:
        found.append(figure("wanders", "%", 2, speed_ripple.wander, rpm_p2p=p.wander * p.rpm / 100, rpm=p.rpm))
    return found


def _parts(spun: SpinUp) -> list[Figure]:
    """Friction and speed-dependent loss, with what grows with the square of the speed where it can be told."""
    given: dict[str, Any] = {"points": spun.points, "kv": spun.kv}
    line, whole = losses.fit(**given, windage=False), losses.fit(**given)
    of_line = partial(figure, **given, windage=False)
    u_friction, u_speed, u_square = 1e3 * line.u_friction, 1e6 * line.u_per_speed, 1e9 * whole.u_per_square
    shown = [
        of_line("friction", "mN·m", decimals_for(u_friction), losses.fit, show=lambda f: 1e3 * f.friction),
        of_line("speed-dependent loss", "µN·m·s", decimals_for(u_speed), losses.fit, show=lambda f: 1e6 * f.per_speed),
    ]
    if whole.per_square > 2 * whole.u_per_square:
        shown.append(
            figure("windage", "nN·m·s²", decimals_for(u_square), losses.fit, show=lambda f: 1e9 * f.per_square, **given)
        )
    return shown


def _not_read(rows: Sequence[SpinUpRow]) -> list[str]:
    """What the last run that was taken cannot say, as something was not read of it."""
    last = next((p for p in reversed(rows) if not p.typed), None)
    if last is None or last.kv:
        return []
    lacks = [words for words, value in (("volts", last.volts), ("rpm", last.rpm)) if not value]
    return [f"Run {last.run} without {' and '.join(lacks)}: no KV from it."] if lacks else []


def _growth(rows: Sequence[SpinUpRow]) -> Figure | None:
    points = [(p.throttle_pct, p.amps) for p in rows if p.amps and not p.aside]
    if len({t for t, _ in points}) < 3:
        return None
    try:
        return figure("current grows with speed", "", 2, current.growth_over_settings, points=points)
    except InputError:
        return None


STEP = Pull()
