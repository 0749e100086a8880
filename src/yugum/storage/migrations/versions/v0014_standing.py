"""The standing difference, a row a line; what somebody accepted of it; since when a step waits."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None

Text, Moment = sa.Text(), sa.DateTime(timezone=True)
KEY = ("subject_id", "application_id", "account_id", "kind", "item", "side")


def upgrade() -> None:
    op.create_table(
        "standing",
        *(sa.Column(name, Text, nullable=False) for name in KEY),
        *(
            sa.Column(name, Text, nullable=False, server_default="")
            for name in ("want", "held", "reason", "code", "ref")
        ),
        sa.Column("status", Text, nullable=False),
        sa.Column("step_id", Text, nullable=True),
        sa.Column("since_at", Moment, nullable=False),
        sa.PrimaryKeyConstraint(*KEY, name="pk_standing"),
    )
    op.create_index("ix_standing_status", "standing", ["status", "since_at"])
    op.create_table(
        "accepted",
        sa.Column("id", Text, primary_key=True),
        sa.Column("subject_id", Text, nullable=False),
        sa.Column("application_id", Text, nullable=False),
        sa.Column("kind", Text, nullable=False),
        sa.Column("item", Text, nullable=False),
        sa.Column("side", Text, nullable=False),
        sa.Column("author", Text, nullable=False),
        sa.Column("reason", Text, nullable=False),
        sa.Column("made_at", Moment, nullable=False),
        sa.Column("ends_at", Moment, nullable=True),
    )
    op.create_index("ix_accepted_subject", "accepted", ["subject_id"])
    op.add_column("steps", sa.Column("held_at", Moment, nullable=True))
    op.execute(
        """CREATE FUNCTION mark_accepted() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO marks (subject_id) SELECT DISTINCT subject_id FROM new_rows;
  RETURN NULL;
END $$"""
    )
    for event, rows in (
        ("INSERT", "NEW TABLE AS new_rows"),
        ("UPDATE", "NEW TABLE AS new_rows"),
    ):
        op.execute(
            f"""CREATE TRIGGER mark_accepted_{event.lower()} AFTER {event} ON accepted
                REFERENCING {rows} FOR EACH STATEMENT EXECUTE FUNCTION mark_accepted()"""
        )
    op.execute("INSERT INTO sweeps (application_id) VALUES (NULL)")


def downgrade() -> None:
    op.drop_column("steps", "held_at")
    op.drop_table("accepted")
    op.execute("DROP FUNCTION mark_accepted()")
    op.drop_table("standing")
