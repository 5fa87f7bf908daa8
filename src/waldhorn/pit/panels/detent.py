"""Detent, cold and unpowered: peaks in a row, with a lever on a scale or as torque."""

from collections.abc import Sequence

from waldhorn.core import detent, magnets
from waldhorn.core.errors import Refused
from waldhorn.core.evidence import Evidence
from waldhorn.core.explain import Figure, figure
from waldhorn.core.units import from_stored, to_stored
from waldhorn.core.winding import can_be_wound, detent_positions
from waldhorn.pit.desk import Desk, View
from waldhorn.pit.panels.panel import Panel, Values, number, numbers, text
from waldhorn.pit.steps import Field, Step
from waldhorn.store.readings import NewReading

UNITS = ("g on the lever", "N·mm", "g·cm", "oz·in")
STEP = Step(
    name="detent",
    title="Detent",
    instruction="Lever on the scale, turn slowly: type each peak as it comes.",
    caution="Pack unplugged, motor cold. Turn slowly: fast reads high.",
    fields=(
        Field("unit", "read in", choices=UNITS, habit=UNITS[1], modest=True),
        Field("lever_mm", "lever, mm", dimension="length", low=1, high=500, optional=True, modest=True),
        Field("peaks", "peaks", dimension="count", low=0, high=100_000, many=True, hint="18.2 18.4 18.1"),
    ),
    measures=("detent_peak",),
    quantities=("detent_peak", "detent_variation", "magnet_strength"),
)


def _torques(values: Values) -> list[float]:
    unit, lever = text(values, "unit") or UNITS[1], number(values, "lever_mm")
    peaks = numbers(values, "peaks")
    if unit == UNITS[0]:
        return [detent.torque(p, lever) for p in peaks] if lever else []
    return [to_stored(p, unit, "torque") for p in peaks]


def readings(desk: Desk, values: Values, run: int) -> list[NewReading]:
    """One reading a position, its place in the turn in the note."""
    return [
        desk.reading("detent_peak", t, run, note=str(place)) for place, t in enumerate(_torques(values), 1) if t > 0
    ]


def missing(desk: Desk, values: Values) -> dict[str, str]:
    """A lever without its length, or peaks that cannot be."""
    if text(values, "unit") == UNITS[0] and not number(values, "lever_mm"):
        return {"lever_mm": "how long is the lever, from the shaft to the scale?"}
    try:
        detent.summarise(_torques(values))
    except Refused as refused:
        return {"peaks": refused.sentence}
    return {}


def positions(desk: Desk) -> int | None:
    """Natural positions of this motor per turn, when its slots and poles are known."""
    slots, poles = desk.motor.slots, desk.motor.poles
    return detent_positions(slots, poles) if slots and poles and can_be_wound(slots, poles) else None


def peaks_of(desk: Desk, fresh: Sequence[NewReading]) -> list[float]:
    """The peaks being typed, or those of the last run, in order."""
    if fresh:
        return [r.value for r in fresh]
    runs = desk.runs_of(STEP)
    return [r.value for r in list(runs.values())[-1] if r.accepted] if runs else []


def view(desk: Desk, values: Values, fresh: Sequence[NewReading]) -> View:
    """Centre, variation, harmonics, and what to look at again."""
    peaks, turn = peaks_of(desk, fresh), positions(desk)
    peaks = [p for p in peaks if p > 0]
    if not peaks:
        return View(words=(f"{turn} natural positions in a turn.",) if turn else ())
    run = detent.summarise(peaks, turn)
    inputs = {"peaks": peaks, "positions": turn}
    figures = [
        figure("median", run.median_nmm, "N·mm", 2, detent.summarise, **inputs),
    ]
    for unit, decimals in (("g·cm", 1), ("oz·in", 2)):
        written = {"stored": run.median_nmm, "unit": unit, "dimension": "torque"}
        figures.append(
            figure(f"in {unit}", from_stored(run.median_nmm, unit, "torque"), unit, decimals, from_stored, **written)
        )
    figures += [
        figure("highest", run.highest_nmm, "N·mm", 2, detent.summarise, **inputs),
        figure("variation", run.variation_pct, "%", 1, detent.variation, peaks=peaks),
    ]
    if run.once_per_turn_pct is not None:
        figures.append(figure("once per turn", run.once_per_turn_pct, "%", 1, detent.summarise, **inputs))
    if run.alternating_pct is not None:
        figures.append(figure("every second", run.alternating_pct, "%", 1, detent.summarise, **inputs))
    return View(tuple(figures), tuple(_words(run, peaks)), run, {"outliers": run.outliers, "peaks": peaks})


def _words(run: detent.DetentRun, peaks: Sequence[float]) -> list[str]:
    words = []
    if run.turns is not None:
        words.append(f"{100 * run.turns:.0f} % of a turn covered.")
    if run.rising:
        words.append("Rising peak by peak: turned ever faster? Fast reads high.")
    for place in run.outliers:
        words.append(f"Peak {place + 1} ({peaks[place]:.1f} N·mm) stands apart: wire touched the arm? Set it aside.")
    if run.once_per_turn_pct is not None and run.once_per_turn_pct > 10:
        words.append(f"Stronger once per turn, towards {run.leans_to_deg:.0f}°: the rotor sits off centre.")
    if run.alternating_pct is not None and run.alternating_pct > 8:
        words.append("Every second position is stronger: unequal magnets.")
    return words


def strength_figures(by_name: dict[str, Evidence]) -> list[Figure]:
    """Magnet strength by KV and by detent, beside each other."""
    figures = []
    for name, function, title in (
        ("kv", magnets.strength_from_kv, "strength by KV"),
        ("detent_peak", magnets.strength_from_detent, "strength by detent"),
    ):
        e = by_name.get(name)
        if e and e.now and e.baseline and e.baseline.source == "own" and e.baseline.value:
            argument = "kv" if name == "kv" else "nmm"
            inputs = {f"now_{argument}": e.now, f"baseline_{argument}": e.baseline.value}
            figures.append(figure(title, function(e.now, e.baseline.value), "", 3, function, **inputs))
    return figures


def habits(desk: Desk) -> dict[str, str]:
    """The unit and the lever used last time."""
    last = desk.before("lever")
    if desk.said("lever"):
        return {"unit": desk.said("lever"), "lever_mm": desk.findings["lever"].note}
    return {"unit": last.value, "lever_mm": last.note} if last else {"unit": UNITS[1]}


def notices(desk: Desk, values: Values) -> dict[str, tuple[str, str]]:
    """How it was read, for next time."""
    lever = number(values, "lever_mm")
    return {"lever": (text(values, "unit") or UNITS[1], f"{lever:g}" if lever else "")}


PANEL = Panel(STEP, view, readings, notices, missing, habits=habits)
