"""Seats set aside for people and passed on, and orders of more.

``pools.price_cents`` goes: services of the version before neither read nor write it. A claim of theirs knows no
reservation; the one after puts it right.
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0033"
down_revision = "0032"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "reservations",
        sa.Column("id", sa.Text, primary_key=True),
        sa.Column(
            "pool_id", sa.Text, sa.ForeignKey("pools.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("person_id", sa.Text, sa.ForeignKey("people.id")),
        sa.Column("who", sa.Text, nullable=False, server_default=""),
        sa.Column("from_account_id", sa.Text),
        sa.Column("count", sa.Integer, nullable=False),
        sa.Column("taken", sa.Integer, nullable=False, server_default="0"),
        sa.Column("begins", sa.Date),
        sa.Column("ends", sa.Date, nullable=False),
        sa.Column("reason", sa.Text, nullable=False),
        sa.Column("author", sa.Text, nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("open", sa.Boolean, nullable=False, server_default=sa.false()),
        sa.CheckConstraint("taken >= 0 AND taken <= count", name="no_more_taken_than_set_aside"),
    )
    op.create_index("ix_reservations_pool", "reservations", ["pool_id"])
    op.add_column("seat_claims", sa.Column("reservation_id", sa.Text))
    op.drop_column("pools", "price_cents")


def downgrade() -> None:
    op.add_column(
        "pools", sa.Column("price_cents", sa.Integer, nullable=False, server_default="0")
    )
    op.drop_column("seat_claims", "reservation_id")
    op.drop_table("reservations")
