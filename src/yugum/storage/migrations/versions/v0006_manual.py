"""Manual applications: their book, and more about tasks."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql
from sqlalchemy.dialects.postgresql import JSONB

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table('manual_accounts',
    sa.Column('application_id', sa.Text(), nullable=False),
    sa.Column('external_id', sa.Text(), nullable=False),
    sa.Column('document', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.PrimaryKeyConstraint('application_id', 'external_id', name=op.f('pk_manual_accounts'))
    )
    op.add_column('tasks', sa.Column('step_id', sa.Text(), server_default='', nullable=False))
    op.add_column('tasks', sa.Column('external_id', sa.Text(), server_default='', nullable=False))
    op.add_column('tasks', sa.Column('login', sa.Text(), server_default='', nullable=False))
    op.add_column('tasks', sa.Column('arguments', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False))


def downgrade() -> None:
    op.drop_column('tasks', 'arguments')
    op.drop_column('tasks', 'login')
    op.drop_column('tasks', 'external_id')
    op.drop_column('tasks', 'step_id')
    op.drop_table('manual_accounts')
