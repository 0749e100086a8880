"""Planning: what a person should have, less what is seen, as steps with reasons.

Level-triggered and pure: the same subject, world and moment give the same plan. Only what a rule
gave is taken away by a rule; the ledger knows the origin of everything held.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import replace
from datetime import datetime

from yugum.core.accounts import Account, AccountKind, AccountState, HoldingKind, is_open
from yugum.core.actions import GONE, Action
from yugum.core.actions.create import create
from yugum.core.actions.credential import new_credential
from yugum.core.actions.trial import try_sign_in
from yugum.core.applications import (
    Application,
    Capability,
    CredentialRule,
    Deletion,
    SeatRule,
    effective_deletion,
)
from yugum.core.decisions import Decision, DecisionKind, OriginKind, in_force
from yugum.core.desired import Subject, World, desired, hold_on, prepared_from, replaced
from yugum.core.drafts import Draft
from yugum.core.holdings import attributes_for, filled_settings, plan_holdings
from yugum.core.invitations import opened
from yugum.core.leaving import cut_off, replace_account, standard_again, withdraw
from yugum.core.people import PersonState, state_at
from yugum.core.plans import Plan
from yugum.core.precautions import PRECAUTION, is_precaution, suspended_whole
from yugum.core.procedures import own_steps
from yugum.core.seating import free_seats, free_when_suspended
from yugum.core.summaries import only
from yugum.core.verbs import Verb
from yugum.core.wanted import Wanted
from yugum.core.windows import can_come_back

ARRIVES = "arrives"
"""The code of an account that another application brings."""
OVER = {
    OriginKind.ROLE: "no role gives it any more",
    OriginKind.DECISION: "the exception has ended",
}
"""Why an account is withdrawn that came by something; one that was found there stays."""


def plan_subject(subject: Subject, world: World, at: datetime, verb: Verb) -> Plan:
    """The steps that lead from what is seen to what the person should have at a moment."""
    return draft_subject(subject, world, at, verb).finish(verb)


def plan_in_step(subject: Subject, world: World, at: datetime) -> Plan:
    """What brings the attributes of somebody's accounts in step, and nothing else."""
    plan = plan_subject(subject, world, at, Verb.UPDATE)
    steps = tuple(s for s in plan.steps if s.action is Action.UPDATE)
    return replace(only(plan, steps, world.applications), stays=())


def draft_subject(subject: Subject, world: World, at: datetime, verb: Verb) -> Draft:
    """`plan_subject` before it is finished, for verbs that add steps of their own."""
    draft = Draft(subject, world, at)
    wanted = desired(subject, world.rules, at)
    suspended = {
        d.payload.application: d
        for d in in_force(subject.decisions, at)
        if d.kind is DecisionKind.SUSPEND
    }
    whole = suspended_whole(subject.decisions, at)
    for application_id, application in sorted(world.applications.items()):
        if application.can(Capability.RUN):
            continue
        accounts = [
            a
            for a in subject.accounts
            if a.application_id == application_id
            and a.kind is AccountKind.PERSON
            and a.state is not AccountState.PURGED
        ]
        kept = whole or suspended.get(application_id)
        _application(draft, application, accounts, wanted.get(application_id), kept)
    _warn_of_missing_applications(draft, wanted)
    own_steps(draft, verb)
    return draft


def _application(
    draft: Draft,
    application: Application,
    accounts: list[Account],
    want: Wanted | None,
    suspended: Decision | None,
) -> None:
    """The steps in one application, by what the person's state makes of what should be there."""
    state = state_at(draft.subject.person, draft.at)
    if suspended is not None and state is not PersonState.LEFT:
        _keep_suspended(draft, application, accounts, suspended)
    elif want is None or want.account is None:
        _unwanted(draft, application, accounts, state)
    elif state is PersonState.ABSENT:
        _suspend_for_absence(draft, application, accounts)
    elif state is PersonState.EXPECTED:
        _prepare(draft, application, accounts, want)
    else:
        _provide(draft, application, accounts, want)


def _unwanted(
    draft: Draft, application: Application, accounts: list[Account], state: PersonState
) -> None:
    for account in accounts:
        origin = draft.origin_of(account, HoldingKind.ACCOUNT).kind
        if state is PersonState.LEFT:
            withdraw(draft, application, account, "has left")
        elif origin in OVER:
            withdraw(draft, application, account, OVER[origin])
        elif state is PersonState.ABSENT:
            _suspend_for_absence(draft, application, [account])


def _warn_of_missing_applications(draft: Draft, wanted: Iterable[str]) -> None:
    for application_id in sorted(set(wanted) - set(draft.world.applications)):
        draft.warn("no-application", f"A role gives access to {application_id}, which is unknown.")


def _keep_suspended(
    draft: Draft, application: Application, accounts: list[Account], decision: Decision
) -> None:
    """Somebody settled that these stay closed; the rules do not open them."""
    for account in accounts:
        if is_precaution(decision):  # nothing is freed, and why is nobody's business here
            if is_open(account):
                cut_off(draft, application, account, PRECAUTION)
            continue
        if is_open(account) and application.can(Capability.SUSPEND):
            why = f"suspended by {decision.author}: {decision.reason}"
            draft.add(application, account, Action.CUT_OFF, "active", "suspended", why)
        free_when_suspended(draft, application, account, "suspended")


