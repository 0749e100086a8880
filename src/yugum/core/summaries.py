"""The summary at the head of a plan: at most three sentences."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from yugum.core.actions import ACTIONS, Action
from yugum.core.applications import Application

if TYPE_CHECKING:
    from yugum.core.plans import Plan


def plural(count: int, word: str) -> str:
    """``3 seats``, ``1 seat``."""
    return f"{count} {word}" if count == 1 else f"{count} {word}s"


def summarise(plan: Plan, applications: Mapping[str, Application]) -> tuple[str, ...]:
    """What happens, what is handed or given, and what cannot be put back."""
    if not plan.steps:
        return ("Nothing to do: everything is as it should be.",)
    count = {action: sum(s.action is action for s in plan.steps) for action in Action}
    where = {s.application_id for s in plan.steps}
    lines = [_first(count, len(where))]
    second = _second(count)
    if second:
        lines.append(second)
    irreversible = [s for s in plan.steps if ACTIONS[s.action].irreversible]
    if irreversible:
        names = sorted({applications[s.application_id].name for s in irreversible})
        lines.append(f"Cannot be put back: {', '.join(names)}.")
    else:
        lines.append("Nothing in it is irreversible.")
    return tuple(lines[:3])


def _first(count: Mapping[Action, int], applications: int) -> str:
    words = {
        Action.CUT_OFF: "cut off",
        Action.CREATE: "created",
        Action.RENAME: "renamed",
        Action.RESTORE: "restored",
        Action.RESUME: "resumed",
        Action.ARCHIVE: "archived",
        Action.REOPEN: "reopened",
        Action.DELETE: "deleted",
        Action.PARK: "parked",
        Action.PURGE: "purged",
    }
    parts = [f"{plural(count[a], 'account')} {word}" for a, word in words.items() if count[a]]
    if not parts:
        return f"Changes in {plural(applications, 'application')}."
    text = ", ".join(parts)
    return f"{text[0].upper()}{text[1:]} in {plural(applications, 'application')}."


def _second(count: Mapping[Action, int]) -> str:
    words = {
        Action.REVOKE: ("entitlement", "removed"),
        Action.GRANT: ("entitlement", "granted"),
        Action.FREE_SEAT: ("seat", "freed"),
        Action.TAKE_SEAT: ("seat", "taken"),
        Action.TRANSFER: ("kind of item", "handed over"),
        Action.SET: ("setting", "changed"),
        Action.SET_CREDENTIAL: ("initial credential", "set"),
        Action.RUN: ("own step", "run"),
    }
    parts = []
    for action, (noun, verb) in words.items():
        if count[action]:
            counted = plural(count[action], noun)
            if action is Action.TRANSFER and count[action] > 1:
                counted = f"{count[action]} kinds of items"
            parts.append(f"{counted} {verb}")
    text = ", ".join(parts)
    return f"{text[0].upper()}{text[1:]}." if text else ""
