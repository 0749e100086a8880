"""Whether a step's wish is fulfilled by what an application shows, and what to write down of it."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

from yugum.core.accounts import AccountState, Observed
from yugum.core.actions import Action

GONE = (AccountState.DELETED, AccountState.PURGED)


def fulfilled(
    action: Action,
    item: str,
    seen: Observed | None,
    arguments: Mapping[str, Any] = MappingProxyType({}),
) -> bool:
    """Whether nothing (more) is to be done.

    A credential cannot be read back, so setting one is never fulfilled by looking.
    """
    match action:
        case Action.CREATE:
            return seen is not None and seen.state not in GONE
        case Action.CUT_OFF:
            return seen is None or (
                seen.state is not AccountState.ACTIVE and not seen.sessions and not seen.keys
            )
        case Action.RESUME:
            return seen is not None and seen.state is AccountState.ACTIVE
        case Action.GRANT:
            return seen is not None and item in seen.entitlements
        case Action.REVOKE:
            return seen is None or item not in seen.entitlements
        case Action.TAKE_SEAT:
            return seen is not None and item in (seen.seats or ())
        case Action.FREE_SEAT:
            return seen is None or item not in (seen.seats or ())
        case Action.SET:
            return seen is None or seen.settings.get(item, "") == arguments.get("value", "")
        case Action.RENAME:
            return seen is None or seen.login == item
        case Action.RUN:
            ran = seen is not None and seen.settings.get(item) == arguments.get("run")
            return ran is not bool(arguments.get("back"))
        case Action.TRANSFER:
            assets = seen.assets if seen is not None else ()
            return assets is not None and not any(a.kind == item for a in assets)
        case Action.DELETE | Action.PARK:
            return seen is None or seen.state in GONE
        case Action.ARCHIVE:
            return seen is None or seen.state is AccountState.ARCHIVED
        case Action.REOPEN:
            return seen is not None and seen.state is AccountState.SUSPENDED
        case Action.RESTORE:
            return seen is not None and seen.state not in GONE
        case Action.PURGE:
            return seen is None or seen.state is AccountState.PURGED
        case Action.SET_CREDENTIAL:
            return False


def facet(action: Action, item: str, seen: Observed | None) -> dict[str, Any]:
    """The part of an observation that the step is about, for its receipt."""
    if seen is None:
        return {"account": "none"}
    match action:
        case Action.GRANT | Action.REVOKE:
            return {"entitlement": item, "held": item in seen.entitlements}
        case Action.TAKE_SEAT | Action.FREE_SEAT:
            return {"seat": item, "held": item in (seen.seats or ())}
        case Action.SET:
            return {"setting": item, "value": seen.settings.get(item, "")}
        case Action.RENAME:
            return {"login": seen.login}
        case Action.RUN:
            return {"step": item, "run": seen.settings.get(item, "")}
        case Action.TRANSFER:
            owned = [a for a in seen.assets or () if a.kind == item]
            return {"kind": item, "owned": len(owned)}
        case _:
            shown: dict[str, Any] = {"account": seen.state.value}
            if seen.sessions or seen.keys or action is Action.CUT_OFF:
                shown |= {"sessions": seen.sessions, "keys": seen.keys}
            if seen.recoverable_until is not None:
                shown["back_until"] = seen.recoverable_until.isoformat()
            return shown


def needs_assets(action: Action) -> bool:
    """Whether observing for this action must list what the account owns."""
    return action is Action.TRANSFER


def describe(before: Mapping[str, Any], after: Mapping[str, Any]) -> str:
    """``active, 2 sessions → suspended, 0 sessions`` for people."""

    def side(shown: Mapping[str, Any]) -> str:
        if "held" in shown:
            return "held" if shown["held"] else "not held"
        if "login" in shown:
            return str(shown["login"])
        if "step" in shown:
            return "run" if shown["run"] else "not run"
        if "setting" in shown:
            return str(shown["value"]) or "nothing"
        if "owned" in shown:
            return f"{shown['owned']} owned"
        parts = [str(shown.get("account", ""))]
        parts += [f"{shown[k]} {k}" for k in ("sessions", "keys") if shown.get(k)]
        return ", ".join(p for p in parts if p)

    return f"{side(before)} → {side(after)}"
