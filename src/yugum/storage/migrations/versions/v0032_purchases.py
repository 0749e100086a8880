"""Seats are bought for terms, for a price in a currency, and are waited for by priority.

``pools.bought`` stays how many there are now: what was bought is put together into it whenever a term begins or
ends. ``price_cents`` is for services of the version before, which read and write it.
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0032"
down_revision = "0031"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column(
        "pools", sa.Column("unlimited", sa.Boolean, nullable=False, server_default=sa.false())
    )
    op.add_column("pools", sa.Column("price", sa.Numeric(14, 4)))
    op.add_column("pools", sa.Column("period", sa.Text, nullable=False, server_default="month"))
    op.add_column("pools", sa.Column("notice_days", sa.Integer))
    op.add_column("pools", sa.Column("reported", sa.Integer))
    op.execute("UPDATE pools SET price = price_cents / 100.0 WHERE price_cents > 0")
    op.create_table(
        "purchases",
        sa.Column("id", sa.Text, primary_key=True),
        sa.Column(
            "pool_id", sa.Text, sa.ForeignKey("pools.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("count", sa.Integer, nullable=False),
        sa.Column("begins", sa.Date),
        sa.Column("ends", sa.Date),
        sa.Column("reference", sa.Text, nullable=False, server_default=""),
        sa.CheckConstraint("count >= 0", name="count_not_negative"),
    )
    op.create_index("ix_purchases_pool", "purchases", ["pool_id"])
    op.execute(
        "INSERT INTO purchases (id, pool_id, count, ends)"
        " SELECT gen_random_uuid()::text, id, bought, term_ends FROM pools WHERE bought > 0"
    )
    op.drop_column("pools", "term_ends")
    op.add_column(
        "seat_claims", sa.Column("rank", sa.Integer, nullable=False, server_default="0")
    )
    op.add_column("seat_claims", sa.Column("begins", sa.Date))


def downgrade() -> None:
    for column in ("rank", "begins"):
        op.drop_column("seat_claims", column)
    op.add_column("pools", sa.Column("term_ends", sa.Date))
    op.drop_table("purchases")
    for column in ("unlimited", "price", "period", "notice_days", "reported"):
        op.drop_column("pools", column)
