"""Noise: background first, then the lowest setting, half and full, at one stand and one distance."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Any

from waldhorn.core.base.conditions import FULL_THROTTLE_PCT, at_full_throttle
from waldhorn.core.base.explain import figure
from waldhorn.core.base.history import Reading
from waldhorn.core.base.vocabulary import Placement
from waldhorn.core.measuring import noise
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import observations_of
from waldhorn.pit.bench import cautions
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields
from waldhorn.pit.bench.steps.first_spin import LOWEST_PCT
from waldhorn.pit.bench.steps.step import Curve, Step, Taken, View

SETTINGS = {"lowest": LOWEST_PCT, "half": FULL_THROTTLE_PCT / 2, "full": FULL_THROTTLE_PCT}


class NoiseFields(Fields):
    """Levels in dB, and how they were heard."""

    background: Annotated[float | None, Ask("hall, dB", "noise_background")] = None
    lowest: Annotated[float | None, Ask("lowest setting, dB", "noise_avg")] = None
    half: Annotated[float | None, Ask("half, dB", "noise_avg")] = None
    full: Annotated[float | None, Ask("full, dB", "noise_avg")] = None
    peak: Annotated[float | None, Ask("peak, dB", "noise_peak", hint="of the last", modest=True, folded=True)] = None
    placement: Annotated[
        str | None, Ask("placed", choices=tuple(Placement), habit=Placement.STAND, required=True, modest=True)
    ] = None
    distance_cm: Annotated[
        float | None,
        Ask("distance, cm", dimension="distance", low=1, high=500, modest=True, folded=True),
    ] = None
    meter: Annotated[str | None, Ask("meter", modest=True, folded=True)] = None

    def levels(self) -> dict[str, float]:
        """The levels that were read, by setting."""
        return {name: level for name in SETTINGS if (level := getattr(self, name)) is not None}


@dataclass(frozen=True)
class NoiseView(View):
    """The levels as read by throttle in percent, the hall's, and those of the first check that was heard."""

    levels: Mapping[float, float] = field(default_factory=dict)
    hall: float | None = None
    before: Mapping[float, float] = field(default_factory=dict)


