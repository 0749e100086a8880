"""Dated obligations: what must happen to an account later, and when.

A function of the state: facts, decisions, rules, profiles, holds, what is held. Everything is counted
from the moment of the fact it follows from, never from the time of looking.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from yugum.core.accounts import Account, AccountKind, AccountState
from yugum.core.actions import GONE
from yugum.core.applications import Application
from yugum.core.dates import days_later
from yugum.core.decisions import Decision, DecisionKind, in_force
from yugum.core.desired import Subject, World, desired, prepared_from
from yugum.core.handover import kept_by
from yugum.core.invitations import looks_at_lapses, reminders
from yugum.core.people import PersonState, start_moment, state_at
from yugum.core.precautions import is_precaution, precautions, review_moment
from yugum.core.procedures import later_steps
from yugum.core.rights import ruled
from yugum.core.verbs import Verb
from yugum.core.windows import close_due, setting_ends

HELD_BACK = "a hold brings it back first"
REVIEWED = "a precaution is to be looked at again"
AND = "; "
"""Between what somebody is reminded of at the same moment."""


class ObligationKind(StrEnum):
    """What falls due: all but a reminder become a docket of that verb."""

    CLOSE = "close"
    PURGE = "purge"
    RECHECK = "recheck"
    REMIND = "remind"


class ObligationState(StrEnum):
    """``due`` once its moment has come, ``taken`` while a docket carries it out."""

    OPEN = "open"
    DUE = "due"
    TAKEN = "taken"
    DONE = "done"
    CANCELLED = "cancelled"


LIVE = frozenset({ObligationState.OPEN, ObligationState.DUE, ObligationState.TAKEN})
"""States of what has not ended."""


@dataclass(frozen=True, slots=True)
class Owed:
    """``account_id`` is "" when it is about the person."""

    account_id: str
    kind: ObligationKind
    due: datetime
    basis: str


def owed(subject: Subject, world: World, at: datetime) -> tuple[Owed, ...]:
    """Everything that falls due for a subject as it stands now, also what has fallen due already.

    A close is owed for an account nothing gives any more, a purge for a deleted one, a recheck
    for the next date that changes what the person should have. Under a hold nothing is closed
    before its end, and something already deleted is due when the hold began: it is brought back to
    suspended before its window can run out.
    """
    result: list[Owed] = []
    wanted = desired(subject, world.rules, at)
    groups = [a for a in subject.accounts if a.kind is AccountKind.GROUP]
    for account in (*ruled(subject, world), *groups):
        application = world.applications[account.application_id]
        if account.state is AccountState.DELETED:
            result += _purge(subject, world, account, application, at)
        elif subject.is_person and account.application_id not in wanted:
            close = closing(subject, world, account, application, at)
            result += [] if close is None else [close]
    given = [world.applications[a] for a in wanted if a in world.applications]
    result.extend(
        Owed("", ObligationKind.RECHECK, moment, basis)
        for moment, basis in _turns(subject, world, given, at)
    )
    result.extend(_reminders(subject, world, at))
    return tuple(result)


def _purge(
    subject: Subject, world: World, account: Account, application: Application, at: datetime
) -> list[Owed]:
    until = account.recoverable_until
    if until is None:
        return []
    hold = brought_back(subject, world, account, at)
    if hold is not None and at < until:
        return [Owed(account.id, ObligationKind.PURGE, hold, HELD_BACK)]
    basis = f"window of {application.profile.window_days} days"
    return [Owed(account.id, ObligationKind.PURGE, until, basis)]


def brought_back(subject: Subject, world: World, account: Account, at: datetime) -> datetime | None:
    """Since when a hold in force at a moment has a deleted account brought back."""
    holds = in_force(_holds(subject, world, account), at)
    return min((h.since or at for h in holds), default=None)


def closing(
    subject: Subject, world: World, account: Account, application: Application, at: datetime
) -> Owed | None:
    """When an account is closed that nothing gives; one found there goes only with its person."""
    person, right = subject.person, subject.rights.get(account.id)
    left = state_at(person, at) is PersonState.LEFT
    if not left and not subject.gave(account):
        return None
    if left:
        assert person.access_ends is not None
        ended, known = person.access_ends, subject.end_known_at
        basis = "closes after the access ended"
    elif right is not None and right.until is not None:
        ended, known = right.until, right.known_at
        basis = "closes after nothing gives it any more"
    else:
        return None
    if account.restored_at is not None:
        ended = max(ended, account.restored_at)
    due = close_due(ended, application, person.time_zone)
    if known is not None and known > ended:
        due = max(due, known + timedelta(hours=world.rules.grace_hours))
    if right is not None and right.not_before is not None:
        due = max(due, right.not_before)
    holds = [*_holds(subject, world, account), *kept_by(subject, account, at)]
    free = _free_from(holds, due)
    if free is not None and free < at:  # one placed since it was due keeps it as well
        still = _free_from(holds, at)
        free = free if still == at else still
    return None if free is None else Owed(account.id, ObligationKind.CLOSE, free, basis)


def _holds(subject: Subject, world: World, account: Account) -> list[Decision]:
    """Every hold on the person or on the application of an account, ended ones among them."""
    theirs = (*subject.decisions, *world.holds.get(account.application_id, ()))
    return [d for d in theirs if d.kind is DecisionKind.HOLD]


def _free_from(holds: Iterable[Decision], due: datetime) -> datetime | None:
    """The first moment from ``due`` on that no hold covers; None where one has no end."""
    for hold in sorted(holds, key=lambda h: (h.ends is None, h.ends)):
        if (hold.since is None or hold.since <= due) and (hold.ends is None or due < hold.ends):
            if hold.ends is None:
                return None
            due = hold.ends
    return due


def _reminders(subject: Subject, world: World, at: datetime) -> list[Owed]:
    """The next moment of which somebody is reminded: a term's end, a review, an open invitation."""
    person = subject.person
    moments = [
        (review_moment(d, person.time_zone), REVIEWED) for d in precautions(subject.decisions, at)
    ]
    if person.contract_ends is not None and person.access_ends is not None:
        basis = f"the term ends {person.contract_ends}"
        for days in world.rules.procedure(Verb.EXTENSION).remind_days:
            moments.append((days_later(person.access_ends, -days, person.time_zone), basis))
    moments += reminders(subject, world, at)
    first = min((moment for moment, _ in moments if moment > at), default=None)
    if first is None:
        return []
    due = sorted({basis for moment, basis in moments if moment == first})
    return [Owed("", ObligationKind.REMIND, first, AND.join(due))]


