"""Files of people, and what came of each of their rows."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0029"
down_revision = "0028"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "people_files",
        sa.Column("id", sa.Text, primary_key=True),
        *(sa.Column(n, sa.Text, nullable=False) for n in ("kind", "name", "author")),
        sa.Column("made_at", MOMENT, nullable=False),
        *(sa.Column(n, sa.Text, nullable=False) for n in ("encoding", "parting", "empties")),
        *(sa.Column(n, JSONB, nullable=False) for n in ("columns", "fresh", "accepted")),
        sa.Column("content", sa.LargeBinary, nullable=False),
    )
    op.create_index("ix_people_files_list", "people_files", ["made_at", "id"])
    op.create_table(
        "people_file_rows",
        sa.Column(
            "file_id",
            sa.Text,
            sa.ForeignKey("people_files.id", ondelete="CASCADE"),
            primary_key=True,
        ),
        sa.Column("line", sa.Integer, primary_key=True),
        *(sa.Column(n, sa.Text, nullable=False) for n in ("state", "login", "name")),
        *(sa.Column(n, sa.Text) for n in ("person_id", "manager_id")),
        *(sa.Column(n, sa.Integer, nullable=False) for n in ("rev", "rank")),
        *(sa.Column(n, JSONB, nullable=False) for n in ("document", "faults", "cells")),
    )
    op.create_index("ix_people_file_rows_state", "people_file_rows", ["file_id", "state", "line"])
    for column in ("person_id", "manager_id"):
        op.create_index(f"ix_people_file_rows_{column}", "people_file_rows", [column])


def downgrade() -> None:
    op.drop_table("people_file_rows")
    op.drop_table("people_files")
