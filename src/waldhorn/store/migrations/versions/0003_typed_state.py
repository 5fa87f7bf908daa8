"""typed state: identifiers that travel, conditions in columns, findings in tables of their own, acts with revisions

What stood in notes and subjects of the first edition is read here once, the last time.
"""

import json
import uuid
from collections import defaultdict
from datetime import datetime
from typing import Any

import sqlalchemy as sa
from alembic import op

from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.history import Event, Reading
from waldhorn.core.base.vocabulary import EventKind, Purpose
from waldhorn.store import fingerprints
from waldhorn.store.models import Timestamp as Moment

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

OLD = (
    "draft",
    "finding",
    "picture",
    "reading",
    "signed_verdict",
    "act",
    "own_baseline",
    "rig_spread",
    "standing",
    "event",
    "bench_check",
    "motor",
    "class_limits",
    "owner_prices",
)
MEASURES = {"rotor_asymmetry": "magnet_unevenness", "sensor_strength_deviation": "sensor_level_spread"}
QUANTITIES = MEASURES
STEP_PCT = 12.5  # the first edition had eight numbered steps

Row = dict[str, Any]


def text(name: str, null: bool = False) -> sa.Column[Any]:
    return sa.Column(name, sa.String(), nullable=null)


def number(name: str, null: bool = True) -> sa.Column[Any]:
    return sa.Column(name, sa.Double(), nullable=null)


def whole(name: str, null: bool = True) -> sa.Column[Any]:
    return sa.Column(name, sa.Integer(), nullable=null)


def flag(name: str) -> sa.Column[Any]:
    return sa.Column(name, sa.Boolean(), nullable=False)


def time(name: str, null: bool = False) -> sa.Column[Any]:
    return sa.Column(name, Moment(), nullable=null)


def document(name: str) -> sa.Column[Any]:
    return sa.Column(name, sa.JSON(), nullable=False)


def ref(name: str, table: str, null: bool = False, **more: Any) -> list[Any]:
    return [text(name, null), sa.ForeignKeyConstraint([name], [f"{table}.id"], **more)]


def table(name: str, *columns: Any, written: bool = True, kept: bool = True, index: tuple[str, ...] = ()) -> None:
    first: list[Any] = [text("id"), time("changed_at")] if kept else []
    if written:
        first += ref("act_id", "act", null=True)
    keys = [sa.PrimaryKeyConstraint("id")] if kept else []
    flat = [c for column in columns for c in (column if isinstance(column, list) else [column])]
    op.create_table(name, *first, *flat, *keys)
    for column in (*(("act_id",) if written else ()), *index):
        op.create_index(op.f(f"ix_{name}_{column}"), name, [column])


def facts() -> list[Any]:
    return [
        text("tag"),
        text("model"),
        text("kind"),
        flag("sensored"),
        text("motor_class"),
        number("label_kv"),
        number("turns"),
        whole("poles"),
        text("poles_known_by"),
        whole("slots"),
        text("magnet"),
        number("mass_g"),
        number("lead_mm"),
        number("lead_awg"),
        text("machine"),
        text("position"),
        text("owner"),
        text("in_service_on"),
        number("rated_a"),
        number("rated_w"),
        number("rated_rpm"),
        number("can_mm"),
        number("length_mm"),
        number("rotor_mm"),
        number("rotor_length_mm"),
        text("bearing_front"),
        text("bearing_rear"),
        number("price"),
        text("note"),
        text("tag_key"),
        text("model_key"),
        text("search"),
    ]


def check_state() -> list[Any]:
    return [
        flag("open"),
        text("plan"),
        text("rig"),
        text("method"),
        number("motor_c"),
        number("ambient_c"),
        number("timing_set_deg"),
        text("first_spin", True),
        text("sweep", True),
        flag("caution_confirmed"),
        number("compare_c"),
        text("lever_unit"),
        number("lever_mm"),
        text("stopped_because"),
    ]


def reading_state() -> list[Any]:
    return [number("value", False), flag("accepted"), text("aside_reason")]


