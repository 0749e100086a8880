"""What is owed follows from the state: marks say whose changed, rights since when an account is given.

Triggers write the marks with the change itself, whichever process or hand makes it. A docket that was
let go with open steps waits; a later one begins beside it.
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None

Moment = sa.DateTime(timezone=True)
LIVE = "state = ANY (ARRAY['open', 'due', 'taken'])"

PERSON = "id, user_name, given_name, family_name, display_name, employee_number, user_type, " \
    "department, title, site, manager_id, time_zone, mail, outside_mail, starts, last_working_day, " \
    "access_ends, contract_ends, absent_from, absent_until"
ACCOUNT = "application_id, person_id, kind, login, external_id, state, entitlements, seats, " \
    "sessions, keys, settings, recoverable_until"


def _columns(names: str, row: str) -> str:
    return ", ".join(f"{row}.{name.strip()}" for name in names.split(","))


def _changed(names: str) -> str:
    return f"({_columns(names, 'n')}) IS DISTINCT FROM ({_columns(names, 'o')})"


SUBJECTS = "person_id IS NOT NULL OR EXISTS (SELECT 1 FROM subjects s WHERE s.id = {row}.id)"
FUNCTIONS = {
    "people": f"""
  IF TG_OP = 'INSERT' THEN
    INSERT INTO marks (subject_id) SELECT id FROM new_rows;
  ELSE
    INSERT INTO marks (subject_id) SELECT n.id FROM new_rows n JOIN old_rows o USING (id)
      WHERE {_changed(PERSON)};
  END IF;""",
    "accounts": f"""
  IF TG_OP = 'UPDATE' THEN
    INSERT INTO marks (subject_id)
      SELECT coalesce(n.person_id, n.id) FROM new_rows n JOIN old_rows o USING (id)
      WHERE {_changed(ACCOUNT)} AND (n.{SUBJECTS.format(row="n")})
      UNION SELECT o.person_id FROM old_rows o JOIN new_rows n USING (id)
      WHERE o.person_id IS NOT NULL AND o.person_id IS DISTINCT FROM n.person_id;
  ELSE
    INSERT INTO marks (subject_id) SELECT DISTINCT person_id FROM new_rows
      WHERE person_id IS NOT NULL;
  END IF;""",
    "ledger": """
  IF TG_OP = 'DELETE' THEN
    INSERT INTO marks (subject_id) SELECT DISTINCT a.person_id FROM old_rows o
      JOIN accounts a ON a.id = o.account_id WHERE a.person_id IS NOT NULL;
  ELSIF TG_OP = 'INSERT' THEN
    INSERT INTO marks (subject_id) SELECT DISTINCT a.person_id FROM new_rows n
      JOIN accounts a ON a.id = n.account_id WHERE a.person_id IS NOT NULL;
  ELSE
    INSERT INTO marks (subject_id) SELECT DISTINCT a.person_id FROM new_rows n
      JOIN old_rows o USING (account_id, kind, item)
      JOIN accounts a ON a.id = n.account_id WHERE a.person_id IS NOT NULL
      AND (n.origin_kind, n.origin_name) IS DISTINCT FROM (o.origin_kind, o.origin_name);
  END IF;""",
    "decisions": """
  INSERT INTO sweeps (application_id) SELECT n.subject_id FROM new_rows n
    JOIN applications a ON a.id = n.subject_id WHERE n.kind = 'hold';
  INSERT INTO marks (subject_id) SELECT DISTINCT n.subject_id FROM new_rows n
    WHERE NOT EXISTS (SELECT 1 FROM applications a WHERE a.id = n.subject_id);""",
    "facts": """
  INSERT INTO marks (subject_id) SELECT DISTINCT person_id FROM new_rows;""",
    "dockets": """
  IF TG_OP = 'INSERT' THEN
    INSERT INTO marks (subject_id) SELECT DISTINCT subject_id FROM new_rows;
  ELSE
    INSERT INTO marks (subject_id) SELECT DISTINCT n.subject_id FROM new_rows n
      JOIN old_rows o USING (id)
      WHERE (n.state, n.subject_id, n.due_at) IS DISTINCT FROM (o.state, o.subject_id, o.due_at);
  END IF;""",
    "rules": """
  IF TG_OP = 'INSERT' THEN
    INSERT INTO sweeps (application_id) VALUES (NULL);
  END IF;""",
    "applications": """
  INSERT INTO sweeps (application_id) SELECT n.id FROM new_rows n JOIN old_rows o USING (id)
    WHERE (n.profile, n.trust, n.capabilities) IS DISTINCT FROM (o.profile, o.trust, o.capabilities);""",
}
EVENTS = {
    "people": ("INSERT", "UPDATE"),
    "accounts": ("INSERT", "UPDATE"),
    "ledger": ("INSERT", "UPDATE", "DELETE"),
    "decisions": ("INSERT", "UPDATE"),
    "facts": ("INSERT",),
    "dockets": ("INSERT", "UPDATE"),
    "rules": ("INSERT",),
    "applications": ("UPDATE",),
}
ROWS = {
    "INSERT": "NEW TABLE AS new_rows",
    "UPDATE": "OLD TABLE AS old_rows NEW TABLE AS new_rows",
    "DELETE": "OLD TABLE AS old_rows",
}

RESTORED = """
CREATE FUNCTION note_restored() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  NEW.restored_at := coalesce(NEW.seen_at, OLD.seen_at);
  RETURN NEW;
END $$
"""

RESTORED_BEFORE = """
UPDATE accounts a SET restored_at = h.at
FROM (SELECT account_id, max(until_at) AS at FROM history
      WHERE kind = 'state' AND item = 'deleted' GROUP BY 1) h
