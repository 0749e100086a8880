"""Whoever answers for a place that names somebody is told that they leave, and what stops."""

from __future__ import annotations

import secrets
from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime
from zoneinfo import ZoneInfo

from yugum.core.documents import Document
from yugum.core.mails import Mail, MailKind, keeper_mail, key_mail
from yugum.core.mentions import Mention
from yugum.core.people import Person, full_name
from yugum.core.roles import DeliverTo, Rules
from yugum.engine.context import load_applications
from yugum.engine.events import make_event
from yugum.engine.hashing import hashed
from yugum.engine.posting import plain, post
from yugum.ports.credentials import UntoldCredential
from yugum.ports.services import Vault
from yugum.ports.units import UnitOfWork


async def tell_keepers(
    unit: UnitOfWork, leaving: Mapping[str, tuple[Person, Sequence[Mention]]], now: datetime
) -> None:
    """One mail to each who answers for such a place, of each end of somebody's access once; nothing of what is in confidence."""
    named = {i: some for i, (_, places) in leaving.items() if (some := _by_keeper(places))}
    if not named:
        return
    quiet = await unit.mentions.in_confidence(list(named))
    applications = await load_applications(unit)
    mails: list[Mail] = []
    for person_id, keepers in named.items():
        person = leaving[person_id][0]
        if person_id in quiet or person.access_ends is None:
            continue
        ends = person.access_ends.astimezone(ZoneInfo(person.time_zone))
        for address, places in keepers.items():
            if address == person.mail.casefold():
                continue
            lines = [
                (applications[m.application_id].name, m.place, m.effect)
                for m in places
                if m.application_id in applications
            ]
            when = f"{ends:%a %-d %b %Y %H:%M}"
            over = person.access_ends <= now
            subject, text = keeper_mail(full_name(person), when, lines, over=over)
            mails.append(
                Mail(
                    address=address,
                    subject=subject,
                    text=text,
                    kind=MailKind.NOTICE,
                    subject_id=person_id,
                    event=f"keeper {person_id} {person.access_ends.isoformat()} {address}",
                )
            )
    await unit.mails.post([plain(mail, now) for mail in mails])


async def tell_key(
    unit: UnitOfWork,
    row: UntoldCredential,
    rules: Rules,
    vault: Vault,
    console_url: str,
    now: datetime,
) -> None:
    """Whoever answers for what runs with a key gets a new one; where nobody does the help desk hands it over."""
    how = DeliverTo.OUTSIDE_MAIL if row.contact else DeliverTo.HELP_DESK
    receiver = row.contact or "the help desk"
    if row.contact:
        hours = rules.delivery.valid_hours
        token = secrets.token_urlsafe(24)
        await unit.credentials.link_one(row.id, hashed(token), hours * 3600)
        until = f"{datetime.fromisoformat(row.until):%a %-d %b %Y %H:%M} UTC" if row.until else ""
        subject, text = key_mail(receiver, row.application_name, row.place, until, hours)
        mail = Mail(
            address=row.contact,
            subject=subject,
            text=text,
            kind=MailKind.CREDENTIAL,
            secret=f"{console_url}/c#{token}",
            subject_id=row.person_id,
            docket_id=row.docket_id,
        )
        await post(unit, [mail], vault, now)
    await unit.credentials.told(row.id, now, receiver, how.value)
    said: Document = {"account": row.account_id, "place": row.place, "to": receiver}
    whose = row.person_id or row.account_id
    await unit.audit.add([make_event(now, "schedule", "key.told", whose, said, row.docket_id)])


def _by_keeper(places: Iterable[Mention]) -> dict[str, list[Mention]]:
    """The places for which somebody answers, by the address of these."""
    found: dict[str, list[Mention]] = {}
    for mention in places:
        if "@" in mention.contact:
            found.setdefault(mention.contact.casefold(), []).append(mention)
    return found
