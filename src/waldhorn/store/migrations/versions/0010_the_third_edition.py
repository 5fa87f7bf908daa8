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


def upgrade() -> None:
    for table, names in _TEXTS.items():
        for name in names:
            op.add_column(table, sa.Column(name, sa.String(), nullable=False, server_default=""))
    for table, names in _NUMBERS.items():
        for name in names:
            kind = sa.Integer() if name == "rated_cells" else sa.Float()
            op.add_column(table, sa.Column(name, kind, nullable=True))


def downgrade() -> None:
    for columns in (_NUMBERS, _TEXTS):
        for table, names in columns.items():
            for name in names:
                op.drop_column(table, name)
