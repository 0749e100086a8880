"""Dovecot's administration over HTTP: sessions, scripts as stored, copying and emptying mailboxes."""

from __future__ import annotations

import asyncio
import time
from base64 import b64encode
from collections.abc import Mapping, Sequence
from typing import Any

import orjson

from yugum.connectors.web import Web
from yugum.errors import ApplicationRejected, ApplicationUnavailable

NOT_FOUND = 68
"""doveadm's exit code for a mailbox that is not there."""
BATCH = 50

Command = tuple[str, Mapping[str, object]]
Rows = list[dict[str, Any]]


class Doveadm:
    """One store's doveadm; several commands travel in one request."""

    def __init__(self, name: str, url: str, key: str, *, timeout: float) -> None:
        self._name = name
        self._url = url
        signed = f"X-Dovecot-API {b64encode(key.encode()).decode()}"
        self._web = Web(f"{name}: doveadm", timeout, headers={"Authorization": signed})

    async def close(self) -> None:
        await self._web.close()

    async def run(self, commands: Sequence[Command]) -> list[Rows | int]:
        """The rows of each command, or the exit code of one that failed.

        Raises:
            ApplicationUnavailable: nobody answers, or not in doveadm's form.
            ApplicationRejected: the key is not taken.
        """
        body = [[name, dict(values), str(n)] for n, (name, values) in enumerate(commands)]
        request = self._web.request("POST", self._url).body_bytes(orjson.dumps(body))
        answer = await self._web.send(request)
        status = answer.status
        if status in (401, 403):
            raise ApplicationRejected(
                f"{self._name}: doveadm does not take the key.", remedy="Give the right key."
            )
        try:
            answers = {a[2]: a for a in orjson.loads(answer.body)}
            return [_answer(answers[str(n)]) for n in range(len(commands))]
        except (ValueError, KeyError, IndexError, TypeError) as error:
            raise ApplicationUnavailable(
                f"{self._name}: doveadm answers {status} and nothing that can be read."
            ) from error

    async def call(self, name: str, values: Mapping[str, object]) -> Rows:
        """The rows of one command; one that fails is an error."""
        found = (await self.run([(name, values)]))[0]
        if isinstance(found, int):
            raise ApplicationRejected(f"{self._name}: doveadm {name} fails with code {found}.")
        return found

    # --- sessions ----------------------------------------------------------------------------

    async def sessions(self, login: str = "") -> dict[str, int]:
        """Open connections by login; of everybody without one."""
        rows = await self.call("who", {"mask": [login]} if login else {})
        found: dict[str, int] = {}
        for row in rows:
            name = str(row["username"])
            found[name] = found.get(name, 0) + int(row.get("connections", 1))
        return found

    async def end(self, login: str, *, seconds: float) -> int:
        """End every session of a login and see that none is left; returns how many there were."""
        first = (await self.sessions(login)).get(login, 0)
        left, deadline = first, time.monotonic() + seconds
        while left and time.monotonic() < deadline:
            await self.run([("kick", {"mask": [login]})])
            left = (await self.sessions(login)).get(login, 0)
            if left:
                await asyncio.sleep(0.05)
        return first

    # --- mail --------------------------------------------------------------------------------

    async def scripts(self, logins: Sequence[str], script: str) -> dict[str, str]:
        """The active script of that name of each login; logins without one are left out."""
        found: dict[str, str] = {}
        for begin in range(0, len(logins), BATCH):
            some = logins[begin : begin + BATCH]
            lists = await self.run([("sieveList", {"user": login}) for login in some])
            having = [
                login
                for login, rows in zip(some, lists, strict=True)
                if not isinstance(rows, int)
                and any(r.get("script") == script and r.get("active") for r in rows)
            ]
            if not having:
                continue
            asked: list[Command] = [
                ("sieveGet", {"user": login, "scriptname": script}) for login in having
            ]
            for login, rows in zip(having, await self.run(asked), strict=True):
                if not isinstance(rows, int) and rows:
                    found[login] = str(rows[0].get("sieve script", ""))
        return found

    async def folders(self, login: str, below: str = "") -> list[str]:
        values: dict[str, object] = {"user": login}
        if below:
            values["mailboxMask"] = [below, f"{below}/*"]
        return [str(r["mailbox"]) for r in await self.call("mailboxList", values)]

    async def delete(self, login: str, folder: str) -> None:
        """Remove a folder with everything below it, if it is there."""
        if not await self.folders(login, folder):
            return
        values = {"user": login, "recursive": True, "unsafe": True, "mailbox": [folder]}
        found = (await self.run([("mailboxDelete", values)]))[0]
        if isinstance(found, int) and found != NOT_FOUND:
            raise ApplicationRejected(f"{self._name}: {folder} cannot be removed ({found}).")

    async def copy_all(self, source: str, target: str, folder: str) -> None:
        """Copy every folder of a mailbox below ``folder`` of another, all or nothing.

        The copy is made beside it and then takes its place, so that an interrupted one leaves
        neither half a copy under that name nor two.
        """
        staging = f"{folder} (being copied)"
        await self.delete(target, staging)
        for name in await self.folders(source):
            copy = f"{staging}/{name}"
            await self.call("mailboxCreate", {"user": target, "mailbox": [copy]})
            await self.call(
                "copy",
                {
                    "user": target,
                    "destinationMailbox": copy,
                    "sourceType": "user",
                    "sourceUser": source,
                    "query": ["mailbox", name, "all"],
                },
            )
        await self.delete(target, folder)
        await self.call("mailboxRename", {"user": target, "mailbox": staging, "newName": folder})

    async def empty(self, login: str) -> None:
        """Remove all mail of a mailbox."""
        for folder in await self.folders(login):
            if folder != "INBOX":
                await self.delete(login, folder)
        await self.run([("expunge", {"user": login, "query": ["mailbox", "*", "all"]})])


def _answer(answer: Sequence[Any]) -> Rows | int:
    """``["doveadmResponse", rows, tag]`` or ``["error", {"exitCode": n}, tag]``."""
    if answer[0] == "error":
        return int(answer[1].get("exitCode", -1))
    return list(answer[1])
