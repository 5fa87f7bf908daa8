"""What every step shows of a typed example: figures, sentences, what stands in the fields next, what is stored."""

from datetime import timedelta
from pathlib import Path

import pytest
from sqlalchemy import select

from approved import approve
from made import NOW
from waldhorn.pit.bench import checks, stepper, view
from waldhorn.pit.bench.context import load
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.bench.steps.fields import Ask
from waldhorn.pit.motors import facts as motors
from waldhorn.store import motors as motor_store
from waldhorn.store.changes import not_undone
from waldhorn.store.models import ReadingRow

TRACE = "s, rpm\n" + "\n".join(f"{t / 10:.1f}, {1000 + 400 * t}" for t in range(11))
TYPED = {
    "setup": [{"rig": "green bench", "method": "loaded-supply", "motor_c": "24", "ambient_c": "22"}],
    "look": [{"leads": "ok", "bearings": "doubt", "bearings_note": "gritty", "shaft": "bad"}],
    "gap": [{"gaps": "0.62 0.60 0.50 0.52"}, {"gaps": "0.7 0.6 0.5 0.6 0.9 0.6", "angles": "0 60 120 180 240 300"}],
    "detent": [
        {"unit": "N·mm", "peaks": "18.2 18.6 18.1 18.9 18.4 18.3 18.2 18.8 18.3 18.0 18.5 24.6"},
        {"unit": "g on the lever", "lever_mm": "30", "peaks": "60 61 63 66 70 75"},
    ],
    "sensors": [
        {"states": "101 100 110 111 101 100", "turned": "clockwise"},
        {"states": "101 100 110 010 011 001", "turned": "the other way"},
    ],
    "poles": [{"frequency_hz": "33.1 33.4", "shaft_rpm": "1000 1002"}],
    "resistance": [
        {"ab": "16.2", "bc": "16.2", "ca": "15.4", "winding_c": "38"},
        {"ab": "50", "bc": "16", "ca": "15", "winding_c": "25"},
    ],
    "first_spin": [{"rpm": "3150", "heard": "smooth"}],
    "pull": [
        {"volts": "7.4", "amps": "1.1", "rpm": "12580", "throttle_pct": "50"},
        {"volts": "7.4", "amps": "2", "rpm": "25160", "p2p": "60"},
        {"volts": "7.4", "amps": "2.6", "rpm": "26900", "p2p": "300"},
    ],
    "timing": [
        {"a": "27.8", "b": "32.9", "c": "28.1", "sweep": "evenly"},
        {"a": "27.9", "b": "28.9", "c": "28.0", "sweep": "hunted"},
    ],
    "noise": [
        {"background": "60", "lowest": "64", "half": "78", "full": "88.9", "placement": "stand", "distance_cm": "50"},
        {"background": "70", "full": "72", "placement": "stand", "distance_cm": "50"},
    ],
    "heat": [{"surface_c": "62", "ambient_c": "22"}, {"surface_c": "42", "ambient_c": "22", "compare_c": "30"}],
    "set_timing": [
        {"setting": "20", "amps": "2.0", "target": "3", "tolerance": "0.05", "resolution": "1"},
        {"setting": "25", "amps": "2.5", "target": "3", "tolerance": "0.05", "resolution": "1"},
        {"setting": "29", "amps": "2.99", "target": "3", "tolerance": "0.05", "resolution": "1"},
    ],
    "load": [{"what": "two-blade 42", "rest_v": "7.9", "load_v": "7.1", "amps": "31", "watts": "240"}],
    "flywheel": [{"trace": TRACE, "inertia": "0.0001", "at_rpm": "3000"}],
}


def shown(session, check_id, name, at):
    ctx = load(session, check_id, at, with_fleet=True)
    step = STEPS[name]
    found = view.view(ctx, checks.typed_so_far(session, ctx, step), name)
    curve = step.curve(found.view)
    return {
        "words": found.view.words,
        "figures": [[f.title, f.value, f.unit, f.decimals] for f in found.view.figures],
        "typed": found.typed,
        "finished": step.finished(ctx),
        "summary": step.summary(ctx),
        "marks": str(step.marks(ctx, found.view)) if name in ("sensors",) else None,
        "curve": [curve.title, curve.goal, curve.mark, curve.x_range, curve.y_range] if curve else None,
        "next": stepper.next_step(ctx, "").name,
        "headline": found.judgement.headline,
    }


@pytest.mark.long
@pytest.mark.parametrize("kind", ["inrunner", "outrunner"])
def test_what_the_steps_show(session, kind):
    facts = {"tag": "VS-01", "kind": kind, "label_kv": "3450", "poles": "4", "slots": "12", "mass_g": "178"}
    if kind == "outrunner":
        facts |= {"sensored": "no", "label_kv": "920", "poles": "14"}
    motors.take_in(session, facts, NOW)
    check = checks.open_check(session, motor_store.find(session, "VS-01"), NOW, "full")
    found = {}
    for minutes, name in enumerate(TYPED):
        for turn, typed in enumerate(TYPED[name]):
            at = NOW + timedelta(minutes=minutes, seconds=30 * turn)
            ctx = load(session, check.id, at, with_fleet=True)
            if not STEPS[name].applies(ctx.motor):
                continue
            try:
                checks.take_step(session, ctx, STEPS[name], typed)
                refused = None
            except ValueError as error:
                refused = str(error)
            found[f"{name} {turn + 1}"] = {"refused": refused, **shown(session, check.id, name, at)}
    rows = session.scalars(select(ReadingRow).where(not_undone(ReadingRow)).order_by(ReadingRow.id))
    found["stored"] = [
        [r.measure, r.value, r.run, r.purpose, r.accepted, r.aside_reason, r.throttle_pct, r.supply_v, r.motor_c]
        for r in rows
    ]
    approve(Path(__file__).with_name(f"shown_{kind}.json"), found)


DECLARED = (
    "title",
    "order",
    "instruction",
    "caution",
    "powered",
    "live",
    "slow",
    "runs_wanted",
    "measures",
    "purposes",
    "quantities",
    "hold_s",
    "stays",
    "wants_fleet",
    "part",
    "untested",
    "button",
)


def test_what_every_step_is_and_asks():
    found, usual = {}, Ask("")
    for name, step in STEPS.items():
        found[name] = {n: getattr(step, n) for n in DECLARED} | {"plans": sorted(step.plans)}
        found[name]["asks"] = {
            field: {n: getattr(ask, n) for n in Ask.__slots__ if getattr(ask, n) != getattr(usual, n)}
            for field, ask in step.fields.asks().items()
        }
    approve(Path(__file__).with_name("asked.json"), found)
