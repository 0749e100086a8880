"""Decisions operators made; ended ones stay as a record."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from datetime import date, datetime
from functools import lru_cache

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.accounts import HoldingKind
from yugum.core.decisions import Decision, DecisionKind, payload_from
from yugum.errors import NotFound
from yugum.ports.decisions import DecisionLine, HoldLine, PrecautionLine
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.origins import decision_from
from yugum.storage.pages import Listing, fetch, listed
from yugum.storage.rows import among, read, reader

PRECAUTION = sa.and_(
    t.decisions.c.kind == DecisionKind.SUSPEND.value, t.decisions.c.payload.has_key("measure")
)


OF_SUBJECT = Listing(
    sa.select(t.decisions).where(
        t.decisions.c.subject_id == sa.bindparam("subject", type_=sa.Text)
    ),
    [t.decisions.c.made_at, t.decisions.c.id],
)


class Decisions:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def put(self, decision: Decision, at: datetime, docket_id: str | None) -> None:
        await self.put_all([decision], at, docket_id)

    async def put_all(
        self, decisions: Sequence[Decision], at: datetime, docket_id: str | None = None
    ) -> None:
        rows = [
            {
                "id": d.id,
                "subject_id": d.subject_id,
                "kind": d.kind.value,
                "payload": dict(d.payload.document()),
                "author": d.author,
                "reason": d.reason,
                "starts_at": d.starts,
                "ends_at": d.ends,
                "made_at": at,
                "docket_id": docket_id,
            }
            for d in decisions
        ]
        if rows:
            new = insert(t.decisions).on_conflict_do_nothing(index_elements=["id"])
            await self.connection.execute(new, rows)
            await self._touch({d.subject_id for d in decisions})

    async def end(self, decision_id: str, at: datetime) -> DecisionLine:
        d = t.decisions
        row = (
            (
                await self.connection.execute(
                    sa.update(d)
                    .where(d.c.id == decision_id, sa.or_(d.c.ends_at.is_(None), d.c.ends_at > at))
                    .values(ends_at=at)
                    .returning(d)
                )
            )
            .mappings()
            .first()
        )
        if row is None:
            raise NotFound(
                f"No decision {decision_id} is in force.",
                remedy="List them: yugum people decisions WHO.",
            )
        await self._touch([row["subject_id"]])
        return read(DecisionLine, row)

    async def in_force(self, subject_id: str, at: datetime) -> Sequence[Decision]:
        d = t.decisions
        query = sa.select(d).where(
            d.c.subject_id == subject_id, sa.or_(d.c.ends_at.is_(None), d.c.ends_at > at)
        )
        return [decision_from(r) for r in (await self.connection.execute(query)).mappings()]

    async def naming(self, person_id: str, at: datetime) -> Sequence[Decision]:
        d = t.decisions
        query = sa.select(d).where(
            d.c.kind == DecisionKind.SUCCESSOR.value,
            d.c.payload["person"].astext == person_id,
            sa.or_(d.c.ends_at.is_(None), d.c.ends_at > at),
        )
        return [decision_from(r) for r in (await self.connection.execute(query)).mappings()]

    async def end_some(self, decision_ids: Sequence[str], at: datetime) -> None:
        d = t.decisions
        await self.connection.execute(
            sa.update(d)
            .where(d.c.id.in_(decision_ids), sa.or_(d.c.ends_at.is_(None), d.c.ends_at > at))
            .values(ends_at=at)
        )

    async def precautions(
        self, at: datetime, cursor: str | None, limit: int, until: date | None = None
    ) -> ListPage[PrecautionLine]:
        return await listed(
            self.connection,
            _precautions(dated=until is not None),
            reader(PrecautionLine),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
            values={"at": at} if until is None else {"at": at, "until": until.isoformat()},
        )

    async def grounds(self, subject_ids: Collection[str]) -> dict[str, list[str]]:
        d = t.decisions.c
        query = sa.select(d.subject_id, d.reason).where(
            among(d.subject_id, subject_ids), PRECAUTION
        )
        found: dict[str, list[str]] = {}
        for row in await self.connection.execute(query):
            found.setdefault(row.subject_id, []).append(row.reason)
        return found

    async def end_of_docket(self, docket_id: str, at: datetime) -> None:
        d = t.decisions
        await self.connection.execute(
            sa.update(d)
            .where(d.c.docket_id == docket_id, sa.or_(d.c.ends_at.is_(None), d.c.ends_at > at))
            .values(ends_at=at)
        )

    async def of_docket(self, subject_id: str, docket_id: str) -> Sequence[Decision]:
        d = t.decisions
        query = sa.select(d).where(d.c.subject_id == subject_id, d.c.docket_id == docket_id)
        return [decision_from(r) for r in (await self.connection.execute(query)).mappings()]

    async def giving(
        self, entitlements: Sequence[tuple[str, str]], at: datetime
    ) -> Mapping[tuple[str, str], int]:
        """How many exceptions in force, or to come, give entitlements: an application and an item each."""
        d = t.decisions.c
        application, item = d.payload["application"].astext, d.payload["item"].astext
        query = (
            sa.select(application, item, sa.func.count())
            .where(
                d.kind == DecisionKind.GRANT.value,
                d.payload["kind"].astext == HoldingKind.ENTITLEMENT.value,
                sa.tuple_(application, item).in_(entitlements),
                sa.or_(d.ends_at.is_(None), d.ends_at > at),
            )
            .group_by(application, item)
        )
        return {(a, i): n for a, i, n in await self.connection.execute(query)}

    async def hold_on(self, subject_id: str, application_id: str, at: datetime) -> Decision | None:
        """The hold in force on a subject or on an application as a whole, if there is one."""
        d = t.decisions.c
        query = (
            sa.select(t.decisions)
            .where(
                d.subject_id.in_([subject_id, application_id]),
                d.kind == DecisionKind.HOLD.value,
                sa.or_(d.starts_at.is_(None), d.starts_at <= at),
                sa.or_(d.ends_at.is_(None), d.ends_at > at),
            )
            .order_by(d.made_at, d.id)
            .limit(1)
        )
        row = (await self.connection.execute(query)).mappings().first()
        return None if row is None else decision_from(row)

    async def former_names(
        self, subject_ids: Collection[str], at: datetime
    ) -> dict[str, list[str]]:
        """The former names that are hidden, by subject; the longest first."""
        d = t.decisions.c
        query = sa.select(d.subject_id, d.payload).where(
            among(d.subject_id, subject_ids),
            d.kind == DecisionKind.VEIL.value,
            sa.or_(d.ends_at.is_(None), d.ends_at > at),
        )
        found: dict[str, list[str]] = {}
        for row in await self.connection.execute(query):
            found.setdefault(row.subject_id, []).extend(payload_from(row.payload).names)
        return {i: sorted(names, key=lambda n: -len(n)) for i, names in found.items()}

    async def end_of(
        self, subject_id: str, application_id: str, kinds: Sequence[DecisionKind], at: datetime
    ) -> None:
        """End the decisions of some kinds about somebody's account in an application."""
        d = t.decisions
        await self.connection.execute(
            sa.update(d)
            .where(
                d.c.subject_id == subject_id,
                d.c.kind.in_([k.value for k in kinds]),
                d.c.payload["application"].as_string() == application_id,
                sa.or_(d.c.payload["kind"].is_(None), d.c.payload["kind"].as_string() == "account"),
                sa.or_(d.c.ends_at.is_(None), d.c.ends_at > at),
            )
            .values(ends_at=at)
        )

    async def page(self, subject_id: str, cursor: str | None, limit: int) -> ListPage[DecisionLine]:
        return await listed(
            self.connection,
            OF_SUBJECT,
            reader(DecisionLine),
            cursor=cursor,
            limit=limit,
            descending=True,
            values={"subject": subject_id},
        )

    async def holds(self, at: datetime, cursor: str | None, limit: int) -> ListPage[HoldLine]:
        d, a, f = t.decisions.c, t.applications.c, t.faces.c
        query = (
            sa.select(
                d.id,
                f.id.label("person_id"),
                a.id.label("application_id"),
                sa.func.coalesce(a.name, f.display_name, d.subject_id).label("name"),
                *(d.author, d.reason, d.starts_at, d.ends_at, d.made_at),
            )
            .select_from(t.decisions)
            .outerjoin(t.faces, f.id == d.subject_id)
            .outerjoin(t.applications, a.id == d.subject_id)
            .where(d.kind == DecisionKind.HOLD.value)
            .where(sa.or_(d.ends_at.is_(None), d.ends_at > at))
        )
        return await fetch(
            self.connection,
            query,
            [d.made_at, d.id],
            reader(HoldLine),
            cursor=cursor,
            limit=limit,
            descending=True,
            count=cursor is None,
        )

    async def _touch(self, person_ids: Collection[str]) -> None:
        """A decision changes what the planner reads: plans made before are stale."""
        p = t.people
        await self.connection.execute(
            sa.update(p).where(among(p.c.id, person_ids)).values(rev=p.c.rev + 1)
        )


@lru_cache(maxsize=2)
def _precautions(*, dated: bool) -> Listing:
    """Precautions in force ``at`` a moment, the one to be looked at first at the top; ``until`` a day."""
    d, p = t.decisions.c, t.people.c
    review = d.payload["review"].as_string()
    at = sa.bindparam("at", type_=t.Moment)
    query = (
        sa.select(
            d.id,
            p.id.label("person_id"),
            p.display_name.label("name"),
            p.user_name,
            d.payload["measure"].as_string().label("measure"),
            d.reason.label("ground"),
            d.author,
            d.made_at,
            sa.cast(review, sa.Date).label("review"),
            t.dockets.c.number,
        )
        .join(t.people, p.id == d.subject_id)
        .outerjoin(t.dockets, t.dockets.c.id == d.docket_id)
        .where(PRECAUTION, sa.or_(d.ends_at.is_(None), d.ends_at > at))
    )
    if dated:
        query = query.where(review <= sa.bindparam("until", type_=sa.Text))
    return Listing(query, [review, d.id])
