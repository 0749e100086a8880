-- name
SELECT * FROM people ORDER BY family_name, given_name, id LIMIT 51;
-- login
SELECT * FROM people ORDER BY user_name LIMIT 51;
-- department
SELECT * FROM people WHERE lower(department) = 'd7' ORDER BY family_name, given_name, id LIMIT 51;
-- left
SELECT * FROM people WHERE access_ends <= now() ORDER BY family_name, given_name, id LIMIT 51;
-- search
SELECT * FROM people WHERE search LIKE '%p777%' ORDER BY family_name, given_name, id LIMIT 51;
-- accounts
SELECT * FROM accounts ORDER BY application_id, login, id LIMIT 51;
-- deleted
SELECT * FROM accounts WHERE state = 'deleted' ORDER BY application_id, login, id LIMIT 51;
-- dockets
SELECT * FROM dockets ORDER BY number DESC LIMIT 51;
-- running
SELECT * FROM dockets WHERE state = 'running' ORDER BY number DESC LIMIT 51;
-- standing
SELECT * FROM standing WHERE status = 'finding' ORDER BY since_at LIMIT 51;
-- outside
SELECT * FROM deviations WHERE state = 'open' ORDER BY application_id, id LIMIT 51;
-- person
SELECT p.*, (SELECT json_agg(a) FROM accounts a WHERE a.person_id = p.id), (SELECT json_agg(h) FROM history h JOIN accounts a ON a.id = h.account_id WHERE a.person_id = p.id), (SELECT json_agg(l) FROM ledger l JOIN accounts a ON a.id = l.account_id WHERE a.person_id = p.id), (SELECT json_agg(s) FROM standing s WHERE s.subject_id = p.id), (SELECT json_agg(o) FROM obligations o WHERE o.subject_id = p.id), (SELECT json_agg(f) FROM facts f WHERE f.person_id = p.id), (SELECT json_agg(c) FROM decisions c WHERE c.subject_id = p.id), (SELECT json_agg(d) FROM dockets d WHERE d.subject_id = p.id), (SELECT json_agg(s) FROM steps s JOIN dockets d ON d.id = s.docket_id WHERE d.subject_id = p.id), (SELECT json_agg(x) FROM applications x), (SELECT json_agg(u) FROM rules u), m.display_name FROM people p LEFT JOIN people m ON m.id = p.manager_id WHERE p.id = 'p777';
-- last-call
SELECT * FROM accounts WHERE state = 'deleted' AND recoverable_until > now() ORDER BY recoverable_until LIMIT 51;
-- calendar
SELECT * FROM obligations WHERE state = 'open' AND due_at >= now() ORDER BY due_at LIMIT 51;
-- applications
SELECT a.*, count(*), count(*) FILTER (WHERE state = 'active') FROM applications a JOIN accounts c ON c.application_id = a.id GROUP BY a.id;
-- counts
SELECT (SELECT count(*) FROM people), (SELECT count(*) FROM accounts), (SELECT count(*) FROM dockets WHERE state IN ('running', 'scheduled')), (SELECT count(*) FROM tasks WHERE state = 'open');
-- finding-counts
SELECT (SELECT count(*) FROM accounts c JOIN people p ON p.id = c.person_id WHERE p.access_ends <= now() AND c.state = 'active'), (SELECT count(*) FROM accounts WHERE person_id IS NULL AND state = 'active'), (SELECT count(*) FROM accounts WHERE state = 'active' AND last_used < now() - interval '90 days');
-- findings
SELECT * FROM accounts c JOIN people p ON p.id = c.person_id WHERE p.access_ends <= now() AND c.state = 'active' ORDER BY p.access_ends LIMIT 51;
-- day
SELECT d.*, (SELECT count(*) FROM steps s WHERE s.docket_id = d.id) FROM dockets d WHERE due_at >= date_trunc('day', now()) AND due_at < date_trunc('day', now()) + interval '8 days' ORDER BY due_at LIMIT 600;
