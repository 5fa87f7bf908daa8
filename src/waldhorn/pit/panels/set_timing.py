"""Setting the timing to a current target: pulls in, next setting out, until it is reached."""

from collections.abc import Sequence
from datetime import timedelta

from waldhorn.core import timing
from waldhorn.core.errors import Refused
from waldhorn.core.explain import figure
from waldhorn.core.history import FULL_STEP, TIMING_PULL
from waldhorn.pit.desk import Desk, View
from waldhorn.pit.panels.panel import Panel, Values, number
from waldhorn.pit.steps import Field, Step
from waldhorn.store.readings import NewReading

REST = timedelta(seconds=60)
STEP = Step(
    name="set_timing",
    title="Set timing",
    instruction="Pull short at full throttle; then set what it says and pull again.",
    caution="Unplug before you touch the end bell. Pulls are short, the motor cools between them.",
    fields=(
        Field("setting", "end bell at, ° electrical", "timing_mean"),
        Field("amps", "amps", "no_load_current"),
        Field("rpm", "rpm", "rpm", optional=True),
        Field("target", "target, A", "no_load_current", modest=True),
        Field("tolerance", "close enough, A", "no_load_current", habit="0.05", modest=True),
        Field("resolution", "end bell in steps of, °", dimension="angle", low=0.1, high=20, habit="1", modest=True),
        Field("knee", "or where a degree buys under, rpm per A", dimension="count", low=1, high=100_000, optional=True,
              modest=True),
    ),
    powered=True,
    stays=True,
    measures=("no_load_current", "rpm"),
    mark=TIMING_PULL,
    hold_s=4,
    applies=lambda motor: motor.sensored,
)  # fmt: skip


def readings(desk: Desk, values: Values, run: int) -> list[NewReading]:
    """One pull at a setting."""
    setting, amps, rpm = (number(values, n) for n in ("setting", "amps", "rpm"))
    if setting is None:
        return []
    at = {"step": FULL_STEP, "timing_set_deg": setting, "note": TIMING_PULL, "method": desk.check.method}
    found = [("no_load_current", amps), ("rpm", rpm)]
    return [desk.reading(measure, v, run, **at) for measure, v in found if v is not None]


def notices(desk: Desk, values: Values) -> dict[str, tuple[str, str]]:
    """The target, kept for the next pull."""
    found = {}
    for name in ("target", "tolerance", "resolution", "knee"):
        value = number(values, name)
        if value is not None:
            found[f"set_timing:{name}"] = (f"{value:g}", desk.check.rig if name == "target" else "")
    return found


def pulls_of(desk: Desk, fresh: Sequence[NewReading] = ()) -> list[timing.Pull]:
    """The pulls so far, in order."""
    runs = [
        {r.measure: r.value for r in taken} | {"setting": taken[0].timing_set_deg or 0.0}
        for taken in desk.runs_of(STEP).values()
        if all(r.accepted for r in taken)
    ]
    if fresh:
        runs.append({r.measure: r.value for r in fresh} | {"setting": fresh[0].timing_set_deg or 0.0})
    return [timing.Pull(r["setting"], r["no_load_current"], r.get("rpm")) for r in runs if r.get("no_load_current")]


def _asked(desk: Desk, values: Values, name: str) -> float | None:
    typed, said = number(values, name), desk.said(f"set_timing:{name}")
    return typed if typed is not None else float(said) if said else None


def proposal(desk: Desk, values: Values, pulls: Sequence[timing.Pull]) -> timing.Proposal | None:
    """The next setting, or None while there is no pull or no target."""
    target = _asked(desk, values, "target")
    if not pulls or not target:
        return None
    try:
        return timing.propose(pulls, target, _asked(desk, values, "tolerance") or 0.05,
                              _asked(desk, values, "resolution") or 1.0)  # fmt: skip
    except Refused:
        return None


def view(desk: Desk, values: Values, fresh: Sequence[NewReading]) -> View:
    """The curve through the pulls, the next setting, the price of a degree, the knee."""
    pulls = pulls_of(desk, fresh)
    found = proposal(desk, values, pulls)
    figures, words = [], []
    target = _asked(desk, values, "target")
    if found:
        inputs = {"pulls": pulls, "target_a": target, "tolerance_a": _asked(desk, values, "tolerance") or 0.05,
                  "resolution_deg": _asked(desk, values, "resolution") or 1.0}  # fmt: skip
        title = "leave it at" if found.reached else "next, set"
        figures.append(figure(title, found.setting_deg, "°", 1, timing.propose, **inputs))
        words.append(f"{'Reached' if found.reached else f'Set {found.setting_deg:g}°'}: {found.words}.")
        rig = desk.findings["set_timing:target"].note if "set_timing:target" in desk.findings else desk.check.rig
        words.append(f"The target holds on {rig or 'this rig'} only.")
    if len({p.setting_deg for p in pulls}) > 1:
        figures.append(figure("a degree costs", 100 * timing.growth(pulls), "% current", 1, timing.growth, pulls=pulls))
    least = _asked(desk, values, "knee")
    if least and (at := timing.knee(pulls, least)) is not None:
        figures.append(figure("knee", at, "°", 1, timing.knee, pulls=pulls, least_rpm_per_a=least))
    last = max((r.at for r in desk.rows_of(STEP)), default=None)
    cool_at = last + REST if last else None
    more = {"pulls": pulls, "proposal": found, "target": target, "cool_at": cool_at}
    return View(tuple(figures), tuple(words), _curve(pulls), more)


def _curve(pulls: Sequence[timing.Pull]) -> tuple[Sequence[timing.Pull], float] | None:
    return (pulls, timing.growth(pulls)) if pulls else None


def done(desk: Desk) -> str:
    """Pulls made."""
    count = desk.counted(STEP)
    return f"{count} {'pull' if count == 1 else 'pulls'}" if count else ""


def habits(desk: Desk) -> dict[str, str]:
    """Target, tolerance and end-bell step as last given, and the setting that was proposed."""
    kept = {n: desk.said(f"set_timing:{n}") for n in ("target", "tolerance", "resolution", "knee")}
    found = proposal(desk, {}, pulls_of(desk))
    setting = {"setting": f"{found.setting_deg:g}"} if found and not found.reached else {}
    return {"tolerance": "0.05", "resolution": "1"} | {n: v for n, v in kept.items() if v} | setting


PANEL = Panel(STEP, view, readings, notices, done=done, habits=habits)
