"""By which day of birth people are told apart, as a digest."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0031"
down_revision = "0030"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "birthdays",
        sa.Column(
            "person_id",
            sa.Text,
            sa.ForeignKey("people.id", ondelete="CASCADE"),
            primary_key=True,
        ),
        sa.Column("digest", sa.Text, nullable=False),
    )
    op.create_index("ix_birthdays_digest", "birthdays", ["digest"])


def downgrade() -> None:
    op.drop_table("birthdays")
