"""What keeps the supersets that findings are read from right: who is alike, who has nothing open."""

from __future__ import annotations

import sqlalchemy as sa

ALIKE_SQL = sa.text("""
UPDATE people p SET alike = true WHERE NOT p.alike AND EXISTS (SELECT 1 FROM people o
  WHERE lower(o.display_name) = lower(p.display_name) AND o.department = p.department AND o.id <> p.id)""")

NOTHING_OPEN = """
NOT EXISTS (SELECT 1 FROM accounts acc WHERE acc.person_id = p.id AND acc.state = 'active')
  AND NOT EXISTS (SELECT 1 FROM seat_claims c WHERE c.person_id = p.id AND c.until_at IS NULL
    AND c.state = 'held')"""

LOCK_LEFT_SQL = sa.text(f"""
SELECT id FROM people p WHERE open_end <= :now AND {NOTHING_OPEN}
ORDER BY open_end LIMIT :portion FOR UPDATE SKIP LOCKED""")
ASIDE_SQL = sa.text(
    f"UPDATE people p SET open_end = NULL WHERE p.id = ANY(:ids) AND {NOTHING_OPEN}"
)
"""Looked at again once their rows are locked: a statement does not see what is committed while it waits."""
