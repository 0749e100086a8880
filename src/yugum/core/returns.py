"""Coming back: what the rules give now, and what was somebody's before they left."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime

from yugum.core.accounts import Account, AccountState
from yugum.core.actions import Action
from yugum.core.actions.cut_off import report_ways_in
from yugum.core.actions.delete import held_before
from yugum.core.actions.grant import grant_back
from yugum.core.actions.seat import FreeSeat
from yugum.core.actions.set import set_back
from yugum.core.actions.transfer import transfer_back
from yugum.core.applications import Capability
from yugum.core.decisions import OriginKind
from yugum.core.desired import Subject, World
from yugum.core.dockets import DoneStep, Outcome
from yugum.core.drafts import Draft
from yugum.core.fidelity import NOT_KNOWN, Report, Still, Undoing
from yugum.core.planning import plan_subject
from yugum.core.plans import Plan
from yugum.core.verbs import Verb
from yugum.core.windows import can_come_back

Planned = set[tuple[str, Action, str]]
"""What a plan does already: account, action, item."""


def plan_return(
    subject: Subject,
    world: World,
    at: datetime,
    done: Sequence[DoneStep],
    still: Still = NOT_KNOWN,
) -> Plan:
    """The plan for somebody who comes back: what the rules give now, and what was theirs.

    Rights come from today's rules; from what leaving did (``done``, in order) come the things handed over,
    the settings of before, and what the accounts held that no rule had given.
    """
    base = plan_subject(subject, world, at, Verb.RETURNER)
    draft = Draft(subject, world, at, list(base.steps), list(base.cautions), list(base.stays))
    report = Report()
    accounts = {a.id: a for a in subject.accounts}
    _report_accounts(report, subject, world, at)
    for planned_step in base.steps:
        if planned_step.action in (Action.GRANT, Action.TAKE_SEAT):
            name = world.applications[planned_step.application_id].name
            report.returns(f"{name}: {planned_step.item}", planned_step.reason)
    planned = {(s.account_id, s.action, s.item) for s in base.steps}
    for step in sorted(_settled(done), key=lambda s: s.position, reverse=True):
        application = world.applications.get(step.application_id)
        account = accounts.get(step.account_id)
        if application is None or account is None:
            continue
        undoing = Undoing(draft, report, application, "was so before leaving", still)
        _give_back(undoing, account, step, planned)
    return replace(draft.finish(Verb.RETURNER), fidelity=tuple(report.lines))


def _give_back(undoing: Undoing, account: Account, step: DoneStep, planned: Planned) -> None:
    """What one step of leaving took, where no rule gives it anyway."""
    if step.action in (Action.CUT_OFF, Action.LOCK):
        report_ways_in(undoing, account, step)
    if account.state is AccountState.PURGED:
        return
    match step.action:
        case Action.SET if (account.id, Action.SET, step.item) not in planned:
            set_back(undoing, account, step)
        case Action.TRANSFER:
            transfer_back(undoing, account, step)
        case Action.REVOKE if (account.id, Action.GRANT, step.item) not in planned:
            _entitlement_back(undoing, account, step)
        case Action.FREE_SEAT if (account.id, Action.TAKE_SEAT, step.item) not in planned:
            FreeSeat().take_back(undoing, account, step)
        case Action.DELETE | Action.PARK:
            for one in held_before(undoing, account, step):
                _give_back(undoing, account, one, planned)


def _entitlement_back(undoing: Undoing, account: Account, step: DoneStep) -> None:
    if step.origin is None or step.origin.kind is OriginKind.FOUND:
        grant_back(undoing, account, step)
    elif step.item not in account.entitlements:
        undoing.lost(step.item, "no rule gives it any more")


def _settled(done: Sequence[DoneStep]) -> list[DoneStep]:
    """The steps that were done, with one for each setting: from what it was at first to what it was made last."""
    found: dict[tuple[str, Action, str] | int, DoneStep] = {}
    for step in sorted(done, key=lambda s: s.position):
        if step.outcome is not Outcome.DONE:
            continue
        key = (step.account_id, step.action, step.item)
        if step.action is not Action.SET:
            found[step.position] = step
        elif (first := found.get(key)) is None:
            found[key] = step
        else:
            value = replace(step.arguments, was=first.arguments.was)
            found[key] = replace(step, arguments=value, found=first.found)
    return list(found.values())


def _report_accounts(report: Report, subject: Subject, world: World, at: datetime) -> None:
    for account in subject.accounts:
        application = world.applications.get(account.application_id)
        if application is None or application.can(Capability.RUN):
            continue
        name = f"{application.name}: account {account.login}"
        if account.state is AccountState.PURGED:
            report.lost(name, "purged; a new account is created if a role gives one")
        elif account.state is AccountState.DELETED and not can_come_back(account, at):
            report.lost(name, "the window is over; a new account is created if a role gives one")
        else:
            was = "locked" if subject.locked(account) else account.state.value
            report.returns(name, f"was {was}")
