"""The rows of the CSV tables as Pydantic models: the contract of docs/formats.md in code.

A cell that is empty is not known. The models say what a cell may hold; what a whole motor may be is said by the
core (`core.motor`), and what a value may be by the registry (`core.measures`).
"""

from collections.abc import Mapping, Sequence
from datetime import datetime
from functools import lru_cache
from typing import Annotated, Any, Literal, Self

from pydantic import (
    AfterValidator,
    AwareDatetime,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    FiniteFloat,
    model_validator,
)
from pydantic_core import PydanticCustomError

from waldhorn.core.base import times
from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Event, Motor, Reading
from waldhorn.core.base.text import control_characters, key_of
from waldhorn.core.base.units import to_stored
from waldhorn.core.base.vocabulary import EventKind, Method, Placement, PolesBy, Purpose, Spot
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.core.motors import own_facts
from waldhorn.core.motors.facts import KINDS, MAGNETS


def _yes_no(value: Any) -> Any:
    return {"yes": True, "no": False}.get(value.strip().lower(), value) if isinstance(value, str) else value


def _plain_number(value: Any) -> Any:
    """A number as people write it: Python would also read 1_000, which is somebody's slip."""
    if isinstance(value, str) and "_" in value:
        raise PydanticCustomError("number", "is not a number")
    return value


def _written_time(value: Any) -> Any:
    """A time as the format names it, and not what else could be read as one: a count of seconds, a bare year."""
    if isinstance(value, str):
        text = value.strip()
        if not times.is_timestamp(text):
            raise PydanticCustomError("datetime", "is not a time")
        if not times.in_reach(int(text[:4])):
            raise PydanticCustomError("year", f"lies outside the years {times.FIRST_YEAR} to {times.LAST_YEAR}")
    return value


def _printable(value: str) -> str:
    if found := control_characters(value):
        raise PydanticCustomError("control", f"holds {', '.join(found)}, which cannot be printed: type it anew")
    return value


# yes and no in a file, true and false in JSON
_YES_NO: Any = {"enum": ["yes", "no", True, False], "type": ["string", "boolean"]}
PLAIN = BeforeValidator(_plain_number)
Number = Annotated[FiniteFloat, PLAIN]
Count = Annotated[int, PLAIN]
Time = Annotated[AwareDatetime, BeforeValidator(_written_time)]
YesNo = Annotated[bool, BeforeValidator(_yes_no), Field(json_schema_extra=_YES_NO)]
Text = Annotated[str, Field(max_length=500), AfterValidator(_printable)]
Prose = Annotated[str, Field(max_length=5000), AfterValidator(_printable)]
# Its length stands beside the pattern: counted in it, it takes a tenth of a second to compile.
Identifier = Annotated[str, Field(pattern=r"^[\w-]*$", max_length=64)]


FINDING_KINDS = (
    "inspection",
    "hall_lamps",
    "pole_count",
    "step_state",
    "overrule",
    "guard_trip",
    "cross_tried",
    "timing_goal",
    "flywheel_trace",
    "first_spin",
    "sweep",
    "picture",
    "sound",
    "signed",
)


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)


class MotorsRow(_Row):
    """One row of motors.csv. A column `x_…` is a fact of one's own."""

    model_config = ConfigDict(extra="allow", str_strip_whitespace=True)
    __pydantic_extra__: dict[str, str | int | float] = Field(init=False)

    tag: Annotated[str, Field(min_length=1, max_length=40)]
    model: Text = ""
    kind: Literal[("", *KINDS)] = ""  # type: ignore[valid-type]
    sensored: YesNo | None = None
    motor_class: Annotated[Text, Field(alias="class")] = ""
    label_kv: Number | None = None
    turns: Number | None = None
    poles: Count | None = None
    poles_known_by: PolesBy | None = None
    slots: Count | None = None
    magnet: Literal[MAGNETS] = "neodymium"  # type: ignore[valid-type]
    mass_g: Number | None = None
    lead_mm: Number | None = None
    lead_awg: Number | None = None
    machine: Text = ""
    position: Text = ""
    owner: Text = ""
    in_service_on: Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$")] | None = None
    rated_a: Number | None = None
    rated_w: Number | None = None
    rated_rpm: Number | None = None
    can_mm: Number | None = None
    length_mm: Number | None = None
    rotor_mm: Number | None = None
    rotor_length_mm: Number | None = None
    bearing_front: Text = ""
    bearing_rear: Text = ""
    price: Number | None = None
    rated_cells: Annotated[int, Field(ge=1, le=100), PLAIN] | None = None
    stator_mm: Number | None = None
    stator_length_mm: Number | None = None
    shaft_mm: Number | None = None
    variant: Text = ""
    wire: Text = ""
    laminations_mm: Number | None = None
    magnet_grade: Text = ""
    note: Prose = ""
    reference: YesNo = False
    yardstick: YesNo = False

    @model_validator(mode="after")
    def _own_facts(self) -> Self:
        for name in self.model_extra or {}:
            if not is_own(name):
                raise PydanticCustomError(
                    "unknown", "{name} is no column of motors: a fact of one's own starts with x_", {"name": name}
                )
        return self

    def to_motor(self) -> Motor:
        """The row as a plain value."""
        own = {
            n.removeprefix(own_facts.COLUMN): str(v) for n, v in (self.model_extra or {}).items() if v not in ("", None)
        }
        values: dict[str, Any] = self.model_dump(exclude=set(self.model_extra or {})) | {"own": own_facts.write(own)}
        filled: dict[str, Any] = {n: "" if v is None and n in _TEXT_MAY_BE_EMPTY else v for n, v in values.items()}
        return Motor(**filled)


