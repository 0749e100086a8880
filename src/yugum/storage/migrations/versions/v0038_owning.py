"""Which accounts that nobody can use, or that are nobody's, owned things when they became so; what came to whom,
and how far a handover has come."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0038"
down_revision = "0037"
branch_labels = None
depends_on = None

OWNS = """
CREATE FUNCTION note_owning() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  NEW.owns := EXISTS (SELECT 1 FROM assets WHERE account_id = NEW.id);
  RETURN NEW;
END $$
"""
OWNED = """
CREATE FUNCTION note_owned() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE accounts SET owns = true WHERE id IN (SELECT account_id FROM some_rows)
    AND NOT owns AND (state <> 'active' OR person_id IS NULL);
  RETURN NULL;
END $$
"""
TURNS = {"INSERT": "NEW", "UPDATE": "NEW", "DELETE": "OLD"}


def upgrade() -> None:
    op.add_column(
        "accounts", sa.Column("owns", sa.Boolean, nullable=False, server_default=sa.false())
    )
    op.execute(OWNS)
    op.execute(OWNED)
    op.execute(
        "CREATE TRIGGER note_owning BEFORE UPDATE ON accounts FOR EACH ROW "
        "WHEN ((NEW.state <> 'active' OR NEW.person_id IS NULL) AND "
        "(NEW.state IS DISTINCT FROM OLD.state OR NEW.person_id IS DISTINCT FROM OLD.person_id)) "
        "EXECUTE FUNCTION note_owning()"
    )
    for event in ("INSERT", "UPDATE"):
        op.execute(
            f"CREATE TRIGGER note_owned_{event.lower()} AFTER {event} ON assets "
            "REFERENCING NEW TABLE AS some_rows FOR EACH STATEMENT EXECUTE FUNCTION note_owned()"
        )
    for event, rows in TURNS.items():
        op.execute(
            f"CREATE TRIGGER turn_assets_{event.lower()} AFTER {event} ON assets "
            f"REFERENCING {rows} TABLE AS some_rows FOR EACH STATEMENT "
            "EXECUTE FUNCTION turn('turn_findings')"
        )
    op.execute(
        "UPDATE accounts a SET owns = true WHERE (state <> 'active' OR person_id IS NULL) "
        "AND EXISTS (SELECT 1 FROM assets WHERE account_id = a.id)"
    )
    op.add_column("steps", sa.Column("moved", sa.Integer))
    op.create_index("ix_handovers_to_account", "handovers", ["to_account"])
    op.create_index("ix_handovers_docket_id", "handovers", ["docket_id"])
    # What came to somebody before is no news any more.
    op.add_column("handovers", sa.Column("told", sa.Boolean, nullable=False, server_default="true"))
    op.alter_column("handovers", "told", server_default="false")
    op.create_index(
        "ix_handovers_untold", "handovers", ["docket_id"], postgresql_where=sa.text("NOT told")
    )
    op.drop_column("rules", "renewed_upto")  # nothing has read it for two versions
    op.create_index(
        "ix_accounts_owns",
        "accounts",
        ["login", "id"],
        postgresql_where=sa.text("owns AND (state = 'suspended' OR person_id IS NULL)"),
    )


def downgrade() -> None:
    op.add_column("rules", sa.Column("renewed_upto", sa.Text))
    op.drop_index("ix_accounts_owns", "accounts")
    op.drop_index("ix_handovers_to_account", "handovers")
    op.drop_column("steps", "moved")
    op.drop_index("ix_handovers_untold", "handovers")
    op.drop_column("handovers", "told")
    op.drop_index("ix_handovers_docket_id", "handovers")
    for event in TURNS:
        op.execute(f"DROP TRIGGER turn_assets_{event.lower()} ON assets")
    for event in ("insert", "update"):
        op.execute(f"DROP TRIGGER note_owned_{event} ON assets")
    op.execute("DROP TRIGGER note_owning ON accounts")
    op.execute("DROP FUNCTION note_owned()")
    op.execute("DROP FUNCTION note_owning()")
    op.drop_column("accounts", "owns")
