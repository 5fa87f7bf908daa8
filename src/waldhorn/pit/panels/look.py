"""Look and turn by hand, no power: the checklist, and what it forbids."""

from collections.abc import Sequence

from waldhorn.core import inspection
from waldhorn.pit.desk import Desk, View
from waldhorn.pit.panels.panel import Panel, Values, text
from waldhorn.pit.steps import Field, Step
from waldhorn.store.readings import NewReading

_STATES = ("ok", "doubt", "bad")
STEP = Step(
    name="look",
    title="Look and turn",
    instruction="Look it over and turn it by hand, no power.",
    caution="Pack unplugged, propeller and pinion off. Loose rotors and magnets snap together: mind fingers, "
    "watches, cards, pacemakers.",
    fields=tuple(
        field
        for item in inspection.ITEMS.values()
        for field in (
            Field(item.name, item.title, choices=_STATES, optional=True),
            Field(f"{item.name}_note", f"note on {item.title}", optional=True, longest=500),
        )
    ),
)


def notices(desk: Desk, values: Values) -> dict[str, tuple[str, str]]:
    """What was found of each item; looking at all of it is noted too."""
    found = {
        f"inspect:{item.name}": (text(values, item.name), text(values, f"{item.name}_note"))
        for item in inspection.items_for(desk.motor)
        if text(values, item.name)
    }
    return found | {"step:look": ("done", "")}


def view(desk: Desk, values: Values, fresh: Sequence[NewReading]) -> View:
    """The items of this kind of motor, and what the findings mean."""
    states = {i.name: text(values, i.name) or desk.said(f"inspect:{i.name}") for i in inspection.items_for(desk.motor)}
    words = []
    if stop := inspection.forbidding(states):
        words.append(f"No power until mended: {', '.join(i.title for i in stop)}.")
    elif inspection.hold_share(states) < 1:
        words.append("Hold each pull half as long.")
    suspicion = inspection.suspicion(states)
    if suspicion:
        names = ", ".join(f.replace("_", " ") for f in suspicion)
        words.append(f"A suspicion, not a verdict: {names}. The tests will tell.")
    return View(words=tuple(words), more={"items": inspection.items_for(desk.motor), "states": states})


def done(desk: Desk) -> str:
    """How many were looked at, and how many are in doubt."""
    states = [f.value for s, f in desk.findings.items() if s.startswith("inspect:")]
    if not states:
        return "nothing looked at" if desk.said("step:look") else ""
    doubts, bad = states.count("doubt"), states.count("bad")
    more = (f", {doubts} doubt" if doubts else "") + (f", {bad} bad" if bad else "")
    return f"{len(states)} looked at{more}"


def habits(desk: Desk) -> dict[str, str]:
    """What was noted in this check already."""
    found = {s.removeprefix("inspect:"): f for s, f in desk.findings.items() if s.startswith("inspect:")}
    return {n: f.value for n, f in found.items()} | {f"{n}_note": f.note for n, f in found.items() if f.note}


PANEL = Panel(STEP, view, notices=notices, done=done, habits=habits)
