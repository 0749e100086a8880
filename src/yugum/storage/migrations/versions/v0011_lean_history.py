"""What workers write most is written with less; workers tell each other of cut-offs in hand.

History, steps and receipts are written in the same statement as, or after, what they belong to: they
need no check of that for each row, and history no index beside its key and what is open. People
are found by everything that accounts are matched by.
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None

NAMES = ("employee_number", "outside_mail", "display_name")


def upgrade() -> None:
    op.drop_constraint("fk_history_account_id", "history", type_="foreignkey")
    op.drop_constraint("fk_steps_docket_id", "steps", type_="foreignkey")
    op.drop_constraint("fk_receipts_step_id", "receipts", type_="foreignkey")
    op.drop_constraint("pk_history", "history", type_="primary")
    op.create_primary_key("pk_history", "history", ["account_id", "id"])
    op.drop_index("ix_history_account", "history")
    for name in NAMES:
        op.create_index(f"ix_people_{name}", "people", [name])
    op.create_table(
        "worker_cutting",
        sa.Column("worker", sa.Text(), nullable=False),
        sa.Column("until_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("worker", name="pk_worker_cutting"),
    )


def downgrade() -> None:
    op.drop_table("worker_cutting")
    for name in NAMES:
        op.drop_index(f"ix_people_{name}", "people")
    op.create_index("ix_history_account", "history", ["account_id", "kind", "from_at"])
    op.drop_constraint("pk_history", "history", type_="primary")
    op.create_primary_key("pk_history", "history", ["id"])
    op.create_foreign_key("fk_receipts_step_id", "receipts", "steps", ["step_id"], ["id"])
    op.create_foreign_key("fk_steps_docket_id", "steps", "dockets", ["docket_id"], ["id"])
    op.create_foreign_key("fk_history_account_id", "history", "accounts", ["account_id"], ["id"])
