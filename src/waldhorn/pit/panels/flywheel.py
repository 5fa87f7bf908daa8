"""Flywheel: torque from how fast a known inertia speeds up, response, and the score against the fleet."""

import re
from collections.abc import Sequence

from waldhorn.core import flywheel
from waldhorn.core.errors import Refused
from waldhorn.core.explain import figure
from waldhorn.pit.desk import Desk, View
from waldhorn.pit.panels.panel import Panel, Values, number, text
from waldhorn.pit.steps import Field, Step
from waldhorn.store import fleet
from waldhorn.store.readings import NewReading

STEP = Step(
    name="flywheel",
    title="Flywheel",
    instruction="Paste the speed trace: seconds, rpm, a line each.",
    caution="Flywheel tight and guarded, nobody in its plane; never beyond its or the rotor's rated speed.",
    fields=(
        Field("trace", "seconds, rpm", longest=60_000, hint="0.00, 2500"),
        Field("inertia", "inertia, kg·m²", dimension="count", low=1e-9, high=10, modest=True),
        Field("at_rpm", "torque at, rpm", "rpm", modest=True),
    ),
    powered=True,
    measures=("flywheel_torque", "response"),
    hold_s=10,
)
_LINE = re.compile(r"^\s*([\d.]+)\s*[,;\t ]\s*([\d.]+)\s*$")


def trace_of(words: str) -> tuple[list[float], list[float]]:
    """Seconds and rpm of a typed or pasted trace; a heading is passed over. Raises Refused with the line."""
    seconds, rpm = [], []
    for place, line in enumerate(words.strip().splitlines(), 1):
        found = _LINE.match(line)
        if not found:
            if place == 1:
                continue
            raise Refused("trace", f"line {place} “{line.strip()[:30]}” is not seconds, rpm: write it like 0.25, 4200")
        try:
            seconds.append(float(found[1]))
            rpm.append(float(found[2]))
        except ValueError:
            raise Refused("trace", f"line {place} “{line.strip()[:30]}” is not seconds, rpm") from None
    return seconds, rpm


def _figured(values: Values) -> tuple[float, float] | None:
    words, inertia, at_rpm = text(values, "trace"), number(values, "inertia"), number(values, "at_rpm")
    if not words or inertia is None or at_rpm is None:
        return None
    seconds, rpm = trace_of(words)
    return flywheel.torque(inertia, seconds, rpm, at_rpm), flywheel.response(seconds, rpm)


def missing(desk: Desk, values: Values) -> dict[str, str]:
    """A trace that does not say."""
    try:
        _figured(values)
    except Refused as refused:
        return {refused.field if refused.field in ("trace", "inertia", "at_rpm") else "trace": refused.sentence}
    return {}


def readings(desk: Desk, values: Values, run: int) -> list[NewReading]:
    """Torque and response; the stated speed stands in the note."""
    try:
        found = _figured(values)
    except Refused:
        return []
    if found is None:
        return []
    at = f"{number(values, 'at_rpm'):g} rpm"
    return [desk.reading("flywheel_torque", found[0], run, note=at), desk.reading("response", found[1], run, note=at)]


def notices(desk: Desk, values: Values) -> dict[str, tuple[str, str]]:
    """The trace itself."""
    inertia = number(values, "inertia")
    return {"trace": (text(values, "trace"), f"{inertia:g}" if inertia else "")} if text(values, "trace") else {}


def view(desk: Desk, values: Values, fresh: Sequence[NewReading]) -> View:
    """Torque, response and score."""
    taken = {r.measure: r.value for r in desk.rows_of(STEP) if r.accepted} | {r.measure: r.value for r in fresh}
    if not taken:
        return View()
    figures = []
    try:
        seconds, rpm = trace_of(text(values, "trace") or desk.said("trace"))
    except Refused:
        return View()
    inertia = number(values, "inertia") or float(desk.findings["trace"].note if "trace" in desk.findings else 0)
    if "flywheel_torque" in taken:
        inputs = {"inertia_kgm2": inertia, "seconds": seconds, "rpm": rpm, "at_rpm": number(values, "at_rpm")}
        figures.append(figure("torque", taken["flywheel_torque"], "mN·m", 1, flywheel.torque, **inputs))
        figures.append(figure("response", taken["response"], "rpm/s", 0, flywheel.response, seconds=seconds, rpm=rpm))
    others = fleet.figures(desk.session, desk.motor.motor_class)
    mine = taken
    rest = {tag: f for tag, f in others.items() if tag != desk.motor.tag}
    everyone = [mine, *(f for f, _ in rest.values())]
    masses = [m for m in (desk.motor.mass_g, *(m for _, m in rest.values())) if m]
    score = flywheel.fleet_score(mine, everyone, desk.motor.mass_g, masses)
    if score is not None:
        figures.append(figure("score in its class", score, "", 0, flywheel.fleet_score, mine=mine, fleet=everyone,
                              mass_g=desk.motor.mass_g, masses_g=masses))  # fmt: skip
    return View(tuple(figures), (), (seconds, rpm))


PANEL = Panel(STEP, view, readings, notices, missing)
