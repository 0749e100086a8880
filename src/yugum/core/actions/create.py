"""Creating an account; a joiner's is made ahead and stays closed until the first day."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yugum.core.accounts import Account, AccountKind, HoldingKind, Observed, is_open
from yugum.core.actions import GONE, Action, ActionSpec, Arguments, Needs, Phase, Words
from yugum.core.actions.delete import delete_again, retire_again
from yugum.core.actions.invite import able
from yugum.core.applications import Capability
from yugum.core.desired import replaced
from yugum.core.people import full_name

if TYPE_CHECKING:
    from collections.abc import Mapping

    from yugum.core.applications import Application
    from yugum.core.decisions import LedgerKey, Origin
    from yugum.core.dockets import DoneStep, Step
    from yugum.core.drafts import Draft
    from yugum.core.fidelity import Undoing


NO_ADDRESS = "no-address"
"""The code of an invitation that has nowhere to go."""


class Create(ActionSpec):
    """An account that carries our correlation id, so that it is made once."""

    action = Action.CREATE
    phase = Phase.ACCOUNT
    needs = Needs()
    adds = True
    gives = True
    words = Words(
        past="created",
        does="create account",
        counted=("account", "accounts"),
        counted_past="created",
        first=True,
        task="Make an account {login} for {name}{closed}.",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return seen is not None and seen.state not in GONE

    def origins(self, step: Step) -> tuple[tuple[LedgerKey, Origin | None], ...]:
        return (((step.account_id, HoldingKind.ACCOUNT, ""), step.origin),)

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        if account.id in replaced(undoing.draft.subject, undoing.draft.at):
            undoing.returns("no second account", "the one of before takes its place")
            return
        if undoing.stays(HoldingKind.ACCOUNT, account, step):
            return
        if account.kind is AccountKind.GROUP:
            retire_again(undoing, account)
            return
        if is_open(account):
            out_again(undoing, account)
        delete_again(undoing, account, made=True)


def create(
    draft: Draft,
    application: Application,
    why: tuple[Origin, str],
    settings: Mapping[str, str],
    attributes: Mapping[str, str],
    *,
    closed: bool,
) -> bool:
    """Plan an account for the person, with what the standard sets it to; whether it can be made."""
    person = draft.subject.person
    origin, reason = why
    closed = closed and application.can(Capability.SUSPEND)
    invites = application.can(Capability.INVITE)
    after = "active"
    if closed:
        after = f"suspended until {person.starts}"
    elif invites:
        after = "invited"
    if invites and not person.mail:
        draft.warn(
            NO_ADDRESS,
            f"{application.name} invites by mail, and {full_name(person)} has no address at work. "
            "Give one.",
            Action.CREATE.value,
        )
        draft.hold_back(NO_ADDRESS, application, None, Action.CREATE, "no account", after, reason)
        return False
    arguments = Arguments(
        login=person.user_name,
        display_name=full_name(person),
        given_name=person.given_name,
        family_name=person.family_name,
        settings=settings,
        attributes=attributes,
        mail=person.mail,
        employee_number=person.employee_number,
        closed=closed,
        duties=tuple(d.value for d in able(draft, application, application.profile.duties)),
    )
    draft.add(
        application,
        None,
        Action.CREATE,
        "no account",
        after,
        reason,
        arguments=arguments,
        origin=origin,
    )
    return True


def out_again(undoing: Undoing, account: Account) -> None:
    """No access, as before the docket."""
    if not is_open(account):
        undoing.already("no access")
        return
    undoing.returns("no access", "as before the docket")
    undoing.plan(account, Action.CUT_OFF, "active", "suspended")
