"""motors marked as yardstick; how far a motor moved from its own past, and the days on which those of a rig moved alike"""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for table in ("motor", "motor_revision"):
        op.add_column(table, sa.Column("yardstick", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.add_column("latest_value", sa.Column("change", sa.Float(), nullable=True))
    op.add_column("latest_value", sa.Column("u_change", sa.Float(), nullable=True))
    op.create_table(
        "rig_shift",
        sa.Column("rig", sa.String(), nullable=False),
        sa.Column("quantity", sa.String(), nullable=False),
        sa.Column("day", sa.String(), nullable=False),
        sa.Column("value", sa.Float(), nullable=False),
        sa.Column("u", sa.Float(), nullable=False),
        sa.Column("motors", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("rig", "quantity", "day", name="pk_rig_shift"),
    )
    # the quantity is called by the field's term now, wherever a pit has set something of it
    for table, column in (("class_limits", "limits"), ("use_weights", "weights"), ("good_enough", "within")):
        op.execute(f"UPDATE {table} SET {column} = replace({column}, '\"steadiness\"', '\"speed_ripple\"')")


def downgrade() -> None:
    for table, column in (("class_limits", "limits"), ("use_weights", "weights"), ("good_enough", "within")):
        op.execute(f"UPDATE {table} SET {column} = replace({column}, '\"speed_ripple\"', '\"steadiness\"')")
    op.drop_table("rig_shift")
    op.drop_column("latest_value", "u_change")
    op.drop_column("latest_value", "change")
    for table in ("motor", "motor_revision"):
        op.drop_column(table, "yardstick")
