"""What accounts own, as last seen: written and read in portions, for one of them may own a hundred thousand things."""

from __future__ import annotations

import sys
from collections.abc import Iterable, Iterator, Sequence
from itertools import islice
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.accounts import Asset
from yugum.storage import tables as t
from yugum.storage.rows import among_ids

PORTION = 2000
ASSETS = (
    sa.select(t.assets)
    .where(among_ids(t.assets.c.account_id))
    .order_by(t.assets.c.kind, t.assets.c.container, t.assets.c.name)
)


async def own(connection: AsyncConnection, owners: Iterable[tuple[str, Iterable[Asset]]]) -> None:
    """Write what accounts own, by their ids; what they owned before has been taken out."""
    rows = (_row(account_id, asset) for account_id, things in owners for asset in things)
    while portion := list(islice(rows, PORTION)):
        await connection.execute(insert(t.assets).on_conflict_do_nothing(), portion)


async def owned_by(
    connection: AsyncConnection, account_ids: Sequence[str]
) -> dict[str, list[Asset]]:
    """What some accounts own, by their ids."""
    found: dict[str, list[Asset]] = {}
    for row in _read(await connection.execute(ASSETS, {"ids": list(account_ids)})):
        # There are few kinds and containers, and very many things.
        kind, container = sys.intern(row.kind), sys.intern(row.container)
        asset = Asset(kind, row.external_id, row.name, container)
        found.setdefault(row.account_id, []).append(asset)
    return found


def _read(result: sa.CursorResult[Any]) -> Iterator[sa.Row[Any]]:
    for portion in result.partitions(PORTION):
        yield from portion


def _row(account_id: str, asset: Asset) -> dict[str, str]:
    return {
        "account_id": account_id,
        "external_id": asset.external_id,
        "kind": asset.kind,
        "name": asset.name,
        "container": asset.container,
    }
