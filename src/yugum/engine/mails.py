"""Mail: posted in the transaction that makes it due, delivered by any worker, at least once."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

import structlog

from yugum.core.dockets import Docket, StepState
from yugum.core.invitations import INVITED, invitations, inviting
from yugum.core.mails import (
    Mail,
    MailKind,
    again,
    credential_mail,
    filled,
    invitation_mail,
    review_mail,
    term_mail,
)
from yugum.core.obligations import AND, REVIEWED
from yugum.core.people import Person, PersonState, full_name, state_at
from yugum.core.precautions import precautions, review_moment
from yugum.core.roles import DeliverTo, Notice, NoticeAt, Rules
from yugum.core.verbs import MEASURES, Verb
from yugum.engine.context import load_rules, load_subjects, load_world
from yugum.engine.events import make_event
from yugum.engine.hashing import hashed
from yugum.engine.keepers import tell_key
from yugum.engine.managers import manager_of
from yugum.engine.posting import post
from yugum.errors import MailFailed
from yugum.ports.clock import Clock
from yugum.ports.credentials import UntoldCredential
from yugum.ports.mails import MailLine
from yugum.ports.pages import ListPage
from yugum.ports.plans import ConfirmedDocket
from yugum.ports.services import Mailer, Vault
from yugum.ports.units import Database, UnitOfWork
from yugum.settings import Settings

log = structlog.get_logger("yugum.mail")
PORTION = 20


class Mails:
    def __init__(
        self, database: Database, clock: Clock, vault: Vault, settings: Settings, mailer: Mailer
    ) -> None:
        self._database = database
        self._clock = clock
        self._vault = vault
        self._settings = settings
        self._mailer = mailer

    async def page(
        self,
        who: str,
        cursor: str | None,
        limit: int,
        *,
        kind: MailKind | None = None,
        unsent: bool = False,
    ) -> ListPage[MailLine]:
        async with self._database.unit(alone=True) as unit:
            subject_id = (await unit.people.resolve(who)).id if who else ""
            return await unit.mails.page(subject_id, cursor, limit, kind=kind, unsent=unsent)

    async def deliver(self) -> int:
        """Send what is due; returns how many went out. A failure is kept and tried again."""
        sent = 0
        for _ in range(PORTION):
            async with self._database.unit() as unit:
                row = await unit.mails.claim()
            if row is None:
                break
            text = row.text
            if row.sealed:
                text = f"{text}\n\n{self._vault.open(row.sealed)}\n"
            try:
                await self._mailer.send(row.id, row.address, row.subject, text)
            except Exception as error:  # noqa: BLE001 - what is wrong with one mail stops no other
                said = error.message if isinstance(error, MailFailed) else "It cannot be written"
                if not isinstance(error, MailFailed):
                    said = f"{said} ({type(error).__name__}): is the address right?"
                log.warning("mail failed", mail=row.id, error=said)
                async with self._database.unit() as unit:
                    await unit.mails.failed(row.id, said)
                continue
            now = await self._clock.now()
            async with self._database.unit() as unit:
                await unit.mails.sent(row.id, now)
            sent += 1
        return sent

    async def tell_credentials(self) -> int:
        """Say where new initial credentials can be fetched; returns how many were told of.

        The receivers stand in the rules: the manager, an outside address, or the help desk, which
        hands it over after a recorded identity check. The first that there is gets it.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            rows = await unit.credentials.untold(PORTION)
            if not rows:
                return 0
            rules = await load_rules(unit)
            for row in rows:
                await self._tell(unit, row, rules, now)
        return len(rows)

    async def _tell(
        self, unit: UnitOfWork, row: UntoldCredential, rules: Rules, now: datetime
    ) -> None:
        if row.place:
            await tell_key(unit, row, rules, self._vault, self._settings.console_url, now)
            return
        people = await unit.people.many([row.person_id] if row.person_id else [])
        person = next((p for p, _ in people.values()), None)
        how, address, receiver = DeliverTo.HELP_DESK, "", "the help desk"
        if person is not None:
            how, address, receiver = await _receiver(unit, person, rules, now)
        if address and person is not None:
            hours = rules.delivery.valid_hours
            token = secrets.token_urlsafe(24)
            await unit.credentials.link_one(row.id, hashed(token), hours * 3600)
            subject, text = credential_mail(
                address, receiver, full_name(person), row.application_name, row.login, hours
            )
            mail = Mail(
                address=address,
                subject=subject,
                text=text,
                kind=MailKind.CREDENTIAL,
                secret=f"{self._settings.console_url}/c#{token}",
                subject_id=person.id,
                docket_id=row.docket_id,
            )
            await post(unit, [mail], self._vault, now)
        await unit.credentials.told(row.id, now, receiver, how.value)
        payload = {"account": row.account_id, "to": receiver, "how": how.value, "address": address}
        subject_id = row.person_id or row.account_id
        await unit.audit.add(
            [make_event(now, "schedule", "credential.told", subject_id, payload, row.docket_id)]
        )

    async def remind(self, unit: UnitOfWork, due: Mapping[str, str], now: datetime) -> None:
        """Tell of what comes: managers of a fixed term's end, authors of a precaution's review.

        Whoever has an invitation open is told as well, with the manager.
        """
        people = await unit.people.many(list(due))
        mails = []
        for person, _ in people.values():
            told = due[person.id].split(AND)
            if REVIEWED in told:
                mails += await self._reviews(unit, person, now)
            if any(basis != REVIEWED and not basis.startswith(INVITED) for basis in told):
                mails += await self._term(unit, person, now)
        mails += await self._invited(unit, due, people, now)
        await post(unit, mails, self._vault, now)

    async def _term(self, unit: UnitOfWork, person: Person, now: datetime) -> list[Mail]:
        boss = await manager_of(unit, person, now)
        address = (boss.mail or boss.outside_mail) if boss else ""
        if boss is None or not address:
            return []
        subject, text = term_mail(
            full_name(boss), full_name(person), str(person.contract_ends), self._page(person)
        )
        return [_reminder(address, subject, text, person)]

    async def _invited(
        self,
        unit: UnitOfWork,
        due: Mapping[str, str],
        people: Mapping[str, tuple[Person, int]],
        now: datetime,
    ) -> list[Mail]:
        """To whoever is invited, wherever they can be reached, and to the manager."""
        some = {i: people[i][0] for i, bases in due.items() if INVITED in bases and i in people}
        if not some:
            return []
        world, known = await load_world(unit), await unit.accounts.known(list(some))
        mails = []
        for i, subject in (await load_subjects(unit, some, known, now, world.rules)).items():
            told = due[i].split(AND)
            # What was accepted in the meantime is not among them.
            waiting = [
                (one.application.name, one.sent, one.ends)
                for one in invitations(subject, world, now)
                if inviting(one.application) in told
            ]
            person, boss = some[i], await manager_of(unit, some[i], now)
            theirs = [person.mail, person.outside_mail]
            theirs += [boss.mail or boss.outside_mail] if boss else []
            if waiting:
                title, text = invitation_mail(full_name(person), waiting)
                addresses = dict.fromkeys(filter(None, theirs))
                mails += [_reminder(address, title, text, person) for address in addresses]
        return mails

    async def _reviews(self, unit: UnitOfWork, person: Person, now: datetime) -> list[Mail]:
        found = []
        for decision in precautions(await unit.decisions.in_force(person.id, now), now):
            if review_moment(decision, person.time_zone) > now:
                continue
            author = await unit.operators.by_login(decision.author)
            held = await unit.people.many([author.person_id] if author and author.person_id else [])
            address = next((p.mail for p, _ in held.values()), "")
            if author is None or not address:
                continue
            subject, text = review_mail(
                author.name or author.login,
                full_name(person),
                MEASURES.get(decision.payload.measure, decision.payload.measure),
                f"{decision.made:%-d %b %Y}",
                self._page(person),
            )
            once = f"review|{decision.id}|{decision.payload.review}"
            found.append(replace(_reminder(address, subject, text, person), event=once))
        return found

    def _page(self, person: Person) -> str:
        return f"{self._settings.console_url}/people/{person.user_name}"


