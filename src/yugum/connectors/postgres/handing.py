"""Making another role the owner of things of one kind in one database."""

from __future__ import annotations

from collections.abc import Sequence

from psycopg import sql

from yugum.connectors.pooled import Connection
from yugum.connectors.postgres import defaults, grants
from yugum.core.accounts import Asset

WAYS = {defaults.KIND: defaults.hand_over, grants.KIND: grants.hand_over}
"""What is handed over in another way than by ALTER … OWNER TO."""


async def hand_over(
    connection: Connection, things: Sequence[Asset], source: int, target: str
) -> None:
    """Things of one kind of a role (``source``, its oid) are ``target``'s from then on."""
    if way := WAYS.get(things[0].kind):
        await way(connection, source, target, {a.name for a in things})
        return
    for thing in things:
        await connection.execute(_alter_owner(thing, sql.Identifier(target)))


def _alter_owner(asset: Asset, owner: sql.Identifier) -> sql.Composed:
    """``identity`` comes quoted from pg_identify_object; it is no text of anybody's."""
    kind = sql.SQL(asset.kind.upper())
    if asset.kind == "database":
        name: sql.Composable = sql.Identifier(asset.name)
    else:
        name = sql.SQL(asset.name)
    return sql.SQL("ALTER {} {} OWNER TO {}").format(kind, name, owner)
