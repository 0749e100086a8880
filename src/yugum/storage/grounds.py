"""What is the same for everybody, in one statement.

Each part comes as JSON text. Of most of them the same text comes for hours: what was made of it is kept, as
all of it is immutable.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache

import orjson
import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.applications import Application
from yugum.core.decisions import Decision, DecisionKind
from yugum.core.reservations import Reservation
from yugum.core.seats import Pool
from yugum.ports.grounds import Adopted, Grounds
from yugum.storage import tables as t
from yugum.storage.applications import CONNECTED
from yugum.storage.disconnecting import OF_APPLICATION, application_from
from yugum.storage.origins import decisions_of
from yugum.storage.reservations import IN_FORCE
from yugum.storage.rows import as_json, decoded
from yugum.storage.rules import CURRENT
from yugum.storage.seats import POOLS_SQL

HELD_APPLICATIONS = (
    sa.select(t.decisions)
    .where(
        t.decisions.c.kind == DecisionKind.HOLD.value,
        t.decisions.c.subject_id.in_(sa.select(t.applications.c.id)),
    )
    .order_by(t.decisions.c.made_at, t.decisions.c.id)
)
GROUNDS = sa.select(
    as_json(
        CURRENT.with_only_columns(*(CURRENT.selected_columns[n] for n in Adopted.__slots__)),
        "rules",
    ),
    as_json(sa.select(t.installation.c.prefix), "installation"),
    as_json(
        sa.select(*(t.applications.c[n] for n in OF_APPLICATION)).where(CONNECTED), "applications"
    ),
    as_json(POOLS_SQL.columns(), "pools"),
    as_json(IN_FORCE, "reservations"),
    as_json(HELD_APPLICATIONS, "holds"),
)


class Ground:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def load(self) -> Grounds:
        """Everything, of one moment."""
        rules, installation, *rest = (await self.connection.execute(GROUNDS)).one()
        applications, pools, reservations, holds = rest
        return Grounds(
            rules=next(iter(decoded(Adopted, rules)), None),
            prefix=next((i["prefix"] for i in orjson.loads(installation)), ""),
            applications=_applications(applications),
            pools=_pools(pools),
            reservations=_reservations(reservations),
            holds=_holds(holds),
        )


@lru_cache(maxsize=4)
def _applications(said: str) -> Mapping[str, Application]:
    return {row["id"]: application_from(row) for row in orjson.loads(said)}


@lru_cache(maxsize=4)
def _pools(said: str) -> Mapping[tuple[str, str], Pool]:
    return {(pool.application_id, pool.license): pool for pool in decoded(Pool, said)}


@lru_cache(maxsize=4)
def _reservations(said: str) -> list[Reservation]:
    return decoded(Reservation, said)


@lru_cache(maxsize=4)
def _holds(said: str) -> Mapping[str, tuple[Decision, ...]]:
    found: dict[str, tuple[Decision, ...]] = {}
    for decision in decisions_of(said):
        found[decision.subject_id] = (*found.get(decision.subject_id, ()), decision)
    return found