def _reminder(address: str, subject: str, text: str, person: Person) -> Mail:
    return Mail(
        address=address,
        subject=subject,
        text=text,
        kind=MailKind.REMINDER,
        subject_id=person.id,
    )


async def _receiver(
    unit: UnitOfWork, person: Person, rules: Rules, now: datetime
) -> tuple[DeliverTo, str, str]:
    for how in rules.delivery.to:
        if how is DeliverTo.OUTSIDE_MAIL and person.outside_mail:
            return how, person.outside_mail, full_name(person)
        if how is DeliverTo.MANAGER:
            boss = await manager_of(unit, person, now)
            if boss is not None and (boss.mail or boss.outside_mail):
                return how, boss.mail or boss.outside_mail, full_name(boss)
    return DeliverTo.HELP_DESK, "", "the help desk"


@dataclass(frozen=True, slots=True)
class Told:
    """What a notice says of a docket."""

    docket_id: str
    number: int
    verb: Verb
    subject_id: str
    due_at: datetime

    @classmethod
    def of(cls, docket: Docket | ConfirmedDocket) -> Told:
        return cls(docket.id, docket.number, docket.verb, docket.subject_id, docket.due_at)


async def notify(
    unit: UnitOfWork,
    dockets: Sequence[Told],
    at: NoticeAt,
    rules: Rules,
    vault: Vault,
    now: datetime,
) -> None:
    """The notices the rules name for dockets; each goes once for what it tells of."""
    verbs = {n.verb for n in rules.notices if n.at is at}
    mine = [d for d in dockets if d.verb in verbs]
    if not mine:
        return
    people = await unit.people.many([d.subject_id for d in mine])
    mails: list[Mail] = []
    for docket in mine:
        if docket.subject_id not in people:
            continue
        person = people[docket.subject_id][0]
        for notice in rules.notices:
            if notice.verb is not docket.verb or notice.at is not at:
                continue
            todo = ""
            if "{again}" in notice.text and at is NoticeAt.DONE:
                todo = await _again(unit, docket.docket_id)
            for to in notice.to:
                address = await _address(unit, to, person, now)
                if "@" in address:
                    mails.append(_notice(notice, docket, person, address, todo))
    await post(unit, mails, vault, now)


