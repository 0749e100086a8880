"""Archiving and reopening, where an application has an archive."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yugum.core.accounts import Account, AccountState, Observed
from yugum.core.actions import EVERYTHING, Action, ActionSpec, Arguments, Needs, Phase, Words
from yugum.core.applications import Capability

if TYPE_CHECKING:
    from yugum.core.dockets import DoneStep
    from yugum.core.fidelity import Undoing


class Archive(ActionSpec):
    """Shut, and kept as it is."""

    action = Action.ARCHIVE
    phase = Phase.CLOSE
    needs = Needs(Capability.ARCHIVE, after=EVERYTHING)
    takes = True
    words = Words(
        past="archived",
        does="archive",
        counted=("account", "accounts"),
        counted_past="archived",
        first=True,
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return seen is None or seen.state is AccountState.ARCHIVED

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        what = f"account {account.login}"
        if account.state is AccountState.DELETED:
            undoing.changed(what, account.state)
        elif account.state is not AccountState.ARCHIVED:
            undoing.already(what)
        else:
            undoing.returns(what, "reopened")
            undoing.plan(account, Action.REOPEN, "archived", "suspended")


class Reopen(ActionSpec):
    """Out of the archive, suspended."""

    action = Action.REOPEN
    phase = Phase.ACCOUNT
    needs = Needs(Capability.ARCHIVE)
    words = Words(
        past="reopened",
        does="reopen",
        counted=("account", "accounts"),
        counted_past="reopened",
        first=True,
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return seen is not None and seen.state is AccountState.SUSPENDED

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        what = f"account {account.login}"
        if account.state is AccountState.ARCHIVED:
            undoing.already(what)
        elif account.state is not AccountState.SUSPENDED:
            undoing.changed(what, account.state)
        else:
            undoing.returns(what, "archived again")
            undoing.plan(account, Action.ARCHIVE, "suspended", "archived")
