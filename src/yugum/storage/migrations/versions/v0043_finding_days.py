"""How many findings there were on each day."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

revision = "0043"
down_revision = "0042"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "finding_days",
        sa.Column("day", sa.Date, primary_key=True),
        sa.Column("counts", JSONB, nullable=False),
        sa.Column("over", ARRAY(sa.Text), nullable=False),
    )
    for event in ("INSERT", "UPDATE"):
        op.execute(
            f"CREATE TRIGGER turn_finding_days_{event.lower()} AFTER {event} ON finding_days "
            "REFERENCING NEW TABLE AS some_rows FOR EACH STATEMENT "
            "EXECUTE FUNCTION turn('turn_findings')"
        )


def downgrade() -> None:
    op.drop_table("finding_days")
