"""When a seat is set aside, in SQL over `reservations r`."""

GIVEN = """(r.from_account_id IS NULL OR NOT EXISTS (SELECT 1 FROM seat_claims g WHERE g.pool_id = r.pool_id
  AND g.account_id = r.from_account_id AND g.state = 'held' AND g.until_at IS NULL AND g.since_at <= r.made_at))"""
"""A seat that is passed on is set aside once its holder has given it back; they may have got another since."""

ASIDE = f"r.open AND r.taken < r.count AND {GIVEN}"
