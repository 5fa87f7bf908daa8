"""visits beside runs in what a rig has shown, the share of motors with a fault beside the prices, cross tests

What the rigs have shown is worked out again from the readings when the motors are judged anew.
"""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

_SUMS: tuple[tuple[str, sa.types.TypeEngine[float] | sa.types.TypeEngine[int]], ...] = (
    ("visit_squares", sa.Double()),
    ("visit_pairs", sa.Integer()),
    ("visit_runs", sa.Double()),
)


def upgrade() -> None:
    for table in ("rig_spread", "rig_total"):
        op.execute(sa.text(f"DELETE FROM {table}"))
        for name, kind in _SUMS:
            op.add_column(table, sa.Column(name, kind, nullable=False, server_default="0"))
    op.add_column("owner_prices", sa.Column("faulty", sa.Double(), nullable=False, server_default=str(1 / 7)))
    op.create_table(
        "cross_tried",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("changed_at", sa.String(), nullable=False),
        sa.Column("act_id", sa.String(), sa.ForeignKey("act.id"), index=True),
        sa.Column("check_id", sa.String(), sa.ForeignKey("bench_check.id"), nullable=False, index=True),
        sa.Column("at", sa.String(), nullable=False),
        *(
            sa.Column(name, sa.String(), nullable=False)
            for name in ("own_machine", "own_bench", "known_machine", "known_bench", "other_cable")
        ),
    )


def downgrade() -> None:
    op.drop_table("cross_tried")
    op.drop_column("owner_prices", "faulty")
    for table in ("rig_spread", "rig_total"):
        for name, _ in _SUMS:
            op.drop_column(table, name)