WHERE h.account_id = a.id AND h.at IS NOT NULL AND a.state NOT IN ('deleted', 'purged')
"""

NOW = """coalesce((SELECT now_at FROM clock WHERE simulated), clock_timestamp())"""

RIGHTS_BEFORE = f"""
INSERT INTO rights (account_id, since_at, until_at, not_before)
SELECT a.id, coalesce(l.since_at, {NOW}), e.until_at,
  CASE WHEN e.until_at IS NOT NULL
    THEN greatest(coalesce(o.due_at, {NOW}), {NOW} + interval '1 day') END
FROM accounts a
LEFT JOIN people p ON p.id = a.person_id
LEFT JOIN ledger l ON l.account_id = a.id AND l.kind = 'account' AND l.item = ''
LEFT JOIN obligations o ON o.account_id = a.id AND o.kind = 'close' AND o.state = 'open'
CROSS JOIN LATERAL (SELECT CASE
    WHEN p.access_ends <= {NOW} THEN p.access_ends
    WHEN o.id IS NOT NULL THEN least(o.due_at, {NOW}) END AS until_at) e
WHERE a.kind = 'person' AND a.person_id IS NOT NULL AND a.state <> 'purged'
  AND (e.until_at IS NOT NULL OR l.origin_kind IN ('role', 'decision'))
"""
"""Nothing falls due sooner than it was shown before, nor within a day."""


def upgrade() -> None:
    op.create_table(
        "marks",
        sa.Column("id", sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column("subject_id", sa.Text(), nullable=False),
    )
    op.execute(
        "ALTER TABLE marks SET (autovacuum_vacuum_threshold = 5000, autovacuum_vacuum_scale_factor = 0)"
    )
    op.create_table(
        "sweeps",
        sa.Column("id", sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column("application_id", sa.Text(), nullable=True),
        sa.Column("upto", sa.Text(), nullable=False, server_default=""),
    )
    op.create_table(
        "heads",
        sa.Column("subject_id", sa.Text(), primary_key=True),
        sa.Column("upto_at", Moment, nullable=True),
        sa.Column("shape", sa.Text(), nullable=False, server_default=""),
        sa.Column("leans_on", sa.Text(), nullable=True),
    )
    op.create_index(
        "ix_heads_leans_on", "heads", ["leans_on"], postgresql_where=sa.text("leans_on IS NOT NULL")
    )
    op.create_table(
        "rights",
        sa.Column("account_id", sa.Text(), primary_key=True),
        sa.Column("since_at", Moment, primary_key=True),
        sa.Column("until_at", Moment, nullable=True),
        sa.Column("known_at", Moment, nullable=True),
        sa.Column("not_before", Moment, nullable=True),
    )
    op.add_column("accounts", sa.Column("restored_at", Moment, nullable=True))
    op.add_column("dockets", sa.Column("waiting_at", Moment, nullable=True))
    op.drop_index("uq_dockets_running", "dockets")
    op.create_index(
        "uq_dockets_running",
        "dockets",
        ["subject_id"],
        unique=True,
        postgresql_where=sa.text("state = 'running' AND waiting_at IS NULL"),
    )
    op.drop_index("uq_obligations_open", "obligations")
    op.create_index(
        "uq_obligations_open",
        "obligations",
        ["account_id", "kind"],
        unique=True,
        postgresql_where=sa.text(LIVE),
    )
    op.execute(RESTORED_BEFORE)
    op.execute(RIGHTS_BEFORE)
    op.execute("INSERT INTO sweeps (application_id) VALUES (NULL)")
    op.execute(RESTORED)
    op.execute(
        """CREATE TRIGGER note_restored BEFORE UPDATE ON accounts FOR EACH ROW
           WHEN (OLD.state = 'deleted' AND NEW.state NOT IN ('deleted', 'purged'))
           EXECUTE FUNCTION note_restored()"""
    )
    for table, body in FUNCTIONS.items():
        op.execute(
            f"""CREATE FUNCTION mark_{table}() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN{body}
  RETURN NULL;
END $$"""
        )
        for event in EVENTS[table]:
            op.execute(
                f"""CREATE TRIGGER mark_{table}_{event.lower()} AFTER {event} ON {table}
                    REFERENCING {ROWS[event]} FOR EACH STATEMENT
                    EXECUTE FUNCTION mark_{table}()"""
            )


def downgrade() -> None:
    for table, events in EVENTS.items():
        for event in events:
            op.execute(f"DROP TRIGGER mark_{table}_{event.lower()} ON {table}")
        op.execute(f"DROP FUNCTION mark_{table}()")
    op.execute("DROP TRIGGER note_restored ON accounts")
    op.execute("DROP FUNCTION note_restored()")
    op.execute("UPDATE obligations SET state = 'open' WHERE state = 'due'")
    op.execute("UPDATE obligations SET state = 'done' WHERE state = 'taken'")
    op.drop_index("uq_obligations_open", "obligations")
    op.create_index(
        "uq_obligations_open",
        "obligations",
        ["account_id", "kind"],
        unique=True,
        postgresql_where=sa.text("state = 'open'"),
    )
    op.drop_index("uq_dockets_running", "dockets")
    op.execute(
        """UPDATE dockets d SET state = 'superseded' WHERE state = 'running' AND EXISTS (
             SELECT 1 FROM dockets x WHERE x.subject_id = d.subject_id AND x.state = 'running'
             AND x.number > d.number)"""
    )
    op.create_index(
        "uq_dockets_running",
        "dockets",
        ["subject_id"],
        unique=True,
        postgresql_where=sa.text("state = 'running'"),
    )
    op.drop_column("dockets", "waiting_at")
    op.drop_column("accounts", "restored_at")
    for table in ("rights", "heads", "sweeps", "marks"):
        op.drop_table(table)
