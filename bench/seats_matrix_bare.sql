-- The same rows as one screen of people by licenses: fifty people by name, and their seats with why they have them.
SELECT p.id, p.display_name, p.user_name, p.department, p.title, s.seats
FROM (SELECT * FROM people WHERE department = 'D7' ORDER BY display_name, id LIMIT 51) p
LEFT JOIN LATERAL (
  SELECT jsonb_agg(jsonb_build_object('pool', c.pool_id, 'state', c.state, 'place', c.place,
    'origin', l.origin_kind, 'because', l.origin_name)) AS seats
  FROM seat_claims c JOIN pools o ON o.id = c.pool_id
  LEFT JOIN ledger l ON l.account_id = c.account_id AND l.kind = 'seat' AND l.item = o.license
  WHERE c.person_id = p.id AND c.until_at IS NULL AND (c.state = 'held' OR c.state = 'waiting')
) s ON true ORDER BY p.display_name, p.id;
