"""The first schema, with the queue's."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql
from sqlalchemy.dialects.postgresql import JSONB

from yugum.storage.queue import schema

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("CREATE EXTENSION IF NOT EXISTS pg_trgm")
    op.create_table('applications',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('name', sa.Text(), nullable=False),
    sa.Column('kind', sa.Text(), nullable=False),
    sa.Column('profile', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('config', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('secret', sa.LargeBinary(), nullable=True),
    sa.Column('contact', sa.Text(), server_default='', nullable=False),
    sa.Column('capabilities', JSONB(), server_default=sa.text("'[]'::jsonb"), nullable=False),
    sa.Column('seen_at', sa.DateTime(timezone=True), nullable=True),
    sa.Column('reading_at', sa.DateTime(timezone=True), nullable=True),
    sa.Column('problem', sa.Text(), server_default='', nullable=False),
    sa.Column('accounts_seen', sa.Integer(), server_default='0', nullable=False),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_applications'))
    )
    op.create_table('audit_events',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('xid', sa.BigInteger(), server_default=sa.text('pg_current_xact_id()::text::bigint'), nullable=False),
    sa.Column('at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('machine_at', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
    sa.Column('actor', sa.Text(), nullable=False),
    sa.Column('action', sa.Text(), nullable=False),
    sa.Column('subject', sa.Text(), server_default='', nullable=False),
    sa.Column('docket_id', sa.Text(), nullable=True),
    sa.Column('payload', JSONB(), nullable=True),
    sa.Column('salt', sa.LargeBinary(), nullable=False),
    sa.Column('digest', sa.LargeBinary(), nullable=False),
    sa.Column('leaf_index', sa.BigInteger(), nullable=True),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_audit_events')),
    sa.UniqueConstraint('leaf_index', name=op.f('uq_audit_events_leaf_index'))
    )
    op.create_index(op.f('ix_audit_events_docket_id'), 'audit_events', ['docket_id'], unique=False)
    op.create_index('ix_audit_events_subject', 'audit_events', ['subject'], unique=False)
    op.create_index('ix_audit_events_unsealed', 'audit_events', ['xid', 'id'], unique=False, postgresql_where=sa.text('leaf_index IS NULL'))
    op.create_table('audit_heads',
    sa.Column('size', sa.BigInteger(), nullable=False),
    sa.Column('root', sa.LargeBinary(), nullable=False),
    sa.Column('frontier', JSONB(), server_default=sa.text("'[]'::jsonb"), nullable=False),
    sa.Column('signature', sa.LargeBinary(), nullable=False),
    sa.Column('machine_at', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
    sa.PrimaryKeyConstraint('size', name=op.f('pk_audit_heads'))
    )
    op.create_table('clock',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('simulated', sa.Boolean(), server_default='false', nullable=False),
    sa.Column('now_at', sa.DateTime(timezone=True), nullable=True),
    sa.CheckConstraint('simulated = (now_at IS NOT NULL)', name='simulated_has_a_moment'),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_clock'))
    )
    op.create_table('credentials',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('account_id', sa.Text(), nullable=False),
    sa.Column('docket_id', sa.Text(), nullable=True),
    sa.Column('cipher', sa.LargeBinary(), nullable=True),
    sa.Column('set_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('link_hash', sa.Text(), nullable=True),
    sa.Column('expires', sa.DateTime(timezone=True), nullable=True),
    sa.Column('opened_at', sa.DateTime(timezone=True), nullable=True),
    sa.Column('created', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_credentials')),
    sa.UniqueConstraint('link_hash', name=op.f('uq_credentials_link_hash'))
    )
    op.create_index('ix_credentials_account', 'credentials', ['account_id'], unique=False)
    op.create_table('decisions',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('subject_id', sa.Text(), nullable=False),
    sa.Column('kind', sa.Text(), nullable=False),
    sa.Column('payload', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('author', sa.Text(), nullable=False),
    sa.Column('reason', sa.Text(), server_default='', nullable=False),
    sa.Column('starts_at', sa.DateTime(timezone=True), nullable=True),
    sa.Column('ends_at', sa.DateTime(timezone=True), nullable=True),
    sa.Column('made_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('docket_id', sa.Text(), nullable=True),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_decisions'))
    )
    op.create_index('ix_decisions_subject', 'decisions', ['subject_id'], unique=False)
    op.create_table('dockets',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('number', sa.BigInteger(), sa.Identity(always=False, start=101), nullable=False),
    sa.Column('subject_id', sa.Text(), nullable=False),
    sa.Column('verb', sa.Text(), nullable=False),
    sa.Column('state', sa.Text(), nullable=False),
    sa.Column('cause', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('reference', sa.Text(), server_default='', nullable=False),
    sa.Column('reason', sa.Text(), server_default='', nullable=False),
    sa.Column('author', sa.Text(), nullable=False),
    sa.Column('batch_id', sa.Text(), nullable=True),
    sa.Column('digest', sa.Text(), server_default='', nullable=False),
    sa.Column('document', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('inputs', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('undoes', sa.Text(), nullable=True),
    sa.Column('due_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('made_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('started_at', sa.DateTime(timezone=True), nullable=True),
    sa.Column('ended_at', sa.DateTime(timezone=True), nullable=True),
    sa.Column('created', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
    sa.Column('machine_started', sa.DateTime(timezone=True), nullable=True),
    sa.Column('machine_ended', sa.DateTime(timezone=True), nullable=True),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_dockets')),
    sa.UniqueConstraint('number', name=op.f('uq_dockets_number'))
    )
    op.create_index('ix_dockets_batch', 'dockets', ['batch_id'], unique=False)
    op.create_index('ix_dockets_due', 'dockets', ['due_at'], unique=False, postgresql_where=sa.text("state = 'scheduled'"))
    op.create_index('ix_dockets_subject', 'dockets', ['subject_id', 'number'], unique=False)
    op.create_index('uq_dockets_running', 'dockets', ['subject_id'], unique=True, postgresql_where=sa.text("state = 'running'"))
    op.create_table('handovers',
    sa.Column('step_id', sa.Text(), nullable=False),
    sa.Column('asset_id', sa.Text(), nullable=False),
    sa.Column('docket_id', sa.Text(), nullable=False),
    sa.Column('application_id', sa.Text(), nullable=False),
    sa.Column('kind', sa.Text(), nullable=False),
    sa.Column('name', sa.Text(), nullable=False),
    sa.Column('from_account', sa.Text(), nullable=False),
    sa.Column('to_account', sa.Text(), nullable=False),
    sa.Column('at', sa.DateTime(timezone=True), nullable=False),
    sa.PrimaryKeyConstraint('step_id', 'asset_id', name=op.f('pk_handovers'))
    )
    op.create_table('idempotency',
    sa.Column('operator_id', sa.Text(), nullable=False),
    sa.Column('key', sa.Text(), nullable=False),
    sa.Column('fingerprint', sa.Text(), nullable=False),
    sa.Column('status', sa.Integer(), nullable=True),
    sa.Column('reply', JSONB(), nullable=True),
    sa.Column('created', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
    sa.PrimaryKeyConstraint('operator_id', 'key', name=op.f('pk_idempotency'))
    )
    op.create_table('installation',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('organisation', sa.Text(), nullable=False),
    sa.Column('prefix', sa.Text(), nullable=False),
    sa.Column('zone', sa.Text(), nullable=False),
    sa.Column('demo', sa.Boolean(), server_default='false', nullable=False),
    sa.Column('created', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_installation'))
    )
    op.create_table('obligations',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('subject_id', sa.Text(), nullable=False),
    sa.Column('account_id', sa.Text(), nullable=True),
    sa.Column('kind', sa.Text(), nullable=False),
    sa.Column('due_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('state', sa.Text(), server_default='open', nullable=False),
    sa.Column('basis', sa.Text(), server_default='', nullable=False),
    sa.Column('docket_id', sa.Text(), nullable=True),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_obligations'))
    )
    op.create_index('ix_obligations_due', 'obligations', ['due_at'], unique=False, postgresql_where=sa.text("state = 'open'"))
    op.create_index('ix_obligations_subject', 'obligations', ['subject_id'], unique=False)
    op.create_index('uq_obligations_open', 'obligations', ['account_id', 'kind'], unique=True, postgresql_where=sa.text("state = 'open'"))
    op.create_table('operators',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('login', sa.Text(), nullable=False),
    sa.Column('name', sa.Text(), nullable=False),
    sa.Column('role', sa.Text(), nullable=False),
    sa.Column('password_hash', sa.Text(), nullable=True),
    sa.Column('person_id', sa.Text(), nullable=True),
    sa.Column('active', sa.Boolean(), server_default='true', nullable=False),
    sa.Column('created', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_operators')),
    sa.UniqueConstraint('login', name=op.f('uq_operators_login'))
    )
    op.create_table('people',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('user_name', sa.Text(), nullable=False),
    sa.Column('given_name', sa.Text(), server_default='', nullable=False),
    sa.Column('family_name', sa.Text(), server_default='', nullable=False),
    sa.Column('display_name', sa.Text(), server_default='', nullable=False),
    sa.Column('employee_number', sa.Text(), server_default='', nullable=False),
    sa.Column('user_type', sa.Text(), server_default='', nullable=False),
    sa.Column('department', sa.Text(), server_default='', nullable=False),
    sa.Column('title', sa.Text(), server_default='', nullable=False),
    sa.Column('site', sa.Text(), server_default='', nullable=False),
    sa.Column('manager_id', sa.Text(), nullable=True),
    sa.Column('time_zone', sa.Text(), server_default='UTC', nullable=False),
    sa.Column('outside_mail', sa.Text(), server_default='', nullable=False),
    sa.Column('starts', sa.Date(), nullable=True),
    sa.Column('last_working_day', sa.Date(), nullable=True),
    sa.Column('access_ends', sa.DateTime(timezone=True), nullable=True),
    sa.Column('contract_ends', sa.Date(), nullable=True),
    sa.Column('absent_from', sa.DateTime(timezone=True), nullable=True),
    sa.Column('absent_until', sa.DateTime(timezone=True), nullable=True),
    sa.Column('rev', sa.Integer(), server_default='1', nullable=False),
    sa.Column('folded', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('search', sa.Text(), server_default='', nullable=False),
    sa.ForeignKeyConstraint(['manager_id'], ['people.id'], name=op.f('fk_people_manager_id'), ondelete='SET NULL', initially='DEFERRED', deferrable=True),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_people')),
    sa.UniqueConstraint('user_name', name=op.f('uq_people_user_name'))
    )
    op.create_index('ix_people_access_ends', 'people', ['access_ends'], unique=False)
    op.create_index('ix_people_family_name', 'people', ['family_name', 'given_name', 'id'], unique=False)
    op.create_index('ix_people_manager_id', 'people', ['manager_id'], unique=False)
    op.create_index('ix_people_search', 'people', ['search'], unique=False, postgresql_using='gin', postgresql_ops={'search': 'gin_trgm_ops'})
    op.create_table('rules',
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('document', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('adopted_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('adopted_by', sa.Text(), nullable=False),
    sa.Column('note', sa.Text(), server_default='', nullable=False),
    sa.PrimaryKeyConstraint('version', name=op.f('pk_rules'))
    )
    op.create_table('sign_in_failures',
    sa.Column('id', sa.BigInteger(), sa.Identity(always=False), nullable=False),
    sa.Column('key', sa.Text(), nullable=False),
    sa.Column('created', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_sign_in_failures'))
    )
    op.create_index('ix_sign_in_failures_key_created', 'sign_in_failures', ['key', 'created'], unique=False)
    op.create_table('subjects',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('wake_at', sa.DateTime(timezone=True), nullable=True),
    sa.Column('priority', sa.Integer(), server_default='5', nullable=False),
    sa.Column('lease_owner', sa.Text(), nullable=True),
    sa.Column('lease_until', sa.DateTime(timezone=True), nullable=True),
    sa.Column('epoch', sa.BigInteger(), server_default='0', nullable=False),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_subjects'))
    )
    op.create_index('ix_subjects_lease', 'subjects', ['lease_owner'], unique=False, postgresql_where=sa.text('lease_owner IS NOT NULL'))
    op.create_index('ix_subjects_wake', 'subjects', ['priority', 'wake_at'], unique=False, postgresql_where=sa.text('wake_at IS NOT NULL'))
    op.create_table('accounts',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('application_id', sa.Text(), nullable=False),
    sa.Column('person_id', sa.Text(), nullable=True),
    sa.Column('kind', sa.Text(), server_default='person', nullable=False),
    sa.Column('login', sa.Text(), nullable=False),
    sa.Column('display_name', sa.Text(), server_default='', nullable=False),
    sa.Column('external_id', sa.Text(), nullable=False),
    sa.Column('state', sa.Text(), nullable=False),
    sa.Column('entitlements', postgresql.ARRAY(sa.Text()), server_default='{}', nullable=False),
    sa.Column('seats', postgresql.ARRAY(sa.Text()), server_default='{}', nullable=False),
    sa.Column('sessions', sa.Integer(), server_default='0', nullable=False),
    sa.Column('keys', sa.Integer(), server_default='0', nullable=False),
    sa.Column('recoverable_until', sa.DateTime(timezone=True), nullable=True),
    sa.Column('seen_at', sa.DateTime(timezone=True), nullable=True),
    sa.Column('rev', sa.Integer(), server_default='1', nullable=False),
    sa.ForeignKeyConstraint(['application_id'], ['applications.id'], name=op.f('fk_accounts_application_id')),
    sa.ForeignKeyConstraint(['person_id'], ['people.id'], name=op.f('fk_accounts_person_id')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_accounts')),
    sa.UniqueConstraint('application_id', 'external_id', name=op.f('uq_accounts_application_id_external_id'))
    )
    op.create_index(op.f('ix_accounts_person_id'), 'accounts', ['person_id'], unique=False)
    op.create_index('ix_accounts_state', 'accounts', ['application_id', 'state'], unique=False)
    op.create_index('ix_accounts_window', 'accounts', ['recoverable_until'], unique=False, postgresql_where=sa.text("state = 'deleted'"))
    op.create_table('facts',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('person_id', sa.Text(), nullable=False),
    sa.Column('effective_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('known_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('before', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('after', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('author', sa.Text(), nullable=False),
    sa.Column('reason', sa.Text(), server_default='', nullable=False),
    sa.Column('docket_id', sa.Text(), nullable=True),
    sa.ForeignKeyConstraint(['person_id'], ['people.id'], name=op.f('fk_facts_person_id')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_facts'))
    )
    op.create_index(op.f('ix_facts_docket_id'), 'facts', ['docket_id'], unique=False)
    op.create_index(op.f('ix_facts_person_id'), 'facts', ['person_id'], unique=False)
    op.create_table('plans',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('batch_id', sa.Text(), nullable=False),
    sa.Column('subject_id', sa.Text(), nullable=False),
    sa.Column('verb', sa.Text(), nullable=False),
    sa.Column('cause', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('steps', JSONB(), server_default=sa.text("'[]'::jsonb"), nullable=False),
    sa.Column('document', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('inputs', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('digest', sa.Text(), nullable=False),
    sa.Column('due_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('made_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('author', sa.Text(), nullable=False),
    sa.Column('confirmed', sa.DateTime(timezone=True), nullable=True),
    sa.Column('created', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
    sa.ForeignKeyConstraint(['subject_id'], ['people.id'], name=op.f('fk_plans_subject_id')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_plans'))
    )
    op.create_index('ix_plans_batch', 'plans', ['batch_id'], unique=False)
    op.create_table('pools',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('application_id', sa.Text(), nullable=False),
    sa.Column('license', sa.Text(), nullable=False),
    sa.Column('bought', sa.Integer(), nullable=False),
    sa.Column('price_cents', sa.Integer(), server_default='0', nullable=False),
    sa.Column('currency', sa.Text(), server_default='EUR', nullable=False),
    sa.Column('term_ends', sa.Date(), nullable=True),
    sa.CheckConstraint('bought >= 0', name='bought_not_negative'),
    sa.ForeignKeyConstraint(['application_id'], ['applications.id'], name=op.f('fk_pools_application_id')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_pools')),
    sa.UniqueConstraint('application_id', 'license', name=op.f('uq_pools_application_id_license'))
    )
    op.create_table('sessions',
    sa.Column('hash', sa.Text(), nullable=False),
    sa.Column('operator_id', sa.Text(), nullable=True),
    sa.Column('csrf', sa.Text(), nullable=False),
    sa.Column('expires', sa.DateTime(timezone=True), nullable=False),
    sa.Column('created', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
    sa.ForeignKeyConstraint(['operator_id'], ['operators.id'], name=op.f('fk_sessions_operator_id'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('hash', name=op.f('pk_sessions'))
    )
    op.create_table('sign_in_links',
    sa.Column('hash', sa.Text(), nullable=False),
    sa.Column('operator_id', sa.Text(), nullable=True),
    sa.Column('expires', sa.DateTime(timezone=True), nullable=False),
    sa.Column('used', sa.DateTime(timezone=True), nullable=True),
    sa.ForeignKeyConstraint(['operator_id'], ['operators.id'], name=op.f('fk_sign_in_links_operator_id'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('hash', name=op.f('pk_sign_in_links'))
    )
    op.create_table('steps',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('docket_id', sa.Text(), nullable=False),
    sa.Column('subject_id', sa.Text(), nullable=False),
    sa.Column('position', sa.Integer(), nullable=False),
    sa.Column('application_id', sa.Text(), nullable=False),
    sa.Column('account_id', sa.Text(), nullable=False),
    sa.Column('phase', sa.Text(), nullable=False),
    sa.Column('action', sa.Text(), nullable=False),
    sa.Column('item', sa.Text(), server_default='', nullable=False),
    sa.Column('arguments', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('before', sa.Text(), server_default='', nullable=False),
    sa.Column('after', sa.Text(), server_default='', nullable=False),
    sa.Column('reason', sa.Text(), server_default='', nullable=False),
    sa.Column('origin', JSONB(), nullable=True),
    sa.Column('state', sa.Text(), nullable=False),
    sa.Column('attempts', sa.Integer(), server_default='0', nullable=False),
    sa.Column('retry_at', sa.DateTime(timezone=True), nullable=True),
    sa.Column('problem', JSONB(), nullable=True),
    sa.Column('found', JSONB(), nullable=True),
    sa.Column('intent_at', sa.DateTime(timezone=True), nullable=True),
    sa.Column('done_at', sa.DateTime(timezone=True), nullable=True),
    sa.Column('machine_at', sa.DateTime(timezone=True), nullable=True),
    sa.ForeignKeyConstraint(['docket_id'], ['dockets.id'], name=op.f('fk_steps_docket_id')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_steps'))
    )
    op.create_index('ix_steps_docket', 'steps', ['docket_id', 'position'], unique=False)
    op.create_index('ix_steps_open', 'steps', ['subject_id'], unique=False, postgresql_where=sa.text("state NOT IN ('done', 'left_out')"))
    op.create_index('ix_steps_state', 'steps', ['state'], unique=False, postgresql_where=sa.text("state NOT IN ('done', 'left_out')"))
    op.create_table('tokens',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('hash', sa.Text(), nullable=False),
    sa.Column('operator_id', sa.Text(), nullable=True),
    sa.Column('name', sa.Text(), nullable=False),
    sa.Column('scopes', postgresql.ARRAY(sa.Text()), nullable=False),
    sa.Column('expires', sa.DateTime(timezone=True), nullable=True),
    sa.Column('last_used', sa.DateTime(timezone=True), nullable=True),
    sa.Column('created', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
    sa.ForeignKeyConstraint(['operator_id'], ['operators.id'], name=op.f('fk_tokens_operator_id'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_tokens')),
    sa.UniqueConstraint('hash', name=op.f('uq_tokens_hash'))
    )
    op.create_table('assets',
    sa.Column('account_id', sa.Text(), nullable=False),
    sa.Column('external_id', sa.Text(), nullable=False),
    sa.Column('kind', sa.Text(), nullable=False),
    sa.Column('name', sa.Text(), nullable=False),
    sa.Column('container', sa.Text(), server_default='', nullable=False),
    sa.ForeignKeyConstraint(['account_id'], ['accounts.id'], name=op.f('fk_assets_account_id')),
    sa.PrimaryKeyConstraint('account_id', 'external_id', name=op.f('pk_assets'))
    )
    op.create_table('history',
    sa.Column('id', sa.BigInteger(), sa.Identity(always=False), nullable=False),
    sa.Column('account_id', sa.Text(), nullable=False),
    sa.Column('kind', sa.Text(), nullable=False),
    sa.Column('item', sa.Text(), nullable=False),
    sa.Column('from_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('until_at', sa.DateTime(timezone=True), nullable=True),
    sa.Column('docket_id', sa.Text(), nullable=True),
    sa.ForeignKeyConstraint(['account_id'], ['accounts.id'], name=op.f('fk_history_account_id')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_history'))
    )
    op.create_index('ix_history_account', 'history', ['account_id', 'kind', 'from_at'], unique=False)
    op.create_index('uq_history_open', 'history', ['account_id', 'kind', 'item'], unique=True, postgresql_where=sa.text('until_at IS NULL'))
    op.create_table('ledger',
    sa.Column('account_id', sa.Text(), nullable=False),
    sa.Column('kind', sa.Text(), nullable=False),
    sa.Column('item', sa.Text(), nullable=False),
    sa.Column('origin_kind', sa.Text(), nullable=False),
    sa.Column('origin_name', sa.Text(), server_default='', nullable=False),
    sa.Column('since_at', sa.DateTime(timezone=True), nullable=False),
    sa.ForeignKeyConstraint(['account_id'], ['accounts.id'], name=op.f('fk_ledger_account_id')),
    sa.PrimaryKeyConstraint('account_id', 'kind', 'item', name=op.f('pk_ledger'))
    )
    op.create_table('receipts',
    sa.Column('step_id', sa.Text(), nullable=False),
    sa.Column('docket_id', sa.Text(), nullable=False),
    sa.Column('outcome', sa.Text(), nullable=False),
    sa.Column('found', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('did', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('seen', JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False),
    sa.Column('at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('took_ms', sa.Float(), nullable=False),
    sa.Column('machine_at', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
    sa.ForeignKeyConstraint(['step_id'], ['steps.id'], name=op.f('fk_receipts_step_id')),
    sa.PrimaryKeyConstraint('step_id', name=op.f('pk_receipts'))
    )
    op.create_index(op.f('ix_receipts_docket_id'), 'receipts', ['docket_id'], unique=False)
    op.create_table('seat_claims',
    sa.Column('id', sa.Text(), nullable=False),
    sa.Column('pool_id', sa.Text(), nullable=False),
    sa.Column('account_id', sa.Text(), nullable=False),
    sa.Column('person_id', sa.Text(), nullable=True),
    sa.Column('state', sa.Text(), nullable=False),
    sa.Column('place', sa.Integer(), nullable=True),
    sa.Column('since_at', sa.DateTime(timezone=True), nullable=False),
    sa.Column('until_at', sa.DateTime(timezone=True), nullable=True),
    sa.ForeignKeyConstraint(['person_id'], ['people.id'], name=op.f('fk_seat_claims_person_id')),
    sa.ForeignKeyConstraint(['pool_id'], ['pools.id'], name=op.f('fk_seat_claims_pool_id')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_seat_claims'))
    )
    op.create_index('uq_seat_claims_live', 'seat_claims', ['pool_id', 'account_id'], unique=True, postgresql_where=sa.text('until_at IS NULL'))
    # The queue brings its schema as one script, which only the bare driver takes.
    op.get_bind().connection.driver_connection.execute(schema())


def downgrade() -> None:
    raise RuntimeError("There is no way back to before the first schema; restore a backup.")
