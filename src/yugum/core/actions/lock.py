"""Locking: shut without being suspended, for mail must go on where a suspended account refuses it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yugum.core.accounts import Account, AccountState, HoldingKind, Observed
from yugum.core.actions import (
    Action,
    ActionSpec,
    Arguments,
    Facet,
    Needs,
    Phase,
    Settle,
    Words,
    account_facet,
)
from yugum.core.actions.credential import new_credential
from yugum.core.actions.cut_off import report_ways_in, stays_shut
from yugum.core.applications import Capability
from yugum.core.decisions import Origin, OriginKind
from yugum.core.desired import LOCKED

if TYPE_CHECKING:
    from yugum.core.decisions import LedgerKey
    from yugum.core.dockets import DoneStep, Step
    from yugum.core.fidelity import Undoing


class Lock(ActionSpec):
    """A random credential that nobody knows, no recovery data, every session and key ended.

    The credential cannot be seen, so that it is always done; afterwards no way in is seen. That it is
    locked stands in the ledger until it is resumed or gets a credential.
    """

    action = Action.LOCK
    phase = Phase.SECURE
    needs = Needs(Capability.CREDENTIAL)
    settle = Settle.REPEAT_SAFE
    blind = True
    words = Words(
        past="locked, takes mail",
        does="lock",
        counted=("account", "accounts"),
        counted_past="locked",
        first=True,
        task="Let {login} take mail, but nobody in: a random password, no recovery data, no sessions, keys.",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return seen is None or (seen.sessions == 0 and seen.keys == 0)

    def facet(self, item: str, seen: Observed) -> Facet:
        return account_facet(seen, True)

    def origins(self, step: Step) -> tuple[tuple[LedgerKey, Origin | None], ...]:
        key = (step.account_id, HoldingKind.ACCOUNT, LOCKED)
        return ((key, Origin(OriginKind.DECISION, LOCKED)),)

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        report_ways_in(undoing, account, step)
        locked = undoing.draft.subject.locked(account)
        if account.state is AccountState.ACTIVE and not locked:
            undoing.already("access")
        elif shut := stays_shut(undoing, account):
            undoing.lost("access", shut)
        elif locked:
            undoing.returns("access", "with a new credential")
            if not undoing.planned(account, Action.SET_CREDENTIAL):
                new_credential(undoing.draft, undoing.application, account, "put back")
        else:
            undoing.changed("access", account.state)
