"""When a person was made known, so that nothing of theirs counts from before."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("subjects", sa.Column("known_at", sa.DateTime(timezone=True)))


def downgrade() -> None:
    op.drop_column("subjects", "known_at")
