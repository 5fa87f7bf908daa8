"""what each motor read on two rigs, so that rigs pair by readings; the meter a target of current was set by"""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "rig_pair",
        *(sa.Column(name, sa.String(), nullable=False) for name in ("motor_id", "quantity", "rig", "other")),
        *(sa.Column(name, sa.Float(), nullable=False) for name in ("value", "other_value")),
        sa.Column("at", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["motor_id"], ["motor.id"], name="fk_rig_pair_motor_id_motor"),
        sa.PrimaryKeyConstraint("motor_id", "quantity", "rig", "other", name="pk_rig_pair"),
    )
    op.add_column("timing_goal", sa.Column("meter", sa.String(), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("timing_goal", "meter")
    op.drop_table("rig_pair")