def create() -> None:
    table(
        "act",
        text("motor_id", True),
        text("check_id", True),
        time("at"),
        text("kind"),
        text("step"),
        text("detail"),
        whole("count", False),
        document("typed"),
        time("undone_at", True),
        written=False,
        index=("motor_id",),
    )
    table(
        "motor",
        *facts(),
        sa.UniqueConstraint("tag_key"),
        sa.CheckConstraint("poles IS NULL OR (poles >= 2 AND poles % 2 = 0)", name="poles_even"),
        sa.CheckConstraint("kind IN ('inrunner', 'outrunner')", name="kind"),
        index=("model_key", "machine"),
    )
    table("motor_revision", *facts(), ref("of_id", "motor"), index=("of_id",))
    table(
        "event",
        ref("motor_id", "motor"),
        whole("fingerprint"),
        time("at"),
        text("event"),
        whole("count", False),
        text("detail"),
        text("item"),
        sa.UniqueConstraint("motor_id", "fingerprint"),
    )
    table(
        "bench_check",
        *check_state(),
        ref("motor_id", "motor"),
        text("key"),
        time("at"),
        sa.UniqueConstraint("motor_id", "key"),
    )
    op.create_index("ix_bench_check_motor_at", "bench_check", ["motor_id", "at"])
    table("check_revision", *check_state(), ref("of_id", "bench_check"), index=("of_id",))
    for name, columns in {
        "inspection": [text("item"), text("state"), text("note")],
        "hall_lamps": [text("kind"), text("states"), text("turned"), whole("direction", False)],
        "pole_count": [whole("poles"), text("known_by"), whole("before"), flag("rebased")],
        "step_state": [text("step"), text("state")],
        "overrule": [text("subject"), text("reason")],
        "guard_trip": [text("kind"), text("detail")],
        "timing_goal": [
            number("target_a", False),
            number("tolerance_a", False),
            number("resolution_deg", False),
            number("knee_rpm_per_a"),
            text("rig"),
        ],
        "flywheel_trace": [text("trace"), number("inertia_kgm2", False), number("at_rpm", False)],
        "picture": [
            text("item"),
            whole("width", False),
            whole("height", False),
            sa.Column("image", sa.LargeBinary(), nullable=False),
        ],
    }.items():
        table(name, ref("check_id", "bench_check"), time("at"), *columns, index=("check_id",))
    table(
        "reading",
        *reading_state(),
        ref("check_id", "bench_check"),
        whole("fingerprint"),
        whole("occurrence", False),
        time("at"),
        text("measure"),
        whole("run", False),
        text("purpose"),
        text("rig"),
        text("method"),
        number("throttle_pct"),
        text("placement"),
        number("distance_cm"),
        text("meter"),
        number("supply_v"),
        number("timing_set_deg"),
        number("motor_c"),
        number("ambient_c"),
        text("on_shaft"),
        number("angle_deg"),
        whole("position"),
        text("note"),
        sa.UniqueConstraint("check_id", "fingerprint", "occurrence"),
    )
    table("reading_revision", *reading_state(), ref("of_id", "reading"), index=("of_id",))
    table(
        "signed_verdict",
        ref("motor_id", "motor"),
        ref("check_id", "bench_check", null=True),
        time("at"),
        text("verdict"),
        text("tool_verdict"),
        text("reason"),
        text("signed_by"),
        document("judgement"),
        index=("motor_id",),
    )
    table(
        "check_draft",
        ref("check_id", "bench_check", ondelete="CASCADE"),
        text("step"),
        whole("run"),
        document("fields"),
        sa.PrimaryKeyConstraint("check_id", "step"),
        written=False,
        kept=False,
    )
    table("form_draft", text("form"), document("fields"), sa.PrimaryKeyConstraint("form"), written=False, kept=False)
    table(
        "store_state",
        whole("id", False),
        whole("revision", False),
        sa.PrimaryKeyConstraint("id"),
        written=False,
        kept=False,
    )
    table(
        "standing",
        ref("motor_id", "motor"),
        whole("touched", False),
        whole("judged", False),
        whole("judge_version", False),
        flag("leans_on_model"),
        whole("rank", False),
        text("verdict"),
        text("headline"),
        text("reason"),
        document("strips"),
        time("checked_at", True),
        text("due_on"),
        whole("due_runs"),
        flag("retired"),
        text("overruled_by"),
        text("tool_verdict"),
        flag("on_bench"),
        sa.PrimaryKeyConstraint("motor_id"),
        written=False,
        kept=False,
    )
    op.create_index("ix_standing_rank", "standing", ["rank", "due_on"])
    table(
        "own_baseline",
        whole("id", False),
        ref("motor_id", "motor"),
        text("quantity"),
        number("value", False),
        whole("n", False),
        document("conditions"),
        time("at"),
        time("until", True),
        sa.PrimaryKeyConstraint("id"),
        written=False,
        kept=False,
        index=("motor_id",),
    )
    table(
        "rig_spread",
        ref("check_id", "bench_check"),
        text("rig"),
        text("quantity"),
        ref("motor_id", "motor"),
        time("at"),
        number("squares", False),
        whole("pairs", False),
        sa.PrimaryKeyConstraint("check_id", "rig", "quantity"),
        written=False,
        kept=False,
        index=("motor_id", "at"),
    )
    table(
        "rig_total",
        text("rig"),
        text("quantity"),
        number("squares", False),
        whole("pairs", False),
        sa.PrimaryKeyConstraint("rig", "quantity"),
        written=False,
        kept=False,
    )
    table(
        "class_limits",
        text("motor_class"),
        document("limits"),
        time("at"),
        text("signed_by"),
        written=False,
        index=("motor_class",),
    )
    table(
        "owner_prices",
        text("owner"),
        number("new", False),
        number("repair", False),
        number("failure", False),
        sa.PrimaryKeyConstraint("owner"),
        written=False,
        kept=False,
    )


