"""Trust, shares, ceilings, the stop, tasks, readings, proposals and deviations."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql
from sqlalchemy.dialects.postgresql import JSONB

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table('ceilings',
    sa.Column('application_id', sa.Text(), nullable=False),
    sa.Column('hour_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('taken', sa.Integer(), nullable=False),
    sa.PrimaryKeyConstraint('application_id', 'hour_at', name=op.f('pk_ceilings'))
    )
    op.create_table('controls',
    sa.Column('name', sa.Text(), nullable=False),
    sa.Column('author', sa.Text(), nullable=False),
    sa.Column('reason', sa.Text(), server_default='', nullable=False),
    sa.Column('since_at', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
    sa.PrimaryKeyConstraint('name', name=op.f('pk_controls'))
    )
    op.create_table('deviations',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('application_id', sa.Text(), nullable=False),
    sa.Column('account_id', sa.Text(), nullable=False),
    sa.Column('kind', sa.Text(), nullable=False),
    sa.Column('item', sa.Text(), server_default='', nullable=False),
    sa.Column('was', sa.Text(), server_default='', nullable=False),
    sa.Column('now_is', sa.Text(), server_default='', nullable=False),
    sa.Column('seen_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('state', sa.Text(), server_default='open', nullable=False),
    sa.Column('decided_by', sa.Text(), server_default='', nullable=False),
    sa.Column('docket_id', sa.Text(), nullable=True),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_deviations'))
    )
    op.create_index('ix_deviations_state', 'deviations', ['state', 'application_id', 'id'], unique=False)
    op.create_index('uq_deviations_open', 'deviations', ['account_id', 'kind', 'item'], unique=True, postgresql_where=sa.text("state = 'open'"))
    op.create_table('proposals',
    sa.Column('account_id', sa.Text(), nullable=False),
    sa.Column('person_id', sa.Text(), nullable=False),
    sa.Column('rule', sa.Text(), nullable=False),
    sa.Column('confidence', sa.Integer(), nullable=False),
    sa.Column('state', sa.Text(), server_default='open', nullable=False),
    sa.Column('made_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('decided_by', sa.Text(), server_default='', nullable=False),
    sa.PrimaryKeyConstraint('account_id', 'person_id', name=op.f('pk_proposals'))
    )
    op.create_index('ix_proposals_state', 'proposals', ['state', 'confidence'], unique=False)
    op.create_table('reading_problems',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('application_id', sa.Text(), nullable=False),
    sa.Column('external_id', sa.Text(), nullable=False),
    sa.Column('login', sa.Text(), server_default='', nullable=False),
    sa.Column('reason', sa.Text(), nullable=False),
    sa.Column('at', sa.DateTime(timezone=True), nullable=False),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_reading_problems')),
    sa.UniqueConstraint('application_id', 'external_id', name=op.f('uq_reading_problems_application_id_external_id'))
    )
    op.create_table('tasks',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('docket_id', sa.Text(), nullable=False),
    sa.Column('application_id', sa.Text(), nullable=False),
    sa.Column('subject_id', sa.Text(), nullable=False),
    sa.Column('account_id', sa.Text(), nullable=False),
    sa.Column('action', sa.Text(), nullable=False),
    sa.Column('item', sa.Text(), server_default='', nullable=False),
    sa.Column('instructions', sa.Text(), nullable=False),
    sa.Column('state', sa.Text(), server_default='open', nullable=False),
    sa.Column('made_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('due_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('reminded_at', sa.DateTime(timezone=True), nullable=True),
    sa.Column('escalated_at', sa.DateTime(timezone=True), nullable=True),
    sa.Column('ended_at', sa.DateTime(timezone=True), nullable=True),
    sa.Column('ended_by', sa.Text(), server_default='', nullable=False),
    sa.Column('evidence', sa.Text(), server_default='', nullable=False),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_tasks'))
    )
    op.create_index('ix_tasks_account', 'tasks', ['account_id'], unique=False)
    op.create_index('ix_tasks_state', 'tasks', ['state', 'due_at', 'id'], unique=False)
    op.create_table('worker_shares',
    sa.Column('worker', sa.Text(), nullable=False),
    sa.Column('application_id', sa.Text(), nullable=False),
    sa.Column('until_at', sa.DateTime(timezone=True), nullable=False),
    sa.PrimaryKeyConstraint('worker', 'application_id', name=op.f('pk_worker_shares'))
    )
    op.create_index('ix_worker_shares_application', 'worker_shares', ['application_id'], unique=False)
    op.create_table('readings',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('application_id', sa.Text(), nullable=False),
    sa.Column('mode', sa.Text(), nullable=False),
    sa.Column('state', sa.Text(), nullable=False),
    sa.Column('author', sa.Text(), nullable=False),
    sa.Column('began_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('ended_at', sa.DateTime(timezone=True), nullable=True),
    sa.Column('counts', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('problem', sa.Text(), server_default='', nullable=False),
    sa.ForeignKeyConstraint(['application_id'], ['applications.id'], name=op.f('fk_readings_application_id')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_readings'))
    )
    op.create_index('ix_readings_application', 'readings', ['application_id', 'began_at'], unique=False)
    op.add_column('accounts', sa.Column('last_used', sa.DateTime(timezone=True), nullable=True))
    op.add_column('accounts', sa.Column('employee_number', sa.Text(), server_default='', nullable=False))
    op.add_column('accounts', sa.Column('digest', sa.LargeBinary(), nullable=True))
    op.add_column('applications', sa.Column('trust', sa.Text(), server_default='full', nullable=False))
    op.add_column('applications', sa.Column('paused_until', sa.DateTime(timezone=True), nullable=True))
    op.add_column('applications', sa.Column('credential_ends', sa.DateTime(timezone=True), nullable=True))


def downgrade() -> None:
    op.drop_column('applications', 'credential_ends')
    op.drop_column('applications', 'paused_until')
    op.drop_column('applications', 'trust')
    op.drop_column('accounts', 'digest')
    op.drop_column('accounts', 'employee_number')
    op.drop_column('accounts', 'last_used')
    op.drop_index('ix_readings_application', table_name='readings')
    op.drop_table('readings')
    op.drop_index('ix_worker_shares_application', table_name='worker_shares')
    op.drop_table('worker_shares')
    op.drop_index('ix_tasks_state', table_name='tasks')
    op.drop_index('ix_tasks_account', table_name='tasks')
    op.drop_table('tasks')
    op.drop_table('reading_problems')
    op.drop_index('ix_proposals_state', table_name='proposals')
    op.drop_table('proposals')
    op.drop_index('uq_deviations_open', table_name='deviations', postgresql_where=sa.text("state = 'open'"))
    op.drop_index('ix_deviations_state', table_name='deviations')
    op.drop_table('deviations')
    op.drop_table('controls')
    op.drop_table('ceilings')
