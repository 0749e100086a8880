"""Invitations and the duties of a first sign-in: what an account's owner has yet to do there.

Whoever holds an open invitation gets in by it: such an account counts as one in use wherever access
is meant. What of both an application shows stands among the account's settings, under names of ours.
"""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from enum import StrEnum

from yugum.core.accounts import Account, AccountState, Observed
from yugum.core.applications import Application, Capability, Duty, Trust
from yugum.core.dates import days_later
from yugum.core.desired import Subject, World, desired

SENT = "invitation.sent"
"""When the invitation was sent that is not accepted, ISO 8601; `NOT_SENT` while it waits to be."""
OPEN_DUTIES = "first_sign_in.duties"
"""The duties not done yet, with spaces between."""
NOT_SENT = "not yet"
SHOWN = frozenset({SENT, OPEN_DUTIES})
"""What an application shows and nobody sets."""

DOES = {
    Duty.PASSWORD: "set a new password",
    Duty.MAIL: "confirm the mail address",
    Duty.SECOND_FACTOR: "enrol a second factor",
    Duty.PROFILE: "complete the profile",
    Duty.TERMS: "accept the terms",
}
"""Duties as people read them."""
CAPABILITY = {duty: Capability(f"duty_{duty.value}") for duty in Duty}
"""What an application must be able to do for a duty to be asked for."""


class ToDo(StrEnum):
    """What the owner of an account has yet to do, as lists are asked for it."""

    INVITATION = "invitation"
    DUTIES = "duties"


def invited_at(account: Account | Observed) -> datetime | None:
    """Since when an invitation is open; None where there is none, or it was accepted or withdrawn."""
    sent = account.settings.get(SENT, "")
    if account.state is not AccountState.ACTIVE or not sent or sent == NOT_SENT:
        return None
    return datetime.fromisoformat(sent)


def never_accepted(account: Account | Observed) -> bool:
    """Whether nobody has ever got in: there is no credential, an invitation comes first."""
    return SENT in account.settings


def opened(account: Account) -> str:
    """What an account is once it is resumed."""
    return "invited" if never_accepted(account) else "active"


def word_of(account: Account | Observed) -> str:
    """An account's state as people read it."""
    return "invited, not accepted" if invited_at(account) else account.state.value


def duties_of(account: Account | Observed) -> tuple[Duty, ...]:
    """The duties that are not done, in their order."""
    open_ones = account.settings.get(OPEN_DUTIES, "").split()
    return tuple(duty for duty in Duty if duty.value in open_ones)


def takes_credential(account: Account, application: Application) -> bool:
    """Whether a new credential can be set: somebody gets in by the account, or has got in."""
    if account.state is not AccountState.ACTIVE or never_accepted(account):
        return False
    return application.can(Capability.CREDENTIAL)


def askable(account: Account, application: Application) -> list[Duty]:
    """The duties that can be asked for at the next sign-in and are not."""
    if account.state not in (AccountState.ACTIVE, AccountState.SUSPENDED):
        return []
    open_ones = duties_of(account)
    return [d for d in Duty if application.can(CAPABILITY[d]) and d not in open_ones]


def shown(sent: str | None, duties: Iterable[str]) -> dict[str, str]:
    """The settings that say of an account what its owner has yet to do.

    ``sent`` is None where no invitation waits to be accepted. A duty of a name that is not ours is
    none of ours.
    """
    names = {duty.value for duty in Duty}
    mine = sorted(names.intersection(duties))
    return {
        **({SENT: sent or NOT_SENT} if sent is not None else {}),
        **({OPEN_DUTIES: " ".join(mine)} if mine else {}),
    }


def lapses_at(account: Account, application: Application, zone: str) -> datetime | None:
    """When an open invitation is withdrawn, where the application's profile says so and we may."""
    sent, days = invited_at(account), application.profile.invitation_days
    if sent is None or not days or application.trust is not Trust.FULL:
        return None
    return days_later(sent, days, zone) if application.can(Capability.SUSPEND) else None


def invitations(subject: Subject, world: World, at: datetime) -> list[tuple[Account, Application]]:
    """The accounts with an open invitation that something gives."""
    invited = [a for a in subject.accounts if invited_at(a) is not None]
    wanted = desired(subject, world.rules, at) if invited else {}
    return [
        (a, world.applications[a.application_id])
        for a in invited
        if (want := wanted.get(a.application_id)) is not None and want.account is not None
    ]


def reminders(subject: Subject, world: World, at: datetime) -> list[tuple[datetime, str]]:
    """When somebody is reminded of an invitation that stays open, each moment with why."""
    zone, found = subject.person.time_zone, []
    for account, application in invitations(subject, world, at):
        sent, over = invited_at(account), lapses_at(account, application, zone)
        assert sent is not None
        for days in application.profile.invitation_remind_days:
            moment = days_later(sent, days, zone)
            if over is None or moment < over:
                found.append((moment, f"{INVITED} {application.name}"))
    return found


INVITED = "invited to"
"""Begins the reason of a reminder that is about an invitation."""


def lapses(
    subject: Subject, world: World, at: datetime
) -> list[tuple[datetime, Account, Application]]:
    """The invitations that are withdrawn at a moment, whether or not that has come."""
    zone = subject.person.time_zone
    return [
        (moment, account, application)
        for account, application in invitations(subject, world, at)
        if (moment := lapses_at(account, application, zone)) is not None
    ]


def lapsed(application: Application) -> str:
    """Why somebody is looked at whose invitation is withdrawn."""
    return f"the invitation to {application.name} was not accepted"
