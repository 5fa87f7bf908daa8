"""Load rows, for propeller or wheel work: what goes in, what comes out, and whether the figures fit together."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Any

from waldhorn.core.base.explain import figure
from waldhorn.core.base.history import Reading
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.core.measuring import load
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import groups_of
from waldhorn.core.motors.ratings import beyond
from waldhorn.pit.bench import cautions
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields, as_typed
from waldhorn.pit.bench.steps.step import Curve, Step, Taken, View

_READ = {
    "rest_v": "rest_volts",
    "load_v": "load_volts",
    "amps": "load_current",
    "watts": "load_watts",
    "rpm": "load_rpm",
    "thrust_g": "thrust",
}


class LoadFields(Fields):
    """One row: what is on the shaft, V, A, g, what not everybody reads. In the order it is typed: Ctrl and Enter after
    the last that was read."""

    what: Annotated[str | None, Ask("propeller or wheel", required=True)] = None
    load_v: Annotated[float | None, Ask("volts under load", "load_volts", required=True)] = None
    amps: Annotated[float | None, Ask("amps", "load_current", required=True)] = None
    thrust_g: Annotated[float | None, Ask("thrust, g", "thrust", modest=True)] = None
    rpm: Annotated[float | None, Ask("rpm", "load_rpm", modest=True)] = None
    rest_v: Annotated[float | None, Ask("volts at rest", "rest_volts", modest=True)] = None
    watts: Annotated[float | None, Ask("watts shown", "load_watts", modest=True)] = None
    throttle_pct: Annotated[
        float | None, Ask("throttle, %", dimension="percent", low=0.5, high=100, habit="100", modest=True)
    ] = None
    pack: Annotated[str | None, Ask("pack", modest=True, folded=True)] = None
    cells: Annotated[float | None, Ask("cells", dimension="cells", low=1, high=100, modest=True, folded=True)] = None
    surface_c: Annotated[float | None, Ask("surface after it, °C", "temperature", modest=True, folded=True)] = None


@dataclass(frozen=True)
class LoadLine:
    """A row as it stands in the table: as read, its throttle in percent, its watts, and grams per watt."""

    row: load.LoadRow
    throttle_pct: float | None
    watts: float | None
    grams_per_watt: float | None


@dataclass(frozen=True)
class LoadView(View):
    """The rows, and what the maker rates the motor at."""

    lines: Sequence[LoadLine] = ()
    rated_w: float | None = None


class Load(Step[LoadFields, LoadView]):
    """A load run."""

    name = "load"
    title = "Load run"
    instruction = "One row a propeller."
    caution = (
        "The propeller is ON: stand bolted down, nobody in its plane, eyes protected, never a pack and a configuration "
        f"cable at once. {cautions.METER} Never beyond the rotor's rated speed."
    )
    order = 120
    fields = LoadFields
    takes_part = True
    powered = True
    stays = True
    wants_fleet = True
    measures = (*_READ.values(), "temperature")
    purposes = (Purpose.LOAD,)
    hold_s = 15

    def taken(self, ctx: CheckContext, values: LoadFields, run: int) -> Taken:
        """One row, with what was on the shaft."""
        found = [(m, getattr(values, n)) for n, m in (*_READ.items(), ("surface_c", "temperature"))]
        under: dict[str, Any] = {"on_shaft": values.what or "", "pack": values.pack or "", "cells": values.cells}
        if values.throttle_pct is not None:
            under["throttle_pct"] = values.throttle_pct
        return Taken(tuple(ctx.reading(m, v, run, Purpose.LOAD, **under) for m, v in found if v is not None))

    def view(self, ctx: CheckContext, values: LoadFields, fresh: Sequence[Reading]) -> LoadView:
        """The rows, and the figures of the last one."""
        runs = [*self.runs(ctx).values(), *([fresh] if fresh else [])]
        if not runs:
            return LoadView()
        lines = [_line(run) for run in runs]
        last, figures, words = lines[-1].row, [], []
        watts, mass = load.power(last), ctx.motor.mass_g
        if last.rest_v and last.load_v:
            figures.append(figure("sag", "%", 1, load.sag, rest_v=last.rest_v, load_v=last.load_v))
        if watts:
            figures.append(figure("power", "W", 0, load.power, row=last))
        if watts and last.thrust_g:
            figures.append(
                figure("thrust per watt", "g/W", 2, load.grams_per_watt, thrust_g=last.thrust_g, watts=watts)
            )
            if mass:
                figures.append(
                    figure("thrust to mass", "", 1, load.thrust_to_mass, thrust_g=last.thrust_g, mass_g=mass)
                )
        if last.amps:
            figures.append(
                figure(
                    "under way, wing or boat only",
                    "A",
                    1,
                    load.running_current,
                    bench_a=last.amps,
                    show=lambda between: f"{between[0]:.1f} to {between[1]:.1f}",
                )
            )
        mismatch = load.watts_mismatch(last)
        if mismatch is not None and abs(mismatch) > load.WATTS_TOLERANCE_PCT:
            words.append(
                f"Watts and volts × amps differ by {abs(mismatch):.1f} %: one of the three is not to be believed."
            )
        resistance, idle = ctx.winding_ohm(), groups_of(ctx.history, QUANTITIES["no_load_current"])
        if resistance and idle and last.load_v and last.amps:
            lost = figure(
                "turns to heat", "W", 0, load.heat, row=last, resistance_ohm=resistance, no_load_a=idle[-1].value
            )
            figures.append(lost)
            if float(lost.value) > load.HOT_SHARE * last.load_v * last.amps:
                words.append("More than four tenths of the power turn to heat in the motor.")
        words += _above_rated(ctx, last, watts, fresh or _last_run(self.readings(ctx)))
        return LoadView(tuple(figures), tuple(words), lines, ctx.motor.rated_w)

    def curve(self, view: LoadView) -> Curve | None:
        """Thrust over watts, the rated watts an edge."""
        read = [(line.watts, line.row.thrust_g, line) for line in view.lines]
        points = [(w, g, line.row.what) for w, g, line in read if w and g]
        if not points:
            return None
        most_g = 1.3 * max(g for _, g, _ in points)
        most_w = max(1.15 * max(w for w, _, _ in points), 1.05 * (view.rated_w or 0.0))
        return Curve(
            "thrust over watts" + (", the upright line its rated watts" if view.rated_w else ""),
            [],
            points,
            (0.0, most_w),
            (0.0, most_g),
            ("0", f"{most_w:.0f} W"),
            ("0", f"{most_g:.0f} g"),
            mark=view.rated_w,
            named=True,
            rays=[(grams, f"{grams} g/W") for grams in load.RAYS_G_PER_W],
        )

    def offers(self, ctx: CheckContext) -> Mapping[str, Sequence[str]]:
        """The propellers and packs of the pit, those of its siblings first."""
        return {"what": ctx.propellers, "pack": ctx.packs}

    def conditions(self) -> dict[str, str]:
        """The propeller as well."""
        return {"what": "on_shaft"} | super().conditions()

    def habits(self, ctx: CheckContext) -> dict[str, str]:
        """The pack of the row before, in this check or an earlier one."""
        before = self.readings(ctx) or [r for c in ctx.history.checks for r in c.readings if self.owns(r)]
        last = before[-1].conditions if before else None
        return as_typed(LoadFields, {"pack": last.pack or None, "cells": last.cells} if last else {}, ctx.notation)

    def summary(self, ctx: CheckContext) -> str:
        """Rows logged."""
        count = self.counted(ctx)
        return f"{count} {'row' if count == 1 else 'rows'}" if count else ""


def _last_run(found: Sequence[Reading]) -> list[Reading]:
    return [r for r in found if r.run == found[-1].run]


def _above_rated(ctx: CheckContext, row: load.LoadRow, watts: float | None, read: Sequence[Reading]) -> list[str]:
    """What of a row is more than the maker allows."""
    cells = next((r.conditions.cells for r in read if r.conditions.cells), None)
    surface_c = next((r.value for r in read if r.measure == "temperature"), None)
    return [one.sentence for one in beyond(ctx.motor, row.amps, watts, row.rpm, cells, surface_c)]


def _line(taken: Sequence[Reading]) -> LoadLine:
    row = row_of(taken)
    watts = load.power(row)
    per_watt = load.grams_per_watt(row.thrust_g, watts) if watts and row.thrust_g else None
    return LoadLine(row, taken[0].conditions.throttle_pct, watts, per_watt)


def row_of(taken: Sequence[Reading]) -> load.LoadRow:
    """The readings of a row as one value."""
    by = {r.measure: r.value for r in taken}
    return load.LoadRow(taken[0].conditions.on_shaft, **{n: by.get(m) for n, m in _READ.items()})


STEP = Load()
