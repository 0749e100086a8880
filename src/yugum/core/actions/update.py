"""Attributes of accounts: who somebody is, as the rules make it of the person."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yugum.core.accounts import Account
from yugum.core.actions import Action, Arguments, Needs, Phase, Words
from yugum.core.actions.set import Set

if TYPE_CHECKING:
    from yugum.core.applications import Application
    from yugum.core.decisions import Origin
    from yugum.core.dockets import DoneStep
    from yugum.core.drafts import Draft
    from yugum.core.fidelity import Undoing


class Update(Set):
    """One attribute, seen like a setting; one that a role gave goes back to what is usual."""

    action = Action.UPDATE
    phase = Phase.ACCESS
    needs = Needs()
    takes = True
    words = Words(
        past="updated",
        does="update",
        counted=("attribute", "attributes"),
        counted_past="updated",
    )

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        before = step.arguments.was if step.found.value is None else step.found.value
        now = account.settings.get(step.item, "")
        if undoing.planned(account, Action.UPDATE, step.item):
            undoing.returns(step.item, "as the person's data are again")
        elif now == before:
            undoing.already(step.item)
        elif now != step.arguments.value:
            undoing.changed(step.item, now or "nothing")
        elif step.item in kept(undoing, account):
            undoing.lost(step.item, "it is kept in step with the person's data")
        else:
            undoing.returns(step.item, f"{before or 'nothing'} again")
            update(undoing.draft, undoing.application, account, step.item, before, undoing.why)


def kept(undoing: Undoing, account: Account) -> frozenset[str]:
    """The attributes of an account that the rules keep in step."""
    rules = undoing.draft.world.rules
    return rules.in_step(undoing.application) if account.person_id else frozenset()


def update(
    draft: Draft,
    application: Application,
    account: Account,
    name: str,
    value: str,
    why: str,
    origin: Origin | None = None,
) -> None:
    """Plan one attribute of an account, where it is not so already."""
    was = account.settings.get(name, "")
    if was == value:
        return
    draft.add(
        application,
        account,
        Action.UPDATE,
        f"{name}: {was or 'nothing'}",
        value or "nothing",
        why,
        item=name,
        arguments=Arguments(value=value, was=was),
        origin=origin,
    )
