"""Whoever answers for a place that names somebody is told that they leave, and what stops."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime
from zoneinfo import ZoneInfo

from yugum.core.mails import Mail, MailKind, keeper_mail
from yugum.core.mentions import Mention
from yugum.core.people import Person, full_name
from yugum.engine.context import load_applications
from yugum.engine.mails import plain
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


def _by_keeper(places: Iterable[Mention]) -> dict[str, list[Mention]]:
    """The places for which somebody answers, by the address of these."""
    found: dict[str, list[Mention]] = {}
    for mention in places:
        if "@" in mention.contact:
            found.setdefault(mention.contact.casefold(), []).append(mention)
    return found
