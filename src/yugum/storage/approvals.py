"""Approvals: what a docket waits for, who was asked, and what they answered."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

import msgspec
import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.approvals import Answer, ApprovalState, Asked, AskedPerson
from yugum.core.plans import PlanNotes, notes_from
from yugum.errors import NotFound
from yugum.ports.approvals import Approval, ApprovalLine, ApprovalLink
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import read, read_all, statement

KEPT = (datetime,)
"""What the driver takes as it is."""


GIVEN_SQL = """
SELECT a.name, c->>0, c->>1, c->>2, c->>3
FROM dockets d JOIN approvals a ON a.docket_id = d.id
CROSS JOIN LATERAL jsonb_array_elements(a.covers) c
WHERE d.subject_id = :subject AND a.state = 'given' AND NOT EXISTS (
  SELECT 1 FROM dockets e JOIN steps s ON s.docket_id = e.id JOIN receipts r ON r.step_id = s.id
  WHERE e.subject_id = :subject AND s.action IN ('revoke', 'free_seat') AND r.at >= a.ended_at
  AND (s.application_id, s.item) = (c->>0, c->>2))
"""


class Approvals:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def ask(self, approvals: Sequence[Approval], *, wait: bool) -> None:
        """Store new approvals, and with ``wait`` let their dockets wait for them."""
        if not approvals:
            return
        await self.connection.execute(
            sa.insert(t.approvals), [msgspec.to_builtins(a, builtin_types=KEPT) for a in approvals]
        )
        if wait:
            await self._move([a.docket_id for a in approvals], "scheduled", "awaiting")

    async def _move(self, docket_ids: Sequence[str], before: str, after: str) -> None:
        d = t.dockets
        await self.connection.execute(
            sa.update(d).where(d.c.id.in_(docket_ids), d.c.state == before).values(state=after)
        )

    async def one(self, approval_id: str) -> Approval:
        """One approval, locked until the end of the transaction."""
        a = t.approvals
        query = sa.select(a).where(a.c.id == approval_id).with_for_update()
        row = (await self.connection.execute(query)).mappings().first()
        if row is None:
            raise NotFound(f"There is no approval {approval_id}.", remedy="See: yugum approvals.")
        return read(Approval, row)

    async def answer(
        self, approval_id: str, answers: Sequence[Answer], state: ApprovalState, at: datetime
    ) -> None:
        a = t.approvals
        values: dict[str, Any] = {
            "answers": msgspec.to_builtins(list(answers)),
            "state": state.value,
        }
        if state is not ApprovalState.OPEN:
            values["ended_at"] = at
        await self.connection.execute(sa.update(a).where(a.c.id == approval_id).values(**values))

    async def also_ask(self, approval_id: str, who: AskedPerson) -> None:
        a = t.approvals
        await self.connection.execute(
            sa.update(a)
            .where(a.c.id == approval_id)
            .values(asked=a.c.asked.op("||")(sa.cast([msgspec.to_builtins(who)], JSONB)))
        )

    async def open_for(self, docket_id: str) -> int:
        """How many approvals a docket still waits for."""
        a = t.approvals.c
        query = sa.select(sa.func.count()).where(a.docket_id == docket_id, a.state == "open")
        return int(await self.connection.scalar(query) or 0)

    async def given_for(self, subject_id: str) -> Mapping[str, frozenset[Asked]]:
        """What was agreed to for somebody and not taken away since, by the approval's name."""
        rows = await self.connection.execute(statement(GIVEN_SQL), {"subject": subject_id})
        found: dict[str, set[Asked]] = {}
        for name, application, action, item, account in rows:
            found.setdefault(name, set()).add((application, action, item, account))
        return {name: frozenset(about) for name, about in found.items()}

    async def release(self, docket_id: str) -> None:
        """All have agreed: the docket is due on its day."""
        await self._move([docket_id], "awaiting", "scheduled")

    async def drop(self, docket_id: str, state: ApprovalState, at: datetime) -> bool:
        """Somebody refused, or nobody answered in time: the docket is cancelled if it has waited."""
        d, a = t.dockets, t.approvals
        cancelled = await self.connection.execute(
            sa.update(d)
            .where(d.c.id == docket_id, d.c.state == "awaiting")
            .values(state="cancelled", ended_at=at)
        )
        await self.connection.execute(
            sa.update(a)
            .where(a.c.docket_id == docket_id, a.c.state == "open")
            .values(state=state.value, ended_at=at)
        )
        return bool(cancelled.rowcount)

    async def withdraw(self, docket_ids: Sequence[str], by: str, reason: str, at: datetime) -> None:
        """End the open approvals of dockets that are not wanted any more, and say who did."""
        a = t.approvals
        said = Answer(
            key="", name=by, agrees=False, note=f"withdrawn: {reason}".rstrip(": "), at=at
        )
        await self.connection.execute(
            sa.update(a)
            .where(a.c.docket_id.in_(docket_ids), a.c.state == "open")
            .values(
                state="refused",
                ended_at=at,
                answers=a.c.answers.op("||")(sa.cast([msgspec.to_builtins(said)], JSONB)),
            )
        )

    async def page(
        self, state: ApprovalState | None, docket_id: str, cursor: str | None, limit: int
    ) -> ListPage[ApprovalLine]:
        a, d = t.approvals.c, t.dockets.c
        query = (
            sa.select(
                t.approvals,
                d.number,
                d.verb,
                d.author,
                d.reason,
                d.due_at,
                d.document,
                t.faces.c.display_name.label("subject_name"),
                t.faces.c.employee_number,
            )
            .join(t.dockets, d.id == a.docket_id)
            .join(t.faces, t.faces.c.id == a.subject_id)
        )
        if state:
            query = query.where(a.state == state.value)
        if docket_id:
            query = query.where(a.docket_id == docket_id)
        return await fetch(
            self.connection,
            query,
            [a.expires_at, a.id],
            _line,
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )

    async def remind_or_expire(self, now: datetime) -> Sequence[Approval]:
        """Approvals to remind of or that have expired, marked as such in the same statement."""
        rows = await self.connection.execute(
            sa.text(
                """UPDATE approvals SET
                     reminded_at = coalesce(reminded_at, :now),
                     state = CASE WHEN expires_at <= :now THEN 'expired' ELSE state END,
                     ended_at = CASE WHEN expires_at <= :now THEN :now END
                   WHERE state = 'open' AND (expires_at <= :now
                     OR (reminded_at IS NULL AND remind_at <= :now))
                   RETURNING *"""
            ),
            {"now": now},
        )
        return read_all(Approval, rows)

    async def link(self, link_hash: str, approval_id: str, who: str, name: str, days: int) -> None:
        await self.connection.execute(
            sa.insert(t.approval_links).values(
                hash=link_hash,
                approval_id=approval_id,
                who=who,
                name=name,
                expires=sa.func.now() + sa.func.make_interval(0, 0, 0, days),
            )
        )

    async def behind(self, link_hash: str) -> ApprovalLink:
        """What a link from a mail opens: the approval and who was asked by it."""
        k = t.approval_links
        query = sa.select(k.c.approval_id, k.c.who, k.c.name).where(
            k.c.hash == link_hash, k.c.expires > sa.func.now()
        )
        row = (await self.connection.execute(query)).mappings().first()
        if row is None:
            raise NotFound(
                "This link was used already, or has expired.",
                remedy="Ask whoever sent it, or sign in.",
            )
        return ApprovalLink(**row)

    async def used(self, link_hash: str) -> None:
        k = t.approval_links
        await self.connection.execute(sa.delete(k).where(k.c.hash == link_hash))


def _line(row: Mapping[str, Any]) -> ApprovalLine:
    document = row["document"]
    notes = notes_from(document) if document else PlanNotes()
    return read(ApprovalLine, {**row, "notes": notes})
