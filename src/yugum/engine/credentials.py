"""Initial credentials: told of by a one-time link, seen once or replaced by one's own, then erased."""

from __future__ import annotations

import base64
import secrets
from typing import Any

from yugum.core.closing import plan_credential
from yugum.core.dockets import Verb
from yugum.core.passwords import shortcomings
from yugum.engine.access import hashed
from yugum.engine.at_once import Asked, start_at_once
from yugum.engine.context import (
    load_applications,
)
from yugum.engine.events import make_event
from yugum.errors import InvalidInput
from yugum.ports import Clock, Database, UnitOfWork, Vault
from yugum.settings import Settings


class Credentials:
    def __init__(self, database: Database, clock: Clock, vault: Vault, settings: Settings) -> None:
        self._database = database
        self._clock = clock
        self._vault = vault
        self._settings = settings

    async def of_person(self, who: str) -> list[dict[str, Any]]:
        """The newest initial credential of each account of somebody, and who was told of it."""
        async with self._database.unit() as unit:
            person = await unit.people.resolve(who)
            known = await unit.accounts.known([person.id])
            accounts = {a.id: a for a in known.accounts.get(person.id, ())}
            applications = await unit.applications.all()
            rows = await unit.credentials.of(list(accounts))
        return [
            {
                **row,
                "login": accounts[row["account_id"]].login,
                "application_name": applications[accounts[row["account_id"]].application_id].name,
            }
            for row in rows
        ]

    async def link(self, account_id: str, author: str, check: str = "") -> tuple[str, float]:
        """The token of a new link to an account's unopened credential, and its hours.

        ``check`` is how whoever gets it was identified, for the record.
        """
        now = await self._clock.now()
        token = secrets.token_urlsafe(24)
        hours = self._settings.link_hours
        async with self._database.unit() as unit:
            account = await unit.accounts.get(account_id)
            await unit.credentials.link(account_id, hashed(token), hours * 3600)
            payload = {"account": account_id} | ({"check": check} if check else {})
            subject = account.person_id or account_id
            await unit.audit.add([make_event(now, author, "credential.link", subject, payload)])
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

    async def rules_behind(self, token: str) -> dict[str, Any]:
        """Whose account a link is about and what a password there must be like; opens nothing."""
        async with self._database.unit() as unit:
            row = await unit.credentials.behind(hashed(token))
            profile = (await load_applications(unit))[row["application_id"]].profile
        return {
            "application": row["application_name"],
            "login": row["login"],
            "length": profile.password_length,
            "needs": list(profile.password_needs),
        }

    async def choose(self, token: str, password: str, source: str) -> dict[str, Any]:
        """A password of one's own instead of the one behind the link, which is used up by it.

        Raises:
            InvalidInput: it does not satisfy the application's rules; the link stays good.
        """
        now = await self._clock.now()
        digest = hashed(token)
        async with self._database.unit() as unit:
            row = await unit.credentials.behind(digest)
            profile = (await load_applications(unit))[row["application_id"]].profile
            lacking = shortcomings(
                password, profile.password_length, profile.password_needs, row["login"]
            )
            if lacking:
                raise InvalidInput(
                    f"This password needs {', '.join(lacking)}.",
                    place="password",
                    remedy="Choose another one.",
                )
            await unit.credentials.open(digest, now)
            sealed = base64.b64encode(self._vault.seal(password)).decode()
            number = await _start(
                unit,
                row["account_id"],
                sealed,
                f"link from {source}",
                "chosen by its owner",
                "",
                now,
            )
        return {"application": row["application_name"], "login": row["login"], "docket": number}

    async def renew(self, account_id: str, author: str, reason: str, reference: str) -> str:
        """A new initial credential for an account, told of as the first was; its docket's number."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            return await _start(unit, account_id, "", author, reason, reference, now)


async def _start(
    unit: UnitOfWork,
    account_id: str,
    sealed: str,
    author: str,
    reason: str,
    reference: str,
    now: Any,
) -> str:
    """A docket of one step that starts at once."""
    asked = Asked(
        verb=Verb.CREDENTIAL,
        cause={"account": account_id, "sealed": sealed},
        author=author,
        reason=reason,
        reference=reference,
        priority=3,
        nothing="Nothing is to be done.",
        remedy="Restore or resume the account first.",
    )
    docket = await start_at_once(
        unit,
        account_id,
        asked,
        lambda subject, world, account: plan_credential(subject, world, account, now, sealed),
        now,
    )
    payload = {"account": account_id, "reason": reason}
    event = make_event(now, author, "credential.asked", docket["subject_id"], payload, docket["id"])
    await unit.audit.add([event])
    return str(docket["number"])
