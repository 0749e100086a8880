"""More of who somebody is, attributes of an organisation's own, and which ones accounts have."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None

TEXTS = (
    "middle_name",
    "honorific_prefix",
    "honorific_suffix",
    "nick_name",
    "division",
    "organization",
    "cost_center",
    "preferred_language",
    "locale",
    "phone",
    "mobile",
    "groups",
)
NOTHING = sa.text("'{}'::jsonb")

PERSON = (
    "id, user_name, given_name, family_name, display_name, employee_number, user_type, "
    "department, title, site, manager_id, time_zone, mail, outside_mail, starts, last_working_day, "
    "access_ends, contract_ends, absent_from, absent_until"
)
MORE = f"{PERSON}, {', '.join(TEXTS)}, own"
NAMED = "user_name, given_name, family_name, display_name, mail"
"""What others say of their manager."""
ACCOUNT = (
    "application_id, person_id, kind, login, external_id, state, entitlements, seats, "
    "sessions, keys, settings, recoverable_until"
)
SUBJECTS = "person_id IS NOT NULL OR EXISTS (SELECT 1 FROM subjects s WHERE s.id = {row}.id)"


def _changed(names: str) -> str:
    new, old = (
        ", ".join(f"{row}.{name.strip()}" for name in names.split(",")) for row in ("n", "o")
    )
    return f"({new}) IS DISTINCT FROM ({old})"


def _people(names: str, reports: str) -> str:
    return f"""
  IF TG_OP = 'INSERT' THEN
    INSERT INTO marks (subject_id) SELECT id FROM new_rows;
  ELSE
    INSERT INTO marks (subject_id) SELECT n.id FROM new_rows n JOIN old_rows o USING (id)
      WHERE {_changed(names)};{reports}
  END IF;"""


REPORTS = f"""
    INSERT INTO marks (subject_id) SELECT r.id FROM new_rows n JOIN old_rows o USING (id)
      JOIN people r ON r.manager_id = n.id WHERE {_changed(NAMED)};"""


def _accounts(inserted: str, updated: str) -> str:
    return f"""
  IF TG_OP = 'UPDATE' THEN
    INSERT INTO marks (subject_id)
      SELECT coalesce(n.person_id, n.id) FROM new_rows n JOIN old_rows o USING (id)
      WHERE {_changed(ACCOUNT)} AND (n.{SUBJECTS.format(row="n")})
      UNION SELECT o.person_id FROM old_rows o JOIN new_rows n USING (id)
      WHERE o.person_id IS NOT NULL AND o.person_id IS DISTINCT FROM n.person_id;{updated}
  ELSE
    INSERT INTO marks (subject_id) SELECT DISTINCT person_id FROM new_rows
      WHERE person_id IS NOT NULL;{inserted}
  END IF;"""


OF_NEW = """
    INSERT INTO marks (subject_id) SELECT DISTINCT r.id FROM new_rows n
      JOIN people r ON r.manager_id = n.person_id;"""
OF_CHANGED = f"""
    INSERT INTO marks (subject_id) SELECT DISTINCT r.id FROM new_rows n JOIN old_rows o USING (id)
      JOIN people r ON r.manager_id IN (n.person_id, o.person_id)
      WHERE {_changed("person_id, login, external_id, state")};"""


def _applications(names: str) -> str:
    return f"""
  INSERT INTO sweeps (application_id) SELECT n.id FROM new_rows n JOIN old_rows o USING (id)
    WHERE {_changed(names)};"""


SAID = "profile, trust, capabilities"
DEVIATIONS = """
  INSERT INTO marks (subject_id) SELECT DISTINCT a.person_id FROM new_rows n
    JOIN accounts a ON a.id = n.account_id
    WHERE n.kind = 'attribute' AND a.person_id IS NOT NULL;"""
ROWS = {
    "INSERT": "NEW TABLE AS new_rows",
    "UPDATE": "OLD TABLE AS old_rows NEW TABLE AS new_rows",
}


def _write(table: str, body: str) -> None:
    op.execute(
        f"""CREATE OR REPLACE FUNCTION mark_{table}() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN{body}
  RETURN NULL;
END $$"""
    )


def upgrade() -> None:
    for name in TEXTS:
        op.add_column("people", sa.Column(name, sa.Text(), nullable=False, server_default=""))
    op.add_column("people", sa.Column("own", JSONB, nullable=False, server_default=NOTHING))
    op.add_column(
        "applications", sa.Column("attributes", JSONB, nullable=False, server_default=NOTHING)
    )
    op.create_index("ix_deviations_account", "deviations", ["account_id", "seen_at"])
    _write("people", _people(MORE, REPORTS))
    _write("accounts", _accounts(OF_NEW, OF_CHANGED))
    _write("applications", _applications(f"{SAID}, attributes"))
    _write("deviations", DEVIATIONS)
    for event, rows in ROWS.items():
        op.execute(
            f"""CREATE TRIGGER mark_deviations_{event.lower()} AFTER {event} ON deviations
                REFERENCING {rows} FOR EACH STATEMENT EXECUTE FUNCTION mark_deviations()"""
        )


def downgrade() -> None:
    for event in ROWS:
        op.execute(f"DROP TRIGGER mark_deviations_{event.lower()} ON deviations")
    op.execute("DROP FUNCTION mark_deviations()")
    op.drop_index("ix_deviations_account", "deviations")
    _write("applications", _applications(SAID))
    _write("accounts", _accounts("", ""))
    _write("people", _people(PERSON, ""))
    op.execute("DELETE FROM deviations WHERE kind = 'attribute'")
    op.drop_column("applications", "attributes")
    for name in (*TEXTS, "own"):
        op.drop_column("people", name)
