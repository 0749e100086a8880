"""Dated obligations: what must happen to an account later, and when."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from yugum.core.accounts import AccountKind, AccountState, HoldingKind
from yugum.core.applications import Application, Capability
from yugum.core.decisions import DecisionKind, OriginKind, in_force
from yugum.core.desired import Subject, World, desired, prepared_from
from yugum.core.people import PersonState, start_moment, state_at
from yugum.core.procedures import later_steps
from yugum.core.verbs import Verb
from yugum.core.windows import close_due, setting_ends


class ObligationKind(StrEnum):
    """What falls due: all but a reminder become a docket of that verb."""

    CLOSE = "close"
    PURGE = "purge"
    RECHECK = "recheck"
    REMIND = "remind"


class ObligationState(StrEnum):
    OPEN = "open"
    DONE = "done"
    CANCELLED = "cancelled"


@dataclass(frozen=True, slots=True)
class Owed:
    """``account_id`` is "" when it is about the person."""

    account_id: str
    kind: ObligationKind
    due: datetime
    basis: str


def owed(subject: Subject, world: World, at: datetime) -> tuple[Owed, ...]:
    """Everything that falls due later for a subject as it stands now.

    A close is owed for an account nothing gives any more, a purge for a deleted one, a recheck
    for every date that changes what the person should have. Under a hold nothing is closed
    before its end, and something already deleted is due at once: it is brought back to suspended
    before its window can run out.
    """
    result: list[Owed] = []
    own = [d for d in in_force(subject.decisions, at) if d.kind is DecisionKind.HOLD]
    wanted = desired(subject, world.rules, at)
    left = state_at(subject.person, at) is PersonState.LEFT
    for account in subject.accounts:
        application = world.applications.get(account.application_id)
        if application is None or account.kind is not AccountKind.PERSON:
            continue
        if application.can(Capability.RUN):
            continue
        holds = [*own, *in_force(world.holds.get(application.id, ()), at)]
        endless = any(d.ends is None for d in holds)
        free_from = max((d.ends for d in holds if d.ends is not None), default=at)
        if account.state is AccountState.DELETED and account.recoverable_until is not None:
            if holds and account.recoverable_until > at:
                result.append(
                    Owed(account.id, ObligationKind.PURGE, at, "a hold brings it back first")
                )
                continue
            basis = f"window of {application.profile.window_days} days"
            result.append(Owed(account.id, ObligationKind.PURGE, account.recoverable_until, basis))
            continue
        if account.state in (AccountState.DELETED, AccountState.PURGED):
            continue
        origin = subject.ledger.get((account.id, HoldingKind.ACCOUNT, ""))
        came = origin is not None and origin.kind is not OriginKind.FOUND
        if account.application_id in wanted or not (left or came):
            continue
        ended = subject.person.access_ends if left else at
        assert ended is not None
        due = close_due(ended, application)
        if endless:
            continue
        due = max(due, free_from)
        if due <= at:
            due = at + timedelta(days=application.profile.close_after_days)
        result.append(Owed(account.id, ObligationKind.CLOSE, due, "closes after the access ended"))
    given = [world.applications[a] for a in wanted if a in world.applications]
    result.extend(
        Owed("", ObligationKind.RECHECK, moment, basis)
        for moment, basis in _turns(subject, world, given, at)
    )
    result.extend(_reminders(subject, world, at))
    return tuple(result)


def _reminders(subject: Subject, world: World, at: datetime) -> list[Owed]:
    """The next moment at which the manager is reminded of a fixed term's end."""
    person = subject.person
    if person.contract_ends is None or person.access_ends is None:
        return []
    days = world.rules.procedure(Verb.EXTENSION).remind_days
    moments = sorted(person.access_ends - timedelta(days=d) for d in days)
    ahead = [m for m in moments if m > at]
    basis = f"the term ends {person.contract_ends}"
    return [Owed("", ObligationKind.REMIND, ahead[0], basis)] if ahead else []


def _mail_ends(subject: Subject, world: World) -> list[tuple[datetime, str]]:
    """When what a leaver's accounts were set to for a time is over."""
    ended = subject.person.access_ends
    if ended is None:
        return []
    return [
        (moment, f"{name} ends in {application.name}")
        for account in subject.accounts
        if account.state not in (AccountState.DELETED, AccountState.PURGED)
        and (application := world.applications.get(account.application_id)) is not None
        for name, moment in setting_ends(ended, application).items()
    ]


def _turns(
    subject: Subject, world: World, given: Iterable[Application], at: datetime
) -> list[tuple[datetime, str]]:
    """Moments at which the person's own dates change what is due, the next one first."""
    person = subject.person
    moments = [
        (start_moment(person), "first day"),
        (person.access_ends, "access ends"),
        (person.absent_from, "absence begins"),
        (person.absent_until, "absence ends"),
    ]
    moments += [(prepared_from(person, a), "accounts are prepared") for a in given]
    moments += _mail_ends(subject, world)
    moments += [(due, f"{step.name} runs") for _, step, due in later_steps(subject, world)]
    moments += [(d.starts, "a decision begins") for d in subject.decisions]
    moments += [(d.ends, "a decision ends") for d in subject.decisions]
    ahead = [(moment, basis) for moment, basis in moments if moment is not None and moment > at]
    return sorted(ahead)[:1]
