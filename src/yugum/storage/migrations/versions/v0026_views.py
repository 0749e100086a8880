"""What changed is told to open pages, and lists as somebody wants them are kept.

A sequence for each noun goes on with every statement that changes something of it: nobody waits for
it, and it says nothing of what was changed.
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0026"
down_revision = "0025"
branch_labels = None
depends_on = None

Moment = sa.DateTime(timezone=True)
NOUNS = {
    "people": ("people", "declined", "facts"),
    "accounts": ("accounts", "proposals"),
    "dockets": ("dockets", "steps", "handovers"),
    "decisions": ("decisions", "accepted"),
    "waiting": ("tasks", "approvals", "plans"),
    "applications": ("applications", "readings", "controls"),
    "findings": ("deviations", "standing"),
    "seats": ("pools", "seat_claims"),
    "rules": ("rules",),
    "dates": ("obligations",),
    "mails": ("mails",),
    "shared": ("shared", "shared_known", "equipment"),
    "access": ("operators", "tokens"),
    "views": ("views",),
    "clock": ("clock",),
}
ROWS = {
    "INSERT": "NEW TABLE AS some_rows",
    "UPDATE": "NEW TABLE AS some_rows",
    "DELETE": "OLD TABLE AS some_rows",
}
FUNCTION = """
CREATE FUNCTION turn() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF EXISTS (SELECT 1 FROM some_rows) THEN PERFORM nextval(TG_ARGV[0]::regclass); END IF;
  RETURN NULL;
END $$"""


def _triggers() -> list[tuple[str, str, str]]:
    """Each trigger's name, its table and what makes it."""
    return [
        (
            f"turn_{table}_{event.lower()}",
            table,
            f"AFTER {event} ON {table} REFERENCING {rows} FOR EACH STATEMENT "
            f"EXECUTE FUNCTION turn('turn_{noun}')",
        )
        for noun, tables in NOUNS.items()
        for table in tables
        for event, rows in ROWS.items()
    ]


def upgrade() -> None:
    op.create_table(
        "views",
        sa.Column("id", sa.Text(), primary_key=True),
        sa.Column(
            "operator_id",
            sa.Text(),
            sa.ForeignKey("operators.id", ondelete="CASCADE"),
            nullable=False,
        ),
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("page", "name")),
        sa.Column("query", sa.dialects.postgresql.JSONB(), nullable=False),
        sa.Column("columns", sa.ARRAY(sa.Text()), nullable=False),
        sa.Column("shared", sa.Boolean(), nullable=False),
        sa.Column("changed_at", Moment, nullable=False),
        sa.UniqueConstraint("operator_id", "page", "name", name="uq_views_operator_id_page_name"),
    )
    op.create_index("ix_views_page", "views", ["page", "name", "id"])
    op.create_table(
        "starts",
        sa.Column(
            "operator_id",
            sa.Text(),
            sa.ForeignKey("operators.id", ondelete="CASCADE"),
            primary_key=True,
        ),
        sa.Column(
            "view_id", sa.Text(), sa.ForeignKey("views.id", ondelete="CASCADE"), nullable=False
        ),
    )
    op.create_index("ix_starts_view_id", "starts", ["view_id"])
    for noun in NOUNS:
        op.execute(f"CREATE SEQUENCE turn_{noun}")
    op.execute(FUNCTION)
    for name, _, what in _triggers():
        op.execute(f"CREATE TRIGGER {name} {what}")


def downgrade() -> None:
    for name, table, _ in _triggers():
        op.execute(f"DROP TRIGGER {name} ON {table}")
    op.execute("DROP FUNCTION turn()")
    for noun in NOUNS:
        op.execute(f"DROP SEQUENCE turn_{noun}")
    op.drop_table("starts")
    op.drop_table("views")
