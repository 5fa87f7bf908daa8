"""rigs with a name and a description, studies of them, reference motors; what uses weigh, how alike is good enough;
how foreign sheets are mapped; keys of the API"""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

_TABLES = (
    "use_weights",
    "good_enough",
    "rig",
    "rig_name",
    "study",
    "rig_drift",
    "rig_line",
    "latest_value",
    "model_spread",
    "sheet_mapping",
    "api_key",
)


def upgrade() -> None:
    for table in ("motor", "motor_revision"):
        op.add_column(table, sa.Column("reference", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.create_table("use_weights", _key("use"), _json("weights"))
    op.create_table("good_enough", _key("motor_class"), _json("within"))
    op.create_table(
        "rig",
        _key("name"),
        *map(_text, ("what", "connected", "measures", "settings")),
        sa.Column("put_right_at", sa.String()),
    )
    op.create_table("rig_name", _key("key"), _text("name"))
    op.create_table("sheet_mapping", _key("header"), _json("mapping"))
    op.create_table(
        "api_key",
        _key("id"),
        _text("changed_at"),
        _text("name"),
        sa.Column("digest", sa.String(), nullable=False, index=True),
        _text("made_at"),
        sa.Column("withdrawn_at", sa.String()),
    )
    op.create_table(
        "study",
        _key("id"),
        _text("changed_at"),
        sa.Column("rig", sa.String(), nullable=False, index=True),
        _text("measure"),
        _json("motors"),
        _whole("visits"),
        _whole("runs"),
        _whole("seed"),
        _text("at"),
    )
    op.create_table(
        "rig_drift",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("motor_id", sa.String(), sa.ForeignKey("motor.id"), nullable=False, index=True),
        _text("rig"),
        _text("quantity"),
        _text("since"),
        sa.Column("until", sa.String()),
    )
    op.create_table(
        "rig_line",
        _key("rig"),
        _key("other"),
        _key("quantity"),
        _text("at"),
        *map(_number, ("k", "a", "u_k", "u_a", "cov", "residual")),
        _whole("pairs"),
    )
    op.create_table(
        "latest_value",
        sa.Column("motor_id", sa.String(), sa.ForeignKey("motor.id"), primary_key=True),
        _key("quantity"),
        _number("value"),
        _whole("n"),
        _whole("runs"),
        _text("at"),
        _json("conditions"),
        _number("u_further"),
        _number("resolution"),
    )
    op.create_table(
        "model_spread",
        _key("model_key"),
        _key("quantity"),
        _key("rig"),
        _whole("motors"),
        _number("middle"),
        _number("apart"),
    )


def downgrade() -> None:
    for table in reversed(_TABLES):
        op.drop_table(table)
    for table in ("motor_revision", "motor"):
        op.drop_column(table, "reference")


def _key(name: str) -> sa.Column[str]:
    return sa.Column(name, sa.String(), primary_key=True)


def _text(name: str) -> sa.Column[str]:
    return sa.Column(name, sa.String(), nullable=False)


def _whole(name: str) -> sa.Column[int]:
    return sa.Column(name, sa.Integer(), nullable=False)


def _number(name: str) -> sa.Column[float]:
    return sa.Column(name, sa.Double(), nullable=False)


def _json(name: str) -> sa.Column[object]:
    return sa.Column(name, sa.JSON(), nullable=False)
