"""Putting back what was changed outside: the steps that lead to what was there before."""

from __future__ import annotations

from collections.abc import Mapping

from yugum.core.accounts import Account, AccountState
from yugum.core.actions import Action
from yugum.core.actions.delete import CLOSING
from yugum.core.actions.registry import ACTIONS
from yugum.core.actions.update import update
from yugum.core.applications import Application, effective_deletion
from yugum.core.desired import hold_on
from yugum.core.deviations import HELD, NOT_HELD, NOT_THERE, Deviation, DeviationKind
from yugum.core.drafts import Draft
from yugum.core.seating import free_when_deleted
from yugum.errors import Conflict

HOLDINGS: Mapping[tuple[DeviationKind, str], Action] = {
    (DeviationKind.ENTITLEMENT, HELD): Action.REVOKE,
    (DeviationKind.ENTITLEMENT, NOT_HELD): Action.GRANT,
    (DeviationKind.SEAT, HELD): Action.FREE_SEAT,
    (DeviationKind.SEAT, NOT_HELD): Action.TAKE_SEAT,
}
STATES: Mapping[tuple[str, str], Action] = {
    (AccountState.SUSPENDED, AccountState.ACTIVE): Action.CUT_OFF,
    (AccountState.ACTIVE, AccountState.SUSPENDED): Action.RESUME,
    (AccountState.SUSPENDED, AccountState.DELETED): Action.RESTORE,
}


def plan_revert(
    draft: Draft, application: Application, account: Account, change: Deviation
) -> None:
    """Add the steps that undo one change made outside.

    Raises:
        Conflict: there is no way back from it.
    """
    why = "changed outside Yugum; put back"
    kind, was, now_is = change.kind, change.was, change.now_is
    if (kind, now_is) in HOLDINGS:
        action = HOLDINGS[kind, now_is]
        draft.add(application, account, action, now_is, was, why, item=change.item)
    elif kind is DeviationKind.ATTRIBUTE:
        update(draft, application, account, change.item, was, why)
    elif kind is DeviationKind.ACCOUNT and was == NOT_THERE:
        _away(draft, application, account, why)
    elif kind is DeviationKind.STATE and (was, now_is) in STATES:
        draft.add(application, account, STATES[was, now_is], now_is, was, why)
    elif kind is DeviationKind.STATE and (was, now_is) == (
        AccountState.ACTIVE,
        AccountState.DELETED,
    ):
        draft.add(application, account, Action.RESTORE, now_is, "suspended", why)
        draft.add(application, account, Action.RESUME, "suspended", was, why)
    else:
        raise Conflict(
            f"{application.name}: {was} cannot be made of {now_is} again.",
            remedy="Keep the change; whoever should have an account gets one by the next plan.",
        )


def _away(draft: Draft, application: Application, account: Account, why: str) -> None:
    """An account that nobody asked for: cut off, out of its groups, and closed.

    It is not deleted for good, and not under a hold: that is asked for by itself.
    """
    state = account.state.value
    if account.state is AccountState.ACTIVE:
        draft.add(application, account, Action.CUT_OFF, state, "suspended", why)
    for item in sorted(account.entitlements):
        draft.add(application, account, Action.REVOKE, "held", "not held", why, item=item)
    action = CLOSING[effective_deletion(application)]
    name = f"{account.login} in {application.name}"
    if hold := hold_on(draft.subject, draft.world, account, draft.at):
        draft.warn("held", f"{name} is on hold by {hold.author}: {hold.reason}", action.value)
    elif ACTIONS[action].irreversible:
        text = (
            f"{name} could only be deleted for good; ask for that by itself: yugum accounts purge."
        )
        draft.warn("for-good", text, action.value)
    else:
        free_when_deleted(draft, application, account, why)
        draft.add(application, account, action, state, "gone", why)
