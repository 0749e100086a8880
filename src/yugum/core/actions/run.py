"""The organisation's own steps, run by a web hook or a script."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from yugum.core.accounts import Account, Observed
from yugum.core.actions import Action, ActionSpec, Arguments, Facet, Needs, Phase, Words
from yugum.core.applications import Capability

if TYPE_CHECKING:
    from yugum.core.dockets import DoneStep
    from yugum.core.fidelity import Undoing


class Run(ActionSpec):
    """``item`` is the step's name; it is in force while what it shows is this ``run``."""

    action = Action.RUN
    phase = Phase.ACCESS
    needs = Needs(Capability.RUN)
    adds = True
    words = Words(
        past="run", does="own step", counted=("own step", "own steps"), counted_past="run"
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        ran = seen is not None and seen.settings.get(item) == arguments.run
        return ran is not arguments.back

    def facet(self, item: str, seen: Observed) -> Facet:
        return Facet(step=item, run=seen.settings.get(item, ""))

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        if not step.arguments.undo:
            undoing.lost(step.item, "the rules say that it is not put back")
            return
        if account.settings.get(step.item) != step.arguments.run:
            undoing.returns(step.item, "is not in force any more; nothing to do")
            return
        undoing.returns(step.item, "it is called to be put back")
        undoing.draft.add(
            undoing.application,
            account,
            Action.RUN,
            "run",
            "put back",
            undoing.why,
            item=step.item,
            arguments=replace(step.arguments, back=True),
        )
