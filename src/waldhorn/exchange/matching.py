"""A comparison as the JSON of docs/formats.md."""

import math
from collections.abc import Sequence
from itertools import combinations
from typing import Any

from pydantic import BaseModel

from waldhorn.core.comparing.differences import Row, difference
from waldhorn.core.comparing.sets import Chosen


class SetJson(BaseModel):
    """Motors of a set, by tag, and its score: below 1 they lie no further apart than they can be read."""

    set: list[str]
    score: float


class DifferenceJson(BaseModel):
    """The second motor against the first: how large, its standard uncertainty, the probability that it is one."""

    measure: str
    motors: list[str]
    difference: float
    unit: str
    u: float
    p: float


class ApartJson(BaseModel):
    """Motors that do not compare, and why."""

    motors: list[str]
    why: str


class MatchJson(BaseModel):
    """The most alike set, those after it, and every difference."""

    set: list[str]
    score: float
    alike: bool
    runners_up: list[SetJson]
    left_over: list[str]
    differences: list[DifferenceJson]
    not_comparable: list[ApartJson]


def to_json(chosen: Chosen, alike: bool, rows: Sequence[Row]) -> dict[str, Any]:
    """A comparison that chose a set, as plain JSON values."""
    return MatchJson(
        set=list(chosen.best.motors),
        score=_round(chosen.best.score),
        alike=alike,
        runners_up=[SetJson(set=list(r.motors), score=_round(r.score)) for r in chosen.runners_up],
        left_over=list(chosen.left_over),
        differences=[
            DifferenceJson(
                measure=row.quantity.name,
                motors=[a.tag, b.tag],
                difference=_round(b.value - a.value),
                unit=row.quantity.unit,
                u=_round(math.hypot(a.u, b.u)),
                p=_round(difference(a, b, row.quantity).p),
            )
            for row in rows
            for a, b in combinations(row.values, 2)
        ],
        not_comparable=[ApartJson(motors=[p.tag], why=p.why) for row in rows for p in row.parted],
    ).model_dump(mode="json")


def _round(value: float) -> float:
    return float(f"{value:.6g}")
