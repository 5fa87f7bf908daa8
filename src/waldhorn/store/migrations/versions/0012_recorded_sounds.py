"""recorded sounds of a check"""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "sound",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("changed_at", sa.String(), nullable=False),
        sa.Column("act_id", sa.String(), nullable=True),
        sa.Column("withdrawn_by", sa.String(), nullable=True),
        sa.Column("check_id", sa.String(), nullable=False),
        sa.Column("at", sa.String(), nullable=False),
        sa.Column("step", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("flac", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(["act_id"], ["act.id"], name="fk_sound_act_id_act"),
        sa.ForeignKeyConstraint(["withdrawn_by"], ["act.id"], name="fk_sound_withdrawn_by_act"),
        sa.ForeignKeyConstraint(["check_id"], ["bench_check.id"], name="fk_sound_check_id_bench_check"),
        sa.PrimaryKeyConstraint("id", name="pk_sound"),
    )
    op.create_index("ix_sound_act_id", "sound", ["act_id"])
    op.create_index("ix_sound_check_id", "sound", ["check_id"])


def downgrade() -> None:
    op.drop_table("sound")
