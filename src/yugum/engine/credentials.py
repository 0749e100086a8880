"""Initial credentials: told of by a one-time link, seen once or replaced by one's own, then erased."""

from __future__ import annotations

import base64
import secrets
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from yugum.core.accounts import Account
from yugum.core.causes import CredentialCause
from yugum.core.closing import plan_credential
from yugum.core.documents import Document
from yugum.core.mails import Mail, MailKind, credential_mail, typed_mail
from yugum.core.passwords import CharacterClass, shortcomings
from yugum.core.people import full_name
from yugum.core.verbs import Verb
from yugum.engine.at_once import Asked, start_at_once
from yugum.engine.context import load_applications
from yugum.engine.events import make_event
from yugum.engine.hashing import hashed
from yugum.engine.posting import post
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
    """What was behind a link, shown this once; with a ``place`` it is the key with which that runs."""

    application: str
    login: str
    secret: str
    place: str


@dataclass(frozen=True, slots=True)
class PasswordRules:
    """Whose account a link is about and what a password there must be like; with a ``place`` it is the key of that."""

    application: str
    login: str
    length: int
    needs: Sequence[CharacterClass]
    place: str = ""


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

    @property
    def hours(self) -> float:
        """How long a link that is handed over opens something."""
        return self._settings.link_hours

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
        async with self._database.unit() as unit:
            account = await unit.accounts.get(account_id)
            token = await self._linked(unit, account, author, {"check": check}, now)
        return token, self.hours

    async def _linked(
        self, unit: UnitOfWork, account: Account, author: str, said: Document, now: datetime
    ) -> str:
        """The token of a new link, with what was ``said`` on record."""
        token = secrets.token_urlsafe(24)
        await unit.credentials.link(account.id, hashed(token), self.hours * 3600)
        payload: Document = {"account": account.id, **said}
        subject = account.person_id or account.id
        await unit.audit.add([make_event(now, author, "credential.link", subject, payload)])
        return token

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
        return Opened(opened.application_name, opened.login, secret, opened.place)

    async def rules_behind(self, token: str) -> PasswordRules:
        """Whose account a link is about and what a password there must be like; opens nothing."""
        async with self._database.unit() as unit:
            row = await unit.credentials.behind(hashed(token))
            profile = (await load_applications(unit))[row.application_id].profile
        return PasswordRules(
            row.application_name,
            row.login,
            profile.password_length,
            profile.password_needs,
            row.place,
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
            if row.place:
                raise InvalidInput(
                    "What a program runs with cannot be chosen.",
                    place="password",
                    remedy="Show the key instead.",
                )
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
            cause = CredentialCause(account=row.account_id, sealed=sealed)
            who, why = f"link from {source}", "chosen by its owner"
            number = await _start(unit, cause, who, why, "", now)
        return Chosen(row.application_name, row.login, number)

    async def renew(self, account_id: str, author: str, reason: str, reference: str) -> int:
        """A new initial credential for an account, told of as the first was; its docket's number."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            cause = CredentialCause(account=account_id)
            return await _start(unit, cause, author, reason, reference, now)

    async def rules_of(self, account_id: str) -> PasswordRules:
        """What a password of an account must be like."""
        async with self._database.unit() as unit:
            account = await unit.accounts.get(account_id)
            application = (await load_applications(unit))[account.application_id]
        profile = application.profile
        return PasswordRules(
            application.name, account.login, profile.password_length, profile.password_needs
        )

    async def type(
        self, account_id: str, password: str, author: str, reason: str, reference: str
    ) -> int:
        """A credential that somebody types for the account's owner, who is told that it was; its docket.

        Raises:
            InvalidInput: it does not satisfy the application's rules.
        """
        rules, now = await self.rules_of(account_id), await self._clock.now()
        if lacking := shortcomings(password, rules.length, rules.needs, rules.login):
            raise InvalidInput(
                f"This password needs {', '.join(lacking)}.",
                place="password",
                remedy="Type another one, or have one made.",
            )
        sealed = base64.b64encode(self._vault.seal(password)).decode()
        async with self._database.unit() as unit:
            cause = CredentialCause(account=account_id, sealed=sealed, typed=True)
            made = await _start(unit, cause, author, reason, reference, now)
            account = await unit.accounts.get(account_id)
            people = await unit.people.many([account.person_id] if account.person_id else [])
            subject, text = typed_mail(rules.application, rules.login, author)
            mails = [
                Mail(
                    address=address,
                    subject=subject,
                    text=text,
                    kind=MailKind.CREDENTIAL,
                    subject_id=person.id,
                )
                for person, _ in people.values()
                for address in filter(None, (person.mail, person.outside_mail))
            ]
            await post(unit, mails, self._vault, now)
        return made

    async def send(self, account_id: str, author: str, check: str, to: str, *, look: bool) -> Mail:
        """The mail with a new link to an account's unopened credential, to an address of this one time.

        ``check`` is how whoever gets it was identified, for the record. With ``look`` it is only
        shown, without the link.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            account = await unit.accounts.get(account_id)
            application = (await load_applications(unit))[account.application_id]
            people = await unit.people.many([account.person_id] if account.person_id else [])
            name = next((full_name(p) for p, _ in people.values()), account.login)
            subject, text = credential_mail(
                to, name, name, application.name, account.login, self.hours
            )
            mail = Mail(
                address=to,
                subject=subject,
                text=text,
                kind=MailKind.CREDENTIAL,
                subject_id=account.person_id,
            )
            if look:
                await unit.credentials.must_be_unopened(account_id)
                return mail
            said: Document = {"check": check, "address": to}
            token = await self._linked(unit, account, author, said, now)
            sent = replace(mail, secret=f"{self._settings.console_url}/c#{token}")
            await post(unit, [sent], self._vault, now)
        return mail


async def _start(
    unit: UnitOfWork,
    cause: CredentialCause,
    author: str,
    reason: str,
    reference: str,
    now: datetime,
) -> int:
    """A docket of one step that starts at once."""
    asked = Asked(
        verb=Verb.CREDENTIAL,
        cause=cause,
        author=author,
        reason=reason,
        reference=reference,
        priority=3,
        nothing="Nothing is to be done.",
        remedy="Restore or resume the account first.",
    )
    docket = await start_at_once(
        unit,
        cause.account,
        asked,
        lambda subject, world, account: plan_credential(
            subject, world, account, now, cause.sealed, typed=cause.typed
        ),
        now,
    )
    payload = {"account": cause.account, "reason": reason}
    event = make_event(now, author, "credential.asked", docket.subject_id, payload, docket.id)
    await unit.audit.add([event])
    return docket.number
