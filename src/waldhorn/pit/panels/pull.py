"""Spin up: volts, amps, rpm and how far it wanders, by steps or at full throttle, twice."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from waldhorn.core import current, kv, repeats, steadiness
from waldhorn.core.errors import Refused
from waldhorn.core.explain import Figure, figure
from waldhorn.core.history import FULL_STEP, FULL_THROTTLE_PCT, Reading
from waldhorn.core.measures import QUANTITIES
from waldhorn.pit.desk import Desk, View, as_reading, stored
from waldhorn.pit.panels.panel import Panel, Values, number
from waldhorn.pit.steps import Field, Step
from waldhorn.store.readings import NewReading

STEP = Step(
    name="pull",
    title="Full throttle",
    instruction="Hold full throttle and read all of it.",
    caution="Propeller and pinion off, motor clamped, eyes protected, nobody in the plane of rotation. "
    "Ten seconds at most.",
    fields=(
        Field("volts", "volts at the motor", "supply_volts"),
        Field("amps", "amps", "no_load_current"),
        Field("rpm", "rpm", "rpm"),
        Field("p2p", "wanders by, rpm", "rpm_p2p", optional=True, modest=True),
        Field("step", "step 1 to 8, or %", dimension="percent", low=0.5, high=100, habit="8", modest=True),
    ),
    powered=True,
    runs_wanted=2,
    measures=("supply_volts", "no_load_current", "rpm", "rpm_p2p"),
    quantities=("kv", "no_load_current", "steadiness"),
    hold_s=10,
)
MEASURES_OF = {"volts": "supply_volts", "amps": "no_load_current", "rpm": "rpm", "p2p": "rpm_p2p"}


@dataclass(frozen=True)
class Pull:
    """One run as a row: KV at 25 °C and as read, amps, rpm per amp, wander in percent; None is not known yet."""

    run: int
    throttle_pct: float
    kv: float | None
    kv_raw: float | None
    amps: float | None
    per_amp: float | None
    wander: float | None
    volts: float | None
    rpm: float | None
    typed: bool = False
    aside: str = ""

    @property
    def full(self) -> bool:
        """Whether it was at full throttle."""
        return self.throttle_pct >= FULL_THROTTLE_PCT - 0.5


def _throttle(values: Values) -> dict[str, float | int | None]:
    step = number(values, "step")
    if step is None or (step <= FULL_STEP and step == int(step)):
        return {"step": int(step or FULL_STEP), "throttle_pct": None}
    return {"step": None, "throttle_pct": step}


def readings(desk: Desk, values: Values, run: int) -> list[NewReading]:
    """What was typed of one run."""
    at = _throttle(values)
    found = []
    for name, measure in MEASURES_OF.items():
        value = number(values, name)
        if value is not None:
            found.append(desk.reading(measure, value, run, method=desk.check.method, **at))
    return found


def pulls(desk: Desk, fresh: Sequence[NewReading]) -> list[Pull]:
    """Every run so far as a row, the one being typed last."""
    rows = []
    for run, taken in desk.runs_of(STEP).items():
        aside = next((r.aside_reason or "set aside" for r in taken if not r.accepted), "")
        rows.append(_pull(desk, run, [stored(r) for r in taken], False, aside))
    if fresh:
        rows.append(_pull(desk, fresh[0].run, [as_reading(r) for r in fresh], True, ""))
    return rows


def _pull(desk: Desk, run: int, found: Sequence[Reading], typed: bool, aside: str) -> Pull:
    by = {r.measure: r.value for r in found}
    volts, amps, rpm, p2p = (by.get(m) for m in MEASURES_OF.values())
    conditions = found[0].conditions
    raw = value = None
    if volts and rpm:
        raw = kv.from_back_emf(rpm, volts) if conditions.method == "back-emf" else kv.from_speed(rpm, volts)
        warm = conditions.motor_c
        value = raw if warm is None else kv.at_reference_temperature(raw, warm, desk.motor.magnet)
    percent = FULL_THROTTLE_PCT if conditions.throttle_pct is None else conditions.throttle_pct
    return Pull(
        run, percent, value, raw, amps, current.speed_per_amp(value, amps) if value and amps else None,
        steadiness.wander(p2p, rpm) if p2p is not None and rpm else None, volts, rpm, typed, aside,
    )  # fmt: skip


def agreement(desk: Desk, rows: Sequence[Pull]) -> dict[str, repeats.Agreement]:
    """Whether the full-throttle runs agree, by quantity, once there are two."""
    counted = [p for p in rows if not p.aside and p.full]
    found = {}
    for name, values in (
        ("kv", [p.kv for p in counted if p.kv]),
        ("no_load_current", [p.amps for p in counted if p.amps]),
    ):
        if len(values) >= STEP.runs_wanted:
            s_r = desk.known(desk.check.rig, name)
            found[name] = repeats.agreement(values, s_r, QUANTITIES[name].relative)
    return found


def view(desk: Desk, values: Values, fresh: Sequence[NewReading]) -> View:
    """The runs as rows, their agreement, and the figures of the last one."""
    rows = pulls(desk, fresh)
    last = next((p for p in reversed(rows) if p.kv or p.amps), None)
    figures = _figures(desk, last) if last else []
    if growth := _growth(rows):
        figures.append(growth)
    return View(tuple(figures), (), rows, {"agreement": agreement(desk, rows)})


def _figures(desk: Desk, p: Pull) -> list[Figure]:
    magnet, warm = desk.motor.magnet, desk.check.motor_c
    found = []
    if p.kv_raw and p.rpm and p.volts:
        function = kv.from_back_emf if desk.check.method == "back-emf" else kv.from_speed
        volts = "volts_rms" if desk.check.method == "back-emf" else "volts"
        found.append(figure("KV as read", p.kv_raw, "rpm/V", 0, function, **{"rpm": p.rpm, volts: p.volts}))
        if warm is not None and p.kv:
            found.append(figure("KV at 25 °C", p.kv, "rpm/V", 0, kv.at_reference_temperature, kv=p.kv_raw, motor_c=warm,
                                magnet=magnet))  # fmt: skip
        resistance = _resistance(desk)
        if resistance and p.amps and p.volts > p.amps * resistance:
            drop = {"rpm": p.rpm, "volts": p.volts, "amps": p.amps, "resistance_ohm": resistance}
            value = kv.without_winding_drop(**drop)
            found.append(figure("KV without winding drop", value, "rpm/V", 0, kv.without_winding_drop, **drop))
    if p.kv and p.amps and p.per_amp:
        found.append(figure("rpm per amp", p.per_amp, "rpm/V per A", 0, current.speed_per_amp, kv=p.kv,
                            no_load_current_a=p.amps))  # fmt: skip
    if p.wander is not None and p.rpm:
        found.append(figure("wanders", p.wander, "%", 2, steadiness.wander, rpm_p2p=p.wander * p.rpm / 100, rpm=p.rpm))
    return found


def _growth(rows: Sequence[Pull]) -> Figure | None:
    points = [(p.throttle_pct, p.amps) for p in rows if p.amps and not p.aside]
    if len({t for t, _ in points}) < 3:
        return None
    try:
        value = current.growth_over_steps(points)
    except Refused:
        return None
    return figure("current grows with speed", value, "", 2, current.growth_over_steps, points=points)


def _resistance(desk: Desk) -> float | None:
    """Winding resistance between two leads in Ω, from the readings there are."""
    found = [
        r.value / 1000
        for c in desk.history.checks for r in c.readings if r.measure.startswith("winding_") and r.accepted
    ]  # fmt: skip
    return median(found) if found and math.isfinite(median(found)) else None


def done(desk: Desk) -> str:
    """How many full-throttle runs count, and how many stand aside."""
    rows = pulls(desk, [])
    counted = [p for p in rows if not p.aside]
    full, steps = sum(p.full for p in counted), sum(not p.full for p in counted)
    words = f"{full} {'run' if full == 1 else 'runs'}" if full else ""
    if steps:
        words += f"{', ' if words else ''}{steps} at part throttle"
    aside = len(rows) - len(counted)
    return words + (f", {aside} aside" if aside else "")


PANEL = Panel(STEP, view, readings, done=done, habits=lambda desk: {"step": "8"})
