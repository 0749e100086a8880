"""Invitations and the duties of a first sign-in: what an account's owner has yet to do there.

Whoever holds an open invitation gets in by it: such an account counts as one in use wherever access
is meant. What of both an application shows stands among the account's settings, under names of ours.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
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
"""What no setting of an application's own is called."""

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

    ``sent`` is None where no invitation waits to be accepted, "" while it is not sent. A duty of a name
    that is not ours is none of ours.

    Raises:
        ValueError: ``sent`` is no moment (ISO 8601) that can be counted from.
    """
    names = {duty.value for duty in Duty}
    mine = sorted(names.intersection(duties))
    return {
        **({SENT: _moment(sent) if sent else NOT_SENT} if sent is not None else {}),
        **({OPEN_DUTIES: " ".join(mine)} if mine else {}),
    }


def _moment(text: str) -> str:
    """A moment in UTC: one without a zone is taken as such."""
    moment = datetime.fromisoformat(text)
    if not FIRST <= moment.year < LAST:
        raise ValueError(f"{text} is no day of an invitation")
    moment = moment if moment.tzinfo else moment.replace(tzinfo=UTC)
    return moment.astimezone(UTC).isoformat()


FIRST, LAST = 1970, 9000


@dataclass(frozen=True, slots=True)
class Invitation:
    """An open invitation: since when, and when it is withdrawn (None: never by itself)."""

    account: Account
    application: Application
    sent: datetime
    ends: datetime | None


def invitations(subject: Subject, world: World, at: datetime) -> list[Invitation]:
    """The open invitations of somebody to what something gives them."""
    invited = [(a, sent) for a in subject.accounts if (sent := invited_at(a)) is not None]
    wanted = desired(subject, world.rules, at) if invited else {}
    found = []
    for account, sent in invited:
        want, application = (
            wanted.get(account.application_id),
            world.applications.get(account.application_id),
        )
        if application is not None and want is not None and want.account is not None:
            ends = _ends(subject, account, application, sent)
            found.append(Invitation(account, application, sent, ends))
    return found


def _ends(
    subject: Subject, account: Account, application: Application, sent: datetime
) -> datetime | None:
    """When an invitation is withdrawn: as the profile says, where we have given it and may take it away."""
    days = application.profile.invitation_days
    may = application.trust is Trust.FULL and application.can(Capability.SUSPEND)
    if not days or not may or not subject.gave(account):
        return None
    return days_later(sent, days, subject.person.time_zone)


def reminders(subject: Subject, world: World, at: datetime) -> list[tuple[datetime, str]]:
    """When somebody is reminded of an invitation that stays open, each moment with why."""
    found = []
    for one in invitations(subject, world, at):
        for days in one.application.profile.invitation_remind_days:
            moment = days_later(one.sent, days, subject.person.time_zone)
            if one.ends is None or moment < one.ends:
                found.append((moment, inviting(one.application)))
    return found


INVITED = "invited to"
"""Begins the reason of a reminder that is about an invitation."""


def inviting(application: Application) -> str:
    """Why somebody is reminded of an invitation; reasons are put together with semicolons."""
    return f"{INVITED} {application.name.replace(';', ',')}"


def lapses(subject: Subject, world: World, at: datetime) -> list[tuple[datetime, Invitation]]:
    """The invitations that are withdrawn by themselves, each with when, whether or not that has come."""
    found = invitations(subject, world, at)
    return [(one.ends, one) for one in found if one.ends is not None]


def looks_at_lapses(subject: Subject, world: World, at: datetime) -> list[tuple[datetime, str]]:
    """When somebody is looked at to withdraw an invitation: on its day, then daily while it could not be."""
    zone, found = subject.person.time_zone, []
    for ends, one in lapses(subject, world, at):
        moment, days = ends, max(0, (at - ends).days)
        while moment <= at:
            days += 1
            moment = days_later(ends, days, zone)
        found.append((moment, f"the invitation to {one.application.name} was not accepted"))
    return found
