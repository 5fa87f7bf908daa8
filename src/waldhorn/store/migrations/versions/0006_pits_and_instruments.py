"""the pit's own name and settings; rigs of other pits; instruments read by a recipe"""

import sqlalchemy as sa
from alembic import op

from waldhorn.store.models import new_id

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

_OF_RIG = ("pit_id", "pit_name", "own_name")


def upgrade() -> None:
    op.create_table(
        "pit",
        sa.Column("id", sa.Integer(), primary_key=True),
        *(
            sa.Column(n, sa.String(), nullable=False)
            for n in ("pit_id", "name", "signer", "rig", "theme", "temperature", "torque", "length")
        ),
        sa.Column("decimal_comma", sa.Boolean(), nullable=False),
        sa.Column("also", sa.JSON(), nullable=False),
        sa.Column("maxima", sa.JSON(), nullable=False),
    )
    op.get_bind().execute(
        sa.text("INSERT INTO pit VALUES (1, :pit_id, '', '', '', 'auto', 'degC', 'N·mm', 'mm', 0, '[]', '{}')"),
        {"pit_id": new_id()},
    )
    for name in _OF_RIG:
        op.add_column("rig", sa.Column(name, sa.String(), nullable=False, server_default=""))
    op.create_table(
        "recipe",
        sa.Column("name", sa.String(), primary_key=True),
        sa.Column("recipe", sa.JSON(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("recipe")
    for name in _OF_RIG:
        op.drop_column("rig", name)
    op.drop_table("pit")
