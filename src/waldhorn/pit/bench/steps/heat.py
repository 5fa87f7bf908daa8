"""Temperature right after the standard run, and how it cools until two motors can be compared."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Annotated, Any

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.explain import Figure, figure
from waldhorn.core.base.history import Reading
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.core.measuring import thermal
from waldhorn.core.motors.ratings import STOP_C
from waldhorn.pit.bench import cautions
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields, as_typed
from waldhorn.pit.bench.steps.step import Curve, Step, Taken, View


class HeatFields(Fields):
    """Surface, air, motor before the run and what to compare with in °C; energy of the run in J."""

    surface_c: Annotated[float | None, Ask("surface, °C", "temperature", required=True)] = None
    ambient_c: Annotated[float | None, Ask("air, °C", "temperature", required=True, modest=True)] = None
    before_c: Annotated[float | None, Ask("motor before the run, °C", "temperature_before", modest=True)] = None
    energy_j: Annotated[float | None, Ask("energy of the run, J", "run_energy", modest=True)] = None
    compare_c: Annotated[
        float | None, Ask("compare with a motor at, °C", "temperature", modest=True, hint="empty: air")
    ] = None


@dataclass(frozen=True)
class HeatView(View):
    """How it cools, since when, the readings, and when it is comparable."""

    cooling: thermal.Cooling | None = None
    start: datetime | None = None
    readings: Sequence[Reading] = ()
    comparable_at: datetime | None = None


class Heat(Step[HeatFields, HeatView]):
    """Heat and cooling."""

    name = "heat"
    title = "Heat"
    instruction = "Surface, right after the run; again while it cools."
    caution = cautions.HOT
    order = 100
    fields = HeatFields
    takes_part = True
    plans = frozenset({"full"})
    measures = ("temperature", "temperature_before", "run_energy")
    purposes = (Purpose.STANDARD, Purpose.COOLING)
    quantities = ("temperature",)
    part = "winding"
    untested = "not felt"

    def taken(self, ctx: CheckContext, values: HeatFields, run: int) -> Taken:
        """The first reading of a check ends the standard run; the following ones show how it cools."""
        goal = {"compare_c": values.compare_c} if values.compare_c is not None else {}
        if values.surface_c is None:
            return Taken(check=goal)
        first = not _felt(self.readings(ctx))
        purpose = Purpose.STANDARD if first else Purpose.COOLING
        number = 1 if first else run
        under: dict[str, Any] = {"ambient_c": values.ambient_c, "supply_v": ctx.supply_v()}
        one = ctx.reading("temperature", values.surface_c, number, purpose, **under)
        beside = (("temperature_before", values.before_c), ("run_energy", values.energy_j)) if first else ()
        return Taken((one, *(ctx.reading(m, v, number, **under) for m, v in beside if v is not None)), check=goal)

    def view(self, ctx: CheckContext, values: HeatFields, fresh: Sequence[Reading]) -> HeatView:
        """Rise, cooling, and when it is comparable."""
        rows = _felt(self.readings(ctx))
        surface, ambient, before, energy = values.surface_c, values.ambient_c, values.before_c, values.energy_j
        if rows:
            read = {r.measure: r.value for r in self.readings(ctx) if r.accepted}
            surface, ambient = rows[0].value, rows[0].conditions.ambient_c
            before, energy = read.get("temperature_before"), read.get("run_energy")
        figures, words = [], []
        if surface is not None and ambient is not None:
            figures += _of_run(surface, ambient, before, energy)
            if surface >= STOP_C:
                words.append(f"{surface:.0f} °C is past {STOP_C:g} °C: stop, let it cool.")
            elif surface >= thermal.REST_C:
                words.append(f"From {thermal.REST_C:g} °C on let it rest before the next pull.")
        cooling, start = cooling_of(rows) or (None, None)
        if cooling is None or start is None:
            if rows:
                words.append("Read it again in a minute or two: two readings show when it is comparable.")
            return HeatView(tuple(figures), tuple(words), readings=rows)
        seconds = [(r.at - start).total_seconds() for r in rows]
        figures.append(
            figure(
                "cools by 63 % in",
                "min",
                1,
                thermal.fit_cooling,
                show=lambda c: c.tau_s / 60,
                seconds=seconds,
                surface_c=[r.value for r in rows],
                ambient_c=cooling.ambient_c,
            )
        )
        figures.append(
            figure(
                "comparable in all",
                "min",
                1,
                thermal.seconds_until,
                show=lambda s: s / 60,
                cooling=cooling,
                target_c=_target(ctx, cooling),
            )
        )
        return HeatView(tuple(figures), tuple(words), cooling, start, rows, self.comparable_at(ctx))

    def habits(self, ctx: CheckContext) -> dict[str, str]:
        """The air, and the motor before the run, as noted at the start."""
        check = ctx.check
        known = {"ambient_c": check.ambient_c, "before_c": check.motor_c if not self.readings(ctx) else None}
        return as_typed(HeatFields, known, ctx.notation)

    def summary(self, ctx: CheckContext) -> str:
        """The temperature, and when it is comparable."""
        rows = _felt(self.readings(ctx))
        if not rows:
            return ""
        at = self.comparable_at(ctx)
        return f"{rows[0].value:.0f} °C" + (f", comparable {at.astimezone():%H:%M}" if at else "")

    def comparable_at(self, ctx: CheckContext) -> datetime | None:
        """When it can be compared with a motor at that temperature, or at air temperature."""
        found = cooling_of(_felt(self.readings(ctx)))
        if found is None:
            return None
        cooling, start = found
        return start + timedelta(seconds=thermal.seconds_until(cooling, _target(ctx, cooling)))

    def curve(self, view: HeatView) -> Curve | None:
        """Temperature while it cools."""
        cooling, start, at = view.cooling, view.start, view.comparable_at
        if cooling is None or start is None:
            return None
        points = [((r.at - start).total_seconds(), r.value) for r in view.readings]
        until = (at - start).total_seconds() if at else None
        end = max(*(t for t, _ in points), until or 0.0, 60.0) * 1.05
        line = [(end * i / 40, cooling.at(end * i / 40)) for i in range(41)]
        levels = [y for _, y in line] + [c for _, c in points] + [cooling.ambient_c]
        low, high = min(levels) - 1, max(levels) + 1
        named = [(t, c, f"{t / 60:.1f} min: {c:.1f} °C") for t, c in points]
        return Curve(
            "temperature while it cools",
            line,
            named,
            (0.0, end),
            (low, high),
            ("0", f"{end / 60:.0f} min"),
            (f"{low:.0f} °C", f"{high:.0f} °C"),
            cooling.ambient_c,
            until,
        )


def _felt(readings: Sequence[Reading]) -> list[Reading]:
    return [r for r in readings if r.accepted and r.measure == "temperature"]


def _of_run(surface: float, ambient: float, before: float | None, energy: float | None) -> list[Figure]:
    """What the run has caused, and at what price."""
    found = [figure("rise", "K", 1, thermal.rise, surface_c=surface, ambient_c=ambient)]
    if before is not None:
        found = [
            figure(
                "rise of the run", "K", 1, thermal.rise_of_run, surface_c=surface, ambient_c=ambient, before_c=before
            )
        ]
    caused = float(found[0].value)
    if energy and caused > 0:
        found.append(figure("for each kilojoule", "K/kJ", 2, thermal.rise_per_energy, rise_k=caused, energy_j=energy))
        found.append(
            figure(
                "stays warmer by",
                "K/W",
                2,
                thermal.thermal_resistance,
                rise_k=caused,
                energy_j=energy,
                seconds=thermal.RUN_S,
            )
        )
    return found


def _target(ctx: CheckContext, cooling: thermal.Cooling) -> float:
    return cooling.ambient_c if ctx.check.compare_c is None else ctx.check.compare_c


def cooling_of(rows: Sequence[Reading]) -> tuple[thermal.Cooling, datetime] | None:
    """How it cools, and when the first reading was; None while two readings do not show it."""
    taken = sorted((r for r in rows if r.conditions.ambient_c is not None), key=lambda r: r.at)
    if len(taken) < 2:
        return None
    seconds = [(r.at - taken[0].at).total_seconds() for r in taken]
    ambient = taken[0].conditions.ambient_c or 0.0
    try:
        return thermal.fit_cooling(seconds, [r.value for r in taken], ambient), taken[0].at
    except InputError:
        return None


STEP = Heat()
