"""Lanes: the steps of one account in one application, run one after the other.

Lanes are parallel: one that fails or waits does not hold up another.
"""

from __future__ import annotations

from collections.abc import Sequence

from yugum.core.accounts import Account
from yugum.core.actions import Action, Phase
from yugum.core.actions.registry import ACTIONS
from yugum.core.applications import Application
from yugum.core.dockets import ASKING, Step, StepState
from yugum.engine.work.sight import Sight
from yugum.engine.work.steps import StepRunner
from yugum.engine.work.tools import LaneTools


class Lane:
    """One account's steps of one docket."""

    def __init__(
        self,
        tools: LaneTools,
        application: Application,
        epoch: int,
        steps: Sequence[Step],
        account: Account | None,
    ) -> None:
        self._tools = tools
        self._steps = steps
        sight = Sight(tools, application, epoch, steps[0], account)
        self._runner = StepRunner(tools, sight, self._cut)
        self._unsettled: set[Action] = set()
        self.open = True
        """Whether later steps of this account may follow in this lane."""
        self.cuts = self._first = self._uncut = steps[0].phase is Phase.SECURE
        if self._first:
            tools.precedence.enter()
            tools.lookback.enter()

    async def run(self) -> None:
        """Run until the lane is done, waits or is stuck; problems end up in the journal."""
        try:
            self.open = await self._run()
        finally:
            self._cut()
            self._secured()

    async def go_on(self, steps: Sequence[Step]) -> None:
        """Run more steps of the account after those before, with what these left behind."""
        self._steps = steps
        await self.run()

    def _cut(self) -> None:
        """The lane's cut-off is made, or is not to be had now."""
        if self._uncut:
            self._uncut = False
            self._tools.lookback.leave()
            self._tools.precedence.progress()

    def _secured(self) -> None:
        """The lane's cut-off is behind it, or is not to be had now."""
        if self._first:
            self._first = False
            self._tools.precedence.leave()

    async def _run(self) -> bool:
        for step in self._steps:
            if step.phase is not Phase.SECURE:
                self._secured()
                await self._tools.precedence.wait()
                if why := self._tools.stopped():
                    await self._runner.stopped(step, why)
                    return False
            if self._unsettled & ACTIONS[step.action].needs.after:
                return False
            if step.state is StepState.ATTENTION:  # a person has to say how it goes on
                reached = StepState.ATTENTION
            else:
                reached = await self._runner.run(step)
            if reached is StepState.DONE:
                continue
            if reached is not StepState.SETTLING and reached not in ASKING:
                return False  # the application does not answer now
            self._unsettled.add(step.action)
        return True
