"""Mailboxes handed over and copied: into folders of somebody else's."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any
from uuid import UUID

from yugum.connectors.dovecot.doveadm import Doveadm
from yugum.connectors.dovecot.rows import by_id
from yugum.connectors.pooled import Connection
from yugum.core.accounts import Asset
from yugum.core.actions import Arguments, Done
from yugum.errors import ApplicationRejected

HANDED = "Handed over"
COPIED = "Copied"


class Handing:
    def __init__(self, name: str, doveadm: Doveadm) -> None:
        self._name = name
        self._doveadm = doveadm

    async def transfer(
        self, connection: Connection, row: Mapping[str, Any], arguments: Arguments
    ) -> Done:
        """Copy a mailbox into a folder of its new owner, then write down whose it is.

        Given back to itself, the folder goes from who had it; what they filed elsewhere stays.
        """
        source = UUID(arguments.from_external_id or str(row["id"]))
        target = await by_id(connection, arguments.to_external_id)
        holder = await by_id(connection, str(source))
        if target is None or holder is None:
            raise ApplicationRejected(
                f"{arguments.to_name} has no mailbox in {self._name} any more.",
                remedy="Name another successor.",
            )
        only = arguments.only
        moving = [(k, n) for k, n in holder["owned"] or () if only is None or k in only]
        for key, login in moving:
            folder = f"{HANDED}/{login}"
            home = UUID(key) == target["id"]
            if home:
                await self._doveadm.delete(holder["login"], folder)
            elif key == str(source):
                await self._doveadm.copy_all(login, target["login"], folder)
            await connection.execute(
                "UPDATE mailboxes SET owner = %s WHERE id = %s",
                (None if home else target["id"], key),
            )
        moved = tuple(Asset("mailbox", key, name) for key, name in moving)
        return Done(assets=moved, to=arguments.to_name)

    async def copy(
        self, connection: Connection, row: Mapping[str, Any], arguments: Arguments
    ) -> Done:
        """Copy what a mailbox owns into folders of another one; each is theirs as before."""
        target = await by_id(connection, arguments.to_external_id)
        if target is None:
            raise ApplicationRejected(
                f"{arguments.to_name} has no mailbox in {self._name} any more.",
                remedy="Name somebody else.",
            )
        only = arguments.only
        copied = [(k, n) for k, n in row["owned"] or () if only is None or k in only]
        for _, login in copied:
            await self._doveadm.copy_all(login, target["login"], f"{COPIED}/{login}")
        copies = (Asset("mailbox", f"{k}/{target['id']}", f"{COPIED}/{n}") for k, n in copied)
        return Done(assets=tuple(copies), copied=tuple(k for k, _ in copied), to=arguments.to_name)
