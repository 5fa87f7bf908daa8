"""Poles: counted, by a reference motor on the same drill, or by a tachometer; and putting a wrong setting right."""

from collections.abc import Sequence
from dataclasses import replace

from waldhorn.core import poles
from waldhorn.core.errors import Refused
from waldhorn.core.explain import figure
from waldhorn.core.motor import impossible
from waldhorn.pit.desk import Desk, View
from waldhorn.pit.panels.panel import Panel, Values, number, numbers
from waldhorn.pit.steps import Field, Step
from waldhorn.store import acts
from waldhorn.store import motors as motor_store
from waldhorn.store.acts import Operation
from waldhorn.store.readings import NewReading

STEP = Step(
    name="poles",
    title="Poles",
    instruction="Count the magnets, or let the drill tell.",
    caution="No gloves, sleeves or hair near the drill chuck. A drill-driven motor with touching leads brakes hard.",
    fields=(
        Field("counted", "counted", dimension="count", low=2, high=poles.MOST_POLES, optional=True, hint="opened it"),
        Field("frequency_hz", "its frequency, Hz", "electrical_frequency", many=True, optional=True,
              hint="116.8 116.5"),
        Field("reference_hz", "reference motor, Hz", "electrical_frequency", many=True, optional=True,
              hint="same drill, full trigger"),
        Field("reference_poles", "its poles", dimension="count", low=2, high=poles.MOST_POLES, optional=True,
              modest=True),
        Field("shaft_rpm", "or tachometer, rpm", "rpm", many=True, optional=True, modest=True),
    ),
    measures=("electrical_frequency",),
)  # fmt: skip


def found(values: Values) -> poles.PoleCount | None:
    """What the frequencies say, or None while they are not enough; raises Refused."""
    frequency, reference = numbers(values, "frequency_hz"), numbers(values, "reference_hz")
    count, rpm = number(values, "reference_poles"), numbers(values, "shaft_rpm")
    if not frequency:
        return None
    if rpm:
        return poles.from_tachometer(frequency, rpm)
    return poles.from_reference(frequency, reference, int(count)) if reference and count else None


def missing(desk: Desk, values: Values) -> dict[str, str]:
    """A count that cannot be, or frequencies without what they need."""
    counted = number(values, "counted")
    if counted is not None:
        facts = replace(desk.motor, poles=int(counted))
        wrong = impossible(facts)
        if counted != int(counted):
            return {"counted": f"{counted:g} poles cannot be: a whole, even number"}
        return {"counted": wrong["poles"]} if "poles" in wrong else {}
    if numbers(values, "frequency_hz"):
        try:
            if found(values) is None:
                return {"reference_hz": "how fast is the drill? A reference motor with its poles, or a tachometer"}
        except Refused as refused:
            field = refused.field if refused.field in ("reference_poles", "reference_hz") else "frequency_hz"
            return {field: refused.sentence}
    elif numbers(values, "reference_hz") or numbers(values, "shaft_rpm"):
        return {"frequency_hz": "its own frequency is still to come"}
    elif not desk.motor.poles:
        return {"counted": "nobody knows yet: count, or type two frequencies"}
    return {}


def readings(desk: Desk, values: Values, run: int) -> list[NewReading]:
    """The frequencies, the reference's marked as such."""
    own = [desk.reading("electrical_frequency", f, run) for f in numbers(values, "frequency_hz")]
    count = number(values, "reference_poles")
    words = f"reference, {count:g} poles" if count else "reference"
    return [*own, *(desk.reading("electrical_frequency", f, run, note=words) for f in numbers(values, "reference_hz"))]


def settled(desk: Desk, values: Values) -> tuple[int, str] | None:
    """The count that is known now, and by what; None when it is not settled or was not asked."""
    if counted := number(values, "counted"):
        return int(counted), "counted"
    try:
        called = found(values)
    except Refused:
        return None
    return (called.poles, "electrical") if called and called.poles else None


def notices(desk: Desk, values: Values) -> dict[str, tuple[str, str]]:
    """Whether it is settled, and what the analyser was set to before, for re-basing."""
    known = settled(desk, values)
    if known is None:
        if numbers(values, "frequency_hz"):
            return {"poles": ("not settled", "")}
        return {"poles": (f"{desk.motor.poles}", "as known")} if desk.motor.poles else {}
    before = desk.motor.poles if desk.motor.poles and desk.motor.poles != known[0] else None
    return {"poles": (str(known[0]), f"set to {before} before" if before else known[1])}


def besides(desk: Desk, values: Values) -> list[Operation]:
    """Write a settled count into the motor's facts."""
    known = settled(desk, values)
    if known is None or (desk.motor.poles, desk.motor.poles_known_by) == known:
        return []
    inverse = [acts.set_back("motor", desk.row.id, poles=desk.motor.poles, poles_known_by=desk.motor.poles_known_by,
                             slots=desk.motor.slots)]  # fmt: skip
    facts = replace(desk.motor, poles=known[0], poles_known_by=known[1])
    if "slots" in impossible(facts):
        facts = replace(facts, slots=None)
    motor_store.amend(desk.session, desk.row.id, facts)
    return inverse


def view(desk: Desk, values: Values, fresh: Sequence[NewReading]) -> View:
    """Candidates with their probabilities, and what is odd about the count."""
    words = []
    if desk.motor.poles:
        words.append(f"{desk.motor.poles} poles so far, {desk.motor.poles_known_by or 'nobody said by what'}.")
    try:
        called = found(values)
    except Refused:
        return View(words=tuple(words))
    if called is None:
        counted = number(values, "counted")
        odd = poles.odd_count(int(counted), desk.motor) if counted and int(counted) == counted else ""
        return View(words=(*words, odd) if odd else tuple(words))
    tachometer = bool(numbers(values, "shaft_rpm"))
    function = poles.from_tachometer if tachometer else poles.from_reference
    inputs = {"frequency_hz": numbers(values, "frequency_hz")}
    if tachometer:
        inputs["shaft_rpm"] = numbers(values, "shaft_rpm")
    else:
        inputs["reference_hz"] = numbers(values, "reference_hz")
    figures = [
        figure(f"{c.poles} poles", 100 * c.probability, f"%, {100 * c.mismatch:+.1f} % off", 0, function, **inputs)
        for c in called.candidates
    ]
    figures.append(figure("shaft", called.rpm, "rpm", 0, function, **inputs))
    if called.poles and (odd := poles.odd_count(called.poles, desk.motor)):
        words.append(odd)
    return View(tuple(figures), (called.words, *words), called)


def done(desk: Desk) -> str:
    """The count, or that it is not settled."""
    said = desk.said("poles")
    if said == "not settled":
        return said
    by = desk.motor.poles_known_by
    return f"{desk.motor.poles}{f', {by}' if by else ''}" if said and desk.motor.poles else ""


def rebase_offer(desk: Desk) -> tuple[int, int] | None:
    """(set, true) when earlier readings were taken with another pole setting and can be re-based."""
    note = desk.findings["poles"].note if "poles" in desk.findings else ""
    if not note.startswith("set to ") or desk.said("rebased") or not desk.motor.poles:
        return None
    before = int(note.split()[2])
    return (before, desk.motor.poles) if before != desk.motor.poles else None


PANEL = Panel(STEP, view, readings, notices, missing, besides, done)
