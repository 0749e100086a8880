"""Steps: no index on what changes while they run, and room in their pages to change in place."""

from __future__ import annotations

from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.drop_index("ix_steps_open", "steps")
    op.drop_index("ix_steps_state", "steps")
    op.execute("ALTER TABLE steps SET (fillfactor = 60)")


def downgrade() -> None:
    op.execute("ALTER TABLE steps RESET (fillfactor)")
    open_steps = "state NOT IN ('done', 'left_out')"
    op.create_index("ix_steps_open", "steps", ["subject_id"], postgresql_where=open_steps)
    op.create_index("ix_steps_state", "steps", ["state"], postgresql_where=open_steps)
