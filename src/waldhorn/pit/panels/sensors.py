"""Hall sensors, turned by hand: the lamp states as they come."""

from collections.abc import Sequence

from waldhorn.core import hall
from waldhorn.core.errors import Refused
from waldhorn.core.explain import figure
from waldhorn.pit.desk import Desk, View
from waldhorn.pit.panels.panel import Panel, Values, text
from waldhorn.pit.steps import Field, Step
from waldhorn.store.readings import NewReading

TURNED = ("not noted", "clockwise", "the other way")
STEP = Step(
    name="sensors",
    title="Sensors",
    instruction="Turn the shaft slowly one way: write the lamps A B C as they step.",
    caution="Sensor cable only, phases open: leads touch neither the can nor each other.",
    fields=(
        Field("states", "lamps", longest=600, hint="101 100 110 010 011 001"),
        Field("turned", "turned, seen from the shaft", choices=TURNED, habit=TURNED[0], modest=True),
    ),
    applies=lambda motor: motor.sensored,
)


def _usual_direction(desk: Desk, turned: str) -> int:
    """Which order this motor gave before when it was turned that way."""
    for f in sorted(desk.history.findings, key=lambda f: f.at, reverse=True):
        words = f.note.split("|")
        sound = f.subject == "hall" and f.value == "good" and f.check != str(desk.check.id) and len(words) == 3
        if sound and words[1] == turned != TURNED[0]:
            return int(words[2])
    return 0


def _judged(desk: Desk, states: str, turned: str) -> hall.HallFinding:
    return hall.judge_states(hall.read_states(states), _usual_direction(desk, turned))


def missing(desk: Desk, values: Values) -> dict[str, str]:
    """Lamps that cannot be read."""
    try:
        hall.read_states(text(values, "states"))
    except Refused as refused:
        return {"states": refused.sentence}
    return {}


def notices(desk: Desk, values: Values) -> dict[str, tuple[str, str]]:
    """What the lamps say, with the states seen."""
    if not text(values, "states") or missing(desk, values):
        return {}
    found = _judged(desk, text(values, "states"), text(values, "turned"))
    states = " ".join(hall.read_states(text(values, "states")))
    return {"hall": (found.kind, f"{states}|{text(values, 'turned')}|{found.direction}")}


def view(desk: Desk, values: Values, fresh: Sequence[NewReading]) -> View:
    """The finding as the lamps come in."""
    states, turned = text(values, "states"), text(values, "turned")
    if not states and desk.said("hall"):
        states, turned, _ = desk.findings["hall"].note.split("|")
    if not states:
        return View(picture=None, more={"lamps": hall.SENSORS})
    try:
        found = _judged(desk, states, turned)
    except Refused:
        return View(more={"lamps": hall.SENSORS})
    seen = hall.read_states(states)
    usual = _usual_direction(desk, turned)
    shown = figure("states seen", f"{found.seen} of 6", "", 0, hall.judge_states, states=seen, turned=usual)
    return View((shown,), (found.words,), (found, seen[-1] if seen else ""), {"lamps": hall.SENSORS})


def done(desk: Desk) -> str:
    """The kind of finding."""
    words = {"good": "six states in order", "stuck": "stuck", "inverted": "inverted", "swapped": "swapped wires",
             "incomplete": "states missing"}  # fmt: skip
    return words.get(desk.said("hall"), "")


PANEL = Panel(STEP, view, notices=notices, missing=missing, done=done)