def upgrade() -> None:
    connection = op.get_bind()
    old = {name: [dict(r) for r in connection.execute(sa.text(f"SELECT * FROM {name}")).mappings()] for name in OLD}
    for name in OLD:
        op.drop_table(name)
    create()
    Fill(connection, old).all()


def downgrade() -> None:
    raise NotImplementedError("the first edition cannot hold what this one knows: go back by a backup of before")


class Fill:
    """Puts the rows of the first edition where they belong."""

    def __init__(self, connection: sa.Connection, old: dict[str, list[Row]]) -> None:
        self.connection, self.old = connection, old
        self.known = sa.MetaData()
        self.known.reflect(connection)
        self.ids: dict[tuple[str, int], str] = {}
        self.serial = 0

    def all(self) -> None:
        """Every table, parents first."""
        self.put("store_state", [{"id": 1, "revision": 1}])
        self.put("motor", [self.motor(r) for r in self.old["motor"]])
        self.put("event", [self.event(r) for r in self.old["event"]])
        said: dict[int, dict[str, Row]] = defaultdict(dict)
        for row in self.old["finding"]:
            said[row["check_id"]][row["subject"]] = row
        self.put("bench_check", [self.check(r, said[r["id"]]) for r in self.old["bench_check"]])
        for row in self.old["finding"]:
            self.finding(row, said[row["check_id"]])
        self.readings()
        self.put("picture", [self.under(r) | _only(r, "item", "width", "height", "image") for r in self.old["picture"]])
        self.put("signed_verdict", [self.signed(r) for r in self.old["signed_verdict"]])
        self.put(
            "class_limits",
            [
                {"id": self.new_id(r["at"]), "changed_at": r["at"]}
                | _only(r, "motor_class", "at", "signed_by")
                | {"limits": {QUANTITIES.get(q, q): pair for q, pair in json.loads(r["limits"]).items()}}
                for r in self.old["class_limits"]
            ],
        )
        self.put("owner_prices", self.old["owner_prices"])
        self.drafts()
        blank = {
            "touched": 1,
            "judged": 0,
            "judge_version": 0,
            "leans_on_model": False,
            "rank": 0,
            "verdict": "unproven",
            "headline": "",
            "reason": "",
            "strips": [],
            "due_on": "",
            "retired": False,
            "overruled_by": "",
            "tool_verdict": "unproven",
            "on_bench": False,
        }
        self.put("standing", [blank | {"motor_id": self.ids["motor", r["id"]]} for r in self.old["motor"]])

    def put(self, name: str, rows: list[Row]) -> None:
        if rows:
            columns = self.known.tables[name].columns
            plain = [
                {
                    c.name: json.dumps(r[c.name]) if isinstance(r.get(c.name), (dict, list)) else r.get(c.name)
                    for c in columns
                }
                for r in rows
            ]
            names = ", ".join(f'"{c.name}"' for c in columns)
            marks = ", ".join(f":{c.name}" for c in columns)
            self.connection.execute(sa.text(f"INSERT INTO {name} ({names}) VALUES ({marks})"), plain)

    def new_id(self, at: str) -> str:
        """A UUID of version 7 of a time gone by, in the order of the old rows."""
        self.serial += 1
        ms = int(datetime.fromisoformat(at).timestamp() * 1000)
        whole = (
            (ms << 80) | (7 << 76) | ((self.serial >> 20) & 0xFFF) << 64 | (2 << 62) | ((self.serial & 0xFFFFF) << 42)
        )
        return str(uuid.UUID(int=whole | (uuid.uuid4().int & ((1 << 42) - 1))))

    def made(self, name: str, row: Row, at: str) -> Row:
        self.ids[name, row["id"]] = found = self.new_id(at)
        return {"id": found, "changed_at": at, "act_id": None}

    def under(self, row: Row) -> Row:
        return {
            "id": self.new_id(row["at"]),
            "changed_at": row["at"],
            "act_id": None,
            "at": row["at"],
            "check_id": self.ids["bench_check", row["check_id"]],
        }

    def motor(self, row: Row) -> Row:
        first = min(
            (c["at"] for c in self.old["bench_check"] if c["motor_id"] == row["id"]),
            default="2026-01-01T00:00:00.000000+00:00",
        )
        return row | {"bearing_front": "", "bearing_rear": ""} | self.made("motor", row, first)

    def event(self, row: Row) -> Row:
        event = Event(EventKind(row["event"]), datetime.fromisoformat(row["at"]), row["count"], row["detail"])
        mark = fingerprints.of_event(event, row["at"])
        return (
            row
            | self.made("event", row, row["at"])
            | {
                "motor_id": self.ids["motor", row["motor_id"]],
                "item": "",
                "fingerprint": mark,
            }
        )

    def check(self, row: Row, said: dict[str, Row]) -> Row:
        value = {subject: r["value"] for subject, r in said.items()}
        lever = said.get("lever")
        return (
            row
            | self.made("bench_check", row, row["at"])
            | {
                "motor_id": self.ids["motor", row["motor_id"]],
                "first_spin": value.get("first_spin"),
                "sweep": value.get("sweep"),
                "caution_confirmed": value.get("caution") == "confirmed",
                "compare_c": float(value["compare_c"]) if "compare_c" in value else None,
                "lever_unit": lever["value"] if lever else "",
                "lever_mm": float(lever["note"]) if lever and lever["note"] else None,
                "stopped_because": value.get("stopped", ""),
            }
        )

    def finding(self, row: Row, said: dict[str, Row]) -> None:
        subject, _, rest = row["subject"].partition(":")
        under, value, note = self.under(row), row["value"], row["note"]
        if subject == "inspect":
            self.put("inspection", [under | {"item": rest, "state": value, "note": note}])
        elif subject == "hall":
            states, turned, direction = note.split("|")
            self.put(
                "hall_lamps",
                [
                    under
                    | {"kind": value, "states": states, "turned": turned or "not noted", "direction": int(direction)}
                ],
            )
        elif subject == "poles":
            before = int(note.split()[2]) if note.startswith("set to ") else None
            known_by = "" if note.startswith(("set to ", "as known")) else note
            poles = None if value in ("not settled", "None") else int(value)
            self.put(
                "pole_count",
                [under | {"poles": poles, "known_by": known_by, "before": before, "rebased": "rebased" in said}],
            )
        elif subject == "step":
            self.put("step_state", [under | {"step": rest, "state": value}])
        elif subject == "overruled":
            self.put("overrule", [under | {"subject": rest, "reason": value}])
        elif subject == "guard":
            kind = rest if rest in ("current", "heat", "erratic", "hold") else "instrument"
            self.put("guard_trip", [under | {"kind": kind, "detail": value}])
        elif row["subject"] == "set_timing:target":
            goal = {
                n: said[f"set_timing:{n}"]["value"]
                for n in ("tolerance", "resolution", "knee")
                if f"set_timing:{n}" in said
            }
            self.put(
                "timing_goal",
                [
                    under
                    | {
                        "target_a": float(value),
                        "tolerance_a": float(goal.get("tolerance", 0.05)),
                        "resolution_deg": float(goal.get("resolution", 1.0)),
                        "rig": note,
                        "knee_rpm_per_a": float(goal["knee"]) if "knee" in goal else None,
                    }
                ],
            )
        elif subject == "trace":
            at_rpm = next(
                (
                    float(r["note"].split()[0])
                    for r in self.old["reading"]
                    if r["check_id"] == row["check_id"]
                    and r["measure"] == "flywheel_torque"
                    and r["note"].endswith(" rpm")
                ),
                0.0,
            )
            self.put("flywheel_trace", [under | {"trace": value, "inertia_kgm2": float(note or 0), "at_rpm": at_rpm}])

    def readings(self) -> None:
        seen: dict[tuple[str, int], int] = defaultdict(int)
        rows = []
        for row in self.old["reading"]:
            if row["measure"] == "end_bell_deviation":  # it is the spread of the phases
                continue
            fresh = _reading(row)
            check = self.ids["bench_check", row["check_id"]]
            mark = fingerprints.of_reading(_value(fresh), row["at"])
            rows.append(
                fresh
                | self.made("reading", row, row["at"])
                | {
                    "check_id": check,
                    "fingerprint": mark,
                    "occurrence": seen[check, mark],
                }
            )
            seen[check, mark] += 1
        self.put("reading", rows)

    def signed(self, row: Row) -> Row:
        check = self.ids["bench_check", row["check_id"]] if row["check_id"] else None
        return (
            row
            | self.made("signed_verdict", row, row["at"])
            | {
                "motor_id": self.ids["motor", row["motor_id"]],
                "check_id": check,
            }
        )

    def drafts(self) -> None:
        for row in self.old["draft"]:
            kind, _, rest = row["key"].partition(":")
            if kind == "check":
                number_, _, step = rest.partition(":")
                if ("bench_check", int(number_)) in self.ids:
                    fields = _throttle_typed(json.loads(row["fields"]))
                    check = self.ids["bench_check", int(number_)]
                    self.put("check_draft", [{"check_id": check, "step": step, "run": None, "fields": fields}])
            elif kind == "take-in":
                self.put("form_draft", [{"form": "take-in", "fields": row["fields"]}])


