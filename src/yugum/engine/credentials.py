"""Initial credentials: a one-time link, opened once, then the secret is erased."""

from __future__ import annotations

import secrets

from yugum.engine.access import hashed
from yugum.engine.events import make_event
from yugum.ports import Clock, Database, Vault
from yugum.settings import Settings


class Credentials:
    def __init__(self, database: Database, clock: Clock, vault: Vault, settings: Settings) -> None:
        self._database = database
        self._clock = clock
        self._vault = vault
        self._settings = settings

    async def link(self, account_id: str, author: str) -> tuple[str, float]:
        """The token of a new link to an account's unopened credential, and its hours."""
        now = await self._clock.now()
        token = secrets.token_urlsafe(24)
        hours = self._settings.link_hours
        async with self._database.unit() as unit:
            account = await unit.accounts.get(account_id)
            await unit.credentials.link(account_id, hashed(token), hours * 3600)
            await unit.audit.add(
                [
                    make_event(
                        now,
                        author,
                        "credential.link",
                        account.person_id or account_id,
                        {"account": account_id},
                    )
                ]
            )
        return token, hours

    async def open(self, token: str, source: str) -> dict[str, str]:
        """What is behind a link: application, login and the secret, shown this once."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            row = await unit.credentials.open(hashed(token), now)
            secret = self._vault.open(row["cipher"])
            await unit.audit.add(
                [
                    make_event(
                        now,
                        f"link from {source}",
                        "credential.opened",
                        row["account_id"],
                        {"account": row["account_id"]},
                    )
                ]
            )
        return {"application": row["application_name"], "login": row["login"], "secret": secret}
