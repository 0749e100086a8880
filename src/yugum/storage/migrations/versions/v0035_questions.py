"""Whether somebody still needs a seat they do not use, asked by mail; what was forecast; which pools may be overrun.

Open pages are told of all that is about seats.
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0035"
down_revision = "0034"
branch_labels = None
depends_on = None


TOLD = ("purchases", "reservations", "orders", "seat_questions")
ROWS = {"INSERT": "NEW", "UPDATE": "NEW", "DELETE": "OLD"}


def upgrade() -> None:
    moment = sa.DateTime(timezone=True)
    op.create_table(
        "seat_questions",
        sa.Column(
            "claim_id",
            sa.Text,
            sa.ForeignKey("seat_claims.id", ondelete="CASCADE"),
            primary_key=True,
        ),
        sa.Column("asked_at", moment, nullable=False),
        sa.Column("answer_by", moment, nullable=False),
        sa.Column("link_hash", sa.Text, nullable=False, unique=True),
        sa.Column("answer", sa.Text, nullable=False, server_default=""),
        sa.Column("answered_at", moment),
        sa.Column("kept_until", moment),
    )
    op.create_table(
        "forecasts",
        sa.Column(
            "pool_id", sa.Text, sa.ForeignKey("pools.id", ondelete="CASCADE"), primary_key=True
        ),
        sa.Column("made_on", sa.Date, primary_key=True),
        sa.Column("short_on", sa.Date),
        sa.Column("lacking", sa.Integer, nullable=False),
    )
    # Every pool may have more held than were bought, until somebody has counted.
    op.add_column(
        "pools", sa.Column("maybe_over", sa.Boolean, nullable=False, server_default=sa.true())
    )
    for table in TOLD:
        for event, rows in ROWS.items():
            op.execute(
                f"CREATE TRIGGER turn_{table}_{event.lower()} AFTER {event} ON {table} "
                f"REFERENCING {rows} TABLE AS some_rows FOR EACH STATEMENT "
                "EXECUTE FUNCTION turn('turn_seats')"
            )


def downgrade() -> None:
    for table in TOLD[:-1]:
        for event in ROWS:
            op.execute(f"DROP TRIGGER turn_{table}_{event.lower()} ON {table}")
    op.drop_column("pools", "maybe_over")
    op.drop_table("forecasts")
    op.drop_table("seat_questions")
