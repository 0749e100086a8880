"""Renaming: another login, with the names and the address that go with it."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from yugum.core.accounts import Account, Observed
from yugum.core.actions import Action, ActionSpec, Arguments, Facet, Needs, Phase, Words
from yugum.core.applications import Application, Capability
from yugum.core.people import full_name

if TYPE_CHECKING:
    from yugum.core.dockets import DoneStep
    from yugum.core.drafts import Draft
    from yugum.core.fidelity import Undoing


class Rename(ActionSpec):
    """``item`` is the new login."""

    action = Action.RENAME
    phase = Phase.ACCOUNT
    needs = Needs(Capability.RENAME)
    words = Words(
        past="renamed",
        does="rename to",
        counted=("account", "accounts"),
        counted_past="renamed",
        first=True,
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return seen is None or seen.login == item

    def facet(self, item: str, seen: Observed) -> Facet:
        return Facet(login=seen.login)

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        before = step.found.login or ""
        what = f"login {before}"
        if account.login != step.item:
            undoing.lost(what, f"renamed since to {account.login}; left as it is")
            return
        undoing.returns(what, f"instead of {step.item}")
        undoing.draft.add(
            undoing.application,
            account,
            Action.RENAME,
            step.item,
            before,
            undoing.why,
            item=before,
            arguments=replace(step.arguments, display_name=full_name(undoing.draft.subject.person)),
        )


def rename(draft: Draft, application: Application, account: Account) -> None:
    """Plan the person's login and names for an account."""
    person = draft.subject.person
    draft.add(
        application,
        account,
        Action.RENAME,
        account.login,
        person.user_name,
        "new name",
        item=person.user_name,
        arguments=Arguments(
            display_name=full_name(person),
            given_name=person.given_name,
            family_name=person.family_name,
            mail=person.mail,
        ),
    )
