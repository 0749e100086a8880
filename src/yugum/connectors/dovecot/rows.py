"""The table of mailboxes by which the store knows who may sign in."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any
from uuid import UUID

from yugum.connectors.pooled import Connection
from yugum.errors import ApplicationRejected

ROWS = """
SELECT b.id, b.login, b.alias, b.unseen, b.display_name, b.address, b.state, b.parked_until, b.account,
  b.quota_mb, (SELECT count(*) FROM app_passwords a WHERE a.mailbox = b.id) AS keys,
  (SELECT array_agg(ARRAY[o.id::text, o.login] ORDER BY o.login) FROM mailboxes o
    WHERE coalesce(o.owner, o.id) = b.id) AS owned
FROM mailboxes b
"""


async def by_id(connection: Connection, key: str) -> dict[str, Any] | None:
    try:
        UUID(key)
    except ValueError:
        return None
    return await (await connection.execute(ROWS + " WHERE b.id = %s", (key,))).fetchone()


AMONG = "SELECT b.id, b.login, b.alias, b.display_name, b.address FROM mailboxes b WHERE "
WRITTEN_TO = """lower(b.address) = ANY(%(addresses)s)
  OR lower(b.login) = ANY(%(names)s) OR lower(b.alias) = ANY(%(names)s)"""


async def among(
    connection: Connection, domain: str, ids: Collection[str], addresses: Collection[str]
) -> list[dict[str, Any]]:
    """The mailboxes with these ids; else those that are written to by one of these addresses."""
    if ids:
        found = await connection.execute(AMONG + "b.id = ANY(%s)", ([UUID(i) for i in ids],))
        return await found.fetchall()
    folded = [a.lower() for a in addresses]
    at = f"@{domain.lower()}"
    names = [a.removesuffix(at) for a in folded if a.endswith(at)]
    found = await connection.execute(AMONG + WRITTEN_TO, {"addresses": folded, "names": names})
    return await found.fetchall()


async def put(connection: Connection, row: Mapping[str, Any], **values: object) -> None:
    """Write some columns of one mailbox; their names are this module's own."""
    columns = ", ".join(f"{name} = %({name})s" for name in values)
    await connection.execute(
        f"UPDATE mailboxes SET {columns} WHERE id = %(id)s",
        {**values, "id": row["id"]},
    )


def megabytes(value: str) -> int:
    """A quota in whole megabytes.

    Raises:
        ApplicationRejected: it is none.
    """
    if not value.isdigit() or not 1 <= int(value) <= 10_000_000:
        raise ApplicationRejected(
            f"{value!r} is no quota.", remedy="Give whole megabytes, 2048 for two gigabytes."
        )
    return int(value)
