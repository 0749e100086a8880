"""More of who somebody is, attributes of an organisation's own, and which ones accounts have."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None

TEXTS = (
    "middle_name",
    "honorific_prefix",
    "honorific_suffix",
    "nick_name",
    "division",
    "organization",
    "cost_center",
    "preferred_language",
    "locale",
    "phone",
    "mobile",
    "groups",
)
NOTHING = sa.text("'{}'::jsonb")


def upgrade() -> None:
    for name in TEXTS:
        op.add_column("people", sa.Column(name, sa.Text(), nullable=False, server_default=""))
    op.add_column("people", sa.Column("own", JSONB, nullable=False, server_default=NOTHING))
    op.add_column(
        "applications", sa.Column("attributes", JSONB, nullable=False, server_default=NOTHING)
    )


def downgrade() -> None:
    op.drop_column("applications", "attributes")
    for name in (*TEXTS, "own"):
        op.drop_column("people", name)
