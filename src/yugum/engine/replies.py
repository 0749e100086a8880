"""Replies kept by Idempotency-Key: what was done once is not done again."""

from __future__ import annotations

import asyncio
from contextlib import suppress

from yugum.core.documents import Json
from yugum.ports.idempotency import KeptReply
from yugum.ports.units import Database

LEASE_SECONDS = 30.0
"""How long the key of a request is held for a process that does not say that it still lives."""


class Replies:
    def __init__(self, database: Database) -> None:
        self._database = database

    async def begin(self, operator_id: str, key: str, fingerprint: str) -> KeptReply | None:
        """None when a request is the first with its key, else what the first got."""
        async with self._database.unit() as unit:
            return await unit.idempotency.begin(operator_id, key, fingerprint, LEASE_SECONDS)

    async def hold(self, operator_id: str, key: str) -> None:
        """Hold a key for as long as the request runs."""
        while True:
            await asyncio.sleep(LEASE_SECONDS / 3)
            with suppress(Exception):  # the next time, or the lease is over
                async with self._database.unit() as unit:
                    await unit.idempotency.hold(operator_id, key, LEASE_SECONDS)

    async def end(self, operator_id: str, key: str, status: int, reply: Json) -> None:
        """Keep what a request got."""
        async with self._database.unit() as unit:
            await unit.idempotency.end(operator_id, key, status, reply)

    async def drop(self, operator_id: str, key: str) -> None:
        """Let a key that got no reply be used again."""
        async with self._database.unit() as unit:
            await unit.idempotency.drop(operator_id, key)
