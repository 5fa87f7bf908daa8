"""gaps that were read with the rotor turned are a measure of their own, not a note"""

from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("UPDATE reading SET measure = 'gap_turned', note = '' WHERE measure = 'gap' AND note = 'turned'")


def downgrade() -> None:
    op.execute("UPDATE reading SET measure = 'gap', note = 'turned' WHERE measure = 'gap_turned'")
