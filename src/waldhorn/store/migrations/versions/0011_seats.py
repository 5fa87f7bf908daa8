"""who did what, the seats of devices that joined, and their passphrases"""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("act", sa.Column("who", sa.String(), nullable=False, server_default=""))
    op.create_table(
        "passphrase",
        sa.Column("role", sa.String(), nullable=False),
        sa.Column("hash", sa.String(), nullable=False),
        sa.Column("set_at", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("role", name="pk_passphrase"),
    )
    op.create_table(
        "seat",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("changed_at", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("role", sa.String(), nullable=False),
        sa.Column("device", sa.String(), nullable=False),
        sa.Column("made_at", sa.String(), nullable=False),
        sa.Column("put_out_at", sa.String(), nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_seat"),
    )
    op.create_table(
        "secret",
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("value", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("name", name="pk_secret"),
    )


def downgrade() -> None:
    for table in ("secret", "seat", "passphrase"):
        op.drop_table(table)
    op.drop_column("act", "who")
