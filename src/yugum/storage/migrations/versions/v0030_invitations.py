"""Accounts whose owner has yet to accept an invitation, or has duties, are found by an index of those few."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0030"
down_revision = "0029"
branch_labels = None
depends_on = None

INVITED = "jsonb_exists(settings, 'invitation.sent')"
DUTIES = "jsonb_exists(settings, 'first_sign_in.duties')"
TO_DO = {"invited": INVITED, "duties": DUTIES}


def upgrade() -> None:
    for name, condition in TO_DO.items():
        op.create_index(
            f"ix_accounts_{name}",
            "accounts",
            ["application_id", "login", "id"],
            postgresql_where=sa.text(condition),
        )


def downgrade() -> None:
    for name in TO_DO:
        op.drop_index(f"ix_accounts_{name}", "accounts")