def _only(row: Row, *names: str) -> Row:
    return {n: row[n] for n in names}


def _throttle_typed(fields: Row) -> Row:
    step = str(fields.pop("step", "")).strip()
    if step:
        fields["throttle_pct"] = f"{float(step) * STEP_PCT:g}" if step.isdigit() and int(step) <= 8 else step
    return fields


def _reading(row: Row) -> Row:
    """A reading of the first edition: its step as a percentage, its note read where it was data."""
    note: str = row["note"]
    found: Row = {"purpose": "standard", "distance_cm": None, "position": None, "on_shaft": ""}
    percent = row["throttle_pct"] if row["step"] is None else row["step"] * STEP_PCT
    for start, purpose in (
        ("first spin", "first_spin"),
        ("timing pull", "timing_pull"),
        ("cooling", "cooling"),
        ("load: ", "load"),
        ("reference", "reference"),
    ):
        if note.startswith(start):
            found["purpose"] = purpose
            found["on_shaft"] = note.removeprefix("load: ") if purpose == "load" else ""
            note = note if purpose == "reference" else ""
            break
    if row["measure"].startswith("noise") and note.endswith(" cm"):
        found["distance_cm"], note = float(note.removesuffix(" cm")), ""
    if row["measure"] == "detent_peak" and note.isdecimal():
        found["position"], note = int(note), ""
    if row["measure"] in ("flywheel_torque", "response"):
        found["on_shaft"] = "flywheel"
        note = "" if note.endswith(" rpm") else note
    measure = MEASURES.get(row["measure"], row["measure"])
    return row | found | {"note": note, "throttle_pct": percent, "meter": "", "measure": measure}


def _value(row: Row) -> Reading:
    conditions = Conditions(
        row["rig"],
        row["method"],
        row["throttle_pct"],
        row["placement"],
        row["distance_cm"],
        row["meter"],
        row["supply_v"],
        row["timing_set_deg"],
        row["motor_c"],
        row["ambient_c"],
        row["on_shaft"],
    )
    return Reading(
        row["measure"],
        row["value"],
        datetime.fromisoformat(row["at"]),
        row["run"],
        conditions,
        Purpose(row["purpose"]),
        bool(row["accepted"]),
        row["angle_deg"],
        row["position"],
        row["note"],
        row["aside_reason"],
    )
