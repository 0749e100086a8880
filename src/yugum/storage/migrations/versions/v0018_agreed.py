"""What of a plan an approval is about; who was declined before they began; a notice once an event."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None

DELIVERED = """lower(login) IN ('admin', 'administrator', 'root', 'sysadmin', 'sysop', 'superuser',
  'supervisor', 'system')"""

FACES = """
CREATE OR REPLACE VIEW faces AS
SELECT id, rev, display_name, user_name, employee_number, title, department, site, time_zone
FROM people
UNION ALL
SELECT id, rev, coalesce(nullif(display_name, ''), login), login, '', '', '', '', 'UTC'
FROM accounts
"""

DECLINED = """
UNION ALL
SELECT id, 0, display_name, user_name, employee_number, '', '', '', 'UTC'
FROM declined
"""

COVERED_BEFORE = """
UPDATE approvals a SET covers = c.covers FROM (
  SELECT p.id, jsonb_agg(DISTINCT jsonb_build_array(
    s->>'application_id', s->>'action', s->>'item', '')) AS covers
  FROM plans p CROSS JOIN LATERAL jsonb_array_elements(p.steps) s
  WHERE s->>'action' IN ('create', 'grant', 'take_seat') GROUP BY 1
) c WHERE c.id = a.docket_id
"""
"""What was agreed to before was agreed to for all that its plan gave."""


def upgrade() -> None:
    op.add_column(
        "approvals",
        sa.Column("covers", JSONB, nullable=False, server_default=sa.text("'[]'::jsonb")),
    )
    op.execute(COVERED_BEFORE)
    op.create_table(
        "declined",
        sa.Column("id", sa.Text(), primary_key=True),
        *(
            sa.Column(name, sa.Text(), nullable=False, server_default="")
            for name in ("user_name", "display_name", "employee_number")
        ),
        sa.Column("record", JSONB, nullable=False, server_default=sa.text("'{}'::jsonb")),
        sa.Column("author", sa.Text(), nullable=False),
        sa.Column("reason", sa.Text(), nullable=False, server_default=""),
        sa.Column("docket_id", sa.Text(), nullable=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index("ix_declined_at", "declined", ["at", "id"])
    op.create_index("ix_declined_number", "declined", ["employee_number"])
    op.create_index("ix_declined_login", "declined", ["user_name"])
    op.execute(FACES + DECLINED)
    op.execute(f"CREATE INDEX ix_accounts_delivered ON accounts (id) WHERE {DELIVERED}")
    op.add_column("mails", sa.Column("event", sa.Text(), nullable=True))
    once = sa.text("event IS NOT NULL")
    op.create_index("uq_mails_event", "mails", ["event"], unique=True, postgresql_where=once)


def downgrade() -> None:
    op.drop_index("ix_accounts_delivered", "accounts")
    op.drop_index("uq_mails_event", "mails")
    op.drop_column("mails", "event")
    op.execute(FACES)
    op.drop_table("declined")
    op.drop_column("approvals", "covers")
