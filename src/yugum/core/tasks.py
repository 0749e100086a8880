"""Tasks: what a person is asked to do in an application, and what it makes of an account there."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime
from enum import StrEnum
from typing import Any

from yugum.core.accounts import AccountState, Observed
from yugum.core.actions import Action


class TaskState(StrEnum):
    OPEN = "open"
    DONE = "done"
    REFUSED = "refused"


WORDS: Mapping[Action, str] = {
    Action.CREATE: "Make an account {login} for {name}{closed}.",
    Action.CUT_OFF: "Suspend {login} now and end every way in: sessions, keys, shared codes.",
    Action.RESUME: "Let {login} in again.",
    Action.GRANT: "Give {login}: {item}.",
    Action.REVOKE: "Take away from {login}: {item}.",
    Action.PARK: "Keep {login} suspended and marked as left until {until}.",
    Action.RESTORE: "Take the mark off {login}; it stays suspended.",
    Action.PURGE: "Delete {login} for good.",
    Action.TRANSFER: "Hand over what {login} owns ({item}) to {to_name}.",
}


def instructions(
    action: Action, login: str, item: str, arguments: Mapping[str, Any], application: str
) -> str:
    """What the owner of an application is asked to do, in one sentence."""
    values = {
        "login": login or str(arguments.get("login", "")),
        "name": str(arguments.get("display_name", "")),
        "item": item,
        "closed": ", closed for now" if arguments.get("closed") else "",
        "until": str(arguments.get("until", ""))[:10],
        "to_name": str(arguments.get("to_name", "")),
    }
    text = WORDS.get(action, action.value.replace("_", " ") + " {login} {item}.")
    return f"{application}: {text.format(**values)}"


def after_task(
    before: Observed | None,
    action: Action,
    item: str,
    arguments: Mapping[str, Any],
    external_id: str,
    account_id: str,
) -> Observed | None:
    """The account as it stands in the book once a task was done; None when it is gone."""
    if action is Action.CREATE:
        return Observed(
            external_id=external_id,
            login=str(arguments["login"]),
            state=AccountState.SUSPENDED if arguments.get("closed") else AccountState.ACTIVE,
            correlation=account_id,
            display_name=str(arguments.get("display_name", "")),
            employee_number=str(arguments.get("employee_number", "")),
        )
    if before is None or action is Action.PURGE:
        return None
    match action:
        case Action.CUT_OFF:
            return replace(before, state=AccountState.SUSPENDED, sessions=0, keys=0)
        case Action.RESUME:
            return replace(before, state=AccountState.ACTIVE)
        case Action.GRANT:
            return replace(before, entitlements=before.entitlements | {item})
        case Action.REVOKE:
            return replace(before, entitlements=before.entitlements - {item})
        case Action.PARK:
            until = datetime.fromisoformat(str(arguments["until"]))
            return replace(before, state=AccountState.DELETED, recoverable_until=until)
        case Action.RESTORE:
            return replace(before, state=AccountState.SUSPENDED, recoverable_until=None)
        case _:
            return before
