"""Who stands for an integration; how a session began; how long a request holds its key."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("operators", sa.Column("owner_id", sa.Text(), sa.ForeignKey("operators.id")))
    op.create_index("ix_operators_owner", "operators", ["owner_id"])
    false = sa.text("false")
    column = sa.Column("by_link", sa.Boolean(), nullable=False, server_default=false)
    op.add_column("sessions", column)
    op.add_column("idempotency", sa.Column("held_until", sa.DateTime(timezone=True)))
    op.create_index("ix_idempotency_created", "idempotency", ["created"])
    op.create_index("ix_sign_in_failures_created", "sign_in_failures", ["created"])


def downgrade() -> None:
    op.drop_index("ix_sign_in_failures_created", "sign_in_failures")
    op.drop_index("ix_idempotency_created", "idempotency")
    op.drop_column("idempotency", "held_until")
    op.drop_column("sessions", "by_link")
    op.drop_index("ix_operators_owner", "operators")
    op.drop_column("operators", "owner_id")
