"""Accounts are counted from their indexes alone; mails are found by kind and by whom they are about."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0027"
down_revision = "0026"
branch_labels = None
depends_on = None

USED = "coalesce(last_used, '0001-01-01 00:00:00+00'::timestamptz)"
PLACE = ("application_id", "login", "id")
INDEXES = {
    "ix_accounts_list": (PLACE, "kind"),
    "ix_accounts_state": (("state", *PLACE), "kind"),
    "ix_accounts_used": ((USED, "id"), "kind"),
    "ix_accounts_login": (("lower(login) text_pattern_ops",), "kind"),
    "ix_accounts_person_id": (("person_id",), "state"),
}
MAILS = {"kind": ["kind", "made_at", "id"], "subject": ["subject_id", "made_at", "id"]}


def upgrade() -> None:
    for name, columns in MAILS.items():
        op.create_index(f"ix_mails_{name}", "mails", columns)
    _make(beside=True)


def downgrade() -> None:
    for name in MAILS:
        op.drop_index(f"ix_mails_{name}", "mails")
    _make(beside=False)


def _make(*, beside: bool) -> None:
    """All new ones first: a table that loses an index is closed to readers until the migration is over."""
    for name, (columns, more) in INDEXES.items():
        op.execute(f"ALTER INDEX {name} RENAME TO {name}_before")
        texts = [sa.text(column) for column in columns]
        op.create_index(name, "accounts", texts, postgresql_include=[more] if beside else [])
    for name in INDEXES:
        op.drop_index(f"{name}_before", "accounts")
