"""Links between accounts and people that somebody should look at."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.errors import NotFound
from yugum.ports.pages import ListPage
from yugum.ports.proposals import Proposal, ProposalLine
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import reader


class Proposals:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def add(self, proposals: Sequence[Proposal]) -> None:
        if proposals:
            statement = insert(t.proposals).on_conflict_do_nothing()
            await self.connection.execute(statement, [asdict(p) for p in proposals])

    async def page(self, cursor: str | None, limit: int) -> ListPage[ProposalLine]:
        """Links to be looked at, the most likely first."""
        p, a, who = t.proposals.c, t.accounts.c, t.people.c
        query = (
            sa.select(
                t.proposals,
                a.login,
                a.display_name.label("account_name"),
                t.applications.c.name.label("application_name"),
                who.display_name.label("person_name"),
                who.employee_number,
                who.department,
            )
            .select_from(t.proposals)
            .join(t.accounts, a.id == p.account_id)
            .join(t.applications, t.applications.c.id == a.application_id)
            .join(t.people, who.id == p.person_id)
            .where(p.state == "open", a.person_id.is_(None))
        )
        return await fetch(
            self.connection,
            query,
            [p.confidence, p.account_id, p.person_id],
            reader(ProposalLine),
            cursor=cursor,
            limit=limit,
            descending=True,
            count=not cursor,
        )

    async def decide(self, account_id: str, person_id: str | None, by: str) -> None:
        """Link an account to a person, or to nobody; what was proposed for it is settled.

        Raises:
            NotFound: there is no such account.
        """
        a, p = t.accounts, t.proposals
        changed = await self.connection.execute(
            sa.update(a).where(a.c.id == account_id).values(person_id=person_id, rev=a.c.rev + 1)
        )
        if not changed.rowcount:
            raise NotFound(f"There is no account {account_id}.")
        verdict = sa.case((p.c.person_id == person_id, "accepted"), else_="refused")
        await self.connection.execute(
            sa.update(p)
            .where(p.c.account_id == account_id, p.c.state == "open")
            .values(state=verdict, decided_by=by)
        )
