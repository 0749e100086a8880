"""Equipment and keys that people have."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "equipment",
        sa.Column("id", sa.Text(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("holder_id", sa.Text(), nullable=True),
        sa.Column("since", sa.DateTime(timezone=True), nullable=True),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_equipment")),
    )
    op.create_index("ix_equipment_holder", "equipment", ["holder_id"])


def downgrade() -> None:
    op.drop_table("equipment")
