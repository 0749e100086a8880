"""Findings that somebody has accepted until a day."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0042"
down_revision = "0041"
branch_labels = None
depends_on = None

ROWS = {"INSERT": "NEW", "UPDATE": "NEW", "DELETE": "OLD"}


def upgrade() -> None:
    op.create_table(
        "accepted_findings",
        sa.Column("kind", sa.Text),
        sa.Column("key", sa.Text),
        sa.Column("until_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("author", sa.Text, nullable=False),
        sa.Column("reason", sa.Text, nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("kind", "key"),
    )
    for event, rows in ROWS.items():
        op.execute(
            f"CREATE TRIGGER turn_accepted_findings_{event.lower()} AFTER {event} ON accepted_findings "
            f"REFERENCING {rows} TABLE AS some_rows FOR EACH STATEMENT "
            "EXECUTE FUNCTION turn('turn_findings')"
        )


def downgrade() -> None:
    op.drop_table("accepted_findings")
