"""The table of mailboxes by which the store knows who may sign in."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from yugum.connectors.pooled import Connection
from yugum.errors import ApplicationRejected

ROWS = """
SELECT b.id, b.login, b.alias, b.unseen, b.display_name, b.address, b.state, b.parked_until, b.account,
  b.quota_mb, (SELECT count(*) FROM app_passwords a WHERE a.mailbox = b.id) AS keys,
  (SELECT array_agg(ARRAY[o.id::text, o.login] ORDER BY o.login) FROM mailboxes o
    WHERE coalesce(o.owner, o.id) = b.id) AS owned
FROM mailboxes b
"""


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
