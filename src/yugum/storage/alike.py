"""Which people are alike in all that decides about their lines, found by one statement."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from datetime import datetime

from yugum.core.invitations import SENT
from yugum.core.lines import Line
from yugum.ports.standing import Alike, Together
from yugum.storage.lines import Lines
from yugum.storage.population import KEY_SQL
from yugum.storage.rows import copied, statement, to_array

ALIKE_SQL = f"""
SELECT p.id, p.starts, p.time_zone, p.manager_id, h.accounts, h.seen,
  encode(sha256(convert_to(ROW({KEY_SQL}, h.held)::text, 'UTF8')), 'hex') AS shape
FROM unnest(cast(:ids AS text[])) AS x(id)
CROSS JOIN LATERAL (SELECT * FROM people WHERE id = x.id AND absent_from IS NULL
  AND access_ends IS NULL AND contract_ends IS NULL OFFSET 0) p
CROSS JOIN LATERAL (
  SELECT array_agg(a.id ORDER BY a.application_id) AS accounts,
    array_agg(a.seen_at ORDER BY a.application_id) AS seen,
    array_agg(ROW(a.application_id, a.kind, a.state, a.seats, g.gave,
      (SELECT array_agg(e ORDER BY e) FROM unnest(a.entitlements) e WHERE e = ANY(:items)),
      r.there)::text ORDER BY a.application_id) AS held,
    bool_or(a.recoverable_until IS NOT NULL OR coalesce(r.ended, false)
        OR jsonb_exists(a.settings, '{SENT}'))
      AS other, count(DISTINCT a.application_id) < count(*) AS twice
  FROM accounts a
  CROSS JOIN LATERAL (SELECT array_agg(ROW(kind, item, origin_kind, origin_name, item = ANY(a.entitlements))::text
      ORDER BY kind, item) AS gave FROM ledger WHERE account_id = a.id) g
  CROSS JOIN LATERAL (SELECT bool_or(until_at IS NOT NULL) AS ended, count(*) > 0 AS there
    FROM rights WHERE account_id = a.id) r
  WHERE a.person_id = p.id OFFSET 0) h
WHERE NOT coalesce(h.other OR h.twice, false)
  AND NOT EXISTS (SELECT 1 FROM decisions WHERE subject_id = x.id OFFSET 0)
  AND NOT EXISTS (SELECT 1 FROM obligations WHERE subject_id = x.id
    AND state IN ('open', 'due', 'taken') OFFSET 0)
  AND NOT EXISTS (SELECT 1 FROM accepted WHERE subject_id = x.id OFFSET 0)
  AND NOT EXISTS (SELECT 1 FROM standing WHERE subject_id = x.id OFFSET 0)
  AND NOT EXISTS (SELECT 1 FROM dockets WHERE subject_id = x.id
    AND state NOT IN ('done', 'superseded') OFFSET 0)
  AND NOT EXISTS (SELECT 1 FROM people m WHERE m.id = p.manager_id AND m.access_ends <= :now OFFSET 0)
"""
"""Who has nothing but roles, accounts and an origin of what they hold, with one text for what that is.

Whoever has the same text has the same lines, but for the accounts they are about. Of groups only those
named ``:items`` or given by something count: of any other nothing is said. A manager that has left would
be passed over for one further up. An offset keeps each question a look at an index.
"""


class Likeness(Lines):
    async def alike(
        self,
        subject_ids: Collection[str],
        attributes: Sequence[str],
        items: Collection[str],
        now: datetime,
    ) -> Sequence[Alike]:
        values = {
            "ids": to_array(subject_ids),
            "attributes": list(attributes),
            "items": list(items),
            "now": now,
        }
        return [
            Alike(
                subject_id=row.id,
                shape=row.shape,
                accounts=tuple(row.accounts or ()),
                seen=tuple(s for s in row.seen or () if s is not None),
                starts=row.starts,
                time_zone=row.time_zone,
                leans_on=row.manager_id,
            )
            for row in await self.connection.execute(statement(ALIKE_SQL), values)
        ]

    async def put_together(self, groups: Iterable[Together]) -> None:
        """Lines of people who had none, each with its accounts."""
        if rows := "".join(row for group in groups for row in _rows(group)):
            await self.copy(rows)


def _rows(group: Together) -> Iterable[str]:
    """The lines of each in the text format of COPY; what is the same is made ready once."""
    place = {account: n for n, account in enumerate(group.members[0][0].accounts)}
    same = [(place.get(line.account_id), *_around(line)) for line in group.lines]
    for one, since in group.members:
        begin, end = f"{copied(one.subject_id)}\t", f"\t{since.isoformat()}\n"
        accounts = [copied(a) for a in one.accounts]
        for at, before, after in same:
            yield begin + before + (accounts[at] if at is not None else "") + after + end


def _around(line: Line) -> tuple[str, str]:
    """What stands before a line's account and after it, up to its since."""
    after = (line.kind, line.item, line.side, line.want, line.held, line.reason, line.status)
    rest = "\t".join(map(copied, (*after, line.code, line.ref, line.step_id)))
    return f"{copied(line.application_id)}\t", f"\t{rest}"
