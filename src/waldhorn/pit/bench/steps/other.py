"""Anything else that was read: any measure, alone, with what it was read under. Nothing is left on paper for want of a
field."""

from collections.abc import Sequence
from typing import Annotated, Any

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Reading
from waldhorn.core.base.units import Notation, read_number
from waldhorn.core.base.vocabulary import Method, Placement, Purpose, Spot
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.fields import Ask, Fields
from waldhorn.pit.bench.steps.step import Step, Taken, View

NOT_SAID = "not said"
LOADED = ("shaft_torque", "shaft_power", "efficiency")  # read with something on the shaft


class OtherFields(Fields):
    """What was read, its value as it is written, and under what."""

    measure: Annotated[str | None, Ask("what was read", choices=tuple(MEASURES), habit="kv", required=True)] = None
    value: Annotated[str | None, Ask("as it is written", required=True, hint="3450, or 2.6 oz-in")] = None
    throttle_pct: Annotated[float | None, Ask("throttle, %", dimension="percent", low=0, high=100, modest=True)] = None
    on_shaft: Annotated[str | None, Ask("on the shaft", modest=True)] = None
    meter: Annotated[str | None, Ask("instrument", modest=True)] = None
    lever: Annotated[str | None, Ask("lever", modest=True)] = None
    spot: Annotated[str | None, Ask("felt at", choices=(NOT_SAID, *Spot), habit=NOT_SAID, modest=True)] = None
    placement: Annotated[str | None, Ask("placed", choices=(NOT_SAID, *Placement), habit=NOT_SAID, modest=True)] = None
    distance_cm: Annotated[
        float | None, Ask("distance, cm", dimension="distance", low=1, high=500, modest=True, folded=True)
    ] = None
    motor_c: Annotated[float | None, Ask("motor temperature, °C", "temperature", modest=True, folded=True)] = None
    timing_set_deg: Annotated[
        float | None, Ask("timing set to, ° electrical", "timing_mean", modest=True, folded=True)
    ] = None
    pack: Annotated[str | None, Ask("pack", modest=True, folded=True)] = None
    cells: Annotated[float | None, Ask("cells", dimension="cells", low=1, high=100, modest=True, folded=True)] = None


class Other(Step[OtherFields, View]):
    """Something that no other step asks for."""

    name = "other"
    title = "Anything else"
    instruction = "Whatever else was read: what it is, and its value."
    order = 128
    fields = OtherFields
    stays = True
    measures = tuple(MEASURES)
    purposes = tuple(Purpose)

    def owns(self, reading: Reading) -> bool:
        """What no other step owns."""
        from waldhorn.pit.bench.steps import STEPS  # the steps find each other once all are there

        return not any(s.owns(reading) for s in STEPS.values() if s is not self)

    def missing(self, ctx: CheckContext, values: OtherFields) -> dict[str, str]:
        """A value that cannot be one of the measure."""
        try:
            _value(values, ctx.notation)
        except InputError as refused:
            return {"value": refused.sentence}
        return {}

    def taken(self, ctx: CheckContext, values: OtherFields, run: int) -> Taken:
        """One reading, in the stored unit."""
        try:
            value = _value(values, ctx.notation)
        except InputError:
            return Taken()
        if value is None or values.measure is None:
            return Taken()
        under: dict[str, Any] = {
            "throttle_pct": values.throttle_pct,
            "on_shaft": values.on_shaft or "",
            "meter": values.meter or "",
            "lever": values.lever or "",
            "spot": values.spot if values.spot in set(Spot) else "",
            "placement": values.placement if values.placement in set(Placement) else "",
            "distance_cm": values.distance_cm,
            "pack": values.pack or "",
            "cells": values.cells,
            "method": Method.INSTRUMENT.value if values.measure == "kv" else "",
        }
        under |= {n: v for n in ("motor_c", "timing_set_deg") if (v := getattr(values, n)) is not None}
        purpose = Purpose.LOAD if values.on_shaft or values.measure in LOADED else Purpose.STANDARD
        mine = [r for r in ctx.readings if r.measure == values.measure and r.purpose is purpose]
        return Taken((ctx.reading(values.measure, value, max((r.run for r in mine), default=0) + 1, purpose, **under),))

    def view(self, ctx: CheckContext, values: OtherFields, fresh: Sequence[Reading]) -> View:
        """What was taken last, in words."""
        words = [
            f"{MEASURES[r.measure].title}: {r.value:g} {MEASURES[r.measure].unit}".rstrip() + "."
            for r in [*self.readings(ctx), *fresh]
        ]
        return View((), tuple(words))


def _value(values: OtherFields, notation: Notation) -> float | None:
    """The value in the stored unit; raises InputError."""
    if values.measure is None or not values.value:
        return None
    m = MEASURES[values.measure]
    return read_number(values.value, m.title, m.dimension, m.low, m.high, notation)


STEP = Other()
