"""Of what the thing that somebody has now is a copy; who answers for a place that names somebody."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0040"
down_revision = "0039"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("handovers", sa.Column("copy_of", sa.Text, nullable=False, server_default=""))
    op.add_column("mentions", sa.Column("contact", sa.Text, nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("mentions", "contact")
    op.drop_column("handovers", "copy_of")