class Noise(Step[NoiseFields, NoiseView]):
    """How loud it is."""

    name = "noise"
    title = "Noise"
    instruction = "Same stand, same distance: hall first, then three settings."
    caution = f"{cautions.EARS} {cautions.SPIN}"
    order = 90
    fields = NoiseFields
    takes_part = True
    plans = frozenset({"full", "quick"})
    powered = True
    heard = True
    measures = ("noise_avg", "noise_background", "noise_peak")
    quantities = ("noise_avg",)
    hold_s = 5
    part = "bearings"
    untested = "not heard"

    def taken(self, ctx: CheckContext, values: NoiseFields, run: int) -> Taken:
        """The background and the levels, with where and by what they were heard."""
        where: dict[str, Any] = {
            "placement": values.placement or Placement.STAND.value,
            "distance_cm": values.distance_cm,
            "meter": values.meter or "",
            "supply_v": ctx.supply_v(),
        }
        found = []
        if values.background is not None:
            found.append(ctx.reading("noise_background", values.background, run, **where))
        levels = values.levels()
        for name, level in levels.items():
            found.append(ctx.reading("noise_avg", level, run, throttle_pct=SETTINGS[name], **where))
        if values.peak is not None:
            at = SETTINGS[list(levels)[-1]] if levels else None
            found.append(ctx.reading("noise_peak", values.peak, run, throttle_pct=at, **where))
        return Taken(tuple(found))

    def missing(self, ctx: CheckContext, values: NoiseFields) -> dict[str, str]:
        """Something that was heard; a peak is that of a setting, and not below its level."""
        levels = values.levels()
        if values.background is None and values.peak is None and not levels:
            return {"background": "the hall or a level is still to come"}
        if values.peak is not None and levels and values.peak < list(levels.values())[-1]:
            return {"peak": f"a peak of {values.peak:g} dB is below the level it is of"}
        return {}

    def view(self, ctx: CheckContext, values: NoiseFields, fresh: Sequence[Reading]) -> NoiseView:
        """Each level with the hall taken out, and what is telling."""
        taken = fresh or [r for r in self.readings(ctx) if r.accepted]
        background = next((r.value for r in taken if r.measure == "noise_background"), None)
        figures, words = [], []
        for name, pct in SETTINGS.items():
            level = next(
                (r.value for r in taken if r.measure == "noise_avg" and r.conditions.throttle_pct == pct), None
            )
            if level is None:
                continue
            if background is None:
                words.append(f"Hall not read: {name} is at most {level:.0f} dB.")
                words += _telling(ctx, name, level)
                continue
            inputs = {"level_db": level, "background_db": background}
            own = noise.without_background(**inputs)
            figures.append(
                figure(f"{name}, hall out", "dB", 1, noise.without_background, show=lambda c: c.level_db, **inputs)
            )
            if own.bound:
                words.append(f"Within {noise.TOO_LOUD_DB:g} dB of the hall: {name} is at most {level:.0f} dB.")
                continue
            if own.negligible and name == "full":
                words.append("The hall hardly matters here.")
            words += _telling(ctx, name, own.level_db)
        return NoiseView(tuple(figures), tuple(dict.fromkeys(words)), _levels(taken), background, first_heard(ctx))

    def curve(self, view: NoiseView) -> Curve | None:
        """The levels over the throttle, those of the first check beside them, and the hall."""
        if not view.levels:
            return None
        heard = [*view.levels.values(), *view.before.values(), *([view.hall] if view.hall is not None else [])]
        low, high = min(heard) - 3, max(heard) + 3
        named = {pct: name for name, pct in SETTINGS.items()}
        return Curve(
            "dB over the throttle" + (", the level line is the hall" if view.hall is not None else ""),
            sorted(view.levels.items()),
            [(pct, db, f"{named[pct]}: {db:.1f} dB") for pct, db in sorted(view.levels.items())],
            (0.0, 105.0),
            (low, high),
            ("0", "full"),
            (f"{low:.0f} dB", f"{high:.0f} dB"),
            view.hall,
            before=sorted(view.before.items()),
            named=True,
        )

    def habits(self, ctx: CheckContext) -> dict[str, str]:
        """Placement, distance and meter as they are on this rig: of this check, or what is usual there. What was once
        read in the hand does not make today's reading one of the hand."""
        heard = self.readings(ctx)
        earlier = sorted((r for c in ctx.history.checks for r in c.readings if self.owns(r)), key=lambda r: r.at)
        here = [r.conditions for r in earlier if r.conditions.rig == ctx.check.rig]
        if heard:
            placement = heard[-1].conditions.placement
        else:
            usual = Counter(c.placement for c in here if c.placement)
            placement = usual.most_common(1)[0][0] if usual else Placement.STAND.value
        alike = [c for c in (*here, *(r.conditions for r in heard)) if c.placement == placement]
        meters, distances = [c.meter for c in alike if c.meter], [c.distance_cm for c in alike if c.distance_cm]
        return {
            "placement": placement,
            **({"distance_cm": f"{distances[-1]:g}"} if distances else {}),
            **({"meter": meters[-1]} if meters else {}),
        }


def _levels(taken: Sequence[Reading]) -> dict[float, float]:
    """The levels of readings by the setting they were read at."""
    heard = [(r.conditions.throttle_pct, r.value) for r in taken if r.measure == "noise_avg" and r.accepted]
    return {pct: db for pct, db in heard if pct is not None and pct in SETTINGS.values()}


def first_heard(ctx: CheckContext) -> dict[float, float]:
    """The levels of the first check in which this motor was heard, this one left out."""
    earlier = sorted((c for c in ctx.history.checks if c.id != ctx.check.id), key=lambda c: c.at)
    return next((levels for c in earlier if (levels := _levels(c.readings))), {})


def _telling(ctx: CheckContext, name: str, level: float) -> list[str]:
    if name == "full" and level > noise.LOUD_SMALL_MOTOR_DB:
        return [f"Above {noise.LOUD_SMALL_MOTOR_DB:g} dB: too loud for a small motor, whatever it was before."]
    healthy = healthy_full(ctx)
    if name == "lowest" and healthy is not None and noise.telltale(level, healthy):
        return [f"Louder at the lowest setting than it was at full when sound ({healthy:.1f} dB): that is telling."]
    return []


def healthy_full(ctx: CheckContext) -> float | None:
    """What this motor made at full throttle on its first check with noise."""
    for check in sorted((c for c in ctx.history.checks if c.id != ctx.check.id), key=lambda c: c.at):
        heard = observations_of(check, ctx.motor, QUANTITIES["noise_avg"])
        full = [o.value for o in heard if o.conditions.throttle_pct is not None and at_full_throttle(o.conditions)]
        if full:
            return full[0]
    return None


STEP = Noise()
