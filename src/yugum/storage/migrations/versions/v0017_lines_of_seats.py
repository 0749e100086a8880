"""Who waits for a seat is found without reading who holds one."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None

INDEX, TABLE = "ix_seat_claims_waiting", "seat_claims"


def upgrade() -> None:
    waiting = sa.text("state = 'waiting' AND until_at IS NULL")
    op.create_index(INDEX, TABLE, ["person_id"], postgresql_where=waiting)


def downgrade() -> None:
    op.drop_index(INDEX, TABLE)
