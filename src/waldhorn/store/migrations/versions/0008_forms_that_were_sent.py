"""forms that were sent, so that what is sent twice is stored once; indexes for the last act and the checks at hand"""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "sent_form",
        sa.Column("mark", sa.String(), nullable=False),
        sa.Column("at", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("mark", name="pk_sent_form"),
    )
    op.create_index("ix_sent_form_at", "sent_form", ["at"])
    op.create_index("ix_act_undone", "act", ["id"], sqlite_where=sa.text("undone_at IS NOT NULL"))
    op.drop_index("ix_act_motor_id", "act")
    op.create_index("ix_act_motor_id", "act", ["motor_id", "id"])
    op.create_index("ix_bench_check_at", "bench_check", ["at"])
    op.create_index("ix_bench_check_open", "bench_check", ["motor_id"], sqlite_where=sa.text("open"))


def downgrade() -> None:
    op.drop_index("ix_bench_check_open", "bench_check")
    op.drop_index("ix_bench_check_at", "bench_check")
    op.drop_index("ix_act_motor_id", "act")
    op.create_index("ix_act_motor_id", "act", ["motor_id"])
    op.drop_index("ix_act_undone", "act")
    op.drop_table("sent_form")
