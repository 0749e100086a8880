"""Seats of licenses, taken and freed; where an application knows none, Yugum keeps the books."""

from __future__ import annotations

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

if TYPE_CHECKING:
    from yugum.core.decisions import LedgerKey, Origin
    from yugum.core.dockets import DoneStep, Step
    from yugum.core.fidelity import Undoing


class TakeSeat(ActionSpec):
    """A seat is claimed before any call; whoever finds none waits in line."""

    action = Action.TAKE_SEAT
    phase = Phase.ACCESS
    needs = Needs()
    adds = True
    gives = True
    seats = 1
    words = Words(
        past="seat taken", does="take seat", counted=("seat", "seats"), counted_past="taken"
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return seen is not None and item in (seen.seats or ())

    def facet(self, item: str, seen: Observed) -> Facet:
        return held_facet(HoldingKind.SEAT, item, item in (seen.seats or ()))

    def origins(self, step: Step) -> tuple[tuple[LedgerKey, Origin | None], ...]:
        return (((step.account_id, HoldingKind.SEAT, step.item), step.origin),)

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        if step.item not in account.seats:
            undoing.already(step.item)
            return
        if undoing.stays(HoldingKind.SEAT, account, step):
            return
        undoing.returns(step.item, "seat taken back")
        undoing.plan(account, Action.FREE_SEAT, "held", "not held", step)


class FreeSeat(ActionSpec):
    """A seat given back; whoever waits is served."""

    action = Action.FREE_SEAT
    phase = Phase.RECLAIM
    needs = Needs()
    takes = True
    seats = -1
    words = Words(
        past="seat freed", does="free seat", counted=("seat", "seats"), counted_past="freed"
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return seen is None or item not in (seen.seats or ())

    def facet(self, item: str, seen: Observed) -> Facet:
        return held_facet(HoldingKind.SEAT, item, item in (seen.seats or ()))

    def origins(self, step: Step) -> tuple[tuple[LedgerKey, Origin | None], ...]:
        return (((step.account_id, HoldingKind.SEAT, step.item), None),)

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        if step.item in account.seats:
            undoing.already(step.item)
            return
        if not undoing.comes_back(HoldingKind.SEAT, account, step):
            return
        pool = undoing.draft.world.pools.get((undoing.application.id, step.item))
        if pool is None or pool.full:
            undoing.lost(step.item, "no seat is free; waits in line")
        else:
            undoing.returns(step.item, "a seat is free")
        undoing.plan(account, Action.TAKE_SEAT, "not held", "held", step)
