"""motors that were merged into another go out of sight, and the merging is the other's change; what rigs are judged by

What 0009 left in the caches under a former name is worked out anew: every upgrade empties them.
"""

import json

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None

_INTO = "merged into "


def upgrade() -> None:
    op.create_table(
        "rig_held",
        sa.Column("rig", sa.String(), nullable=False),
        sa.Column("quantity", sa.String(), nullable=False),
        *(sa.Column(name, sa.Float(), nullable=False) for name in ("squares", "visit_squares", "visit_runs")),
        *(sa.Column(name, sa.Integer(), nullable=False) for name in ("pairs", "visit_pairs")),
        sa.PrimaryKeyConstraint("rig", "quantity", name="pk_rig_held"),
    )
    at = op.get_bind()
    merged = sa.text(
        "SELECT id, motor_id, detail FROM act WHERE kind = 'correct' AND detail LIKE :into AND undone_at IS NULL"
    )
    for act_id, double, detail in at.execute(merged, {"into": f"{_INTO}%"}).all():
        named = {"tag": detail.removeprefix(_INTO).strip().casefold(), "double": double}
        target = at.execute(sa.text("SELECT id FROM motor WHERE tag_key = :tag AND id <> :double"), named).scalar()
        tag = at.execute(sa.text("SELECT tag FROM motor WHERE id = :double"), named).scalar()
        if target is None or tag is None:
            continue
        told = {"id": act_id, "motor": target, "tag": tag, "typed": json.dumps({"double": double})}
        at.execute(
            sa.text(
                "UPDATE act SET kind = 'merge_motors', motor_id = :motor, detail = :tag, typed = :typed WHERE id = :id"
            ),
            told,
        )
        at.execute(sa.text("UPDATE motor SET tag_key = id WHERE id = :double"), named)


def downgrade() -> None:
    op.drop_table("rig_held")
    at = op.get_bind()
    merged = sa.text(
        "SELECT a.id, json_extract(a.typed, '$.double'), m.tag FROM act a JOIN motor m ON m.id = a.motor_id"
        " WHERE a.kind = 'merge_motors'"
    )
    for act_id, double, into in at.execute(merged).all():
        at.execute(
            sa.text(
                "UPDATE act SET kind = 'correct', motor_id = :double, detail = :detail, typed = '{}' WHERE id = :id"
            ),
            {"id": act_id, "double": double, "detail": f"{_INTO}{into}"},
        )
        at.execute(sa.text("UPDATE motor SET tag_key = lower(tag) WHERE id = :double"), {"double": double})
