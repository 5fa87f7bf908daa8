"""Setting the timing to a current target: pulls in, next setting out, until it is reached. A target belongs to the rig
and meter it was set by: on another it is what pulls at one setting on both make of it."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Annotated

from waldhorn.core.base.conditions import FULL_THROTTLE_PCT, at_full_throttle
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.explain import figure
from waldhorn.core.base.history import Reading
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.core.measuring import end_bell
from waldhorn.core.measuring.end_bell import TimingPull
from waldhorn.pit.bench import cautions
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields
from waldhorn.pit.bench.steps.step import Curve, Step, Taken, View
from waldhorn.store.findings import TimingGoal

REST = timedelta(seconds=60)
TOLERANCE_A, RESOLUTION_DEG = 0.05, 1.0
WITHIN = timedelta(days=30)  # of two pulls that tell what one meter shows of another
NO_TARGET = 0.0  # of a goal that is a knee alone


class SetTimingFields(Fields):
    """One pull: electrical degrees, A, rpm, by which meter, A of the controller alone where the meter sees it; and the
    goal: A, A, degrees, rpm per A."""

    setting: Annotated[float | None, Ask("timing at, ° electrical", "timing_mean", required=True)] = None
    amps: Annotated[float | None, Ask("amps", "no_load_current", required=True)] = None
    rpm: Annotated[float | None, Ask("rpm", "rpm")] = None
    meter: Annotated[str | None, Ask("meter", modest=True)] = None
    idle: Annotated[float | None, Ask("controller, A", "idle_current", modest=True)] = None
    target: Annotated[float | None, Ask("target, A", "no_load_current", modest=True)] = None
    tolerance: Annotated[
        float | None, Ask("close enough, A", "no_load_current", habit="0.05", required=True, modest=True)
    ] = None
    resolution: Annotated[
        float | None,
        Ask("in steps of, °", dimension="angle", low=0.1, high=20, habit="1", required=True, modest=True),
    ] = None
    knee: Annotated[
        float | None,
        Ask("or where a degree buys under, rpm per A", dimension="count", low=1, high=100_000, modest=True),
    ] = None


@dataclass(frozen=True)
class Target:
    """A target as the meter at hand shows it and its standard uncertainty, A."""

    amps: float
    u: float = 0.0


@dataclass(frozen=True)
class SetTimingView(View):
    """The pulls, what to set next, and when the motor has cooled."""

    pulls: Sequence[TimingPull] = ()
    proposal: end_bell.Proposal | None = None
    target: float | None = None
    cool_at: datetime | None = None


class SetTiming(Step[SetTimingFields, SetTimingView]):
    """The timing setter."""

    name = "set_timing"
    title = "Set timing"
    instruction = "Pull short at full throttle; then set what it says and pull again."
    caution = f"Unplug before you touch the end bell. {cautions.SPIN} {cautions.SECONDS} It cools between pulls."
    order = 110
    fields = SetTimingFields
    powered = True
    stays = True
    measures = ("no_load_current", "rpm", "idle_current")
    purposes = (Purpose.TIMING_PULL,)
    hold_s = 4

    def taken(self, ctx: CheckContext, values: SetTimingFields, run: int) -> Taken:
        """One pull at a setting; the goal is kept for the next one."""
        goal = self._goal(ctx, values)
        kept = (goal,) if goal and (ctx.goal() is None or _differs(goal, ctx.goal())) else ()
        if values.setting is None:
            return Taken(findings=kept)
        found = (("no_load_current", values.amps), ("rpm", values.rpm), ("idle_current", values.idle))
        under = {"timing_set_deg": values.setting, "meter": values.meter or "", "purpose": Purpose.TIMING_PULL}
        pulls = tuple(ctx.powered(m, v, run, FULL_THROTTLE_PCT, **under) for m, v in found if v is not None)
        return Taken(pulls, kept)

    def view(self, ctx: CheckContext, values: SetTimingFields, fresh: Sequence[Reading]) -> SetTimingView:
        """The curve through the pulls, the next setting, the price of a degree, the knee."""
        pulls, goal = self.pulls(ctx, fresh), self._goal(ctx, values)
        found = self.proposal(ctx, values, fresh)
        figures, words = [], self._meter_words(ctx, pulls, fresh)
        target = self.target(ctx, goal, fresh) if goal else None
        if found and goal and target:
            title = "leave it at" if found.reached else "next, set"
            figures.append(
                figure(
                    title,
                    "°",
                    1,
                    end_bell.propose,
                    show=lambda p: p.setting_deg,
                    pulls=pulls,
                    target_a=target.amps,
                    tolerance_a=max(goal.tolerance_a, target.u),
                    resolution_deg=goal.resolution_deg,
                )
            )
            words.append(f"{'Reached' if found.reached else f'Set {found.setting_deg:g}°'}: {found.words}.")
        if goal and goal.target_a and pulls:
            words.append(self._target_words(ctx, goal, target, fresh))
        if pulls and (idle := pulls[-1].idle):
            words.append(f"{idle:g} A of the {pulls[-1].amps:g} are the controller's own.")
        if len({p.setting_deg for p in pulls}) > 1:
            figures.append(
                figure("a degree costs", "% current", 1, end_bell.growth, show=lambda c: 100 * c, pulls=pulls)
            )
        least = goal.knee_rpm_per_a if goal else None
        if least and end_bell.knee(pulls, least) is not None:
            figures.append(figure("knee", "°", 1, end_bell.knee, pulls=pulls, least_rpm_per_a=least))
        last = max((r.at for r in self.readings(ctx)), default=None)
        cool_at = last + REST if last else None
        return SetTimingView(tuple(figures), tuple(words), pulls, found, target.amps if target else None, cool_at)

    def habits(self, ctx: CheckContext) -> dict[str, str]:
        """The goal as last given, and the setting that was proposed."""
        goal = ctx.goal() or next(reversed(ctx.found.goals), None)
        usual = {"tolerance": f"{TOLERANCE_A:g}", "resolution": f"{RESOLUTION_DEG:g}"}
        if before := self.readings(ctx):
            meter = before[-1].conditions.meter
            idle = [r.value for r in before if r.measure == "idle_current" and r.conditions.meter == meter]
            usual |= {"meter": meter} | ({"idle": f"{idle[-1]:g}"} if idle else {})
        if goal is None:
            return usual
        kept = {
            "target": goal.target_a,
            "tolerance": goal.tolerance_a,
            "resolution": goal.resolution_deg,
            "knee": goal.knee_rpm_per_a,
        }
        found = self.proposal(ctx, SetTimingFields(), ())
        setting = {"setting": f"{found.setting_deg:g}"} if found and not found.reached else {}
        return usual | {n: f"{v:g}" for n, v in kept.items() if v} | setting

    def summary(self, ctx: CheckContext) -> str:
        """Pulls made."""
        count = self.counted(ctx)
        return f"{count} {'pull' if count == 1 else 'pulls'}" if count else ""

    def curve(self, view: SetTimingView) -> Curve | None:
        """No-load current over timing, with the pulls."""
        pulls, found, target = view.pulls, view.proposal, view.target
        if not pulls:
            return None
        c = end_bell.growth(pulls)
        settings = [p.setting_deg for p in pulls] + ([found.setting_deg] if found else [])
        low, high = min(settings) - 2, max(settings) + 2
        middle = sum(p.setting_deg for p in pulls) / len(pulls)
        level = sum(math.log(p.amps) for p in pulls) / len(pulls)
        degrees = [low + (high - low) * i / 40 for i in range(41)]
        line = [(d, math.exp(level + c * (d - middle))) for d in degrees]
        amps = [y for _, y in line] + [p.amps for p in pulls] + ([target] if target else [])
        bottom, top = min(amps) * 0.95, max(amps) * 1.05
        points = [(p.setting_deg, p.amps, f"{p.setting_deg:g}°: {p.amps:.2f} A") for p in pulls]
        mark = found.setting_deg if found and not found.reached else None
        return Curve(
            "no-load current over timing, with the pulls",
            line,
            points,
            (low, high),
            (bottom, top),
            (f"{low:g}°", f"{high:g}°"),
            (f"{bottom:.1f} A", f"{top:.1f} A"),
            target,
            mark,
        )

    def pulls(self, ctx: CheckContext, fresh: Sequence[Reading] = ()) -> list[TimingPull]:
        """The pulls so far by the meter at hand, in order, the one being typed last: two meters make no line."""
        by = self._by_meter(ctx, fresh)
        return by[list(by)[-1]] if by else []

    def _by_meter(self, ctx: CheckContext, fresh: Sequence[Reading]) -> dict[tuple[str, str], list[TimingPull]]:
        """Pulls by rig and meter, those of the last used one last."""
        runs = [run for run in self.runs(ctx).values() if all(r.accepted for r in run)]
        found: dict[tuple[str, str], list[TimingPull]] = {}
        for run in [*runs, list(fresh)] if fresh else runs:
            by = {r.measure: r.value for r in run}
            under = run[0].conditions
            amps, idle = by.get("no_load_current", 0.0), by.get("idle_current", 0.0)
            pull = TimingPull(under.timing_set_deg or 0.0, amps, by.get("rpm"), idle)
            if pull.own > 0:
                found[under.rig, under.meter] = [*found.pop((under.rig, under.meter), []), pull]
        return found

    def _meter_words(self, ctx: CheckContext, pulls: Sequence[TimingPull], fresh: Sequence[Reading]) -> list[str]:
        """What is asked about two pulls that do not agree, and about pulls by another meter."""
        said = []
        if odd := end_bell.odd_repeat(pulls):
            one, two = odd
            said.append(
                f"At {one.setting_deg:g}° {one.amps:.2f} and {two.amps:.2f} A: pull once more, set the wrong aside."
            )
        *others, here = list(self._by_meter(ctx, fresh).items()) or [((("", "")), [])]
        for (rig, meter), theirs in others:
            name = _named(rig, meter, here[0][0])
            known = end_bell.between_meters(here[1], theirs)
            told = f": it shows {1 / known[0]:.2f} ± {known[1] / known[0] ** 2:.2f} of this one" if known else ""
            said.append(f"{len(theirs)} pull{'s' if len(theirs) != 1 else ''} by {name} stand apart{told}.")
        return said

    def proposal(
        self, ctx: CheckContext, values: SetTimingFields, fresh: Sequence[Reading]
    ) -> end_bell.Proposal | None:
        """The next setting, or None while there is no pull or no target."""
        pulls, goal = self.pulls(ctx, fresh), self._goal(ctx, values)
        target = self.target(ctx, goal, fresh) if goal else None
        if not pulls or goal is None or target is None:
            return None
        try:
            return end_bell.propose(pulls, target.amps, max(goal.tolerance_a, target.u), goal.resolution_deg)
        except InputError:
            return None

    def target(self, ctx: CheckContext, goal: TimingGoal, fresh: Sequence[Reading] = ()) -> Target | None:
        """The target as the meter at hand shows it; None without one, or where no pull at one setting by both meters
        says what it is here."""
        here, there = self._place(ctx, fresh), (goal.rig, goal.meter)
        if not goal.target_a or here == there or not self.pulls(ctx, fresh):
            return Target(goal.target_a) if goal.target_a else None
        ever = self._ever(ctx, fresh)
        known = end_bell.between_meters(ever.get(here, ()), ever.get(there, ()))
        return Target(goal.target_a * known[0], goal.target_a * known[1]) if known else None

    def _place(self, ctx: CheckContext, fresh: Sequence[Reading]) -> tuple[str, str]:
        """Rig and meter at hand."""
        return next(reversed(self._by_meter(ctx, fresh)), (ctx.check.rig, ""))

    def _ever(self, ctx: CheckContext, fresh: Sequence[Reading]) -> dict[tuple[str, str], list[TimingPull]]:
        """The pulls of this motor within a month by rig and meter, whatever the check and the purpose."""
        found, mine = dict(self._by_meter(ctx, fresh)), self.readings(ctx)
        for check in ctx.history.checks:
            for r in check.readings if ctx.now - check.at <= WITHIN else ():
                under = r.conditions
                pulled = r.accepted and r.measure == "no_load_current" and r.value > 0
                if pulled and at_full_throttle(under) and under.timing_set_deg is not None and r not in mine:
                    place = (under.rig, under.meter)
                    found[place] = [*found.get(place, []), TimingPull(under.timing_set_deg, r.value)]
        return found

    def _target_words(
        self, ctx: CheckContext, goal: TimingGoal, target: Target | None, fresh: Sequence[Reading]
    ) -> str:
        rig, meter = self._place(ctx, fresh)
        there = _named(goal.rig, goal.meter, rig if meter != goal.meter else "")
        here = _named(rig, meter, goal.rig if meter != goal.meter else "")
        if target is None:
            return f"{goal.target_a:g} A was set by {there}: pull at one setting by both, then it is known by {here}."
        if target.u:
            words = f"{target.amps:.2f} ± {target.u:.2f} A by {here}"
            return f"{goal.target_a:g} A by {there} = {words} for this motor."
        return f"The target holds for {here} only."

    def _goal(self, ctx: CheckContext, values: SetTimingFields) -> TimingGoal | None:
        """The goal as typed, the rest of it as last given."""
        known = ctx.goal()
        target = values.target if values.target is not None else known.target_a if known else NO_TARGET
        if not target and values.knee is None:
            return None
        tolerance = values.tolerance if values.tolerance is not None else known.tolerance_a if known else TOLERANCE_A
        step = values.resolution if values.resolution is not None else known.resolution_deg if known else RESOLUTION_DEG
        knee = values.knee if values.knee is not None else known.knee_rpm_per_a if known else None
        rig, meter = ctx.check.rig, values.meter or ""
        before = known or next(reversed(ctx.found.goals), None)
        if before and values.target in (None, before.target_a):
            rig, meter = before.rig, before.meter
        return TimingGoal(ctx.check.id, target, tolerance, step, knee, rig, ctx.now, meter)


def _named(rig: str, meter: str, at_hand: str) -> str:
    """A meter, with its rig where that is not the one at hand."""
    if rig == at_hand:
        return meter or "the meter without a name"
    return f"{meter} on {rig}" if meter and rig else meter or rig or "the meter without a name"


def _differs(a: TimingGoal, b: TimingGoal | None) -> bool:
    names = ("target_a", "tolerance_a", "resolution_deg", "knee_rpm_per_a", "rig", "meter")
    return b is None or any(getattr(a, n) != getattr(b, n) for n in names)


STEP = SetTiming()