_TEXT_MAY_BE_EMPTY = ("poles_known_by", "in_service_on")


class EventsRow(_Row):
    """One row of events.csv. `item` says what was mended."""

    motor: Annotated[str, Field(min_length=1)]
    at: Time
    event: EventKind
    count: Annotated[int, Field(ge=1, le=100_000), PLAIN] = 1
    detail: Prose = ""
    item: Text = ""
    machine: Text = ""
    position: Text = ""

    def to_event(self) -> Event:
        """The row as a plain value."""
        return Event(self.event, self.at, self.count, self.detail, self.item, self.machine, self.position)


class ReadingsRow(_Row):
    """One row of readings.csv."""

    motor: Annotated[str, Field(min_length=1)]
    check: Text = ""
    at: Time
    measure: Literal[tuple(MEASURES)]  # type: ignore[valid-type]
    value: Number
    unit: str = ""
    run: Annotated[int, Field(ge=1, le=1000), PLAIN] = 1
    throttle_pct: Annotated[FiniteFloat, Field(ge=0, le=100), PLAIN] | None = None
    rig: Text = ""
    method: Method | None = None
    placement: Placement | None = None
    distance_cm: Annotated[FiniteFloat, Field(gt=0, le=10_000), PLAIN] | None = None
    meter: Text = ""
    supply_v: Annotated[FiniteFloat, Field(gt=0, le=1000), PLAIN] | None = None
    timing_set_deg: Annotated[FiniteFloat, Field(ge=-90, le=90), PLAIN] | None = None
    motor_c: Annotated[FiniteFloat, Field(ge=-60, le=400), PLAIN] | None = None
    ambient_c: Annotated[FiniteFloat, Field(ge=-60, le=80), PLAIN] | None = None
    purpose: Purpose = Purpose.STANDARD
    on_shaft: Text = ""
    pack: Text = ""
    cells: Annotated[FiniteFloat, Field(gt=0, le=100), PLAIN] | None = None
    pack_mohm: Annotated[FiniteFloat, Field(ge=0, le=100_000), PLAIN] | None = None
    spot: Spot | None = None
    lever: Text = ""
    angle_deg: Annotated[FiniteFloat, Field(ge=-360, le=360), PLAIN] | None = None
    accepted: YesNo = True
    aside_reason: Text = ""
    note: Prose = ""

    def to_reading(self) -> Reading:
        """The row as a plain value, in the stored unit; raises InputError for a value that cannot be.

        The number of a detent position stands in the note.
        """
        measure = MEASURES[self.measure]
        value = self.value if self.unit in ("", measure.unit) else to_stored(self.value, self.unit, measure.dimension)
        if not measure.low <= value <= measure.high:
            raise InputError(
                "value", f"{value:g} is outside {measure.low:g} to {measure.high:g} {measure.unit}".rstrip()
            )
        position, note = None, self.note
        if self.measure == "detent_peak" and len(note) <= 6 and note.isascii() and note.isdecimal():
            position, note = int(note), ""
        return Reading(
            self.measure,
            value,
            self.at,
            self.run,
            self._conditions(),
            self.purpose,
            self.accepted,
            self.angle_deg,
            position,
            note,
            self.aside_reason,
        )

    def _conditions(self) -> Conditions:
        return _conditions(
            self.rig,
            self.method.value if self.method else "",
            self.throttle_pct,
            self.placement.value if self.placement else "",
            self.distance_cm,
            self.meter,
            self.supply_v,
            self.timing_set_deg,
            self.motor_c,
            self.ambient_c,
            self.on_shaft,
            self.pack,
            self.cells,
            self.pack_mohm,
            self.spot.value if self.spot else "",
            self.lever,
        )

    def on(self, meant: Mapping[str, str]) -> Self:
        """The same on the rig that is meant, where its name was one that was typed for another."""
        rig = meant.get(key_of(self.rig)) if self.rig and meant else None
        return self.model_copy(update={"rig": rig}) if rig else self

    def check_key(self) -> str:
        """Readings with the same motor and check belong together; without a check, those of one minute."""
        return key_of_check(self.check, self.at)


