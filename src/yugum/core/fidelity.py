"""What an undo or a return brings back and what it cannot, said before it runs."""

from __future__ import annotations

from dataclasses import dataclass, field

from yugum.core.accounts import Account, AccountState
from yugum.core.actions import NO_ARGUMENTS, Action, Arguments, Phase
from yugum.core.applications import Application
from yugum.core.dockets import DoneStep
from yugum.core.drafts import Draft
from yugum.core.plans import FidelityLine
from yugum.core.windows import can_come_back


@dataclass(slots=True)
class Report:
    """The lines of a fidelity report, in the order in which they were found."""

    lines: list[FidelityLine] = field(default_factory=list)

    def returns(self, what: str, why: str) -> None:
        self.lines.append(FidelityLine(what, True, why))

    def lost(self, what: str, why: str) -> None:
        self.lines.append(FidelityLine(what, False, why))


@dataclass(frozen=True, slots=True)
class Undoing:
    """The plan and the report that the way back from a step in one application goes into."""

    draft: Draft
    report: Report
    application: Application

    def returns(self, what: str, why: str) -> None:
        """Something of the application comes back."""
        self.report.returns(f"{self.application.name}: {what}", why)

    def lost(self, what: str, why: str) -> None:
        """Something of the application cannot come back."""
        self.report.lost(f"{self.application.name}: {what}", why)

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
            "undo",
            item=item,
            origin=step.origin if step else None,
            arguments=arguments,
            phase=phase,
        )

    def restore(self, account: Account) -> None:
        """A deleted account back to suspended, where its window is not over."""
        if account.state is not AccountState.DELETED:
            return
        what = f"account {account.login}"
        if not can_come_back(account, self.draft.at):
            self.lost(what, "its window is over")
            return
        self.returns(what, "restored within its window")
        self.plan(account, Action.RESTORE, "deleted", "suspended")
