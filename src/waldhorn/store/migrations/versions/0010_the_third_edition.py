"""facts of a motor, conditions of a reading and places of an event of the third edition of the files"""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None

_FACTS = ("rated_cells", "stator_mm", "stator_length_mm", "shaft_mm", "laminations_mm")
_TEXTS = {
    "motor": ("variant", "wire", "magnet_grade", "own"),
    "motor_revision": ("variant", "wire", "magnet_grade", "own"),
    "reading": ("pack", "spot", "lever"),
    "event": ("machine", "position"),
}
_NUMBERS = {"motor": _FACTS, "motor_revision": _FACTS, "reading": ("cells", "pack_mohm")}


_WITHDRAWABLE = (
    "inspection", "hall_lamps", "pole_count", "step_state", "overrule", "guard_trip", "cross_tried", "timing_goal",
    "flywheel_trace", "picture", "event",
)  # fmt: skip
# What kind a motor is, and whether it has sensors, may be not known.
_LOOSER = {
    "motor": {
        "sensored BOOLEAN NOT NULL": "sensored BOOLEAN",
        "kind IN ('inrunner', 'outrunner')": "kind IN ('', 'inrunner', 'outrunner')",
    },
    "motor_revision": {"sensored BOOLEAN NOT NULL": "sensored BOOLEAN"},
}


def upgrade() -> None:
    _rewrite({t: [(old, new) for old, new in words.items()] for t, words in _LOOSER.items()})
    for table, names in _TEXTS.items():
        for name in names:
            op.add_column(table, sa.Column(name, sa.String(), nullable=False, server_default=""))
    for table, names in _NUMBERS.items():
        for name in names:
            kind = sa.Integer() if name == "rated_cells" else sa.Float()
            op.add_column(table, sa.Column(name, kind, nullable=True))
    for table in _WITHDRAWABLE:
        op.execute(f"ALTER TABLE {table} ADD COLUMN withdrawn_by VARCHAR REFERENCES act (id)")


def _rewrite(words: dict[str, list[tuple[str, str]]]) -> None:
    """Constraints loosened where they are written: nothing on disk changes with them, and a table that so many refer to
    is not built anew (sqlite.org/lang_altertable.html, section 7)."""
    at = op.get_bind()
    version = at.execute(sa.text("PRAGMA schema_version")).scalar_one()
    op.execute("PRAGMA writable_schema = ON")
    for table, pairs in words.items():
        for old, new in pairs:
            change = sa.text(
                "UPDATE sqlite_master SET sql = replace(sql, :old, :new) WHERE type = 'table' AND name = :t"
            )
            at.execute(change, {"old": old, "new": new, "t": table})
    op.execute(f"PRAGMA schema_version = {version + 1}")
    op.execute("PRAGMA writable_schema = OFF")


def downgrade() -> None:
    at = op.get_bind()
    for table in ("motor", "motor_revision"):
        at.execute(sa.text(f"UPDATE {table} SET sensored = 1 WHERE sensored IS NULL"))
        at.execute(sa.text(f"UPDATE {table} SET kind = 'inrunner' WHERE kind = ''"))
    _rewrite({t: [(new, old) for old, new in words.items()] for t, words in _LOOSER.items()})
    for table in _WITHDRAWABLE:
        op.drop_column(table, "withdrawn_by")
    for columns in (_NUMBERS, _TEXTS):
        for table, names in columns.items():
            for name in names:
                op.drop_column(table, name)
