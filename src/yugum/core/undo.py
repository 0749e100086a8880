"""Undo: the inverse of what a docket did, three-way for each step, with a fidelity report.

A step is put back only where what is seen now is still what the step left behind. Where it is
already as before, nothing is done; where it is neither, the report says so and nothing is
overwritten. What a step found already so was not its doing and is not undone.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime

from yugum.core.accounts import Account, AccountState, HoldingKind, is_open
from yugum.core.actions import ACTIONS, Action, Phase
from yugum.core.applications import Application, Capability, Deletion, effective_deletion
from yugum.core.decisions import FOUND, OriginKind
from yugum.core.desired import Subject, World
from yugum.core.dockets import DoneStep
from yugum.core.drafts import Draft
from yugum.core.people import full_name
from yugum.core.planning import new_credential, plan_setting, plan_subject
from yugum.core.plans import FidelityLine, Plan, in_order
from yugum.core.summaries import plural, summarise
from yugum.core.windows import can_come_back


class _Report:
    def __init__(self) -> None:
        self.lines: list[FidelityLine] = []

    def returns(self, what: str, why: str) -> None:
        self.lines.append(FidelityLine(what, True, why))

    def lost(self, what: str, why: str) -> None:
        self.lines.append(FidelityLine(what, False, why))


def plan_undo(subject: Subject, world: World, at: datetime, done: Sequence[DoneStep]) -> Plan:
    """The inverse of the ``done`` steps, last first.

    ``subject`` carries the person's facts as they will be once the cause is taken back.
    """
    draft = Draft(subject, world, at)
    report = _Report()
    accounts = {a.id: a for a in subject.accounts}
    for step in sorted(done, key=lambda s: s.position, reverse=True):
        application = world.applications.get(step.application_id)
        account = accounts.get(step.account_id)
        if application is None or step.outcome != "done":
            continue
        if account is None or account.state is AccountState.PURGED:
            report.lost(
                f"{application.name}: {step.item or 'account'}", "the account is gone for good"
            )
            continue
        _invert(draft, report, application, account, step)
    draft.tell_withheld()
    steps = in_order(draft.steps)
    plan = Plan(
        subject_id=subject.person.id,
        verb="undo",
        steps=steps,
        cautions=tuple(draft.cautions),
        fidelity=tuple(report.lines),
    )
    return replace(plan, summary=summarise(plan, world.applications))


def plan_return(subject: Subject, world: World, at: datetime, done: Sequence[DoneStep]) -> Plan:
    """The plan for somebody who comes back: what the rules give now, and what was theirs.

    Rights come from today's rules; from the leaver docket come the things handed over and the
    entitlements no rule had given.
    """
    base = plan_subject(subject, world, at, "returner")
    draft = Draft(subject, world, at, steps=list(base.steps), cautions=list(base.cautions))
    report = _Report()
    accounts = {a.id: a for a in subject.accounts}
    _report_accounts(report, subject, world, at)
    planned = {(s.account_id, s.action, s.item) for s in base.steps}
    for planned_step in base.steps:
        if planned_step.action in (Action.GRANT, Action.TAKE_SEAT):
            name = world.applications[planned_step.application_id].name
            report.returns(f"{name}: {planned_step.item}", planned_step.reason)
    for step in sorted(done, key=lambda s: s.position, reverse=True):
        application = world.applications.get(step.application_id)
        account = accounts.get(step.account_id)
        if application is None or account is None or step.outcome != "done":
            continue
        if step.action is Action.CUT_OFF:
            _report_ways_in(report, application, step)
        if account.state is AccountState.PURGED:
            continue
        if step.action is Action.SET and (account.id, Action.SET, step.item) not in planned:
            _set_back(draft, report, application, account, step)
        if step.action is Action.TRANSFER:
            _transfer_back(draft, report, application, account, step)
        elif step.action is Action.REVOKE and (account.id, Action.GRANT, step.item) not in planned:
            if step.origin is None or step.origin.kind is OriginKind.FOUND:
                _grant_back(draft, report, application, account, step)
            else:
                report.lost(f"{application.name}: {step.item}", "no rule gives it any more")
    draft.tell_withheld()
    plan = replace(
        base,
        steps=in_order(draft.steps),
        cautions=tuple(draft.cautions),
        fidelity=tuple(report.lines),
    )
    return replace(plan, summary=summarise(plan, world.applications))


def _report_accounts(report: _Report, subject: Subject, world: World, at: datetime) -> None:
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
            report.returns(name, f"was {account.state.value}")


def _report_ways_in(report: _Report, application: Application, step: DoneStep) -> None:
    sessions, keys = step.found.get("sessions", 0), step.found.get("keys", 0)
    if sessions:
        report.lost(f"{application.name}: {plural(sessions, 'session')}", "ended; sign in again")
    if keys:
        report.lost(f"{application.name}: {plural(keys, 'API key')}", "revoked; issue new ones")
    report.lost(f"{application.name}: password", "replaced at the cut-off; a new one is set")


def _invert(
    draft: Draft, report: _Report, application: Application, account: Account, step: DoneStep
) -> None:
    match step.action:
        case Action.CUT_OFF:
            _report_ways_in(report, application, step)
            if account.state is AccountState.SUSPENDED:
                report.returns(f"{application.name}: access", "resumed with a new credential")
                _plan(draft, application, account, Action.RESUME, "suspended", "active")
                new_credential(draft, application, account, "put back")
            elif account.state is AccountState.DELETED:
                _restore(draft, report, application, account)
        case Action.RESUME | Action.CREATE:
            _out_again(draft, report, application, account, step)
        case Action.GRANT | Action.REVOKE | Action.TAKE_SEAT | Action.FREE_SEAT:
            _holding(draft, report, application, account, step)
        case Action.SET:
            _set_back(draft, report, application, account, step)
        case Action.ARCHIVE:
            if account.state is AccountState.ARCHIVED:
                report.returns(f"{application.name}: account {account.login}", "reopened")
                _plan(draft, application, account, Action.REOPEN, "archived", "suspended")
        case Action.REOPEN:
            if account.state is AccountState.SUSPENDED:
                report.returns(f"{application.name}: account {account.login}", "archived again")
                _plan(draft, application, account, Action.ARCHIVE, "suspended", "archived")
        case Action.RENAME:
            _rename_back(draft, report, application, account, step)
        case Action.RUN:
            _run_back(draft, report, application, account, step)
        case Action.TRANSFER:
            _transfer_back(draft, report, application, account, step)
        case Action.DELETE | Action.PARK:
            _restore(draft, report, application, account)
        case Action.RESTORE:
            _delete_again(draft, report, application, account)
        case Action.SET_CREDENTIAL:
            report.lost(f"{application.name}: the credential before", "it cannot be read back")
        case Action.PURGE:
            report.lost(f"{application.name}: account {account.login}", "purged for good")


def _plan(
    draft: Draft,
    application: Application,
    account: Account,
    action: Action,
    before: str,
    after: str,
    step: DoneStep | None = None,
    arguments: Mapping[str, object] | None = None,
) -> None:
    if any(
        s.account_id == account.id
        and s.action is action
        and s.item == (step.item if step else "")
        and s.arguments == (arguments or {})
        for s in draft.steps
    ):
        return
    draft.add(
        application,
        account,
        action,
        before,
        after,
        "undo",
        item=step.item if step else "",
        origin=step.origin if step else None,
        arguments=arguments,
        # What comes back needs its account first, whatever phase it went in.
        phase=Phase.ACCESS if action is Action.TRANSFER else None,
    )


def _out_again(
    draft: Draft, report: _Report, application: Application, account: Account, step: DoneStep
) -> None:
    if is_open(account):
        report.returns(f"{application.name}: no access", "as before the docket")
        _plan(draft, application, account, Action.CUT_OFF, "active", "suspended")
    if step.action is Action.CREATE and account.state is not AccountState.DELETED:
        _delete_again(draft, report, application, account)


def _delete_again(
    draft: Draft, report: _Report, application: Application, account: Account
) -> None:
    deletion = effective_deletion(application)
    if deletion is Deletion.FINAL:
        report.lost(f"{application.name}: no account", "it could only be deleted for good")
        return
    action = Action.PARK if deletion is Deletion.PARK else Action.DELETE
    _plan(draft, application, account, action, account.state.value, "deleted, can come back")


def _restore(draft: Draft, report: _Report, application: Application, account: Account) -> None:
    if account.state is not AccountState.DELETED:
        return
    if not can_come_back(account, draft.at):
        report.lost(f"{application.name}: account {account.login}", "its window is over")
        return
    report.returns(f"{application.name}: account {account.login}", "restored within its window")
    _plan(draft, application, account, Action.RESTORE, "deleted", "suspended")


def _holding(
    draft: Draft, report: _Report, application: Application, account: Account, step: DoneStep
) -> None:
    """Put an entitlement or a seat back where it is still as the step left it."""
    seat = step.action in (Action.TAKE_SEAT, Action.FREE_SEAT)
    kind = HoldingKind.SEAT if seat else HoldingKind.ENTITLEMENT
    held_now = step.item in (account.seats if seat else account.entitlements)
    gave = step.action in (Action.GRANT, Action.TAKE_SEAT)
    what = f"{application.name}: {step.item}"
    if held_now is not gave:
        report.returns(what, "already as before; nothing to do")
        return
    inverse = ACTIONS[step.action].inverse
    assert inverse is not None
    if inverse is Action.TAKE_SEAT:
        pool = draft.world.pools.get((application.id, step.item))
        if pool is None or pool.free <= 0:
            report.lost(what, "no seat is free; waits in line")
        else:
            report.returns(what, "a seat is free")
    else:
        report.returns(what, f"{kind.value} put back" if not gave else f"{kind.value} taken back")
    before, after = ("not held", "held") if not gave else ("held", "not held")
    _plan(draft, application, account, inverse, before, after, step)


def _set_back(
    draft: Draft, report: _Report, application: Application, account: Account, step: DoneStep
) -> None:
    """Put a setting back where it still is what the step made of it."""
    what = f"{application.name}: {step.item}"
    before = str(step.found.get("value", step.arguments.get("was", "")))
    now = account.settings.get(step.item, "")
    if now == before:
        report.returns(what, "already as before; nothing to do")
    elif now != str(step.arguments.get("value", "")):
        report.lost(what, f"changed since to {now or 'nothing'}; left as it is")
    else:
        report.returns(what, f"{before or 'nothing'} again")
        plan_setting(draft, application, account, step.item, before, "undo", phase=Phase.ACCOUNT)


def _rename_back(
    draft: Draft, report: _Report, application: Application, account: Account, step: DoneStep
) -> None:
    """The login before, where the account still has the one that was given."""
    before = str(step.found.get("login", ""))
    what = f"{application.name}: login {before}"
    if account.login != step.item:
        report.lost(what, f"renamed since to {account.login}; left as it is")
        return
    report.returns(what, f"instead of {step.item}")
    arguments = {**step.arguments, "display_name": full_name(draft.subject.person)}
    draft.add(
        application,
        account,
        Action.RENAME,
        step.item,
        before,
        "undo",
        item=before,
        arguments=arguments,
    )


def _run_back(
    draft: Draft, report: _Report, application: Application, account: Account, step: DoneStep
) -> None:
    what = f"{application.name}: {step.item}"
    if not step.arguments.get("undo"):
        report.lost(what, "the rules say that it is not put back")
        return
    if account.settings.get(step.item) != step.arguments.get("run"):
        report.returns(what, "is not in force any more; nothing to do")
        return
    report.returns(what, "it is called to be put back")
    draft.add(
        application,
        account,
        Action.RUN,
        "run",
        "put back",
        "undo",
        item=step.item,
        arguments={**step.arguments, "back": True},
    )


def _grant_back(
    draft: Draft, report: _Report, application: Application, account: Account, step: DoneStep
) -> None:
    what = f"{application.name}: {step.item}"
    if step.item in account.entitlements:
        return
    report.returns(what, "was held before, given by no rule")
    origin = step.origin or FOUND
    draft.add(
        application,
        account,
        Action.GRANT,
        "not held",
        "held",
        "was held before leaving",
        item=step.item,
        origin=origin,
    )


def _transfer_back(
    draft: Draft, report: _Report, application: Application, account: Account, step: DoneStep
) -> None:
    moved = step.did.get("assets", [])
    if not moved:
        return
    what = f"{application.name}: {len(moved)} {step.item}{'s' if len(moved) != 1 else ''}"
    report.returns(what, f"those still with {step.arguments.get('to_name', 'the successor')}")
    arguments = {
        "to_person": draft.subject.person.id,
        "to_name": full_name(draft.subject.person),
        "to_account": account.id,
        "to_external_id": account.external_id,
        "from_external_id": step.arguments["to_external_id"],
        "only": [a["external_id"] for a in moved],
    }
    _plan(
        draft,
        application,
        account,
        Action.TRANSFER,
        f"with {step.arguments.get('to_name', 'the successor')}",
        f"with {full_name(draft.subject.person)}",
        step,
        arguments,
    )
