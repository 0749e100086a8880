"""Closing and purging accounts on their day, under the rules and holds of that day."""

from __future__ import annotations

from datetime import datetime

from yugum.core.accounts import Account, AccountState
from yugum.core.actions import GONE, Action
from yugum.core.actions.credential import chosen_credential, new_credential
from yugum.core.actions.delete import close
from yugum.core.applications import Capability
from yugum.core.desired import Subject, World, desired, hold_on
from yugum.core.drafts import Draft
from yugum.core.invitations import never_accepted
from yugum.core.leaving import may_close, withdraw
from yugum.core.obligations import ObligationKind
from yugum.core.plans import Plan
from yugum.core.verbs import Verb
from yugum.core.windows import can_come_back


def plan_owed(
    kind: ObligationKind, subject: Subject, world: World, account: Account, at: datetime
) -> Plan:
    """What is owed of an account, on its day."""
    plan = plan_close if kind is ObligationKind.CLOSE else plan_purge
    return plan(subject, world, account, at)


def plan_close(subject: Subject, world: World, account: Account, at: datetime) -> Plan:
    """The closing of one account on its day, under the rules and holds of that day."""
    draft = Draft(subject, world, at)
    application = world.applications[account.application_id]
    if not _still_unwanted(subject, world, account, at):
        draft.warn("wanted-again", "The person should have this account again; it stays.", "close")
    elif account.state in GONE:
        draft.warn("closed", "The account is closed already.", "close")
    elif hold := hold_on(subject, world, account, at):
        draft.warn("held", f"On hold by {hold.author}: {hold.reason}", "close")
    else:
        withdraw(draft, application, account, "has left")
        if may_close(draft, account):
            days = application.profile.close_after_days
            reason = f"closes {days} days after the access ended"
            close(draft, application, account, reason)
    return draft.finish(Verb.CLOSE)


def plan_purge(subject: Subject, world: World, account: Account, at: datetime) -> Plan:
    """The end of a window: the account is gone, or made gone; a hold brings it back first."""
    draft = Draft(subject, world, at)
    application = world.applications[account.application_id]
    if account.state is not AccountState.DELETED:
        draft.warn("not-deleted", "The account is not deleted; nothing to purge.", "purge")
    elif hold := hold_on(subject, world, account, at):
        if can_come_back(account, at):
            draft.add(
                application,
                account,
                Action.RESTORE,
                "deleted",
                "suspended",
                f"on hold by {hold.author}: {hold.reason}",
            )
        draft.warn("held", f"On hold by {hold.author}: {hold.reason}", "purge")
    else:
        draft.add(
            application, account, Action.PURGE, "deleted", "gone for good", "the window is over"
        )
    return draft.finish(Verb.PURGE)


def plan_credential(
    subject: Subject,
    world: World,
    account: Account,
    at: datetime,
    sealed: str,
    *,
    typed: bool = False,
) -> Plan:
    """A new credential for one account: made, or (``sealed``, encrypted) chosen by its owner.

    One that was ``typed`` by somebody else is to be changed where made ones are.
    """
    draft = Draft(subject, world, at)
    application = world.applications[account.application_id]
    if account.state in GONE:
        draft.warn("no-account", "The account is deleted.", "set_credential")
    elif not application.can(Capability.CREDENTIAL):
        draft.warn("cannot", f"{application.name} sets no credentials.", "set_credential")
    elif never_accepted(account):
        text = "Whoever is invited chooses a credential with the invitation; it can be sent again."
        draft.warn("invited", text, "set_credential")
    elif not sealed:
        new_credential(draft, application, account, "asked for")
    else:
        chosen_credential(draft, application, account, sealed, typed=typed)
    return draft.finish(Verb.CREDENTIAL)


def _still_unwanted(subject: Subject, world: World, account: Account, at: datetime) -> bool:
    want = desired(subject, world.rules, at).get(account.application_id)
    return want is None or want.account is None
