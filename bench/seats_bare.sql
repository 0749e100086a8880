-- The bare counterpart of `bench seats`: one transaction a request.
WITH got AS (
  UPDATE bare_pool SET held = held + 1 WHERE id = 1 AND held < bought RETURNING id
), line AS (
  UPDATE bare_pool SET line = line + 1 WHERE id = 1 AND NOT EXISTS (SELECT 1 FROM got) RETURNING line
)
INSERT INTO bare_claims (account_id, state, place)
SELECT %s, CASE WHEN EXISTS (SELECT 1 FROM got) THEN 'held' ELSE 'waiting' END, (SELECT line FROM line);
