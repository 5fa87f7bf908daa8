"""the whole run: findings, pictures, plans; limits of a class and prices of an owner"""

import sqlalchemy as sa
from alembic import op

from waldhorn.store.models import Timestamp as Moment

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("bench_check") as table:
        table.add_column(sa.Column("timing_set_deg", sa.Double(), nullable=True))
        table.add_column(sa.Column("plan", sa.String(), nullable=False, server_default="quick"))
    op.create_table(
        "finding",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("check_id", sa.Integer(), nullable=False),
        sa.Column("subject", sa.String(), nullable=False),
        sa.Column("value", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("at", Moment(), nullable=False),
        sa.ForeignKeyConstraint(["check_id"], ["bench_check.id"], name=op.f("fk_finding_check_id_bench_check")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_finding")),
        sa.UniqueConstraint("check_id", "subject", name=op.f("uq_finding_check_id_subject")),
    )
    op.create_table(
        "picture",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("check_id", sa.Integer(), nullable=False),
        sa.Column("item", sa.String(), nullable=False),
        sa.Column("at", Moment(), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("image", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(["check_id"], ["bench_check.id"], name=op.f("fk_picture_check_id_bench_check")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_picture")),
    )
    op.create_index(op.f("ix_picture_check_id"), "picture", ["check_id"])
    op.create_table(
        "class_limits",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("motor_class", sa.String(), nullable=False),
        sa.Column("limits", sa.JSON(), nullable=False),
        sa.Column("at", Moment(), nullable=False),
        sa.Column("signed_by", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_class_limits")),
    )
    op.create_index(op.f("ix_class_limits_motor_class"), "class_limits", ["motor_class"])
    op.create_table(
        "owner_prices",
        sa.Column("owner", sa.String(), nullable=False),
        sa.Column("new", sa.Double(), nullable=False),
        sa.Column("repair", sa.Double(), nullable=False),
        sa.Column("failure", sa.Double(), nullable=False),
        sa.PrimaryKeyConstraint("owner", name=op.f("pk_owner_prices")),
    )


def downgrade() -> None:
    for name in ("owner_prices", "class_limits", "picture", "finding"):
        op.drop_table(name)
    with op.batch_alter_table("bench_check") as table:
        table.drop_column("plan")
        table.drop_column("timing_set_deg")
