"""Once a day everybody is looked at again: what that finds, a mark has missed. More is marked."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


OWNED = """
  INSERT INTO marks (subject_id) SELECT DISTINCT a.person_id FROM {rows} r
    JOIN accounts a ON a.id = r.account_id JOIN people p ON p.id = a.person_id
    WHERE p.access_ends IS NOT NULL;"""
"""What somebody owns counts once they leave."""

FUNCTIONS = {
    "mark_owned": OWNED.format(rows="new_rows"),
    "mark_given_away": OWNED.format(rows="old_rows"),
    "mark_pools": """
  INSERT INTO sweeps (application_id) SELECT DISTINCT application_id FROM new_rows;""",
}
TRIGGERS = (
    ("mark_owned", "INSERT", "assets", "NEW TABLE AS new_rows"),
    ("mark_given_away", "DELETE", "assets", "OLD TABLE AS old_rows"),
    ("mark_given_away", "UPDATE", "assets", "OLD TABLE AS old_rows"),
    ("mark_pools", "INSERT", "pools", "NEW TABLE AS new_rows"),
)


def upgrade() -> None:
    for name, body in FUNCTIONS.items():
        op.execute(
            f"""CREATE FUNCTION {name}() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN{body}
  RETURN NULL;
END $$"""
        )
    for name, event, table, rows in TRIGGERS:
        op.execute(
            f"""CREATE TRIGGER {name}_{event.lower()} AFTER {event} ON {table}
                REFERENCING {rows} FOR EACH STATEMENT EXECUTE FUNCTION {name}()"""
        )
    for table in ("marks", "sweeps"):
        op.add_column(
            table, sa.Column("patrol", sa.Boolean(), nullable=False, server_default="false")
        )
    op.create_table(
        "patrols",
        sa.Column("began_at", sa.DateTime(timezone=True), primary_key=True),
        sa.Column("faults", sa.Integer(), nullable=False, server_default="0"),
    )


def downgrade() -> None:
    for name, event, table, _ in TRIGGERS:
        op.execute(f"DROP TRIGGER {name}_{event.lower()} ON {table}")
    for name in FUNCTIONS:
        op.execute(f"DROP FUNCTION {name}()")
    op.drop_table("patrols")
    for table in ("marks", "sweeps"):
        op.drop_column(table, "patrol")
