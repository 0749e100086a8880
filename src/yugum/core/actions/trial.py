"""A trial sign-in: a new account is tried with a credential that is thrown away afterwards."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yugum.core.accounts import Account, Observed
from yugum.core.actions import Action, ActionSpec, Arguments, Needs, Phase, Settle, Words
from yugum.core.applications import Capability

if TYPE_CHECKING:
    from yugum.core.applications import Application
    from yugum.core.dockets import DoneStep
    from yugum.core.drafts import Draft
    from yugum.core.fidelity import Undoing


class TrySignIn(ActionSpec):
    """The account is as before afterwards, closed where it is to be; trying again is safe."""

    action = Action.TRY_SIGN_IN
    phase = Phase.CREDENTIAL
    needs = Needs(Capability.TRIAL)
    settle = Settle.REPEAT_SAFE
    readable = False
    secret = True
    throwaway = True
    adds = True
    words = Words(
        past="sign-in tried",
        does="try to sign in",
        counted=("trial sign-in", "trial sign-ins"),
        counted_past="made",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return False

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        undoing.already("nothing of the trial sign-in")


def try_sign_in(draft: Draft, application: Application, *, closed: bool) -> None:
    """Plan that the account to be made is tried, where the profile asks for it."""
    if not application.profile.tries_sign_in:
        return
    if not application.can(Capability.TRIAL):
        text = f"{application.name} lets nobody try whether an account can sign in."
        draft.warn("cannot-try", text)
        return
    draft.add(
        application,
        None,
        Action.TRY_SIGN_IN,
        "never signed in",
        "signed in once, closed again" if closed else "signed in once",
        "before the first day, with a credential that is thrown away",
        arguments=Arguments(closed=closed),
    )
