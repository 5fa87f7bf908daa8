"""Load rows, for propeller or wheel work: what goes in, what comes out, and whether the figures fit together."""

from collections.abc import Sequence

from waldhorn.core import load
from waldhorn.core.explain import figure
from waldhorn.core.history import LOAD_ROW
from waldhorn.pit.desk import Desk, View
from waldhorn.pit.panels.panel import Panel, Values, number, text
from waldhorn.pit.steps import Field, Step
from waldhorn.store.readings import NewReading

_FIELDS = {"rest_v": "rest_volts", "load_v": "load_volts", "amps": "load_current", "watts": "load_watts",
           "rpm": "load_rpm", "thrust_g": "thrust"}  # fmt: skip
STEP = Step(
    name="load",
    title="Load run",
    instruction="Propeller on the stand: one row a propeller.",
    caution="The propeller is ON: stand bolted down, nobody in its plane, eyes protected, never a pack and a "
    "configuration cable at once. Never beyond the rotor's rated speed.",
    fields=(
        Field("what", "propeller or wheel"),
        Field("rest_v", "volts at rest", "rest_volts", optional=True),
        Field("load_v", "volts under load", "load_volts"),
        Field("amps", "amps", "load_current"),
        Field("watts", "watts shown", "load_watts", optional=True, modest=True),
        Field("rpm", "rpm", "load_rpm", optional=True, modest=True),
        Field("thrust_g", "thrust, g", "thrust", optional=True, modest=True),
        Field("surface_c", "surface after it", "temperature", optional=True, modest=True),
    ),
    powered=True,
    stays=True,
    measures=(*_FIELDS.values(), "temperature"),
    mark=LOAD_ROW,
    hold_s=15,
)


def readings(desk: Desk, values: Values, run: int) -> list[NewReading]:
    """One row; what was on the shaft stands in the note."""
    note = f"{LOAD_ROW}{text(values, 'what')}"
    found = [(m, number(values, n)) for n, m in (*_FIELDS.items(), ("surface_c", "temperature"))]
    return [desk.reading(m, v, run, note=note) for m, v in found if v is not None]


def row_of(taken: Sequence[NewReading]) -> load.LoadRow:
    """The readings of a row as one value."""
    by = {r.measure: r.value for r in taken}
    return load.LoadRow(taken[0].note.removeprefix(LOAD_ROW), **{n: by.get(m) for n, m in _FIELDS.items()})


def view(desk: Desk, values: Values, fresh: Sequence[NewReading]) -> View:
    """The rows, and the figures of the last one."""
    rows = [row_of([_new(desk, r) for r in taken]) for taken in desk.runs_of(STEP).values()]
    if fresh:
        rows.append(row_of(fresh))
    if not rows:
        return View()
    last = rows[-1]
    figures, words = [], []
    watts = load.power(last)
    if last.rest_v and last.load_v:
        inputs = {"rest_v": last.rest_v, "load_v": last.load_v}
        figures.append(figure("sag", load.sag(**inputs), "%", 1, load.sag, **inputs))
    if watts:
        figures.append(figure("power", watts, "W", 0, load.power, row=last))
    if watts and last.thrust_g:
        figures.append(figure("thrust per watt", load.grams_per_watt(last.thrust_g, watts), "g/W", 2,
                              load.grams_per_watt, thrust_g=last.thrust_g, watts=watts))  # fmt: skip
        if desk.motor.mass_g:
            ratio = load.thrust_to_mass(last.thrust_g, desk.motor.mass_g)
            figures.append(figure("thrust to mass", ratio, "", 1, load.thrust_to_mass, thrust_g=last.thrust_g,
                                  mass_g=desk.motor.mass_g))  # fmt: skip
    if last.amps:
        low, high = load.running_current(last.amps)
        shown = f"{low:.1f} to {high:.1f}"
        figures.append(figure("under way", shown, "A", 1, load.running_current, bench_a=last.amps))
    mismatch = load.watts_mismatch(last)
    if mismatch is not None and abs(mismatch) > load.WATTS_TOLERANCE_PCT:
        words.append(f"Watts and volts × amps differ by {abs(mismatch):.1f} %: one of the three is not to be believed.")
    if load.means_heat(last):
        words.append("High power with low efficiency: that means heat.")
    return View(tuple(figures), tuple(words), None, {"rows": rows})


def _new(desk: Desk, row: object) -> NewReading:
    return NewReading(**{n: getattr(row, n) for n in NewReading._fields})


def done(desk: Desk) -> str:
    """Rows logged."""
    count = desk.counted(STEP)
    return f"{count} {'row' if count == 1 else 'rows'}" if count else ""


PANEL = Panel(STEP, view, readings, done=done)
