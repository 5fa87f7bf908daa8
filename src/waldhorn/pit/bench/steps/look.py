"""Look and turn by hand, no power: the checklist, and what it forbids."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Any

from pydantic import create_model

from waldhorn.core.base.history import Inspected, Motor, Reading
from waldhorn.core.base.vocabulary import Look as Found
from waldhorn.core.judging import hands
from waldhorn.core.judging.sentences import FAULT_WORDS
from waldhorn.core.measuring import inspection
from waldhorn.pit.bench import cautions
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields
from waldhorn.pit.bench.steps.step import Step, Taken, View
from waldhorn.store.models import StepState

NOTE = "_note"
_asked: dict[str, Any] = {
    name: (Annotated[str | None, ask], None)
    for item in inspection.ITEMS.values()
    for name, ask in (
        (item.name, Ask(item.title, choices=tuple(Found))),
        (f"{item.name}{NOTE}", Ask(f"note on {item.title}", longest=500)),
    )
}
SCREWS = {
    "screw_mm": Ask("screw under its head, mm", dimension="length", low=1, high=100, modest=True),
    "mount_mm": Ask("arm or mount, mm", dimension="length", low=0, high=100, modest=True),
    "thread_mm": Ask("thread in the motor, mm", dimension="length", low=0.5, high=100, modest=True),
}
_asked |= {name: (Annotated[float | None, ask], None) for name, ask in SCREWS.items()}
LookFields: type[Fields] = create_model("LookFields", __base__=Fields, **_asked)


@dataclass(frozen=True)
class LookView(View):
    """The items of this kind of motor, and what stands of each."""

    items: Sequence[inspection.Item] = ()
    states: Mapping[str, Found] = field(default_factory=dict)


class Look(Step[Fields, LookView]):
    """The checklist."""

    name = "look"
    title = "Look and turn"
    instruction = "Look it over and turn it by hand, no power."
    caution = f"{cautions.UNPLUGGED} {cautions.MAGNETS}"
    order = 10
    fields = LookFields
    plans = frozenset({"full", "quick"})
    button = "Go on"
    restates = True
    fields_template = "bench/steps/look_fields.html"

    def asks_for(self, name: str, motor: Motor) -> bool:
        """Only for what this kind of motor has."""
        return name in SCREWS or name.removesuffix(NOTE) in {item.name for item in inspection.items_for(motor)}

    def taken(self, ctx: CheckContext, values: Fields, run: int) -> Taken:
        """What was found of each item that changed. Going on with no item ticked passes the step over: nothing was
        looked at."""
        known = ctx.inspected()
        found: list[Inspected] = []
        for item in inspection.items_for(ctx.motor):
            state, note = getattr(values, item.name), getattr(values, f"{item.name}{NOTE}") or ""
            if item.name == "screws" and (fit := _fit(values)) and fit.too_long:
                state, note = Found.BAD, note or fit.words
            before = known.get(item.name)
            if state and (before is None or (before.state, before.note) != (state, note)):
                found.append(Inspected(ctx.check.id, item.name, Found(state), ctx.now, note))
        looked = bool(found or known)
        return Taken(findings=(*found, ctx.stepped(self.name, StepState.DONE if looked else StepState.SKIPPED)))

    def view(self, ctx: CheckContext, values: Fields, fresh: Sequence[Reading]) -> LookView:
        """The items, and what the findings mean."""
        items, known = inspection.items_for(ctx.motor), ctx.inspected()
        states = {}
        for item in items:
            typed = getattr(values, item.name)
            if typed or item.name in known:
                states[item.name] = Found(typed) if typed else known[item.name].state
        words = []
        if fit := _fit(values):
            words.append(fit.words)
            states |= {"screws": Found.BAD} if fit.too_long else {}
        if stop := inspection.forbidding(states):
            words.append(f"No power until mended: {', '.join(i.title for i in stop)}.")
        elif inspection.hold_share(states) < 1:
            words.append("Hold each pull half as long.")
        if suspicion := hands.suspicion(states):
            words.append(
                f"A suspicion, not a verdict: {', '.join(FAULT_WORDS[f] for f in suspicion)}. The tests will tell."
            )
        return LookView(words=tuple(words), items=items, states=states)

    def habits(self, ctx: CheckContext) -> dict[str, str]:
        """What was noted in this check already."""
        found = ctx.inspected()
        return {n: f.state.value for n, f in found.items()} | {f"{n}{NOTE}": f.note for n, f in found.items() if f.note}

    def finished(self, ctx: CheckContext) -> bool:
        """Once it was gone through."""
        return self.name in ctx.step_states()

    def summary(self, ctx: CheckContext) -> str:
        """How many were looked at, and how many are in doubt."""
        states = [f.state for f in ctx.inspected().values()]
        if not states:
            return ""
        doubts, bad = states.count(Found.DOUBT), states.count(Found.BAD)
        more = (f", {doubts} doubt" if doubts else "") + (f", {bad} bad" if bad else "")
        return f"{len(states)} looked at{more}"


def _fit(values: Any) -> inspection.ScrewFit | None:
    """How the mounting screws fit, once all three lengths are there."""
    given = [getattr(values, name) for name in SCREWS]
    return None if None in given else inspection.screw_fit(*given)


STEP = Look()
