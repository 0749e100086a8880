"""Whom decisions name to take over: their state is read for whoever leaves."""

from __future__ import annotations

from alembic import op

revision = "0036"
down_revision = "0035"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("SET LOCAL lock_timeout = '5s'")
    op.execute(
        "CREATE INDEX ix_decisions_heir ON decisions ((payload ->> 'person')) WHERE kind = 'successor'"
    )


def downgrade() -> None:
    op.execute("DROP INDEX ix_decisions_heir")
