"""The queue: procrastinate on the same PostgreSQL, fed inside the transaction that makes work due.

A job is a hint that may be lost and carries nothing; workers claim due subjects themselves.
"""

from __future__ import annotations

from typing import Any

import procrastinate
from procrastinate.schema import SchemaManager
from sqlalchemy.ext.asyncio import AsyncConnection

TASK = "yugum.work"
QUEUE = "work"


def make_app(url: str) -> procrastinate.App:
    """A procrastinate application on the database of ``url`` (a libpq address)."""
    connector = procrastinate.PsycopgConnector(conninfo=url, min_size=1, max_size=3)
    return procrastinate.App(connector=connector)


def schema() -> str:
    """The queue's own tables and functions, for the first migration."""
    return SchemaManager.get_schema()


class Hints:
    """Enqueues hints on a connection's own transaction."""

    def __init__(self, app: procrastinate.App) -> None:
        self._app = app

    async def send(self, connection: AsyncConnection) -> None:
        raw = await connection.get_raw_connection()
        driver: Any = raw.driver_connection
        await self._app.configure_task(TASK, queue=QUEUE, connection=driver).defer_async()
