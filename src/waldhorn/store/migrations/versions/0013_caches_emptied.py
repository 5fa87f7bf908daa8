"""no table changes: what 0009 left in the caches under a former name is worked out anew (`upgrade` empties them)"""

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    pass


def downgrade() -> None:
    pass
