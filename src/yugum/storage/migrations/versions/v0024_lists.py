"""Every filter and order of the lists of people, accounts and dockets is answered from an index."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0024"
down_revision = "0023"
branch_labels = None
depends_on = None

NAMES = ("family_name", "given_name", "id")
BEGINS = "coalesce(starts, '9999-12-31'::date)"
LEAVES = "coalesce(access_ends, '9999-12-31 00:00:00+00'::timestamptz)"
USED = "coalesce(last_used, '0001-01-01 00:00:00+00'::timestamptz)"
PLACE = ("application_id", "login", "id")


def upgrade() -> None:
    for name in ("department", "site", "user_type"):
        op.create_index(f"ix_people_{name}", "people", [sa.text(f"lower({name})"), *NAMES])
    op.create_index("ix_people_starts", "people", ["starts"])
    some = sa.text("absent_from IS NOT NULL")
    op.create_index("ix_people_absent", "people", ["absent_from"], postgresql_where=some)
    op.create_index("ix_people_begins", "people", [sa.text(BEGINS), "id"])
    op.create_index("ix_people_leaves", "people", [sa.text(LEAVES), "id"])
    op.drop_index("ix_people_employee_number", "people")
    op.create_index("ix_people_employee_number", "people", ["employee_number", "id"])
    op.create_index("ix_accounts_list", "accounts", list(PLACE))
    op.drop_index("ix_accounts_state", "accounts")
    op.create_index("ix_accounts_state", "accounts", ["state", *PLACE])
    op.create_index("ix_accounts_used", "accounts", [sa.text(USED), "id"])
    op.create_index("ix_accounts_login", "accounts", [sa.text("lower(login) text_pattern_ops")])
    other = sa.text("kind <> 'person'")
    op.create_index("ix_accounts_other", "accounts", ["kind", *PLACE], postgresql_where=other)
    for name in ("state", "verb", "author"):
        op.create_index(f"ix_dockets_{name}", "dockets", [name, "number"])
    said = sa.text("reference <> ''")
    columns = [sa.text("lower(reference)"), "number"]
    op.create_index("ix_dockets_reference", "dockets", columns, postgresql_where=said)
    op.create_index("ix_dockets_list", "dockets", ["due_at", "number"])


def downgrade() -> None:
    for name in ("list", "reference", "author", "verb", "state"):
        op.drop_index(f"ix_dockets_{name}", "dockets")
    for name in ("other", "login", "used", "state", "list"):
        op.drop_index(f"ix_accounts_{name}", "accounts")
    op.create_index("ix_accounts_state", "accounts", ["application_id", "state"])
    op.drop_index("ix_people_employee_number", "people")
    op.create_index("ix_people_employee_number", "people", ["employee_number"])
    for name in ("leaves", "begins", "absent", "starts", "user_type", "site", "department"):
        op.drop_index(f"ix_people_{name}", "people")
