"""What can be said of an application's groups, as discovered; groups themselves are kept like accounts."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None

NOTHING = sa.text("'{}'::jsonb")


def upgrade() -> None:
    op.add_column("applications", sa.Column("groups", JSONB, nullable=False, server_default=NOTHING))
    op.create_index(
        "ix_accounts_groups",
        "accounts",
        ["application_id", "login"],
        postgresql_where=sa.text("kind = 'group'"),
    )


def downgrade() -> None:
    op.execute("DELETE FROM accounts WHERE kind = 'group'")
    op.drop_index("ix_accounts_groups", "accounts")
    op.drop_column("applications", "groups")
