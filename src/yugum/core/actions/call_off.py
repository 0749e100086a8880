"""Calling off what others take part in, with notice to them, one kind of thing a step."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yugum.core.accounts import Account, Observed
from yugum.core.actions import Action, ActionSpec, Arguments, Facet, Needs, Phase, Words
from yugum.core.actions.transfer import owned_facet, still_owned
from yugum.core.applications import Application, Capability
from yugum.core.wording import plural

if TYPE_CHECKING:
    from yugum.core.dockets import DoneStep
    from yugum.core.drafts import Draft
    from yugum.core.fidelity import Undoing
    from yugum.core.handover import Part


class CallOff(ActionSpec):
    """``item`` is the kind of thing; with ``only`` some of them."""

    action = Action.CALL_OFF
    phase = Phase.HAND_OVER
    needs = Needs(Capability.CALL_OFF)
    announced = True
    takes = True
    lists_assets = True
    words = Words(
        past="called off",
        does="call off",
        counted=("kind of item", "kinds of items"),
        counted_past="called off",
        task="Call off what {login} has called ({item}), and tell everybody who was invited.",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return not still_owned(item, seen, arguments)

    def facet(self, item: str, seen: Observed) -> Facet:
        return owned_facet(item, seen)

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        called = len(step.did.assets)
        undoing.lost(plural(called, step.item), "called off, and everybody was told")


def call_off(
    draft: Draft, application: Application, account: Account, part: Part, kind: str, why: str
) -> None:
    """Plan that what others take part in is called off, for nobody is to have it."""
    draft.add(
        application,
        account,
        Action.CALL_OFF,
        f"{plural(len(part.things), kind)} to come",
        "called off, everybody who is invited is told",
        why,
        item=kind,
        arguments=Arguments(only=part.only),
    )