async def _address(unit: UnitOfWork, to: str, person: Person, now: datetime) -> str:
    """Where a notice goes: an address, the manager's, or the person's own that can be read."""
    if to == "manager":
        boss = await manager_of(unit, person, now)
        return (boss.mail or boss.outside_mail) if boss else ""
    if to == "person":
        own = (person.mail, person.outside_mail)
        inside = state_at(person, now) is PersonState.ACTIVE
        return next((a for a in (own if inside else own[::-1]) if a), "")
    return to


async def _again(unit: UnitOfWork, docket_id: str) -> str:
    done = await unit.dockets.one(docket_id)
    return again(
        (s.application_name, s.action, s.item) for s in done.steps if s.state is StepState.DONE
    )


EVENTS: Mapping[Verb, Callable[[Person], object]] = {
    Verb.JOINER: lambda p: p.starts,
    Verb.LEAVER: lambda p: p.access_ends,
    Verb.ABSENCE: lambda p: p.absent_from,
}
"""What of a person a docket of a verb is about: of two for the same a notice goes once."""


def _notice(notice: Notice, docket: Told, person: Person, address: str, todo: str) -> Mail:
    about = EVENTS[docket.verb](person) if docket.verb in EVENTS else docket.docket_id
    values = {
        "again": todo,
        "name": full_name(person),
        "verb": docket.verb.value,
        "when": f"{docket.due_at:%a %-d %b %Y %H:%M} UTC",
        "docket": str(docket.number),
    }
    return Mail(
        address=address,
        subject=filled(notice.subject, values),
        text=filled(notice.text, values),
        kind=MailKind.NOTICE,
        subject_id=person.id,
        docket_id=docket.docket_id,
        event=f"{notice.name}|{notice.at}|{person.id}|{address}|{about}",
    )
