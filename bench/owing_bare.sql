-- The bare counterpart of `bench owing`: the same rows read and the same lines, rights, obligations and heads
-- written for :ids by SQL that knows this filling only, in a copy of the tables without anything else.
CREATE TEMP TABLE chosen ON COMMIT DROP AS
SELECT p.id, p.department, p.access_ends FROM unnest(cast(:ids AS text[])) AS x(id)
CROSS JOIN LATERAL (SELECT * FROM people WHERE id = x.id OFFSET 0) p;
CREATE TEMP TABLE has ON COMMIT DROP AS
SELECT c.id AS person_id, a.id, a.application_id, a.state, a.entitlements, a.seen_at, c.department,
  (SELECT jsonb_object_agg(l.kind || l.item, l.origin_kind) FROM ledger l WHERE l.account_id = a.id) AS origins,
  (SELECT r.until_at FROM rights r WHERE r.account_id = a.id ORDER BY since_at DESC LIMIT 1) AS until_at,
  (SELECT count(*) FROM assets s WHERE s.account_id = a.id) AS owns
FROM chosen c JOIN accounts a ON a.person_id = c.id;
SELECT count(*) FROM chosen c JOIN decisions d ON d.subject_id = c.id;
SELECT count(*) FROM chosen c JOIN dockets d ON d.subject_id = c.id;
SELECT count(*) FROM chosen c JOIN facts f ON f.person_id = c.id;
SELECT count(*) FROM chosen c JOIN obligations o ON o.subject_id = c.id;
SELECT count(*) FROM chosen c JOIN standing s ON s.subject_id = c.id;
INSERT INTO bare_standing SELECT h.person_id, h.application_id, h.id, 'entitlement', e.item, 'too_much',
  'not held', 'held', 'no longer applies', '', '', 'finding', NULL, now()
FROM has h CROSS JOIN LATERAL unnest(h.entitlements) AS e(item)
WHERE h.origins->>('entitlement' || e.item) = 'role'
  AND NOT EXISTS (SELECT 1 FROM bare_gives g WHERE g.department = h.department
    AND g.application_id = h.application_id AND g.item = e.item);
INSERT INTO bare_standing SELECT h.person_id, h.application_id, h.id, 'entitlement', g.item, 'missing',
  'held', 'not held', 'role', '', '', 'finding', NULL, now()
FROM has h JOIN bare_gives g ON g.department = h.department AND g.application_id = h.application_id
WHERE NOT g.item = ANY (h.entitlements);
INSERT INTO bare_heads SELECT id, now(), '', NULL FROM chosen ON CONFLICT (subject_id) DO UPDATE SET upto_at = now();
