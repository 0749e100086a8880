"""The end of an account: deleted or parked while it can come back, purged; and restoring it."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from typing import TYPE_CHECKING

from yugum.core.accounts import Account, AccountKind, AccountState, HoldingKind, Observed
from yugum.core.actions import (
    EVERYTHING,
    GONE,
    NO_ARGUMENTS,
    Action,
    ActionSpec,
    Arguments,
    Facet,
    Needs,
    Phase,
    Words,
)
from yugum.core.actions.grant import Revoke
from yugum.core.actions.seat import FreeSeat
from yugum.core.applications import Application, Capability, Deletion, effective_deletion
from yugum.core.wording import plural

if TYPE_CHECKING:
    from yugum.core.dockets import DoneStep
    from yugum.core.drafts import Draft
    from yugum.core.fidelity import Undoing


class Delete(ActionSpec):
    """By the application's own means, which keeps it for its window."""

    action = Action.DELETE
    phase = Phase.CLOSE
    needs = Needs(Capability.DELETE, after=EVERYTHING)
    barred_by_hold = True
    takes = True
    words = Words(
        past="deleted",
        does="delete",
        counted=("account", "accounts"),
        counted_past="deleted",
        first=True,
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return seen is None or seen.state in GONE

    def facet(self, item: str, seen: Observed) -> Facet:
        return replace(
            super().facet(item, seen),
            entitlements=tuple(sorted(seen.entitlements)) or None,
            seats=tuple(sorted(seen.seats or ())) or None,
        )

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        if undoing.restore(account):
            for one in held_before(undoing, account, step):
                spec = Revoke() if one.action is Action.REVOKE else FreeSeat()
                spec.take_back(undoing, account, one)


class Park(Delete):
    """Suspended, marked and moved until its window ends, where nothing is deleted recoverably."""

    action = Action.PARK
    told_until = True
    needs = Needs(Capability.SUSPEND, after=EVERYTHING)
    words = Words(
        past="parked",
        does="park",
        counted=("account", "accounts"),
        counted_past="parked",
        first=True,
        task="Keep {login} suspended and marked as left until {until}.",
    )

    def after_task(self, before: Observed, item: str, arguments: Arguments) -> Observed | None:
        until = datetime.fromisoformat(arguments.until)
        return replace(before, state=AccountState.DELETED, recoverable_until=until)


class Restore(ActionSpec):
    """A deleted account comes back suspended; who brings it back resumes it in a step of its own."""

    action = Action.RESTORE
    phase = Phase.ACCOUNT
    needs = Needs()
    adds = True
    words = Words(
        past="restored",
        does="restore",
        counted=("account", "accounts"),
        counted_past="restored",
        first=True,
        task="Take the mark off {login}; it stays suspended.",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return seen is not None and seen.state not in GONE

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        if account.kind is AccountKind.GROUP:
            retire_again(undoing, account)
        elif not undoing.stays(HoldingKind.ACCOUNT, account, step):
            delete_again(undoing, account, made=False)

    def after_task(self, before: Observed, item: str, arguments: Arguments) -> Observed | None:
        return replace(before, state=AccountState.SUSPENDED, recoverable_until=None)


class Purge(ActionSpec):
    """Gone for good."""

    action = Action.PURGE
    phase = Phase.PURGE
    needs = Needs(Capability.PURGE, after=EVERYTHING)
    irreversible = True
    barred_by_hold = True
    takes = True
    words = Words(
        past="purged",
        does="purge",
        counted=("account", "accounts"),
        counted_past="purged",
        first=True,
        task="Delete {login} for good.",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return seen is None or seen.state is AccountState.PURGED

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        undoing.lost(f"account {account.login}", "purged for good")

    def after_task(self, before: Observed, item: str, arguments: Arguments) -> Observed | None:
        return None


def held_before(undoing: Undoing, account: Account, step: DoneStep) -> list[DoneStep]:
    """What an account held when it was deleted and does not hold now, each as if it had been taken.

    Not every application gives it back.
    """
    return [
        replace(step, action=action, item=item, origin=undoing.draft.origin_of(account, kind, item))
        for action, kind, held, there in (
            (Action.REVOKE, HoldingKind.ENTITLEMENT, step.found.entitlements, account.entitlements),
            (Action.FREE_SEAT, HoldingKind.SEAT, step.found.seats, account.seats),
        )
        for item in sorted({*(held or ())} - there)
    ]


CLOSING = {
    Deletion.RECOVERABLE: Action.DELETE,
    Deletion.PARK: Action.PARK,
    Deletion.FINAL: Action.PURGE,
}
"""The action by which an application closes an account for each way a deletion can go."""
ENDING = frozenset(CLOSING.values())
"""However an account is closed."""


def close(
    draft: Draft,
    application: Application,
    account: Account,
    reason: str,
    *,
    arguments: Arguments = NO_ARGUMENTS,
) -> None:
    """Deleted, parked or purged: whichever way this application closes accounts."""
    cut = any((s.account_id, s.action) == (account.id, Action.CUT_OFF) for s in draft.steps)
    before = AccountState.SUSPENDED.value if cut else account.state.value
    action = CLOSING[effective_deletion(application)]
    after = "gone for good"
    if action is not Action.PURGE:
        word = "parked" if action is Action.PARK else "deleted"
        after = f"{word}, back for {application.profile.window_days} days"
    draft.add(application, account, action, before, after, reason, arguments=arguments)


def delete_again(undoing: Undoing, account: Account, *, made: bool) -> None:
    """An account that was made or restored is closed again.

    One that was made is where there is no other way deleted for good, unless it owns something by
    now; one that was restored never. Nothing on hold is closed.
    """
    what, name = "no account", account.login
    if account.state is AccountState.DELETED:
        undoing.already(what)
        return
    if hold := undoing.hold_on(account):
        undoing.lost(what, f"{name} is on hold by {hold.author}: {hold.reason}")
        return
    action = CLOSING[effective_deletion(undoing.application)]
    if action is not Action.PURGE:
        undoing.returns(what, "as before the docket; it can come back")
        undoing.plan(account, action, account.state.value, "deleted, can come back")
    elif not made:
        undoing.lost(what, "it could only be deleted for good")
    elif account.assets:
        owned = plural(len(account.assets), "thing")
        undoing.lost(what, f"{name} owns {owned} by now, and would be deleted for good")
    else:
        undoing.returns(what, "as before the docket; for good, it cannot come back")
        undoing.plan(account, action, account.state.value, "gone for good")


def retire_again(undoing: Undoing, account: Account) -> None:
    """A group that was made or brought back is retired; it can come back within its window."""
    if account.state in GONE:
        undoing.already(f"no group {account.login}")
        return
    undoing.returns(f"no group {account.login}", "it is retired, and can come back")
    undoing.plan(account, Action.PARK, account.state.value, "retired")
