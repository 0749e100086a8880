"""Whether whoever is to take something over does; who has now what somebody had.

A question goes with the leaving that it is about.
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0039"
down_revision = "0038"
branch_labels = None
depends_on = None

FUNCTIONS = {
    "mark_takeovers": "INSERT INTO marks (subject_id) SELECT DISTINCT person_id FROM some_rows;",
    "end_takeovers": "DELETE FROM takeovers WHERE person_id = NEW.id;",
}
ROWS = {"INSERT": "NEW", "UPDATE": "NEW", "DELETE": "OLD"}


def upgrade() -> None:
    moment = sa.DateTime(timezone=True)
    cascade = {"ondelete": "CASCADE"}
    op.create_table(
        "takeovers",
        sa.Column("person_id", sa.Text, sa.ForeignKey("people.id", **cascade)),
        sa.Column("application_id", sa.Text, sa.ForeignKey("applications.id", **cascade)),
        sa.Column("thing", sa.Text),
        sa.Column("heir_id", sa.Text, sa.ForeignKey("people.id", **cascade)),
        sa.Column("id", sa.Text, nullable=False, unique=True),
        sa.Column("count", sa.Integer, nullable=False),
        sa.Column("made_at", moment, nullable=False),
        sa.Column("asked_at", moment),
        sa.Column("remind_at", moment),
        sa.Column("answer_by", moment),
        sa.Column("answer", sa.Text, nullable=False, server_default="open"),
        sa.Column("answered_at", moment),
        sa.Column("note", sa.Text, nullable=False, server_default=""),
        sa.PrimaryKeyConstraint("person_id", "application_id", "thing", "heir_id"),
    )
    op.create_index("ix_takeovers_heir_id", "takeovers", ["heir_id"])
    op.create_index("ix_takeovers_list", "takeovers", ["made_at", "id"])
    op.create_index(
        "ix_takeovers_open", "takeovers", ["answer_by"], postgresql_where=sa.text("answer = 'open'")
    )
    op.create_table(
        "takeover_links",
        sa.Column("hash", sa.Text, primary_key=True),
        sa.Column("heir_id", sa.Text, sa.ForeignKey("people.id", **cascade), nullable=False),
        sa.Column("expires", moment, nullable=False),
    )
    op.create_index("ix_takeover_links_heir_id", "takeover_links", ["heir_id"])
    op.create_index("ix_handovers_from_account", "handovers", ["from_account"])
    op.create_index("ix_assets_external_id", "assets", ["external_id"])
    for name, body in FUNCTIONS.items():
        op.execute(
            f"CREATE FUNCTION {name}() RETURNS trigger LANGUAGE plpgsql AS $$ "
            f"BEGIN {body} RETURN NULL; END $$"
        )
    op.execute(
        "CREATE TRIGGER end_takeovers AFTER UPDATE ON people FOR EACH ROW "
        "WHEN (OLD.access_ends IS NOT NULL AND NEW.access_ends IS NULL) "
        "EXECUTE FUNCTION end_takeovers()"
    )
    for event, rows in ROWS.items():
        for name, function in (("mark", "mark_takeovers()"), ("turn", "turn('turn_findings')")):
            op.execute(
                f"CREATE TRIGGER {name}_takeovers_{event.lower()} AFTER {event} ON takeovers "
                f"REFERENCING {rows} TABLE AS some_rows FOR EACH STATEMENT EXECUTE FUNCTION {function}"
            )


def downgrade() -> None:
    op.execute("DROP TRIGGER end_takeovers ON people")
    op.drop_index("ix_handovers_from_account", "handovers")
    op.drop_index("ix_assets_external_id", "assets")
    op.drop_table("takeover_links")
    op.drop_table("takeovers")
    for name in FUNCTIONS:
        op.execute(f"DROP FUNCTION {name}()")
