"""Entitlements, given and taken away."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from yugum.core.accounts import Account, HoldingKind, Observed
from yugum.core.actions import (
    Action,
    ActionSpec,
    Arguments,
    Facet,
    Needs,
    Phase,
    Words,
    held_facet,
)
from yugum.core.applications import Capability
from yugum.core.decisions import FOUND

if TYPE_CHECKING:
    from yugum.core.decisions import LedgerKey, Origin
    from yugum.core.dockets import DoneStep, Step
    from yugum.core.fidelity import Undoing


class Grant(ActionSpec):
    """A group, permission or role inside an application."""

    action = Action.GRANT
    phase = Phase.ACCESS
    needs = Needs(Capability.ENTITLEMENTS)
    adds = True
    gives = True
    words = Words(
        past="granted",
        does="grant",
        counted=("entitlement", "entitlements"),
        counted_past="granted",
        task="Give {login}: {item}.",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return seen is not None and item in seen.entitlements

    def facet(self, item: str, seen: Observed) -> Facet:
        return held_facet(HoldingKind.ENTITLEMENT, item, item in seen.entitlements)

    def origins(self, step: Step) -> tuple[tuple[LedgerKey, Origin | None], ...]:
        return (((step.account_id, HoldingKind.ENTITLEMENT, step.item), step.origin),)

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        if step.item not in account.entitlements:
            undoing.already(step.item)
            return
        if undoing.stays(HoldingKind.ENTITLEMENT, account, step):
            return
        undoing.returns(step.item, "entitlement taken back")
        undoing.plan(account, Action.REVOKE, "held", "not held", step)

    def after_task(self, before: Observed, item: str, arguments: Arguments) -> Observed | None:
        return replace(before, entitlements=before.entitlements | {item})


class Revoke(ActionSpec):
    """An entitlement taken away."""

    action = Action.REVOKE
    phase = Phase.RECLAIM
    needs = Needs(Capability.ENTITLEMENTS)
    takes = True
    words = Words(
        past="removed",
        does="remove",
        counted=("entitlement", "entitlements"),
        counted_past="removed",
        task="Take away from {login}: {item}.",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return seen is None or item not in seen.entitlements

    def facet(self, item: str, seen: Observed) -> Facet:
        return held_facet(HoldingKind.ENTITLEMENT, item, item in seen.entitlements)

    def origins(self, step: Step) -> tuple[tuple[LedgerKey, Origin | None], ...]:
        return (((step.account_id, HoldingKind.ENTITLEMENT, step.item), None),)

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        if step.item in account.entitlements:
            undoing.already(step.item)
        elif undoing.comes_back(HoldingKind.ENTITLEMENT, account, step):
            undoing.returns(step.item, "entitlement put back")
            undoing.plan(account, Action.GRANT, "not held", "held", step)

    def after_task(self, before: Observed, item: str, arguments: Arguments) -> Observed | None:
        return replace(before, entitlements=before.entitlements - {item})


def grant_back(undoing: Undoing, account: Account, step: DoneStep) -> None:
    """What a leaver held and no rule had given, for somebody who returns."""
    if step.item in account.entitlements:
        return
    undoing.returns(step.item, "was held before, given by no rule")
    undoing.draft.add(
        undoing.application,
        account,
        Action.GRANT,
        "not held",
        "held",
        "was held before leaving",
        item=step.item,
        origin=step.origin or FOUND,
    )
