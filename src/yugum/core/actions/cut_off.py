"""Cutting off: suspended and every way in ended, in one step; and the way back, resuming."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from yugum.core.accounts import Account, AccountState, HoldingKind, Observed, is_open
from yugum.core.actions import (
    Action,
    ActionSpec,
    Arguments,
    Facet,
    Needs,
    Phase,
    Words,
    account_facet,
)
from yugum.core.actions.create import out_again
from yugum.core.actions.credential import new_credential, unlocked
from yugum.core.applications import Application, Capability
from yugum.core.decisions import OriginKind
from yugum.core.invitations import invited_at, never_accepted, opened, word_of
from yugum.core.people import PersonState
from yugum.core.wording import plural

if TYPE_CHECKING:
    from yugum.core.decisions import LedgerKey, Origin
    from yugum.core.dockets import DoneStep, Step
    from yugum.core.fidelity import Undoing


class CutOff(ActionSpec):
    """Only what is seen shut with every way in ended is cut off."""

    action = Action.CUT_OFF
    phase = Phase.SECURE
    needs = Needs(Capability.SUSPEND)
    words = Words(
        past="cut off",
        does="cut off",
        counted=("account", "accounts"),
        counted_past="cut off",
        first=True,
        task="Suspend {login} now and end every way in: sessions, keys, shared codes.",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        if seen is not None and arguments.keys_kept:
            seen = replace(seen, keys=0)  # they go on, for programs
        return seen is None or not is_open(seen)

    def facet(self, item: str, seen: Observed) -> Facet:
        return account_facet(seen, True)

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        report_ways_in(undoing, account, step)
        anew = "invited anew" if never_accepted(account) else "resumed with a new credential"
        if is_open(account):
            undoing.already("access")
        elif shut := stays_shut(undoing, account):
            undoing.lost("access", shut)
        elif undoing.planned(account, Action.RESUME):
            undoing.returns("access", anew)
        elif account.state is AccountState.SUSPENDED or undoing.planned(account, Action.RESTORE):
            undoing.returns("access", anew)
            undoing.plan(account, Action.RESUME, "suspended", opened(account))
            new_credential(undoing.draft, undoing.application, account, "put back")
        else:
            undoing.changed("access", account.state)

    def after_task(self, before: Observed, item: str, arguments: Arguments) -> Observed | None:
        keys = before.keys if arguments.keys_kept else 0
        return replace(before, state=AccountState.SUSPENDED, sessions=0, keys=keys)


class Resume(ActionSpec):
    """A suspended account is open again; its credential is a step of its own."""

    action = Action.RESUME
    phase = Phase.ACCOUNT
    needs = Needs(Capability.SUSPEND)
    adds = True
    words = Words(
        past="resumed",
        does="resume",
        counted=("account", "accounts"),
        counted_past="resumed",
        first=True,
        task="Let {login} in again.",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return seen is not None and seen.state is AccountState.ACTIVE

    def origins(self, step: Step) -> tuple[tuple[LedgerKey, Origin | None], ...]:
        return unlocked(step)

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        out_again(undoing, account)

    def after_task(self, before: Observed, item: str, arguments: Arguments) -> Observed | None:
        return replace(before, state=AccountState.ACTIVE)


def stays_shut(undoing: Undoing, account: Account) -> str:
    """Why nobody is let into an account again, "" where its person has it as before."""
    state = undoing.state()
    if state is not PersonState.ACTIVE:
        return SHUT[state]
    if kept := undoing.kept_shut():
        return f"stays closed ({kept})"
    found = undoing.draft.origin_of(account, HoldingKind.ACCOUNT).kind is OriginKind.FOUND
    return "" if found or undoing.given(HoldingKind.ACCOUNT) else NOT_GIVEN


SHUT = {
    PersonState.LEFT: "has left; stays closed",
    PersonState.ABSENT: "is absent; stays closed",
    PersonState.EXPECTED: "has not begun yet; stays closed",
}
NOT_GIVEN = "nothing gives the account any more; stays closed"


def report_ways_in(undoing: Undoing, account: Account, step: DoneStep) -> None:
    """What a cut-off ended for good: whoever comes back starts these anew."""
    report, application = undoing.report, undoing.application
    sessions, keys = step.found.sessions or 0, step.found.keys or 0
    if sessions:
        report.lost(f"{application.name}: {plural(sessions, 'session')}", "ended; sign in again")
    if keys:
        report.lost(f"{application.name}: {plural(keys, 'API key')}", "revoked; issue new ones")
    if not never_accepted(account):
        report.lost(f"{application.name}: password", "replaced at the cut-off; a new one is set")


def shut(application: Application, account: Account) -> tuple[str, str]:
    """What an account is before a cut-off and after it, in words."""
    after = "invitation withdrawn" if invited_at(account) else "suspended, every way in ended"
    return f"{word_of(account)}{ways_in(application, account)}", after


def ways_in(application: Application, account: Account) -> str:
    """``, 2 sessions, 1 API key``: what a cut-off ends besides the password."""
    parts = []
    if account.sessions and application.can(Capability.SESSIONS):
        parts.append(plural(account.sessions, "session"))
    if account.keys and application.can(Capability.KEYS):
        parts.append(plural(account.keys, "API key"))
    return f", {', '.join(parts)}" if parts else ""
