"""Where applications name people without being owned by them; what a handover that has begun moves."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0037"
down_revision = "0036"
branch_labels = None
depends_on = None

ROWS = {"INSERT": "NEW", "DELETE": "OLD"}


def upgrade() -> None:
    op.create_table(
        "mentions",
        sa.Column("person_id", sa.Text, sa.ForeignKey("people.id", ondelete="CASCADE")),
        sa.Column("application_id", sa.Text, sa.ForeignKey("applications.id", ondelete="CASCADE")),
        sa.Column("key", sa.Text),
        sa.Column("kind", sa.Text, nullable=False),
        sa.Column("place", sa.Text, nullable=False),
        sa.Column("text", sa.Text, nullable=False),
        sa.Column("effect", sa.Text, nullable=False),
        sa.Column("fixable", sa.Boolean, nullable=False),
        sa.Column("since_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("person_id", "application_id", "key"),
    )
    op.create_index("ix_mentions_application", "mentions", ["application_id", "key"])
    op.add_column("steps", sa.Column("moving", JSONB(none_as_null=True)))
    op.execute(
        "CREATE INDEX ix_accounts_forward ON accounts (lower(settings ->> 'forward')) "
        "WHERE settings ? 'forward'"
    )
    op.execute("CREATE INDEX ix_people_mail ON people (lower(mail))")
    for event, rows in ROWS.items():
        op.execute(
            f"CREATE TRIGGER turn_mentions_{event.lower()} AFTER {event} ON mentions "
            f"REFERENCING {rows} TABLE AS some_rows FOR EACH STATEMENT "
            "EXECUTE FUNCTION turn('turn_findings')"
        )


def downgrade() -> None:
    op.execute("DROP INDEX ix_accounts_forward")
    op.execute("DROP INDEX ix_people_mail")
    op.drop_column("steps", "moving")
    op.drop_table("mentions")
