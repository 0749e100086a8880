"""Numbers given to accounts, so that none is given twice."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "numbers",
        sa.Column("application_id", sa.Text(), nullable=False),
        sa.Column("number", sa.BigInteger(), nullable=False),
        sa.Column("account_id", sa.Text(), nullable=True),
        sa.PrimaryKeyConstraint("application_id", "number", name="pk_numbers"),
    )
    op.create_index("ix_numbers_account", "numbers", ["application_id", "account_id"], unique=True)


def downgrade() -> None:
    op.drop_table("numbers")
