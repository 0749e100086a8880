"""What an undo or a return brings back and what it cannot, said before it runs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from yugum.core.accounts import Account, AccountState, HoldingKind
from yugum.core.actions import GONE, NO_ARGUMENTS, Action, Arguments, Phase
from yugum.core.applications import Application
from yugum.core.decisions import FOUND, Decision, OriginKind
from yugum.core.desired import desired, hold_on
from yugum.core.dockets import DoneStep
from yugum.core.drafts import Draft
from yugum.core.people import PersonState, state_at
from yugum.core.plans import FidelityLine
from yugum.core.precautions import PRECAUTION, is_precaution, kept_suspended, suspended_whole
from yugum.core.wanted import Why
from yugum.core.windows import can_come_back

Still = Mapping[str, frozenset[str]]
"""What accounts own now, by their ids: the application's own ids of the things."""
NOT_KNOWN: Still = {}
Texts = Mapping[tuple[str, str], str | None]
"""How places of applications read now, by the application's id and the place's key; None is not there."""
NO_ROLE = "no role gives it any more"


@dataclass(slots=True)
class Report:
    """The lines of a fidelity report, in the order in which they were found."""

    lines: list[FidelityLine] = field(default_factory=list)

    def returns(self, what: str, why: str) -> None:
        self._say(FidelityLine(what, True, why))

    def lost(self, what: str, why: str) -> None:
        self._say(FidelityLine(what, False, why))

    def _say(self, line: FidelityLine) -> None:
        """Of each thing once, with the reason found first: two steps may come to the same."""
        said = (line.what, line.comes_back)
        if said not in {(known.what, known.comes_back) for known in self.lines}:
            self.lines.append(line)


@dataclass(frozen=True, slots=True)
class Undoing:
    """The plan and the report that the way back from a step in one application goes into.

    ``why`` is the reason of its steps. ``still`` is what accounts that received something own now, by
    account; of one that is not named nothing is known. ``texts`` are those of places that were redirected.
    """

    draft: Draft
    report: Report
    application: Application
    why: str = "undo"
    still: Still = field(default_factory=dict)
    texts: Texts = field(default_factory=dict)

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

    def kept_shut(self) -> str:
        """By what accounts in the application are kept closed, whoever has let somebody in before; "" by nothing."""
        draft = self.draft
        kept = kept_suspended(draft.subject.decisions, self.application.id, draft.at)
        if kept is None:
            return ""
        return PRECAUTION if is_precaution(kept) else f"{kept.author}: {kept.reason}"

    def given(self, kind: HoldingKind, item: str = "") -> Why | None:
        """What gives something in the application as things stand, and the reason."""
        draft = self.draft
        want = desired(draft.subject, draft.world.rules, draft.at).get(self.application.id)
        if want is None:
            return None
        if kind is HoldingKind.ACCOUNT:
            return want.account
        return (want.entitlements if kind is HoldingKind.ENTITLEMENT else want.seats).get(item)

    def comes_back(self, kind: HoldingKind, account: Account, step: DoneStep) -> bool:
        """Whether what a step took is given back: found there, or given by something now as well.

        Who is kept out gets what is given once they are let in again, not before.
        """
        origin = step.origin or FOUND
        why, found = "", origin.kind is OriginKind.FOUND
        if not found and self.given(kind, step.item) is None:
            why = "the exception has ended" if origin.kind is OriginKind.DECISION else NO_ROLE
        elif account.state in GONE and not self.planned(account, Action.RESTORE):
            why = "the account is deleted"
        elif not found and suspended_whole(self.draft.subject.decisions, self.draft.at):
            why = "is given once the precaution is lifted"
        elif not found and self.state() is PersonState.ABSENT:
            why = "is given once they are back"
        if why:
            self.lost(step.item, why)
        return not why

    def stays(self, kind: HoldingKind, account: Account, step: DoneStep) -> bool:
        """Whether what a step gave is kept, for something else gives it by now; then that is said."""
        item = "" if kind is HoldingKind.ACCOUNT else step.item
        why = self.given(kind, item)
        if why is None or why[0] == (step.origin or self.draft.origin_of(account, kind, item)):
            return False
        self.lost(item or f"account {account.login}", f"stays: {why[1]}")
        return True

    def state(self) -> PersonState:
        return state_at(self.draft.subject.person, self.draft.at)

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
        if action is not Action.TRANSFER and self.planned(account, action, item):
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

    def planned(self, account: Account, action: Action, item: str = "") -> bool:
        """Whether something of an account is planned already."""
        mine = (account.id, action, item)
        return any((s.account_id, s.action, s.item) == mine for s in self.draft.steps)

    def restore(self, account: Account) -> bool:
        """A deleted account back to suspended, where its window is not over; whether it comes back."""
        what = f"account {account.login}"
        if account.state is not AccountState.DELETED:
            self.already(what)
            return False
        if not can_come_back(account, self.draft.at):
            self.lost(what, "its window is over")
            return False
        self.returns(what, "restored within its window")
        self.plan(account, Action.RESTORE, "deleted", "suspended")
        return True
