"""Orders of more seats: asked for, agreed to, expected, arrived."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0034"
down_revision = "0033"
branch_labels = None
depends_on = None


def upgrade() -> None:
    moment = sa.DateTime(timezone=True)
    op.create_table(
        "orders",
        sa.Column("id", sa.Text, primary_key=True),
        sa.Column("number", sa.Integer, sa.Identity(), nullable=False, unique=True),
        sa.Column(
            "pool_id", sa.Text, sa.ForeignKey("pools.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("count", sa.Integer, nullable=False),
        sa.Column("arrived", sa.Integer, nullable=False, server_default="0"),
        sa.Column("needed_by", sa.Date),
        sa.Column("begins", sa.Date),
        sa.Column("ends", sa.Date),
        sa.Column("reason", sa.Text, nullable=False),
        sa.Column("state", sa.Text, nullable=False),
        sa.Column("author", sa.Text, nullable=False),
        sa.Column("made_at", moment, nullable=False),
        sa.Column("decided_by", sa.Text, nullable=False, server_default=""),
        sa.Column("decided_at", moment),
        sa.Column("answer", sa.Text, nullable=False, server_default=""),
        sa.Column("expected", sa.Date),
        sa.Column("reference", sa.Text, nullable=False, server_default=""),
        sa.Column("ended_at", moment),
        sa.CheckConstraint("count > 0 AND arrived BETWEEN 0 AND count", name="no_more_arrived"),
    )
    op.create_index("ix_orders_pool", "orders", ["pool_id"])


def downgrade() -> None:
    op.drop_table("orders")
