"""Initial credentials: told of by a one-time link, seen once or replaced by one's own, then erased."""

from __future__ import annotations

import base64
import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from yugum.core.causes import CredentialCause
from yugum.core.closing import plan_credential
from yugum.core.passwords import CharacterClass, shortcomings
from yugum.core.verbs import Verb
from yugum.engine.at_once import Asked, start_at_once
from yugum.engine.context import load_applications
from yugum.engine.events import make_event
from yugum.engine.hashing import hashed
from yugum.errors import InvalidInput
from yugum.ports.clock import Clock
from yugum.ports.credentials import CredentialLine
from yugum.ports.services import Vault
from yugum.ports.units import Database, UnitOfWork
from yugum.settings import Settings


@dataclass(frozen=True, slots=True)
class CredentialOf:
    """A credential with the account it is for."""

    line: CredentialLine
    login: str
    application_name: str


@dataclass(frozen=True, slots=True)
class Opened:
    """What was behind a link, shown this once."""

    application: str
    login: str
    secret: str


@dataclass(frozen=True, slots=True)
class PasswordRules:
    """Whose account a link is about and what a password there must be like."""

    application: str
    login: str
    length: int
    needs: Sequence[CharacterClass]


@dataclass(frozen=True, slots=True)
class Chosen:
    """A password of one's own was taken; ``docket`` is the number of what sets it."""

    application: str
    login: str
    docket: int


class Credentials:
    def __init__(self, database: Database, clock: Clock, vault: Vault, settings: Settings) -> None:
        self._database = database
        self._clock = clock
        self._vault = vault
        self._settings = settings

    async def of_person(self, who: str) -> list[CredentialOf]:
        """The newest initial credential of each account of somebody, and who was told of it."""
        async with self._database.unit() as unit:
            person = await unit.people.resolve(who)
            known = await unit.accounts.known([person.id])
            accounts = {a.id: a for a in known.accounts.get(person.id, ())}
            applications = await unit.applications.all()
            lines = await unit.credentials.of(list(accounts))
        return [
            CredentialOf(
                line,
                accounts[line.account_id].login,
                applications[accounts[line.account_id].application_id].name,
            )
            for line in lines
        ]

    async def link(self, account_id: str, author: str, check: str) -> tuple[str, float]:
        """The token of a new link to an account's unopened credential, and its hours.

        ``check`` is how whoever gets it was identified, for the record.
        """
        now = await self._clock.now()
        token = secrets.token_urlsafe(24)
        hours = self._settings.link_hours
        async with self._database.unit() as unit:
            account = await unit.accounts.get(account_id)
            await unit.credentials.link(account_id, hashed(token), hours * 3600)
            payload = {"account": account_id, "check": check}
            subject = account.person_id or account_id
            await unit.audit.add([make_event(now, author, "credential.link", subject, payload)])
        return token, hours

    async def open(self, token: str, source: str) -> Opened:
        """What is behind a link: application, login and the secret, shown this once."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            opened = await unit.credentials.open(hashed(token), now)
            secret = self._vault.open(opened.cipher)
            await unit.audit.add(
                [
                    make_event(
                        now,
                        f"link from {source}",
                        "credential.opened",
                        opened.account_id,
                        {"account": opened.account_id},
                    )
                ]
            )
        return Opened(opened.application_name, opened.login, secret)

    async def rules_behind(self, token: str) -> PasswordRules:
        """Whose account a link is about and what a password there must be like; opens nothing."""
        async with self._database.unit() as unit:
            row = await unit.credentials.behind(hashed(token))
            profile = (await load_applications(unit))[row.application_id].profile
        return PasswordRules(
            row.application_name, row.login, profile.password_length, profile.password_needs
        )

    async def choose(self, token: str, password: str, source: str) -> Chosen:
        """A password of one's own instead of the one behind the link, which is used up by it.

        Raises:
            InvalidInput: it does not satisfy the application's rules; the link stays good.
        """
        now = await self._clock.now()
        digest = hashed(token)
        async with self._database.unit() as unit:
            row = await unit.credentials.behind(digest)
            profile = (await load_applications(unit))[row.application_id].profile
            lacking = shortcomings(
                password, profile.password_length, profile.password_needs, row.login
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
                row.account_id,
                sealed,
                f"link from {source}",
                "chosen by its owner",
                "",
                now,
            )
        return Chosen(row.application_name, row.login, number)

    async def renew(self, account_id: str, author: str, reason: str, reference: str) -> int:
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
    now: datetime,
) -> int:
    """A docket of one step that starts at once."""
    asked = Asked(
        verb=Verb.CREDENTIAL,
        cause=CredentialCause(account=account_id, sealed=sealed),
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
    event = make_event(now, author, "credential.asked", docket.subject_id, payload, docket.id)
    await unit.audit.add([event])
    return docket.number
