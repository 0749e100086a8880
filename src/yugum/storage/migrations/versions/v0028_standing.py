"""The lines of the standing difference are read in the order of their list, whatever their status."""

from __future__ import annotations

from alembic import op

revision = "0028"
down_revision = "0027"
branch_labels = None
depends_on = None

LIST = ["since_at", "subject_id", "application_id", "account_id", "kind", "item", "side"]


def upgrade() -> None:
    op.create_index("ix_standing_list", "standing", LIST)


def downgrade() -> None:
    op.drop_index("ix_standing_list", "standing")
