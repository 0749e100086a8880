"""Applications that are not connected any more, and what is kept of them; readings that died."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None

FACES = """
CREATE OR REPLACE VIEW faces AS
SELECT id, rev, display_name, user_name, employee_number, title, department, site, time_zone
FROM people
UNION ALL
SELECT id, rev, coalesce(nullif(display_name, ''), login), login, '', '', '', '', 'UTC'
FROM accounts
UNION ALL
SELECT id, 0, display_name, user_name, employee_number, '', '', '', 'UTC'
FROM declined
"""
ARCHIVED = """
UNION ALL
SELECT id, 0, coalesce(nullif(display_name, ''), login), login, '', '', '', '', 'UTC'
FROM archived_accounts
"""


def upgrade() -> None:
    op.add_column("applications", sa.Column("disconnected_at", sa.DateTime(timezone=True)))
    op.create_table(
        "archived_accounts",
        sa.Column("id", sa.Text(), primary_key=True),
        sa.Column("application_id", sa.Text(), nullable=False),
        sa.Column("person_id", sa.Text(), nullable=True),
        sa.Column("login", sa.Text(), nullable=False),
        sa.Column("display_name", sa.Text(), nullable=False, server_default=""),
        sa.Column("document", JSONB, nullable=False, server_default=sa.text("'{}'::jsonb")),
        sa.Column("ledger", JSONB, nullable=False, server_default=sa.text("'[]'::jsonb")),
    )
    op.create_index(
        "ix_archived_accounts_application",
        "archived_accounts",
        ["application_id", "login", "id"],
    )
    op.execute(FACES + ARCHIVED)
    now = sa.text("clock_timestamp()")
    moment = sa.DateTime(timezone=True)
    op.add_column("readings", sa.Column("alive", moment, nullable=False, server_default=now))
    running = sa.text("state = 'running'")
    op.create_index("ix_readings_running", "readings", ["id"], postgresql_where=running)


def downgrade() -> None:
    op.drop_index("ix_readings_running", "readings")
    op.drop_column("readings", "alive")
    op.execute(FACES)
    op.drop_table("archived_accounts")
    op.drop_column("applications", "disconnected_at")
