"""What a live run takes: captures, sweeps and guard trips become readings and findings of the check."""

import math
from collections.abc import Mapping
from dataclasses import replace

from sqlalchemy.orm import Session

from waldhorn.core.base import traces
from waldhorn.core.base.conditions import FULL_THROTTLE_PCT
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import GuardTrip, Reading
from waldhorn.core.base.vocabulary import GuardKind, Placement, Sweep
from waldhorn.core.measuring import coast_down
from waldhorn.core.motors.ratings import full_volts
from waldhorn.instruments import capture, line_protocol
from waldhorn.instruments.run_control import Heard
from waldhorn.instruments.safety_envelope import SafetyEnvelope
from waldhorn.pit.bench import checks, stepper
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.bench.steps.first_spin import LOWEST_PCT
from waldhorn.pit.bench.steps.step import Taken
from waldhorn.pit.bench.words import ceiling_words, closed_words
from waldhorn.store import changes
from waldhorn.store.models import ChangeKind

PULL, TIMING, COAST_DOWN = STEPS["pull"], STEPS["timing"], STEPS["coast_down"]
HEARD_AT_PCT = (LOWEST_PCT, FULL_THROTTLE_PCT / 2, FULL_THROTTLE_PCT)


def take_heard(session: Session, ctx: CheckContext, heard: Heard) -> str:
    """Store what an instrument yielded; returns in words what was taken. Raises InputError where nothing can be."""
    taken, done, words = _yields(ctx, heard)
    change_id = changes.record(session, ChangeKind.LIVE, ctx.now, ctx.motor_id, ctx.check.id, detail=done)
    checks.store(session, ctx, change_id, taken)
    return words


def may_spin(ctx: CheckContext, throttle_pct: float = 0.0, last: Mapping[str, float] | None = None) -> None:
    """Raises InputError while the caution is not confirmed, a finding forbids power, or the volts of the last sample
    would turn the rotor faster than rated."""
    checks.must_be_open(ctx)
    if shut := [c for c in stepper.closed(ctx, PULL) if not c.ceiling]:
        raise InputError("live", " ".join(closed_words(c) for c in shut))
    limit = stepper.ceiling(ctx)
    if limit and last:
        limit = replace(limit, volts=full_volts(limit.kv, last["v"], last["rpm"], last["pct"]))
    if limit and limit.passed(throttle_pct):
        raise InputError("live", ceiling_words(limit, throttle_pct))
    if not ctx.check.caution_confirmed:
        raise InputError("live", "confirm first: propeller or pinion off, motor clamped, eyes protected")


def confirm_caution(session: Session, ctx: CheckContext) -> None:
    """Remember that the caution was confirmed for this check; raises InputError."""
    checks.must_be_open(ctx)
    change_id = changes.record(session, ChangeKind.CAUTION, ctx.now, ctx.motor_id, ctx.check.id)
    checks.store(session, ctx, change_id, Taken(check={"caution_confirmed": True}))


def envelope_of(ctx: CheckContext) -> SafetyEnvelope:
    """What this motor may be given in a live run, whatever else is known of it or not."""
    return SafetyEnvelope(
        hold_share=stepper.hold_share(ctx),
        poles=ctx.motor.poles,
        rated_rpm=math.inf if ctx.is_overruled(stepper.RATED_SPEED) else ctx.motor.rated_rpm or math.inf,
    )


def _yields(ctx: CheckContext, heard: Heard) -> tuple[Taken, str, str]:
    """What is to be stored, what was done in short, and what is said; raises InputError where it yields nothing."""
    if isinstance(heard, capture.Captured):
        return _captured(ctx, heard)
    if isinstance(heard, capture.RanOut):
        run, values = COAST_DOWN.next_run(ctx), COAST_DOWN.fields(trace=traces.written(heard.trace))
        coast_down.fit(heard.trace)
        taken = COAST_DOWN.taken(ctx, values, run)
        shown = COAST_DOWN.view(ctx, values, taken.readings)
        rpm, seconds = shown.rows[-1]
        said = f"It stood {seconds:.2f} s after it was let go at {rpm:.0f} rpm. {' '.join(shown.words)}"
        return taken, f"coast-down {run} taken", said
    if isinstance(heard, line_protocol.Sweep):
        run = TIMING.next_run(ctx)
        phases = tuple(ctx.reading(f"timing_{p}", getattr(heard, p), run) for p in "abc")
        swept = {} if ctx.check.sweep else {"sweep": Sweep.EVENLY}
        said = f"Timing {heard.a:g}°, {heard.b:g}°, {heard.c:g}°."
        return Taken(phases, check=swept), f"timing sweep {run} taken", said
    if isinstance(heard, line_protocol.Trouble):
        detail = heard.detail or heard.error
        trip = GuardTrip(ctx.check.id, GuardKind.INSTRUMENT, detail, ctx.now)
        return Taken(findings=(trip,)), "instrument's trouble noted", f"The instrument reports: {detail}."
    trip = GuardTrip(ctx.check.id, heard.kind, heard.words, ctx.now)
    said = f"Stopped: {heard.words}. That is evidence, it stands in the check."
    return Taken(findings=(trip,)), "guard noted", said


def _captured(ctx: CheckContext, heard: capture.Captured) -> tuple[Taken, str, str]:
    run = PULL.next_run(ctx)
    warm = {"motor_c": heard.motor_c} if heard.motor_c is not None else {}
    note = "" if heard.steady else "unsettled"
    values = (
        ("supply_volts", heard.volts),
        ("no_load_current", heard.amps),
        ("rpm", heard.rpm),
        ("rpm_p2p", heard.rpm_p2p),
    )
    fresh = [
        ctx.powered(
            measure,
            value,
            run,
            heard.pct,
            note=note,
            **warm,
            **({"meter": heard.meter} if measure == "no_load_current" else {}),
        )
        for measure, value in values
    ]
    if heard.sound_db is not None and heard.pct in HEARD_AT_PCT:
        supply_v = heard.volts if heard.pct == FULL_THROTTLE_PCT else ctx.supply_v()
        fresh.append(_sound(ctx, heard.sound_db, heard.pct, supply_v))
    settled = "" if heard.steady else ", though it did not settle"
    said = f"{heard.pct:g} % captured{settled}: {heard.rpm:.0f} rpm, {heard.amps:.2f} A."
    return Taken(tuple(fresh)), f"{heard.pct:g} % captured, run {run}", said


def _sound(ctx: CheckContext, level_db: float, pct: float, supply_v: float | None) -> Reading:
    usual = STEPS["noise"].habits(ctx).get("distance_cm")
    before = [r for r in ctx.readings if r.measure == "noise_avg" and r.conditions.throttle_pct == pct]
    return ctx.reading(
        "noise_avg",
        level_db,
        len(before) + 1,
        throttle_pct=pct,
        placement=Placement.STAND.value,
        distance_cm=float(usual) if usual else None,
        supply_v=supply_v,
    )
