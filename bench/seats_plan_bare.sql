-- The same rows as a batch of plans reads and stores: people, accounts, what they hold; then a row for each step.
SELECT p.*, a.*, (SELECT jsonb_agg(l) FROM ledger l WHERE l.account_id = a.id) FROM people p
JOIN accounts a ON a.person_id = p.id WHERE p.department = 'D1' ORDER BY p.id;
SELECT p.id, o.* FROM people p CROSS JOIN pools o WHERE p.department = 'D1';