_conditions = lru_cache(4096)(Conditions)  # an import repeats a few of them hundreds of thousands of times


class FindingsRow(_Row):
    """One row of findings.csv: what was found that is no number. Each kind of finding fills the columns it has; `file`
    is a picture or a sound beside the table, `id` what the row was made with."""

    motor: Annotated[str, Field(min_length=1)]
    check: Text = ""
    at: Time
    finding: Literal[FINDING_KINDS]  # type: ignore[valid-type]
    item: Text = ""
    state: Text = ""
    note: Text = ""
    kind: Text = ""
    states: Text = ""
    turned: Text = ""
    direction: Count | None = None
    poles: Count | None = None
    known_by: Text = ""
    before: Count | None = None
    rebased: YesNo | None = None
    step: Text = ""
    subject: Text = ""
    detail: Text = ""
    own_machine: Text = ""
    own_bench: Text = ""
    known_machine: Text = ""
    known_bench: Text = ""
    other_cable: Text = ""
    target_a: Number | None = None
    tolerance_a: Number | None = None
    resolution_deg: Number | None = None
    knee_rpm_per_a: Number | None = None
    rig: Text = ""
    meter: Text = ""
    trace: Annotated[str, Field(max_length=100_000)] = ""
    inertia_kgm2: Number | None = None
    at_rpm: Number | None = None
    verdict: Text = ""
    tool_verdict: Text = ""
    reason: Annotated[str, Field(max_length=5000)] = ""
    signed_by: Text = ""
    judgement: str = ""
    width: Count | None = None
    height: Count | None = None
    file: Annotated[str, Field(pattern=r"^((pictures|sounds)/[\w.-]+)?$", max_length=129)] = ""
    id: Identifier = ""

    def check_key(self) -> str:
        """Findings and readings of the same motor and check belong together."""
        return key_of_check(self.check, self.at)


class PropellersRow(_Row):
    """One row of propellers.csv: a propeller or wheel by the name the pit knows it by; `also` are other spellings,
    parted by semicolons."""

    name: Annotated[Text, Field(min_length=1)]
    diameter: Annotated[FiniteFloat, Field(gt=0, le=2000), PLAIN] | None = None
    pitch: Annotated[FiniteFloat, Field(gt=0, le=2000), PLAIN] | None = None
    blades: Annotated[int, Field(ge=1, le=12), PLAIN] | None = None
    unit: Literal["in", "mm"] = "in"
    nickname: Text = ""
    also: Prose = ""

    def columns(self) -> dict[str, Any]:
        """As it is stored."""
        also = [text for part in self.also.split(";") if (text := part.strip())]
        return self.model_dump() | {"also": also}


class PacksRow(_Row):
    """One row of packs.csv: a pack by its name."""

    name: Annotated[Text, Field(min_length=1)]
    cells: Annotated[FiniteFloat, Field(ge=1, le=100), PLAIN] | None = None
    capacity_mah: Annotated[FiniteFloat, Field(gt=0, le=1_000_000), PLAIN] | None = None
    pack_mohm: Annotated[FiniteFloat, Field(ge=0, le=100_000), PLAIN] | None = None
    note: Prose = ""

    def columns(self) -> dict[str, Any]:
        """As it is stored."""
        return self.model_dump()


def key_of_check(named: str, at: datetime) -> str:
    """What a check is called: as it is named, or by its minute."""
    return named or at.strftime("%Y-%m-%dT%H:%M%z")


Row = MotorsRow | EventsRow | ReadingsRow | FindingsRow | PropellersRow | PacksRow
TABLES: dict[str, type[_Row]] = {
    "motors": MotorsRow, "events": EventsRow, "readings": ReadingsRow, "findings": FindingsRow,
    "propellers": PropellersRow, "packs": PacksRow,
}  # fmt: skip
TELLING_COLUMN = {
    "motors": "tag",
    "events": "event",
    "readings": "measure",
    "findings": "finding",
    "propellers": "diameter",
    "packs": "capacity_mah",
}


def table_of(header: Sequence[str]) -> str | None:
    """Which table a header is of: it has the column that tells, and no column that is not one of its own."""
    for table, column in TELLING_COLUMN.items():
        if column in header and all(is_column(table, name) for name in header):
            return table
    return None


def is_own(name: str) -> bool:
    """Whether a column is a fact of one's own."""
    return name.startswith(own_facts.COLUMN) and not own_facts.wrong(f"{name.removeprefix(own_facts.COLUMN)}: 1")


def is_column(table: str, name: str) -> bool:
    """Whether a table has such a column."""
    return name in column_names(table) or (table == "motors" and is_own(name))


def column_names(table: str) -> list[str]:
    """The columns of a table, in the order they are written."""
    return [f.alias or name for name, f in TABLES[table].model_fields.items()]
