"""Tasks: what a person is asked to do in an application, and what it makes of an account there."""

from __future__ import annotations

from enum import StrEnum

from yugum.core.accounts import AccountState, Observed
from yugum.core.actions import Action, Arguments
from yugum.core.actions.registry import ACTIONS


class TaskState(StrEnum):
    OPEN = "open"
    DONE = "done"
    REFUSED = "refused"


def instructions(
    action: Action, login: str, item: str, arguments: Arguments, application: str
) -> str:
    """What the owner of an application is asked to do, in one sentence."""
    text = ACTIONS[action].words.task or action.value.replace("_", " ") + " {login} {item}."
    told = text.format(
        login=login or arguments.login,
        name=arguments.display_name,
        item=item,
        closed=", closed for now" if arguments.closed else "",
        until=arguments.until[:10],
        to_name=arguments.to_name,
    )
    return f"{application}: {told}"


def after_task(
    before: Observed | None,
    action: Action,
    item: str,
    arguments: Arguments,
    external_id: str,
    account_id: str,
) -> Observed | None:
    """The account as it stands in the book once a task was done; None when it is gone."""
    if action is Action.CREATE:
        return Observed(
            external_id=external_id,
            login=arguments.login,
            state=AccountState.SUSPENDED if arguments.closed else AccountState.ACTIVE,
            correlation=account_id,
            display_name=arguments.display_name,
            employee_number=arguments.employee_number,
        )
    return None if before is None else ACTIONS[action].after_task(before, item, arguments)
