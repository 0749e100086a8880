"""Approvals: who must agree before a docket starts, and how far that has come."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from yugum.core.actions import Action
from yugum.core.actions.registry import ACTIONS
from yugum.core.decisions import OriginKind
from yugum.core.plans import PlannedStep
from yugum.core.roles import Rules
from yugum.core.verbs import Verb


class ApprovalState(StrEnum):
    OPEN = "open"
    GIVEN = "given"
    REFUSED = "refused"
    EXPIRED = "expired"


@dataclass(frozen=True, slots=True, kw_only=True)
class AskedPerson:
    """Somebody who is asked: ``key`` is ``operator:LOGIN`` or ``person:ID``, ``why`` them."""

    key: str
    name: str
    mail: str = ""
    why: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """What somebody who was asked said."""

    key: str
    name: str
    agrees: bool
    note: str
    at: datetime


Asked = tuple[str, str, str, str]
"""A step that somebody agrees to: application, action, item, and the account where there is no way back."""
PURGE = "purge"
"""The approval that whatever cannot be put back needs when somebody asks for it: a second operator's."""
BY_RULE = frozenset({Verb.CLOSE, Verb.PURGE})
"""What comes on its day by the rules that were adopted; nobody asks for it."""


def for_good(verb: Verb, steps: Iterable[PlannedStep]) -> tuple[str, ...]:
    """The approval that the steps need because there is no way back from one of them."""
    return (PURGE,) if verb not in BY_RULE and any(s.irreversible for s in steps) else ()


RAISING = frozenset({Action.CREATE, Action.SET, Action.UPDATE})
"""What may give an administrator's level."""


def needing(
    verb: Verb, steps: Iterable[PlannedStep], rules: Rules
) -> Mapping[str, tuple[Asked, ...]]:
    """The approvals a plan needs: its procedure's, of the roles it newly gives, and for good ends.

    Each with what of the plan it is about.
    """
    steps = tuple(steps)
    found: dict[str, list[Asked]] = {
        n: [asked(s) for s in steps if s.irreversible] for n in for_good(verb, steps)
    }
    if rules.procedure(verb).approval:
        found[rules.procedure(verb).approval] = [asked(s) for s in steps if is_asked(s)]
    by_role = {r.name: r.approval for r in rules.roles if r.approval}
    for step in steps:
        origin = step.origin if by_role and ACTIONS[step.action].gives else None
        if origin and origin.kind is OriginKind.ROLE and origin.name in by_role:
            found.setdefault(by_role[origin.name], []).append(asked(step))
        if step.action not in RAISING:
            continue
        for approval, level in raised(step, rules):
            if approval:
                found.setdefault(approval, []).append(level)
    return {name: tuple(dict.fromkeys(about)) for name, about in found.items()}


def is_asked(step: PlannedStep) -> bool:
    """Whether whoever agrees must have seen the step."""
    return ACTIONS[step.action].gives or step.irreversible


def raised(step: PlannedStep, rules: Rules) -> Iterator[tuple[str, Asked]]:
    """The administrators' levels that a step gives, each with the approval it needs."""
    said = {step.item: step.arguments.value}
    if step.action is Action.CREATE:
        said = {**step.arguments.settings, **step.arguments.attributes}
    elif step.action not in RAISING:
        return
    for name, levels in rules.mapped(step.application_id).levels.items():
        if (value := said.get(name, "")) in levels.administrators:
            level = (step.application_id, Action.UPDATE.value, f"{name}: {value}", "")
            yield levels.approval, level


def all_asked(steps: Iterable[PlannedStep], rules: Rules) -> frozenset[Asked]:
    """What whoever agrees to some steps has seen of them."""
    return frozenset(
        {asked(s) for s in steps if is_asked(s)}
        | {level for s in steps for _, level in raised(s, rules)}
    )


def asked(step: PlannedStep) -> Asked:
    """The step as whoever agreed has seen it; an account yet to be made has no id."""
    account = step.account_id if step.irreversible else ""
    return (step.application_id, step.action.value, step.item, account)


def there_are(names: Iterable[str], rules: Rules) -> tuple[str, ...]:
    """Those of some approvals that there are: what the rules name no more asks nobody."""
    return tuple(n for n in names if n == PURGE or n in rules.approvals)


def afterwards(verb: Verb, rules: Rules) -> tuple[str, ...]:
    """The approvals asked for when an urgent docket of this verb has begun already."""
    procedure = rules.procedure(verb)
    return (procedure.approval,) if procedure.approval and procedure.urgent_afterwards else ()
