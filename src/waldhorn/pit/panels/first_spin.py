"""First spin at the lowest step for a few seconds: listen, watch. Rough: stop here, that is the evidence."""

from collections.abc import Sequence

from waldhorn.core.history import FIRST_SPIN
from waldhorn.pit.desk import Desk, View
from waldhorn.pit.panels.panel import Panel, Values, number, text
from waldhorn.pit.steps import Field, Step
from waldhorn.store.readings import NewReading

STEP = Step(
    name="first_spin",
    title="First spin",
    instruction="Step one for three seconds: listen.",
    caution="Propeller and pinion off, motor clamped, eyes protected, nobody in the plane of rotation.",
    fields=(
        Field("heard", "it ran", choices=("smooth", "rough"), habit="smooth"),
        Field("rpm", "rpm", "rpm", optional=True),
    ),
    powered=True,
    measures=("rpm",),
    mark=FIRST_SPIN,
    hold_s=3,
)


def readings(desk: Desk, values: Values, run: int) -> list[NewReading]:
    """The speed, if it was read."""
    rpm = number(values, "rpm")
    return [desk.full("rpm", rpm, run, step=1, note=FIRST_SPIN)] if rpm is not None else []


def notices(desk: Desk, values: Values) -> dict[str, tuple[str, str]]:
    """How it sounded."""
    return {"first_spin": (text(values, "heard"), "")} if text(values, "heard") else {}


def view(desk: Desk, values: Values, fresh: Sequence[NewReading]) -> View:
    """What a rough one means."""
    if (text(values, "heard") or desk.said("first_spin")) == "rough":
        return View(words=("Rough: stop here, that is the evidence. Bearings, a magnet, or the shaft.",))
    return View()


def done(desk: Desk) -> str:
    """How it sounded."""
    return desk.said("first_spin")


PANEL = Panel(STEP, view, readings, notices, done=done)
