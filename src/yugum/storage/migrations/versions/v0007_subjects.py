"""Plans, dockets and obligations are about subjects, which accounts can be too."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql
from sqlalchemy.dialects.postgresql import JSONB

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.drop_constraint(op.f('fk_plans_subject_id'), 'plans', type_='foreignkey')
    op.create_foreign_key(op.f('fk_plans_subject_id'), 'plans', 'subjects', ['subject_id'], ['id'])


def downgrade() -> None:
    op.drop_constraint(op.f('fk_plans_subject_id'), 'plans', type_='foreignkey')
    op.create_foreign_key(op.f('fk_plans_subject_id'), 'plans', 'people', ['subject_id'], ['id'])
