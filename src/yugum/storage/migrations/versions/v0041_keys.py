"""Which places are keys that can be replaced; credentials of such places beside those of accounts."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0041"
down_revision = "0040"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column(
        "mentions", sa.Column("replaceable", sa.Boolean, nullable=False, server_default="false")
    )
    op.add_column("credentials", sa.Column("place", sa.Text, nullable=False, server_default=""))
    op.add_column("credentials", sa.Column("contact", sa.Text, nullable=False, server_default=""))


def downgrade() -> None:
    op.execute("DELETE FROM credentials WHERE place <> ''")
    op.drop_column("credentials", "contact")
    op.drop_column("credentials", "place")
    op.drop_column("mentions", "replaceable")
