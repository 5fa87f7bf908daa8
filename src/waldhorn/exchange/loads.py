"""Load rows side by side, as the JSON and the CSV of docs/formats.md."""

import csv
import io
from collections.abc import Sequence
from typing import Any

from pydantic import BaseModel

from waldhorn.core.comparing.loads import LoadCrossing, LoadDifference, LoadRead


class LoadRowJson(BaseModel):
    """One load row; what was not read is null."""

    motor: str
    propeller: str
    pack: str
    cells: int | None
    throttle_pct: float
    volts: float | None
    amps: float | None
    watts: float | None
    rpm: float | None
    thrust_g: float | None
    g_per_w: float | None


class LoadDifferenceJson(BaseModel):
    """The second motor less the first on one load at full throttle."""

    propeller: str
    pack: str
    motors: list[str]
    thrust_g: float | None
    at_equal_volts_g: float | None
    u: float | None
    per_cent_of_first: float | None
    p: float | None


class LoadCrossingJson(BaseModel):
    """Where two motors need the same watts on one propeller."""

    propeller: str
    motors: list[str]
    at_thrust_g: float
    u: float


class LoadsJson(BaseModel):
    """The load sheet."""

    rows: list[LoadRowJson]
    differences: list[LoadDifferenceJson]
    crossings: list[LoadCrossingJson]


def to_json(
    rows: Sequence[LoadRead], differences: Sequence[LoadDifference], crossings: Sequence[LoadCrossing]
) -> dict[str, Any]:
    """The load sheet as plain JSON values."""
    return LoadsJson(
        rows=[_row(r) for r in rows],
        differences=[
            LoadDifferenceJson(
                propeller=d.propeller,
                pack=d.pack,
                motors=list(d.motors),
                thrust_g=_round(d.thrust_g),
                at_equal_volts_g=_round(d.at_equal_volts_g),
                u=_round(d.u),
                per_cent_of_first=_round(d.per_cent_of_first),
                p=_round(d.p),
            )
            for d in differences
        ],
        crossings=[
            LoadCrossingJson(
                propeller=c.propeller, motors=list(c.motors), at_thrust_g=float(f"{c.at_thrust_g:.6g}"), u=c.u
            )
            for c in crossings
        ],
    ).model_dump(mode="json")


def to_csv(rows: Sequence[LoadRead]) -> str:
    """The rows as a table."""
    out = io.StringIO()
    writer = csv.DictWriter(out, list(LoadRowJson.model_fields))
    writer.writeheader()
    for row in rows:
        writer.writerow({n: "" if v is None else v for n, v in _row(row).model_dump().items()})
    return out.getvalue()


def _row(r: LoadRead) -> LoadRowJson:
    return LoadRowJson(
        motor=r.motor,
        propeller=r.propeller,
        pack=r.pack,
        cells=r.cells,
        throttle_pct=r.throttle_pct,
        volts=r.volts,
        amps=r.amps,
        watts=_round(r.watts),
        rpm=r.rpm,
        thrust_g=_round(r.thrust_g),
        g_per_w=_round(r.grams_per_watt),
    )


def _round(value: float | None) -> float | None:
    return None if value is None else float(f"{value:.6g}")
