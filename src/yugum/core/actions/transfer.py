"""Handing over what an account owns, one kind of thing a step."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yugum.core.accounts import Account, Observed
from yugum.core.actions import Action, ActionSpec, Arguments, Facet, Needs, Phase, Words
from yugum.core.applications import Application, Capability
from yugum.core.people import full_name
from yugum.core.wording import plural

if TYPE_CHECKING:
    from yugum.core.dockets import DoneStep
    from yugum.core.drafts import Draft
    from yugum.core.fidelity import Undoing
    from yugum.core.handover import Part


class Transfer(ActionSpec):
    """``item`` is the kind of thing; with ``only`` some of them, wherever they are by now."""

    action = Action.TRANSFER
    phase = Phase.HAND_OVER
    needs = Needs(Capability.ASSETS)
    takes = True
    lists_assets = True
    words = Words(
        past="handed over",
        does="hand over",
        counted=("kind of item", "kinds of items"),
        counted_past="handed over",
        task="Hand over what {login} owns ({item}) to {to_name}.",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return not still_owned(item, seen, arguments)

    def facet(self, item: str, seen: Observed) -> Facet:
        return owned_facet(item, seen)

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        if not step.arguments.from_external_id:  # else between accounts of one person
            transfer_back(undoing, account, step)


def still_owned(item: str, seen: Observed | None, arguments: Arguments) -> bool:
    """Whether an account has things of a kind yet, of those that a step is about; unless it is told so, it has."""
    assets = () if seen is None else seen.assets
    only = arguments.only
    return assets is None or any(
        a.kind == item and (only is None or a.external_id in only) for a in assets
    )


def owned_facet(item: str, seen: Observed) -> Facet:
    """How many things of a kind an account owns."""
    return Facet(kind=item, owned=sum(a.kind == item for a in seen.assets or ()))


def transfer(
    draft: Draft, application: Application, account: Account, part: Part, kind: str, why: str
) -> None:
    """Plan that a successor gets every thing of a kind, or those that were chosen for them."""
    choice = part.choice
    assert choice.successor is not None
    assert choice.account is not None
    target, name = choice.account, full_name(choice.successor.person)
    called = f" called {part.matching}" if part.matching else ""
    draft.add(
        application,
        account,
        Action.TRANSFER,
        f"{plural(len(part.things), kind)}{called} owned",
        f"with {name}",
        why,
        item=kind,
        arguments=Arguments(
            to_name=name,
            to_account=target.id,
            to_external_id=target.external_id,
            only=part.only,
        ),
    )


def transfer_back(undoing: Undoing, account: Account, step: DoneStep) -> None:
    """What was handed over comes back, as far as the successor still has it."""
    moved = step.did.assets
    if not moved:
        return
    holder = step.arguments.to_name or "the successor"
    person = undoing.draft.subject.person
    still = undoing.still.get(step.arguments.to_account)
    there = moved if still is None else [a for a in moved if a.external_id in still]
    if gone := len(moved) - len(there):
        undoing.lost(plural(gone, step.item), f"not with {holder} any more")
    if not there:
        return
    undoing.returns(plural(len(there), step.item), f"those still with {holder}")
    undoing.plan(
        account,
        Action.TRANSFER,
        f"with {holder}",
        f"with {full_name(person)}",
        step,
        Arguments(
            to_name=full_name(person),
            to_account=account.id,
            to_external_id=account.external_id,
            from_external_id=step.arguments.to_external_id,
            only=tuple(a.external_id for a in there),
        ),
        # What comes back needs its account first, whatever phase it went in.
        phase=Phase.ACCESS,
    )
