"""The no-load current over speed: the points of a check, the line through them, and the motor's own past."""

from collections.abc import Sequence
from dataclasses import dataclass

from waldhorn.core.base.conditions import comparable
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Check, Reading
from waldhorn.core.judging.baseline import own_references
from waldhorn.core.measuring import losses
from waldhorn.core.measuring.losses import Losses, NoLoad
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import all_groups, given_over_settings
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.step import Curve

PARTS = (QUANTITIES["friction"], QUANTITIES["speed_loss"])
_APART = 1.5  # speeds nearer than this are one setting, read again: nothing to draw
_STEPS = 24  # pieces of a drawn line


@dataclass(frozen=True)
class SpinUp:
    """What a spin-up by settings shows: its points and KV, what they are made of or why they do not tell, and what they
    were made of before."""

    points: Sequence[NoLoad]
    kv: float
    now: Losses | None
    before: Losses | None
    refused: str = ""


def spin_up(ctx: CheckContext, readings: Sequence[Reading]) -> SpinUp | None:
    """The spin-up among the readings of a check; None where there is but one setting that counts."""
    accepted = tuple(r for r in readings if r.accepted)
    given = given_over_settings(Check(ctx.check.id, ctx.now, accepted), ctx.motor, PARTS[0])
    found = losses.points_of(given) if given else None
    if not given or found is None:
        return None
    points, kv = found
    if max(p.rpm for p in points) < _APART * min(p.rpm for p in points):
        return None
    earlier = ctx.history.without_check(ctx.check.id)
    references = own_references(all_groups(earlier), earlier.events)
    past = []
    for part in PARTS:
        held = (b for b in references.get(part.name, ()) if b.until is None and b.conditions)
        past += [b for b in held if b.conditions and comparable(part.same, b.conditions, given.conditions)][-1:]
    before = Losses(past[0].value / 1e3, past[1].value / 1e6, 0.0, 0.0, 0.0, 0.0) if len(past) == len(PARTS) else None
    try:
        return SpinUp(points, kv, losses.fit(points, kv, windage=False), before)
    except InputError as refused:
        return SpinUp(points, kv, None, before, refused.sentence)


def curve(shown: SpinUp) -> Curve:
    """Amps over rpm: the line of now through its points, the one of before beside it."""
    fastest = 1.05 * max(p.rpm for p in shown.points)
    speeds = [fastest * i / _STEPS for i in range(_STEPS + 1)]

    def line(of: Losses | None) -> list[tuple[float, float]]:
        return [(n, losses.current(of, n, shown.kv)) for n in speeds] if of else []

    now, before = line(shown.now), line(shown.before)
    top = 1.1 * max(*(p.amps for p in shown.points), *(a for _, a in (*now, *before)))
    points = [(p.rpm, p.amps, f"{p.rpm:.0f} rpm: {p.amps:.2f} A") for p in shown.points]
    title = "no-load current over speed" + (", and as it was" if before else "")
    return Curve(
        title,
        now,
        points,
        (0.0, fastest),
        (0.0, top),
        ("0", f"{fastest:.0f} rpm"),
        ("0", f"{top:.1f} A"),
        before=before,
    )
