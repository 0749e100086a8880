"""Mail to operators about what concerns their own access."""

from __future__ import annotations

from datetime import datetime

from yugum.core.mails import Mail, MailKind
from yugum.engine.posting import post
from yugum.ports.services import Vault
from yugum.ports.units import UnitOfWork


async def tell_operator(
    unit: UnitOfWork, person_id: str | None, subject: str, text: str, vault: Vault, now: datetime
) -> None:
    """Tell who an operator is; one that is nobody of the people has no address."""
    found = await unit.people.many([person_id] if person_id else [])
    mails = [
        Mail(address=p.mail, subject=subject, text=text, kind=MailKind.NOTICE, subject_id=p.id)
        for p, _ in found.values()
        if p.mail
    ]
    await post(unit, mails, vault, now)
