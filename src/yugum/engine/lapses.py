"""Invitations that nobody accepted in time are withdrawn: by a decision, made of what is seen just now."""

from __future__ import annotations

import uuid
from collections.abc import Collection, Iterable
from datetime import datetime

from yugum.core.accounts import HoldingKind
from yugum.core.decisions import Decision, DecisionKind, Payload
from yugum.core.desired import Subject, World
from yugum.core.invitations import lapses
from yugum.engine.events import make_event
from yugum.ports.units import UnitOfWork

AUTHOR = "schedule"


async def let_lapse(
    unit: UnitOfWork,
    subjects: Iterable[Subject],
    silent: Collection[str],
    world: World,
    now: datetime,
) -> bool:
    """Whoever has not accepted an invitation in time is not given the account any more; whether anybody is.

    That is a decision like any other: it stands among the person's, and once it is ended the account is
    theirs to have again. Whoever calls this has looked just now; of an application that was ``silent``
    nothing is known: somebody may have accepted since.
    """
    events = []
    for subject in subjects:
        person_id = subject.person.id
        for ends, one in lapses(subject, world, now):
            application = one.application
            if ends > now or application.id in silent:
                continue
            decision = Decision(
                id=str(uuid.uuid4()),
                subject_id=person_id,
                kind=DecisionKind.DENY,
                payload=Payload(application=application.id, kind=HoldingKind.ACCOUNT),
                author=AUTHOR,
                reason=f"the invitation of {one.sent:%-d %b %Y} was not accepted",
            )
            await unit.decisions.put(decision, now, None)
            payload = {
                "application": application.id,
                "login": one.account.login,
                "sent": str(one.sent),
            }
            events.append(make_event(now, AUTHOR, "invitation.lapsed", person_id, payload))
    await unit.audit.add(events)
    return bool(events)
