"""What an undo or a return brings back and what it cannot, said before it runs."""

from __future__ import annotations

from dataclasses import dataclass, field

from yugum.core.accounts import Account, AccountState
from yugum.core.actions import NO_ARGUMENTS, Action, Arguments, Phase
from yugum.core.applications import Application
from yugum.core.decisions import Decision
from yugum.core.desired import hold_on
from yugum.core.dockets import DoneStep
from yugum.core.drafts import Draft
from yugum.core.plans import FidelityLine
from yugum.core.windows import can_come_back


@dataclass(slots=True)
class Report:
    """The lines of a fidelity report, in the order in which they were found."""

    lines: list[FidelityLine] = field(default_factory=list)

    def returns(self, what: str, why: str) -> None:
        self._say(FidelityLine(what, True, why))

    def lost(self, what: str, why: str) -> None:
        self._say(FidelityLine(what, False, why))

    def _say(self, line: FidelityLine) -> None:
        """Once: two steps of a docket may come to the same."""
        if line not in self.lines:
            self.lines.append(line)


@dataclass(frozen=True, slots=True)
class Undoing:
    """The plan and the report that the way back from a step in one application goes into.

    ``why`` is the reason of its steps.
    """

    draft: Draft
    report: Report
    application: Application
    why: str = "undo"

    def returns(self, what: str, why: str) -> None:
        """Something of the application comes back."""
        self.report.returns(f"{self.application.name}: {what}", why)

    def lost(self, what: str, why: str) -> None:
        """Something of the application cannot come back."""
        self.report.lost(f"{self.application.name}: {what}", why)

    def already(self, what: str) -> None:
        """Something is as it was before the docket."""
        self.returns(what, "already as before; nothing to do")

    def changed(self, what: str, now: str) -> None:
        """Something was changed by others since."""
        self.lost(what, f"changed since to {now}; left as it is")

    def hold_on(self, account: Account) -> Decision | None:
        """The hold that keeps the account as it is."""
        return hold_on(self.draft.subject, self.draft.world, account, self.draft.at)

    def plan(
        self,
        account: Account,
        action: Action,
        before: str,
        after: str,
        step: DoneStep | None = None,
        arguments: Arguments = NO_ARGUMENTS,
        phase: Phase | None = None,
    ) -> None:
        """Add a step, once; of ``step`` the item and origin are taken over."""
        item = step.item if step else ""
        if any(
            (s.account_id, s.action, s.item, s.arguments) == (account.id, action, item, arguments)
            for s in self.draft.steps
        ):
            return
        self.draft.add(
            self.application,
            account,
            action,
            before,
            after,
            self.why,
            item=item,
            origin=step.origin if step else None,
            arguments=arguments,
            phase=phase,
        )

    def restore(self, account: Account) -> None:
        """A deleted account back to suspended, where its window is not over."""
        what = f"account {account.login}"
        if account.state is not AccountState.DELETED:
            self.already(what)
            return
        if not can_come_back(account, self.draft.at):
            self.lost(what, "its window is over")
            return
        self.returns(what, "restored within its window")
        self.plan(account, Action.RESTORE, "deleted", "suspended")
