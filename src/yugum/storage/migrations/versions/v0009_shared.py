"""Shared credentials and who knows them."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table('shared',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('name', sa.Text(), nullable=False),
    sa.Column('place', sa.Text(), server_default='', nullable=False),
    sa.Column('owner_id', sa.Text(), nullable=True),
    sa.Column('changed_at', sa.DateTime(timezone=True), nullable=False),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_shared'))
    )
    op.create_table('shared_known',
    sa.Column('shared_id', sa.Text(), nullable=False),
    sa.Column('person_id', sa.Text(), nullable=False),
    sa.Column('since', sa.DateTime(timezone=True), nullable=False),
    sa.ForeignKeyConstraint(['shared_id'], ['shared.id'], name=op.f('fk_shared_known_shared_id_shared'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('shared_id', 'person_id', name=op.f('pk_shared_known'))
    )
    op.create_index('ix_shared_known_person', 'shared_known', ['person_id'], unique=False)


def downgrade() -> None:
    op.drop_table('shared_known')
    op.drop_table('shared')
