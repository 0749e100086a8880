"""Groups themselves, where an application lets one: made, changed, retired and brought back.

A group is kept like an account that is nobody's: with a state, a window and settings, and every change to it
is a step of a docket. Who is in it are entitlements of accounts.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from yugum.core.accounts import Account, AccountKind, AccountState
from yugum.core.actions import Action, Arguments
from yugum.core.actions.update import update
from yugum.core.applications import Application, Capability
from yugum.core.desired import Subject, World
from yugum.core.drafts import Draft
from yugum.core.plans import Plan
from yugum.core.verbs import Verb
from yugum.errors import Conflict, InvalidInput

OWNERS = ("owner_id", "owner_login")
"""Settings that say whose a group is: by the owner's account, as the application names it."""
FIELDS = ("owner", "address", "outside_senders", "description")
"""What can be said of a group; an application that has no such thing is not asked to keep it."""
OUTSIDE = ("yes", "no")
OWNED_GROUP = "group"
"""The kind of thing that a group is among what its owner owns."""


@dataclass(frozen=True, slots=True)
class Owner:
    """Who is to own a group: their name, and their account in the application."""

    name: str
    account: Account


def is_group(account: Account) -> bool:
    return account.kind is AccountKind.GROUP


def owner_of(settings: Mapping[str, str]) -> str:
    """The owner of a group, as its application names their account; "" without one."""
    return next((v for name in OWNERS if (v := settings.get(name, ""))), "")


def settings_of(
    application: Application, values: Mapping[str, str], owner: Owner | None
) -> dict[str, str]:
    """What is said of a group as settings of it, by the names its application has for them.

    Raises:
        InvalidInput: the application has no such thing, or does not take the value.
    """
    found = {}
    for name, value in values.items():
        if name == "owner":
            field = next((n for n in OWNERS if n in application.groups), "")
            account = owner.account if owner else None
            by = {"owner_id": "external_id", "owner_login": "login"}.get(field, "login")
            value = getattr(account, by) if account else ""
        else:
            field = name if name in application.groups else ""
        if not field:
            raise InvalidInput(
                f"A group of {application.name} has no {name.replace('_', ' ')}.",
                place=f"values.{name}",
                remedy=f"It has: {', '.join(said_of(application.groups)) or 'nothing but a name'}.",
            )
        if problem := application.groups[field].problem(value):
            raise InvalidInput(f"{application.name}: {name} {problem}.", place=f"values.{name}")
        if name == "outside_senders" and value not in ("", *OUTSIDE):
            raise InvalidInput("Write yes or no.", place=f"values.{name}")
        found[field] = value
    return found


def said_of(groups: Iterable[str]) -> list[str]:
    """What can be said of a group, by the names its application has for it."""
    known = set(groups)
    owned = ["owner"] if known & set(OWNERS) else []
    return owned + [n for n in FIELDS if n in known]


def must_have_groups(application: Application) -> None:
    """
    Raises:
        Conflict: nobody makes or changes a group of an application through us.
    """
    if not application.can(Capability.GROUPS):
        raise Conflict(
            f"{application.name} lets nobody make or change groups from outside.",
            place="application",
            remedy="Do it there; the next reading sees it.",
        )


def plan_group(
    subject: Subject,
    world: World,
    account: Account,
    settings: Mapping[str, str],
    at: datetime,
    givers: Mapping[str, Sequence[str]],
    name: str = "",
) -> Plan:
    """A group made as said, or one that there is changed; ``name`` is another name for it.

    ``givers`` are what gives it: they name it as it was called.
    """
    draft = Draft(subject, world, at)
    application = world.applications[account.application_id]
    if account.state is AccountState.PURGED:
        draft.add(
            application,
            account,
            Action.CREATE,
            "no group",
            "in use",
            "asked for",
            arguments=Arguments(
                login=account.login, display_name=account.login, attributes=dict(settings)
            ),
        )
        return _finished(draft, f"Group {account.login} is made in {application.name}.")
    if account.state is AccountState.DELETED:
        draft.warn("retired", f"{account.login} is retired; bring it back first.", "group")
        return _finished(draft, "")
    for field, value in sorted(settings.items()):
        update(draft, application, account, field, value, "asked for")
    if name and name != account.login:
        if given := sorted(givers.get(account.id, ())):
            by = f"{account.login} is given by {_first(given)}"
            draft.warn("given", f"{by}, under this name: write {name} there as well.")
        draft.add(
            application,
            account,
            Action.RENAME,
            account.login,
            name,
            "asked for",
            item=name,
            arguments=Arguments(login=name, display_name=name),
        )
    changed = f"Group {account.login} of {application.name} is changed." if draft.steps else ""
    return _finished(draft, changed)


def retire(draft: Draft, application: Application, account: Account, givers: Iterable[str]) -> None:
    """Plan that a group is of no use to anybody until it is brought back, or its window ends.

    Raises:
        Conflict: roles or exceptions give it.
    """
    if given := sorted(givers):
        raise Conflict(
            f"{account.login} in {application.name} is given by {_first(given)}.",
            place="accounts",
            remedy="Take it out of the rules, or end the exceptions, first.",
        )
    days = application.profile.window_days
    before, after = account.state.value, f"retired, back for {days} days"
    draft.add(application, account, Action.PARK, before, after, "asked for")


def _first(given: Sequence[str]) -> str:
    return ", ".join(given[:3]) + (f" and {len(given) - 3} more" if len(given) > 3 else "")


def restore(draft: Draft, application: Application, account: Account) -> None:
    """Plan that a retired group is in use again, with who was in it as far as it kept them."""
    draft.add(application, account, Action.RESTORE, "retired", "in use", "asked for")


def _finished(draft: Draft, summary: str) -> Plan:
    plan = draft.finish(Verb.GROUP)
    return replace(plan, summary=(summary,)) if summary and plan.steps else plan
