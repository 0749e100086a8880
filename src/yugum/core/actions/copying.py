"""Copying what an account owns for somebody, one kind of thing a step; the things themselves stay."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from yugum.core.accounts import Account, Asset, Observed
from yugum.core.actions import Action, ActionSpec, Arguments, Facet, Needs, Phase, Settle, Words
from yugum.core.actions.transfer import owned_facet
from yugum.core.applications import Application, Capability
from yugum.core.people import full_name
from yugum.core.wording import plural

if TYPE_CHECKING:
    from yugum.core.dockets import DoneStep
    from yugum.core.drafts import Draft
    from yugum.core.fidelity import Undoing
    from yugum.core.handover import Choice


class Copy(ActionSpec):
    """``item`` is the kind of thing, ``only`` which of them.

    The owner's account looks as before; the connector looks at the copies before it says that it is done.
    """

    action = Action.COPY
    phase = Phase.HAND_OVER
    needs = Needs(Capability.COPY)
    settle = Settle.REPEAT_SAFE
    readable = False
    adds = True
    words = Words(
        past="copied",
        does="copy",
        counted=("kind of item", "kinds of items"),
        counted_past="copied",
        task="Copy what {login} owns ({item}) for {to_name}.",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return False

    def facet(self, item: str, seen: Observed) -> Facet:
        return owned_facet(item, seen)

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        if copies := len(step.did.assets):
            name = step.arguments.to_name or "the successor"
            undoing.lost(f"{plural(copies, step.item)} copied", f"{name} keeps the copies")


def copy(
    draft: Draft,
    application: Application,
    account: Account,
    kind: str,
    things: Sequence[Asset],
    choice: Choice,
    why: str,
) -> None:
    """Plan that somebody gets a copy of things that go with the account."""
    assert choice.successor is not None
    assert choice.account is not None
    name = full_name(choice.successor.person)
    draft.add(
        application,
        account,
        Action.COPY,
        f"{plural(len(things), kind)} owned",
        f"copied for {name}, go with the account",
        why,
        item=kind,
        arguments=Arguments(
            to_name=name,
            to_account=choice.account.id,
            to_external_id=choice.account.external_id,
            only=tuple(sorted(t.external_id for t in things)),
        ),
    )
