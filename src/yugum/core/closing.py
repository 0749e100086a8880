"""Closing and purging accounts on their day, under the rules and holds of that day."""

from __future__ import annotations

from datetime import datetime

from yugum.core.accounts import Account, AccountState
from yugum.core.actions import Action
from yugum.core.applications import Application, Capability, Deletion, effective_deletion
from yugum.core.decisions import Decision, DecisionKind, in_force
from yugum.core.desired import Subject, World, desired
from yugum.core.drafts import Draft
from yugum.core.planning import new_credential, withdraw
from yugum.core.plans import Plan
from yugum.core.windows import can_come_back


def plan_close(subject: Subject, world: World, account: Account, at: datetime) -> Plan:
    """The closing of one account on its day, under the rules and holds of that day."""
    draft = Draft(subject, world, at)
    application = world.applications[account.application_id]
    if not _still_unwanted(subject, world, account, at):
        draft.warn("wanted-again", "The person should have this account again; it stays.", "close")
    elif account.state in (AccountState.DELETED, AccountState.PURGED):
        draft.warn("closed", "The account is closed already.", "close")
    elif hold := hold_on(subject, world, account, at):
        draft.warn("held", f"On hold by {hold.author}: {hold.reason}", "close")
    else:
        withdraw(draft, application, account, "has left")
        blocked = {w.blocks for w in draft.cautions}
        if "transfer" not in blocked:
            days = application.profile.close_after_days
            reason = f"closes {days} days after the access ended"
            close(draft, application, account, account.state.value, reason)
    return draft.finish("close")


def close(
    draft: Draft, application: Application, account: Account, before: str, reason: str
) -> None:
    """Deleted, parked or purged: whichever way this application closes accounts."""
    deletion = effective_deletion(application)
    if deletion is Deletion.FINAL:
        draft.add(application, account, Action.PURGE, before, "gone for good", reason)
        return
    action = Action.PARK if deletion is Deletion.PARK else Action.DELETE
    days = application.profile.window_days
    word = "parked" if action is Action.PARK else "deleted"
    draft.add(application, account, action, before, f"{word}, back for {days} days", reason)


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
    return draft.finish("purge")


def plan_credential(
    subject: Subject, world: World, account: Account, at: datetime, sealed: str
) -> Plan:
    """A new credential for one account: made, or (``sealed``, encrypted) chosen by its owner."""
    draft = Draft(subject, world, at)
    application = world.applications[account.application_id]
    if account.state in (AccountState.DELETED, AccountState.PURGED):
        draft.warn("no-account", "The account is deleted.", "set_credential")
    elif not application.can(Capability.CREDENTIAL):
        draft.warn("cannot", f"{application.name} sets no credentials.", "set_credential")
    elif not sealed:
        new_credential(draft, application, account, "asked for")
    else:
        draft.add(
            application,
            account,
            Action.SET_CREDENTIAL,
            "unknown",
            "chosen by its owner",
            "asked for",
            arguments={"sealed": sealed, "must_change": False},
        )
    return draft.finish("credential")


def hold_on(subject: Subject, world: World, account: Account, at: datetime) -> Decision | None:
    """The hold on the person or on the account's application, if there is one."""
    theirs = (*subject.decisions, *world.holds.get(account.application_id, ()))
    holds = [d for d in in_force(theirs, at) if d.kind is DecisionKind.HOLD]
    return holds[0] if holds else None


def _still_unwanted(subject: Subject, world: World, account: Account, at: datetime) -> bool:
    want = desired(subject, world.rules, at).get(account.application_id)
    return want is None or want.account is None
