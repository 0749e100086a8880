"""Accounts: settings as last seen."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    empty = sa.text("'{}'::jsonb")
    op.add_column("accounts", sa.Column("settings", JSONB(), server_default=empty, nullable=False))


def downgrade() -> None:
    op.drop_column("accounts", "settings")
