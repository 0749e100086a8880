"""Quick actions on accounts: suspend, resume, archive, reopen, delete, restore, purge.

They are dockets like any other. A decision goes with each, so that the next plan by the rules does
not fight what somebody settled.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime

from yugum.core.accounts import Account, AccountState, is_open
from yugum.core.actions import Action
from yugum.core.actions.credential import new_credential
from yugum.core.actions.cut_off import shut
from yugum.core.actions.delete import close
from yugum.core.actions.invite import require
from yugum.core.applications import (
    Application,
    Capability,
    CredentialRule,
    Duty,
    SeatReturn,
    SeatRule,
)
from yugum.core.decisions import DecisionKind
from yugum.core.desired import Subject, World, desired, hold_on
from yugum.core.drafts import Draft
from yugum.core.groups import is_group, restore, retire
from yugum.core.invitations import invited_at, opened, word_of
from yugum.core.leaving import hand_over, may_close
from yugum.core.people import PersonState, state_at
from yugum.core.plans import FidelityLine, Plan
from yugum.core.precautions import suspended_whole
from yugum.core.seating import free_when_deleted, free_when_suspended, missing_seats
from yugum.core.seats import Pool
from yugum.core.verbs import Quick, Verb
from yugum.core.windows import can_come_back
from yugum.core.wording import plural
from yugum.errors import Conflict, Held, WindowOver

KEPT = {
    Quick.SUSPEND: DecisionKind.SUSPEND,
    Quick.ARCHIVE: DecisionKind.SUSPEND,
    Quick.DELETE: DecisionKind.DENY,
    Quick.PURGE: DecisionKind.DENY,
}
"""The decision that goes with an action."""
ENDING = frozenset({Quick.RESUME, Quick.REOPEN, Quick.RESTORE})
"""Those that end such decisions."""

FITS = {
    Quick.SUSPEND: {AccountState.ACTIVE},
    Quick.RESUME: {AccountState.SUSPENDED},
    Quick.ARCHIVE: {AccountState.ACTIVE, AccountState.SUSPENDED},
    Quick.REOPEN: {AccountState.ARCHIVED},
    Quick.DELETE: {AccountState.ACTIVE, AccountState.SUSPENDED, AccountState.ARCHIVED},
    Quick.RESTORE: {AccountState.DELETED},
    Quick.PURGE: {AccountState.DELETED, AccountState.SUSPENDED, AccountState.ARCHIVED},
    Quick.INVITE: {AccountState.ACTIVE},
    Quick.REQUIRE: {AccountState.ACTIVE, AccountState.SUSPENDED},
}
INSTEAD = {
    AccountState.ACTIVE: "It is in use.",
    AccountState.SUSPENDED: "Resume it.",
    AccountState.ARCHIVED: "Reopen it.",
    AccountState.DELETED: "Restore it.",
    AccountState.PURGED: "It is gone for good; a new one is made by a role or an exception.",
}


NOBODY: Mapping[str, Sequence[str]] = {}


def plan_quick(
    subject: Subject,
    world: World,
    accounts: Sequence[Account],
    what: Quick,
    at: datetime,
    givers: Mapping[str, Sequence[str]] = NOBODY,
    duties: Sequence[Duty] = (),
) -> Plan:
    """The steps of one action on some accounts of a subject, with what comes back and what cannot.

    ``givers`` are what gives each of the groups among them, ``duties`` what is asked for at the next sign-in.

    Raises:
        Conflict: an account's state does not fit, or its application cannot do it.
        Held: a hold forbids deleting or purging.
        WindowOver: a deleted account cannot come back any more.
    """
    draft = Draft(subject, world, at)
    told: list[FidelityLine] = []
    for account in accounts:
        application = world.applications[account.application_id]
        _must_fit(subject, world, application, account, what, at)
        if is_group(account):
            _group(draft, application, account, what, givers.get(account.id, ()))
            continue
        _to_do(draft, application, account, what, duties)
        match what:
            case Quick.SUSPEND:
                _cut_off(draft, application, account)
                free_when_suspended(draft, application, account, ASKED)
            case Quick.RESUME:
                _resume(draft, application, account)
            case Quick.ARCHIVE:
                _cut_off(draft, application, account)
                free_when_suspended(draft, application, account, ASKED)
                draft.add(application, account, Action.ARCHIVE, "suspended", "archived", ASKED)
            case Quick.REOPEN:
                draft.add(application, account, Action.REOPEN, "archived", "suspended", ASKED)
                told += _told(subject, world, application, account, at)
                if _should_be_open(subject, world, application, at):
                    _resume(draft, application, account)
            case Quick.DELETE:
                _delete(draft, application, account)
            case Quick.RESTORE:
                draft.add(application, account, Action.RESTORE, "deleted", "suspended", ASKED)
                _held_again(draft, application, account)
                told += _told(subject, world, application, account, at)
            case Quick.PURGE:
                before = account.state.value
                draft.add(application, account, Action.PURGE, before, "gone for good", ASKED)
    return replace(draft.finish(Verb.ACCOUNT), fidelity=tuple(told))


ASKED = "asked for"


def _to_do(
    draft: Draft, application: Application, account: Account, what: Quick, duties: Sequence[Duty]
) -> None:
    """What the owner is asked to do: to accept, still, or something at the next sign-in."""
    if what is Quick.INVITE:
        draft.add(application, account, Action.INVITE, word_of(account), "invited", ASKED)
    for duty in dict.fromkeys(duties):
        require(draft, application, account, duty, ASKED)


def _group(
    draft: Draft, application: Application, account: Account, what: Quick, givers: Sequence[str]
) -> None:
    """A group is retired, brought back or purged; it has no way in that could be closed."""
    match what:
        case Quick.DELETE:
            retire(draft, application, account, givers)
        case Quick.RESTORE:
            restore(draft, application, account)
        case Quick.PURGE:
            draft.add(application, account, Action.PURGE, "retired", "gone for good", ASKED)
        case _:
            raise Conflict(
                f"{account.login} in {application.name} is a group.",
                place="accounts",
                remedy="It can be retired, brought back and purged.",
            )


def _must_fit(
    subject: Subject,
    world: World,
    application: Application,
    account: Account,
    what: Quick,
    at: datetime,
) -> None:
    name = f"{account.login} in {application.name}"
    if what is Quick.RESTORE and account.state in (AccountState.DELETED, AccountState.PURGED):
        ended = account.recoverable_until
        if account.state is AccountState.PURGED or not can_come_back(account, at):
            raise WindowOver(
                f"{name} cannot come back"
                + (f": its window ended {ended:%Y-%m-%d %H:%M} UTC." if ended else "."),
                remedy="A new account is made by a role, or by: yugum returner.",
            )
    whole = suspended_whole(subject.decisions, at)
    if what in (Quick.RESUME, Quick.REOPEN) and whole is not None:
        raise Conflict(
            f"{name} is closed by a precaution of {whole.author}.",
            place="accounts",
            remedy="Lift the precaution: yugum precautions lift WHO.",
        )
    if account.state not in FITS[what]:
        raise Conflict(
            f"{name} is {account.state.value}; it cannot be {PAST[what]}.",
            place="accounts",
            remedy=INSTEAD[account.state],
        )
    if what is Quick.INVITE and invited_at(account) is None:
        raise Conflict(
            f"{name} has no open invitation.",
            place="accounts",
            remedy="Whoever has accepted needs none; a suspended account is invited by resuming it.",
        )
    if what in (Quick.ARCHIVE, Quick.REOPEN) and not application.can(Capability.ARCHIVE):
        raise Conflict(
            f"{application.name} has no archive.", place="accounts", remedy="Suspend it instead."
        )
    if what in (Quick.DELETE, Quick.PURGE) and (hold := hold_on(subject, world, account, at)):
        raise Held(
            f"{name} is on hold by {hold.author}: {hold.reason}",
            place="accounts",
            remedy="The hold has to be ended first: yugum people end-decision ID.",
        )


PAST = {
    Quick.SUSPEND: "suspended",
    Quick.RESUME: "resumed",
    Quick.ARCHIVE: "archived",
    Quick.REOPEN: "reopened",
    Quick.DELETE: "deleted",
    Quick.RESTORE: "restored",
    Quick.PURGE: "purged",
    Quick.INVITE: "invited",
    Quick.REQUIRE: "asked for duties",
}


def _cut_off(draft: Draft, application: Application, account: Account) -> None:
    if is_open(account):
        draft.add(application, account, Action.CUT_OFF, *shut(application, account), ASKED)


def _resume(draft: Draft, application: Application, account: Account) -> None:
    draft.add(application, account, Action.RESUME, "suspended", opened(account), ASKED)
    if application.profile.credential_on_resume is CredentialRule.NEW:
        new_credential(draft, application, account, "a new one after the cut-off")
    _seats_again(draft, application, account)


def _seats_again(draft: Draft, application: Application, account: Account) -> None:
    """The seats that rules give and the suspension took."""
    want = desired(draft.subject, draft.world.rules, draft.at).get(application.id)
    if want is None or application.profile.seat_at_suspension is not SeatRule.FREED:
        return
    missing_seats(draft, application, account, want)


def _held_again(draft: Draft, application: Application, account: Account) -> None:
    """What rules give and the deletion took, where the application does not give it back itself."""
    want = desired(draft.subject, draft.world.rules, draft.at).get(application.id)
    if want is None:
        return
    for item in sorted(set(want.entitlements) - account.entitlements):
        origin, why = want.entitlements[item]
        draft.add(
            application, account, Action.GRANT, "not held", "held", why, item=item, origin=origin
        )
    profile = application.profile
    kept = profile.seat_at_suspension is SeatRule.KEPT
    if kept and profile.seat_at_restore is not SeatReturn.RETURNED:
        missing_seats(draft, application, account, want)


def _delete(draft: Draft, application: Application, account: Account) -> None:
    _cut_off(draft, application, account)
    hand_over(draft, application, account, "before it is deleted")
    if may_close(draft, account):
        free_when_deleted(draft, application, account, ASKED)
        close(draft, application, account, ASKED)


def _should_be_open(subject: Subject, world: World, application: Application, at: datetime) -> bool:
    if state_at(subject.person, at) is not PersonState.ACTIVE:
        return False
    want = desired(subject, world.rules, at).get(application.id)
    return want is not None and want.account is not None


NO_POOL = Pool(id="", application_id="", license="", bought=0)


def _told(
    subject: Subject, world: World, application: Application, account: Account, at: datetime
) -> list[FidelityLine]:
    """What returns with an account and what never does, by the application's own ways."""
    profile, name = application.profile, application.name
    lines = [FidelityLine(f"{name}: account {account.login}", True, "comes back suspended")]
    lines += [
        FidelityLine(f"{name}: {word}", False, "never comes back in this application")
        for word in profile.never_returns
    ]
    lines += [
        FidelityLine(f"{name}: {item}", True, "is still held")
        for item in sorted(account.entitlements)
    ]
    want = desired(subject, world.rules, at).get(application.id)
    given = want.entitlements if want else {}
    lines += [
        FidelityLine(f"{name}: {item}", True, f"is given again: {given[item][1]}")
        for item in sorted(set(given) - account.entitlements)
    ]
    owned = len(account.assets)
    if owned:
        lines.append(FidelityLine(f"{name}: {plural(owned, 'thing')} owned", True, "still there"))
    for license in sorted(account.seats | set(want.seats if want else ())):
        pool = world.pools.get((application.id, license), NO_POOL)
        if license in account.seats:
            lines.append(FidelityLine(f"{name}: seat of {license}", True, "is still held"))
        elif profile.seat_at_restore is SeatReturn.RETURNED:
            why = "comes with the account" if pool.free > 0 else "comes, and the pool is overrun"
            lines.append(FidelityLine(f"{name}: seat of {license}", True, why))
        elif pool.free > 0:
            why = f"is to be taken again; {plural(pool.free, 'seat')} free"
            lines.append(FidelityLine(f"{name}: seat of {license}", True, why))
        else:
            why = "is to be taken again, and none is free"
            lines.append(FidelityLine(f"{name}: seat of {license}", False, why))
    credential = "a new one is set when it is resumed"
    if profile.credential_on_resume is CredentialRule.KEPT:
        credential = "the one before is kept"
    lines.append(FidelityLine(f"{name}: credential", True, credential))
    return lines