def frees_when_away(world: World, application_id: str) -> bool:
    """Whether somebody who is absent gives their seats in an application back."""
    profile = world.applications[application_id].profile
    return profile.seat_at_suspension is SeatRule.FREED or world.rules.absence_frees_seats


def _suspend_for_absence(draft: Draft, application: Application, accounts: list[Account]) -> None:
    frees = frees_when_away(draft.world, application.id)
    kept = "all but seats kept" if frees else "all kept"
    for account in accounts:
        if is_open(account):
            draft.add(
                application, account, Action.CUT_OFF, "active", "suspended", f"absent; {kept}"
            )
        if frees:
            free_seats(draft, application, account, "absent")


def _prepare(draft: Draft, application: Application, accounts: list[Account], want: Wanted) -> None:
    """The account of somebody who is expected: made some days ahead, closed until the first day."""
    account = best(
        accounts, draft.at, kept_by_hold(draft.subject, draft.world, application, draft.at)
    )
    person = draft.subject.person
    if account is None:
        begins = prepared_from(person, application)
        if not application.profile.prepare_days or begins is None or draft.at < begins:
            return
        if not _create(draft, application, want, closed=True):
            return
    elif account.state is AccountState.ACTIVE:
        if draft.origin_of(account, HoldingKind.ACCOUNT).kind is OriginKind.FOUND:
            return
        if application.can(Capability.SUSPEND):
            until = f"suspended until {person.starts}"
            draft.add(application, account, Action.CUT_OFF, "active", until, "has not begun yet")
    elif account.state is AccountState.DELETED:
        draft.add(application, account, Action.RESTORE, "deleted", "suspended", "is expected")
    plan_holdings(draft, application, account, want)


def _provide(draft: Draft, application: Application, accounts: list[Account], want: Wanted) -> None:
    """An account with what roles and decisions give; an existing one is used before a new one."""
    over = replaced(draft.subject, draft.at)
    old = [a for a in accounts if a.id in over and a.state not in GONE]
    account = best(
        [a for a in accounts if a.id not in over],
        draft.at,
        kept_by_hold(draft.subject, draft.world, application, draft.at),
    )
    if account is None:
        if not _create(draft, application, want, closed=False):
            return
        new_credential(draft, application, None, "first sign-in")
    else:
        _bring_back(draft, application, account)
        standard_again(draft, application, account)
    plan_holdings(draft, application, account, want)
    for one in old:
        replace_account(draft, application, one, account)


def _create(draft: Draft, application: Application, want: Wanted, *, closed: bool) -> bool:
    """Plan the account; whether it is made here, now."""
    assert want.account is not None
    if origin := application.profile.comes_from:
        name = (
            draft.world.applications[origin].name if origin in draft.world.applications else origin
        )
        text = f"{application.name}: the account arrives from {name} and is never made here."
        draft.warn(ARRIVES, text, Action.CREATE.value)
        why = want.account[1]
        draft.hold_back(ARRIVES, application, None, Action.CREATE, "no account", "active", why)
        return False
    settings = filled_settings(draft, application.profile.standard_settings)
    attributes = attributes_for(draft, application, want)
    if not create(draft, application, want.account, settings, attributes, closed=closed):
        return False
    try_sign_in(draft, application, closed=closed and application.can(Capability.SUSPEND))
    return True


def kept_by_hold(
    subject: Subject, world: World, application: Application, at: datetime
) -> frozenset[str]:
    """The parked accounts that a hold keeps past their windows: they are there, and can come back."""
    if effective_deletion(application) is not Deletion.PARK:
        return frozenset()
    return frozenset(
        a.id
        for a in subject.accounts
        if a.application_id == application.id and hold_on(subject, world, a, at) is not None
    )


def best(
    accounts: list[Account], at: datetime, held: Collection[str] = frozenset()
) -> Account | None:
    """The account to use: an open one first, a deleted one only while it can come back.

    Those ``held`` can as long as they are.
    """
    order = {AccountState.ACTIVE: 0, AccountState.SUSPENDED: 1, AccountState.ARCHIVED: 2}
    usable = [
        a
        for a in accounts
        if a.state is not AccountState.DELETED or a.id in held or can_come_back(a, at)
    ]
    return min(usable, key=lambda a: (order.get(a.state, 3), a.id), default=None)


def _bring_back(draft: Draft, application: Application, account: Account) -> None:
    if draft.subject.locked(account):
        new_credential(draft, application, account, "locked until now")
    if account.state is AccountState.ACTIVE:
        return
    why = "should have access"
    if account.state is AccountState.DELETED:
        until = account.recoverable_until
        before = f"deleted, back until {until:%-d %b %Y %H:%M} UTC" if until else "deleted"
        draft.add(application, account, Action.RESTORE, before, "suspended", why)
    if account.state is AccountState.ARCHIVED:
        draft.add(application, account, Action.REOPEN, "archived", "suspended", why)
    draft.add(application, account, Action.RESUME, "suspended", opened(account), why)
    if application.profile.credential_on_resume is CredentialRule.NEW:
        new_credential(draft, application, account, "a new one after the cut-off")
