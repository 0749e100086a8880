"""Whoever takes something over is told what has arrived, and where it is."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from itertools import groupby

from yugum.core.mails import Mail, MailKind, arrived_mail
from yugum.core.verbs import Verb
from yugum.engine.posting import post
from yugum.ports.handover import Arrived
from yugum.ports.services import Vault
from yugum.ports.units import UnitOfWork

HANDING = frozenset({Verb.LEAVER, Verb.CLOSE, Verb.RECHECK, Verb.ACCOUNT})
"""Dockets that give to others what somebody owns; an undo only gives back."""


async def tell_heirs(
    unit: UnitOfWork, subject_ids: Sequence[str], vault: Vault, now: datetime
) -> None:
    """One mail a docket to each who has something by it since they were told before, also while the rest of it waits;
    nothing of what is in confidence."""
    arrived = await unit.handover.arrived(subject_ids, HANDING)
    mails = [
        _mail(list(some)) for _, some in groupby(arrived, lambda a: (a.docket_id, a.person_id))
    ]
    if mails:
        await post(unit, mails, vault, now)


def _mail(some: Sequence[Arrived]) -> Mail:
    one = some[0]
    lines = [(a.application_name, a.thing, a.count, a.names) for a in some]
    subject, text = arrived_mail(one.person_name, one.subject_name, lines)
    return Mail(
        address=one.address,
        subject=subject,
        text=text,
        kind=MailKind.NOTICE,
        subject_id=one.subject_id,
        docket_id=one.docket_id,
    )
