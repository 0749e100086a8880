"""Findings are answered from indexes: triggers keep who may have something open, and who is alike.

Both may be true of too many, never of too few. Who left and has nothing open is put aside by a worker;
a new end of access, or an account or a seat of theirs, brings them back. It touches their row whatever
it says already, so that it waits for the worker that is looking, or the worker for it.
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0025"
down_revision = "0024"
branch_labels = None
depends_on = None

FUNCTIONS = {
    "open_people": "NEW.open_end := NEW.access_ends; RETURN NEW;",
    "open_owner": """
  UPDATE people SET open_end = access_ends WHERE id = NEW.person_id AND access_ends IS NOT NULL;
  RETURN NULL;""",
    "alike_people": """
  UPDATE people p SET alike = true FROM new_rows n
  WHERE lower(p.display_name) = lower(n.display_name) AND p.department = n.department
    AND p.id <> n.id AND NOT p.alike;
  UPDATE people p SET alike = true FROM new_rows n
  WHERE p.id = n.id AND NOT p.alike AND EXISTS (SELECT 1 FROM people o
    WHERE lower(o.display_name) = lower(n.display_name) AND o.department = n.department AND o.id <> n.id);
  RETURN NULL;""",
    "alike_renamed": """
  IF NOT EXISTS (SELECT 1 FROM new_rows n JOIN old_rows b ON b.id = n.id
    WHERE (n.display_name, n.department) IS DISTINCT FROM (b.display_name, b.department))
  THEN RETURN NULL; END IF;  -- also what these functions change themselves
  UPDATE people p SET alike = true FROM new_rows n JOIN old_rows b ON b.id = n.id
  WHERE (n.display_name, n.department) IS DISTINCT FROM (b.display_name, b.department)
    AND lower(p.display_name) = lower(n.display_name) AND p.department = n.department
    AND p.id <> n.id AND NOT p.alike;
  UPDATE people p SET alike = true FROM new_rows n JOIN old_rows b ON b.id = n.id
  WHERE (n.display_name, n.department) IS DISTINCT FROM (b.display_name, b.department)
    AND p.id = n.id AND NOT p.alike AND EXISTS (SELECT 1 FROM people o
    WHERE lower(o.display_name) = lower(n.display_name) AND o.department = n.department AND o.id <> n.id);
  RETURN NULL;""",
    "tally_accounts": """
  IF TG_OP = 'INSERT' THEN
    INSERT INTO tallies (application_id, state, more) SELECT application_id, state, count(*)
      FROM new_rows WHERE kind <> 'group' GROUP BY 1, 2;
  ELSIF TG_OP = 'DELETE' THEN
    INSERT INTO tallies (application_id, state, more) SELECT application_id, state, -count(*)
      FROM old_rows WHERE kind <> 'group' GROUP BY 1, 2;
  ELSE
    INSERT INTO tallies (application_id, state, more) SELECT application_id, state, sum(more)
      FROM (SELECT application_id, state, 1 AS more FROM new_rows WHERE kind <> 'group'
        UNION ALL SELECT application_id, state, -1 FROM old_rows WHERE kind <> 'group') x
      GROUP BY 1, 2 HAVING sum(more) <> 0;
  END IF;
  RETURN NULL;""",
}
OPEN = "NEW.state = 'active' AND NEW.person_id IS NOT NULL"
HELD = "NEW.state = 'held' AND NEW.until_at IS NULL AND NEW.person_id IS NOT NULL"
TRIGGERS = {
    "open_begun": "BEFORE INSERT ON people FOR EACH ROW WHEN (NEW.access_ends IS NOT NULL) "
    "EXECUTE FUNCTION open_people()",
    "open_people": "BEFORE UPDATE OF access_ends ON people FOR EACH ROW "
    "WHEN (NEW.access_ends IS DISTINCT FROM OLD.access_ends) EXECUTE FUNCTION open_people()",
    "open_opened": f"AFTER INSERT ON accounts FOR EACH ROW WHEN ({OPEN}) EXECUTE FUNCTION open_owner()",
    "open_reopened": f"AFTER UPDATE OF state, person_id ON accounts FOR EACH ROW WHEN ({OPEN} AND "
    "(NEW.state, NEW.person_id) IS DISTINCT FROM (OLD.state, OLD.person_id)) "
    "EXECUTE FUNCTION open_owner()",
    "open_seated": f"AFTER INSERT ON seat_claims FOR EACH ROW WHEN ({HELD}) EXECUTE FUNCTION open_owner()",
    "open_reseated": "AFTER UPDATE OF state, until_at, person_id ON seat_claims FOR EACH ROW "
    f"WHEN ({HELD}) EXECUTE FUNCTION open_owner()",
    "alike_people": "AFTER INSERT ON people REFERENCING NEW TABLE AS new_rows "
    "FOR EACH STATEMENT EXECUTE FUNCTION alike_people()",
    "alike_renamed": "AFTER UPDATE ON people REFERENCING OLD TABLE AS old_rows NEW TABLE AS new_rows "
    "FOR EACH STATEMENT EXECUTE FUNCTION alike_renamed()",
}
for event, rows in (
    ("INSERT", "NEW TABLE AS new_rows"),
    ("UPDATE", "OLD TABLE AS old_rows NEW TABLE AS new_rows"),
    ("DELETE", "OLD TABLE AS old_rows"),
):
    TRIGGERS[f"tally_{event.lower()}"] = (
        f"AFTER {event} ON accounts REFERENCING {rows} "
        "FOR EACH STATEMENT EXECUTE FUNCTION tally_accounts()"
    )
ALIKE = """EXISTS (SELECT 1 FROM people o WHERE lower(o.display_name) = lower(people.display_name)
  AND o.department = people.department AND o.id <> people.id)"""


def upgrade() -> None:
    op.add_column("people", sa.Column("open_end", sa.DateTime(timezone=True), nullable=True))
    op.add_column(
        "people", sa.Column("alike", sa.Boolean(), nullable=False, server_default="false")
    )
    op.create_table(
        "tallies",
        sa.Column("id", sa.BigInteger(), sa.Identity(), primary_key=True),
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("application_id", "state")),
        sa.Column("more", sa.BigInteger(), nullable=False),
    )
    op.create_index("ix_people_open_end", "people", ["open_end"])
    op.create_index("ix_people_alike", "people", ["id"], postgresql_where=sa.text("alike"))
    op.create_index("ix_people_login", "people", [sa.text("lower(user_name)")])
    op.create_index("ix_people_face", "people", [sa.text("lower(display_name)"), "department"])
    nobody = sa.text("person_id IS NULL AND state = 'active'")
    op.create_index("ix_accounts_nobody", "accounts", ["login", "id"], postgresql_where=nobody)
    asleep = sa.text("state = 'active' AND kind = 'person' AND last_used IS NOT NULL")
    op.create_index(
        "ix_accounts_asleep",
        "accounts",
        ["last_used", "id"],
        postgresql_include=["person_id"],
        postgresql_where=asleep,
    )
    key = ("subject_id", "application_id", "account_id", "kind", "item")
    op.create_index("ix_standing_side", "standing", ["status", "side", "since_at", *key])
    live = sa.text("state = ANY (ARRAY['open', 'due', 'taken'])")
    op.create_index("ix_obligations_dated", "obligations", ["due_at", "id"], postgresql_where=live)
    waits = sa.text("state = 'scheduled'")
    op.create_index("ix_dockets_dated", "dockets", ["due_at", "id"], postgresql_where=waits)
    op.drop_index("ix_dockets_due", "dockets")
    op.create_index("ix_seat_claims_account", "seat_claims", ["account_id"])
    held = sa.text("state = 'held' AND until_at IS NULL")
    op.create_index("ix_seat_claims_held", "seat_claims", ["person_id"], postgresql_where=held)
    for name, body in FUNCTIONS.items():
        op.execute(
            f"CREATE FUNCTION {name}() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN {body} END $$"
        )
    op.execute(f"UPDATE people SET open_end = access_ends, alike = {ALIKE}")
    op.execute("LOCK TABLE accounts IN SHARE ROW EXCLUSIVE MODE")
    for name, what in TRIGGERS.items():
        op.execute(f"CREATE TRIGGER {name} {what}")
    op.execute(
        """INSERT INTO tallies (application_id, state, more)
           SELECT application_id, state, count(*) FROM accounts WHERE kind <> 'group' GROUP BY 1, 2"""
    )


def downgrade() -> None:
    for name, what in TRIGGERS.items():
        op.execute(f"DROP TRIGGER {name} ON {what.partition(' ON ')[2].partition(' ')[0]}")
    for name in FUNCTIONS:
        op.execute(f"DROP FUNCTION {name}()")
    op.drop_index("ix_seat_claims_held", "seat_claims")
    op.drop_index("ix_seat_claims_account", "seat_claims")
    waits = sa.text("state = 'scheduled'")
    op.create_index("ix_dockets_due", "dockets", ["due_at"], postgresql_where=waits)
    op.drop_index("ix_dockets_dated", "dockets")
    op.drop_table("tallies")
    op.drop_index("ix_obligations_dated", "obligations")
    op.drop_index("ix_standing_side", "standing")
    op.drop_index("ix_accounts_asleep", "accounts")
    op.drop_index("ix_accounts_nobody", "accounts")
    for name in ("face", "login", "alike", "open_end"):
        op.drop_index(f"ix_people_{name}", "people")
    for name in ("alike", "open_end"):
        op.drop_column("people", name)
