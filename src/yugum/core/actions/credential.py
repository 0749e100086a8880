"""Credentials: an initial one that is told of by a link, or one that its owner has chosen."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yugum.core.accounts import Account, HoldingKind, Observed
from yugum.core.actions import (
    NO_ARGUMENTS,
    Action,
    ActionSpec,
    Arguments,
    Needs,
    Phase,
    Settle,
    Words,
)
from yugum.core.applications import Application, Capability
from yugum.core.desired import LOCKED
from yugum.core.invitations import never_accepted

if TYPE_CHECKING:
    from yugum.core.decisions import LedgerKey, Origin
    from yugum.core.dockets import DoneStep, Step
    from yugum.core.drafts import Draft
    from yugum.core.fidelity import Undoing


class SetCredential(ActionSpec):
    """It cannot be read back, so it is never fulfilled by looking; setting it again is safe."""

    action = Action.SET_CREDENTIAL
    phase = Phase.CREDENTIAL
    needs = Needs(Capability.CREDENTIAL)
    settle = Settle.REPEAT_SAFE
    readable = False
    secret = True
    adds = True
    words = Words(
        past="credential set",
        does="initial credential",
        counted=("initial credential", "initial credentials"),
        counted_past="set",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return False

    def origins(self, step: Step) -> tuple[tuple[LedgerKey, Origin | None], ...]:
        return unlocked(step)

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        undoing.lost("the credential before", "it cannot be read back")


def unlocked(step: Step) -> tuple[tuple[LedgerKey, Origin | None], ...]:
    """That an account is locked no more."""
    return (((step.account_id, HoldingKind.ACCOUNT, LOCKED), None),)


def new_credential(
    draft: Draft, application: Application, account: Account | None, reason: str
) -> None:
    """An initial credential, to be changed at the first sign-in where the profile says so.

    Whoever is invited chooses one with the invitation.
    """
    if not application.can(Capability.CREDENTIAL):
        return
    if application.can(Capability.INVITE) and (account is None or never_accepted(account)):
        return
    after, arguments = "new initial one", NO_ARGUMENTS
    if _must_change(draft, application):
        after, arguments = f"{after}{CHANGED}", Arguments(must_change=True)
    draft.add(
        application,
        account,
        Action.SET_CREDENTIAL,
        "none known",
        after,
        reason,
        arguments=arguments,
    )


CHANGED = ", to be changed at the first sign-in"


def _must_change(draft: Draft, application: Application) -> bool:
    """Whether a credential that its owner did not choose has to be changed, and can be."""
    if not application.profile.must_change:
        return False
    if not application.can(Capability.MUST_CHANGE):
        text = f"{application.name} cannot ask for another password at the first sign-in."
        draft.warn("cannot-force-change", text)
        return False
    return True


def chosen_credential(
    draft: Draft, application: Application, account: Account, sealed: str, *, typed: bool
) -> None:
    """The credential that the account's owner chose, or that somebody ``typed``, encrypted."""
    must = typed and _must_change(draft, application)
    after = "typed in" if typed else "chosen by its owner"
    draft.add(
        application,
        account,
        Action.SET_CREDENTIAL,
        "unknown",
        f"{after}{CHANGED if must else ''}",
        "asked for",
        arguments=Arguments(sealed=sealed, must_change=must),
    )
