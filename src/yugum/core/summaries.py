"""The summary at the head of a plan: at most three sentences."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from yugum.core.actions import Action
from yugum.core.actions.registry import ACTIONS
from yugum.core.applications import Application
from yugum.core.wording import plural

if TYPE_CHECKING:
    from yugum.core.plans import Plan, PlannedStep


NOTHING = "Nothing to do: everything is as it should be."


def summarise(
    steps: Sequence[PlannedStep], applications: Mapping[str, Application]
) -> tuple[str, ...]:
    """What happens, what is handed or given, and what cannot be put back."""
    if not steps:
        return (NOTHING,)
    count = Counter(s.action for s in steps)
    where = plural(len({s.application_id for s in steps}), "application")
    accounts = _counted(count, first=True)
    lines = [f"{accounts} in {where}." if accounts else f"Changes in {where}."]
    if others := _counted(count, first=False):
        lines.append(f"{others}.")
    final = {s.application_id for s in steps if s.irreversible or ACTIONS[s.action].announced}
    if final:
        names = sorted(applications[i].name for i in final)
        lines.append(f"Cannot be put back: {', '.join(names)}.")
    else:
        lines.append("Nothing in it is irreversible.")
    return tuple(lines[:3])


def only(
    plan: Plan,
    steps: tuple[PlannedStep, ...],
    applications: Mapping[str, Application],
    none: str = NOTHING,
) -> Plan:
    """The plan with some of its steps, its head told anew; where nothing is left of it, ``none``."""
    if steps == plan.steps:
        return plan
    head = summarise(steps, applications) if steps else (none,)
    return replace(plan, steps=steps, summary=head)


def _counted(count: Mapping[Action, int], *, first: bool) -> str:
    """``2 accounts cut off, 1 seat freed``, of the actions that go into one sentence."""
    parts = [
        f"{plural(count[action], *spec.words.counted)} {spec.words.counted_past}"
        for action, spec in ACTIONS.items()
        if count.get(action) and spec.words.first is first
    ]
    text = ", ".join(parts)
    return f"{text[0].upper()}{text[1:]}" if text else ""
