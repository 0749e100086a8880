"""Changes made outside, and what was decided about each."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from datetime import datetime
from functools import lru_cache
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import ARRAY, insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.accounts import AccountState
from yugum.core.deviations import Deviation, DeviationKind, DeviationState
from yugum.errors import Conflict, NotFound
from yugum.ports.deviations import DeviationLine, SeenDeviation
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.pages import Listing, listed
from yugum.storage.rows import among, among_ids, read, reader

_D = t.deviations.c
OPEN_ATTRIBUTES = sa.select(_D.account_id, _D.item).where(
    _D.kind == DeviationKind.ATTRIBUTE.value, _D.state == DeviationState.OPEN.value
)
DISPUTED = OPEN_ATTRIBUTES.where(among_ids(_D.account_id))


class Deviations:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def add(
        self,
        found: Sequence[SeenDeviation],
        state: DeviationState = DeviationState.OPEN,
        by: str = "",
    ) -> None:
        if not found:
            return
        statement = insert(t.deviations)
        statement = statement.on_conflict_do_update(
            index_elements=["account_id", "kind", "item"],
            index_where=sa.text("state = 'open'"),
            set_={"now_is": statement.excluded.now_is, "seen_at": statement.excluded.seen_at},
        )
        rows = [
            {
                "id": d.id,
                "application_id": d.application_id,
                "account_id": d.account_id,
                "kind": d.change.kind.value,
                "item": d.change.item,
                "was": d.change.was,
                "now_is": d.change.now_is,
                "seen_at": d.seen_at,
                "state": state.value,
                "decided_by": by,
            }
            for d in found
        ]
        await self.connection.execute(statement, rows)

    async def times(
        self, account_ids: Collection[str], since: datetime
    ) -> Mapping[tuple[str, str], int]:
        d = t.deviations.c
        query = (
            sa.select(d.account_id, d.item, sa.func.count())
            .where(
                among(d.account_id, account_ids),
                d.kind == DeviationKind.ATTRIBUTE.value,
                d.seen_at > since,
            )
            .group_by(d.account_id, d.item)
        )
        return {(r[0], r[1]): r[2] for r in await self.connection.execute(query)}

    async def disputed(self, account_ids: Sequence[str]) -> frozenset[tuple[str, str]]:
        """Attributes changed outside about which nobody has decided yet."""
        rows = await self.connection.execute(DISPUTED, {"ids": list(account_ids)})
        return frozenset((r[0], r[1]) for r in rows)

    async def page(
        self, application_id: str, state: DeviationState | None, cursor: str | None, limit: int
    ) -> ListPage[DeviationLine]:
        return await listed(
            self.connection,
            _listing(application_id, state),
            reader(DeviationLine),
            cursor=cursor,
            limit=limit,
            count=not cursor,
        )

    async def one(self, deviation_id: str) -> SeenDeviation:
        d = t.deviations
        query = sa.select(d).where(d.c.id == deviation_id)
        row = (await self.connection.execute(query)).mappings().first()
        if row is None:
            raise NotFound(f"There is no change {deviation_id}.")
        return read(SeenDeviation, {**row, "change": read(Deviation, row)})

    async def settle(
        self, deviation_id: str, state: DeviationState, by: str, docket_id: str | None
    ) -> None:
        """Keep or revert, once.

        Raises:
            Conflict: somebody has decided already.
        """
        d = t.deviations
        changed = await self.connection.execute(
            sa.update(d)
            .where(d.c.id == deviation_id, d.c.state == "open")
            .values(state=state.value, decided_by=by, docket_id=docket_id)
        )
        if not changed.rowcount:
            raise Conflict("This change has been decided already.")


def _lines() -> sa.Select[Any]:
    d, a, who = t.deviations.c, t.accounts.c, t.people.c
    o = t.accounts.alias("other").c
    elsewhere = sa.select(sa.func.array_agg(o.id)).where(
        o.person_id == a.person_id,
        o.id != a.id,
        o.kind == "person",
        o.state == AccountState.ACTIVE.value,
    )
    return (
        sa.select(
            t.deviations,
            sa.func.coalesce(
                elsewhere.scalar_subquery(), sa.cast(sa.literal("{}"), ARRAY(sa.Text))
            ).label("elsewhere"),
            a.login,
            a.person_id,
            who.display_name.label("person_name"),
            t.applications.c.name.label("application_name"),
        )
        .select_from(t.deviations)
        .join(t.accounts, a.id == d.account_id)
        .join(t.applications, t.applications.c.id == d.application_id)
        .outerjoin(t.people, who.id == a.person_id)
    )


LINES = _lines()


@lru_cache(maxsize=64)
def _listing(application_id: str, state: DeviationState | None) -> Listing:
    d, where = t.deviations.c, []
    if application_id:
        where.append(d.application_id == application_id)
    if state:
        where.append(d.state == state.value)
    return Listing(LINES, [d.seen_at, d.id], chosen=sa.select(d.id).where(*where))
