"""Applications, their profiles and how they are reached."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict
from datetime import datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert

from yugum.core.accounts import HoldingKind
from yugum.core.applications import Application, Capability, Profile, Trust
from yugum.core.attributes import Shape
from yugum.errors import NotFound
from yugum.ports.applications import Access, ApplicationLine, Connection
from yugum.storage import tables as t
from yugum.storage.disconnecting import Disconnecting, application_from
from yugum.storage.pages import Row
from yugum.storage.rows import read

HELD_SQL = {
    HoldingKind.ENTITLEMENT: "unnest(entitlements)",
    HoldingKind.SEAT: "unnest(seats)",
    HoldingKind.SETTING: "jsonb_object_keys(settings)",
}

CONNECTED = t.applications.c.disconnected_at.is_(None)


EVERY = sa.select(t.applications).where(CONNECTED)


def _whole(figure: sa.ColumnElement[Any]) -> sa.ColumnElement[int]:
    """A sum of whole numbers, which PostgreSQL makes a numeric."""
    return sa.cast(figure, sa.BigInteger)


def access_from(document: Row, ends: datetime | None = None) -> Access:
    """How an application is reached, from its stored configuration."""
    said = {k: document[k] for k in ("url", "options", "address") if k in document}
    return Access(**said, credential_ends=ends)


class Applications(Disconnecting):
    async def all(self) -> dict[str, Application]:
        """Every application by id; an organisation has tens of them, so this is no page."""
        rows = (await self.connection.execute(EVERY)).mappings()
        return {row["id"]: application_from(row) for row in rows}

    async def names_held(self, application_id: str, kind: HoldingKind) -> Sequence[str]:
        """What accounts of an application hold of a kind, each name once."""
        query = sa.text(
            f"SELECT DISTINCT {HELD_SQL[kind]} FROM accounts WHERE application_id = :application"
        )
        return (await self.connection.scalars(query, {"application": application_id})).all()

    async def lines(self) -> Sequence[ApplicationLine]:
        a, n, hour = t.applications.c, t.tallies.c, t.ceilings.c
        counted = (
            sa.select(
                n.application_id,
                _whole(sa.func.sum(n.more)).label("accounts"),
                _whole(sa.func.sum(n.more).filter(n.state == "active")).label("active"),
            )
            .group_by(n.application_id)
            .subquery()
        )
        query = (
            sa.select(
                a.id,
                a.name,
                a.kind,
                a.profile,
                a.contact,
                a.owner,
                a.capabilities,
                a.attributes,
                a.groups,
                a.seen_at,
                a.reading_at,
                a.problem,
                a.trust,
                a.credential_ends,
                sa.case(
                    (a.paused_until > sa.func.clock_timestamp(), a.paused_until), else_=None
                ).label("paused_until"),
                sa.func.coalesce(hour.taken, 0).label("taken_this_hour"),
                a.config,
                sa.func.coalesce(counted.c.accounts, 0).label("accounts"),
                sa.func.coalesce(counted.c.active, 0).label("active"),
            )
            .select_from(t.applications.outerjoin(counted, counted.c.application_id == a.id))
            .outerjoin(
                t.ceilings,
                sa.and_(
                    hour.application_id == a.id,
                    hour.hour_at == sa.func.date_trunc("hour", sa.func.clock_timestamp()),
                ),
            )
            .where(CONNECTED)
            .order_by(a.name)
        )
        rows = [dict(r) for r in (await self.connection.execute(query)).mappings()]
        closing = {r["id"] for r in rows if r["trust"] == "full" and "suspend" in r["capabilities"]}
        lines = []
        for row in rows:
            access = access_from(row["config"])
            through = access.options.get("through", "")
            more = {
                "address": access.address or access.url,
                "through": through,
                "covered": through in closing if through else None,
            }
            lines.append(read(ApplicationLine, {**row, **more}))
        return lines

    async def connection_of(self, application_id: str) -> Connection:
        query = sa.select(t.applications).where(t.applications.c.id == application_id, CONNECTED)
        row = (await self.connection.execute(query)).mappings().first()
        if row is None:
            raise NotFound(
                f"There is no application {application_id}.", remedy="See: yugum apps list."
            )
        return Connection(
            id=row["id"],
            name=row["name"],
            kind=row["kind"],
            access=access_from(row["config"], row["credential_ends"]),
            secret=row["secret"],
        )

    async def put(self, application: Application, access: Access, secret: bytes | None) -> None:
        values: dict[str, Any] = {
            "name": application.name,
            "kind": application.kind,
            "profile": asdict(application.profile),
            "config": {
                "url": access.url,
                "options": dict(access.options),
                **({"address": access.address} if access.address else {}),
            },
            "contact": application.contact,
            "owner": application.owner,
            "trust": application.trust.value,
            "capabilities": sorted(c.value for c in application.capabilities),
        }
        if secret is not None:
            values["secret"] = secret
        if access.credential_ends is not None:
            values["credential_ends"] = access.credential_ends
        statement = insert(t.applications).values(id=application.id, **values)
        await self.connection.execute(
            statement.on_conflict_do_update(index_elements=["id"], set_=values)
        )

    async def discovered(
        self,
        application_id: str,
        capabilities: Iterable[Capability],
        attributes: Mapping[str, Shape],
        groups: Mapping[str, Shape],
        at: datetime,
    ) -> None:
        await self._set(
            application_id,
            capabilities=sorted(c.value for c in capabilities),
            attributes={name: asdict(shape) for name, shape in attributes.items()},
            groups={name: asdict(shape) for name, shape in groups.items()},
            seen_at=at,
            problem="",
        )

    async def read_at(self, application_id: str, at: datetime, count: int) -> None:
        await self._set(application_id, reading_at=at, seen_at=at, problem="", accounts_seen=count)

    async def nest(self, application_id: str, nested: Mapping[str, Sequence[str]]) -> None:
        """Keep which of its groups are inside which others."""
        await self._set(application_id, nested={k: sorted(v) for k, v in nested.items()})

    async def trust(self, application_id: str, trust: Trust) -> None:
        await self._set(application_id, trust=trust.value)

    async def change_profile(self, application_id: str, profile: Profile) -> None:
        await self._set(application_id, profile=asdict(profile))

    async def problem(self, application_id: str, text: str) -> None:
        await self._set(application_id, problem=text)

    async def _set(self, application_id: str, **values: object) -> None:
        a = t.applications
        await self.connection.execute(sa.update(a).where(a.c.id == application_id).values(**values))