def _mail_ends(
    subject: Subject, applications: Mapping[str, Application]
) -> list[tuple[datetime, str]]:
    """When what a leaver's accounts were set to for a time is over."""
    person = subject.person
    if person.access_ends is None:
        return []
    return [
        (moment, f"{name} ends in {application.name}")
        for account in subject.accounts
        if account.state not in (AccountState.DELETED, AccountState.PURGED)
        and (application := applications.get(account.application_id)) is not None
        for name, moment in setting_ends(person.access_ends, application, person.time_zone).items()
    ]


def _custodian(subject: Subject) -> list[tuple[datetime, str]]:
    """When what somebody still owns or is named by, and nobody takes over, goes to the custodian."""
    since = subject.custodian_from()
    there = [a for a in subject.accounts if a.state not in GONE]
    left = any(a.assets for a in there) or (there and subject.mentions)
    return [(since, "what is open goes to the custodian")] if since is not None and left else []


def dates(subject: Subject, applications: Iterable[Application]) -> list[tuple[datetime, str]]:
    """Every moment at which dates and decisions of somebody change what is given, with why, in order.

    ``applications`` are those whose preparations count.
    """
    person = subject.person
    moments = [
        (start_moment(person), "first day"),
        (person.access_ends, "access ends"),
        (person.absent_from, "absence begins"),
        (person.absent_until, "absence ends"),
    ]
    moments += [
        (prepared_from(person, a), "accounts are prepared")
        for a in applications
        if a.profile.prepare_days
    ]
    for decision in subject.decisions:
        told = TOLD.get(decision.kind)
        if told is not None and not is_precaution(decision):
            moments.append((decision.starts, f"{told} begins: {decision.reason}"))
            moments.append((decision.ends, f"{told} ends: {decision.reason}"))
    found = [(moment, basis) for moment, basis in moments if moment is not None]
    return sorted(found, key=lambda m: m[0])


TOLD: Mapping[DecisionKind, str] = {
    DecisionKind.GRANT: "an exception",
    DecisionKind.DENY: "an exception",
    DecisionKind.ROLE: "a role given by hand",
    DecisionKind.SUSPEND: "a suspension asked for",
    DecisionKind.HOLD: "a hold",
    DecisionKind.SUCCESSOR: "a successor named",
}
"""Decisions whose beginning and end change something, as people read of them."""


def _turns(
    subject: Subject, world: World, given: Iterable[Application], at: datetime
) -> list[tuple[datetime, str]]:
    """The next moment at which the person's own dates change what is due."""
    mine = {a.id: a for a in given}
    mine |= {a.application_id: world.applications[a.application_id] for a in ruled(subject, world)}
    moments = dates(subject, mine.values())
    moments += _mail_ends(subject, mine)
    moments += _custodian(subject)
    # Until then a hold brings the account back, afterwards it keeps it: another line.
    moments += [
        (account.recoverable_until, "a window ends under a hold")
        for account in ruled(subject, world)
        if account.state is AccountState.DELETED
        and account.recoverable_until is not None
        and brought_back(subject, world, account, at) is not None
    ]
    moments += looks_at_lapses(subject, world, at)
    moments += [(due, f"{step.name} runs") for _, step, due in later_steps(subject, world)]
    return sorted((m for m in moments if m[0] > at), key=lambda m: m[0])[:1]
