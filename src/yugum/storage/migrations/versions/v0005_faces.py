"""What a docket can be about: people, and accounts with nobody behind."""

from __future__ import annotations

from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("""
      CREATE VIEW faces AS
      SELECT id, rev, display_name, user_name, employee_number, title, department, site, time_zone
      FROM people
      UNION ALL
      SELECT id, rev, coalesce(nullif(display_name, ''), login), login, '', '', '', '', 'UTC'
      FROM accounts
    """)


def downgrade() -> None:
    op.execute("DROP VIEW faces")
