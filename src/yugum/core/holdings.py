"""What an account holds against what it should: entitlements, seats and settings as steps."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from yugum.core.accounts import Account, HoldingKind
from yugum.core.actions import GONE, NO_ARGUMENTS, Action, Arguments, Phase, Rival
from yugum.core.actions.set import plan_setting
from yugum.core.actions.update import update
from yugum.core.applications import (
    Application,
    Capability,
)
from yugum.core.attributes import Recipe, attributes_wanted
from yugum.core.decisions import OriginKind
from yugum.core.drafts import Draft
from yugum.core.keeping import stays_or_goes
from yugum.core.people import PersonState, full_name, state_at
from yugum.core.seating import plan_seats
from yugum.core.wanted import Wanted


def plan_holdings(
    draft: Draft, application: Application, account: Account | None, want: Wanted
) -> None:
    """The steps that bring what an account holds to what it should hold."""
    for text in want.kept_out:
        draft.warn("excluded", f"{application.name}: {text}", "grant")
    _entitlements(draft, application, account, want)
    plan_seats(draft, application, account, want)
    _settings(draft, application, account, want)
    if account is not None:
        _attributes(draft, application, account, want)


def attributes_for(draft: Draft, application: Application, want: Wanted) -> dict[str, str]:
    """What a new account is made with: every attribute that can be made of the person and fits."""
    found = {
        name: value
        for name, value, _ in _made(draft, application)
        if value and name not in want.settings and _takes(draft, application, name, value)
    }
    given = {
        n: v
        for n, (v, _, _) in want.settings.items()
        if n in application.attributes and _takes(draft, application, n, v)
    }
    return found | given


def usual_attributes(draft: Draft, application: Application) -> dict[str, str]:
    """What the attributes of an account are made of where nothing else gives them."""
    return {name: value for name, value, _ in _made(draft, application)}


def _attributes(draft: Draft, application: Application, account: Account, want: Wanted) -> None:
    """Attributes that are kept in step; one that was changed outside waits for whoever decides."""
    if not draft.subject.is_person or not draft.world.rules.in_step(application):
        return
    if application.profile.comes_from:
        return  # it is changed where it comes from
    for name, value, one in _made(draft, application):
        if not one.in_step or name in want.settings:
            continue
        was = account.settings.get(name, "")
        code = ""
        if was == value:
            continue
        if (account.id, name) in draft.subject.disputed:
            code = "disputed"
            text = f"{application.name}: {name} was changed outside to '{was}'; which is right?"
            draft.warn(code, text, Action.UPDATE.value)
        elif not _takes(draft, application, name, value):
            code = "does-not-fit"
        if not code:
            update(draft, application, account, name, value, "the person's data")
            continue
        _held_back(draft, application, account, code, name, value, "the person's data")


def _made(draft: Draft, application: Application) -> Iterator[tuple[str, str, Recipe]]:
    subject, known = draft.subject, draft.world.rules.recipes(application)
    return attributes_wanted(subject.person, subject.boss(application.id), known)


def _takes(draft: Draft, application: Application, name: str, value: str) -> bool:
    """Whether the application takes a value; what speaks against it is said."""
    named = draft.world.rules.mapped(application.id).named.get(name)
    problem = application.attributes[name].problem(value)
    if not problem and named is not None:
        problem = named.shape.problem(value)
    if problem:
        text = f"{application.name}: {name} {problem}."
        draft.warn("does-not-fit", text, Action.UPDATE.value)
    return not problem


def _held_back(
    draft: Draft,
    application: Application,
    account: Account,
    code: str,
    name: str,
    value: str,
    why: str,
) -> None:
    """An attribute that is not made so now, as a line of the standing difference."""
    was = account.settings.get(name, "")
    before, after = f"{name}: {was or 'nothing'}", value or "nothing"
    draft.hold_back(code, application, account, Action.UPDATE, before, after, why, item=name)


def _settings(
    draft: Draft, application: Application, account: Account | None, want: Wanted
) -> None:
    """Settings that roles and exceptions give; one that nothing gives any more goes back."""
    settings = {n: s for n, s in want.settings.items() if n not in application.attributes}
    if account is not None:
        for name in sorted(want.settings.keys() & application.attributes.keys()):
            value, origin, reason = want.settings[name]
            if account.settings.get(name, "") == value or _takes(draft, application, name, value):
                update(draft, application, account, name, value, reason, origin)
            else:
                _held_back(draft, application, account, "does-not-fit", name, value, reason)
    if settings and not application.can(Capability.SETTINGS):
        names = ", ".join(sorted(settings))
        draft.warn("cannot-set", f"{application.name} has no settings; {names} stay as they are.")
        return
    for name, (value, origin, reason) in sorted(settings.items()):
        plan_setting(draft, application, account, name, value, reason, Phase.ACCESS, origin)
    if account is None:
        return
    standard = filled_settings(draft, application.profile.standard_settings)
    ledger = sorted(draft.subject.ledger.items(), key=lambda entry: entry[0])
    for (owner, kind, name), origin in ledger:
        if owner == account.id and kind is HoldingKind.SETTING and name not in want.settings:
            why = f"role {origin.name} no longer applies"
            if origin.kind is OriginKind.DECISION:
                why = "its time is over"
            if name in application.attributes:
                usual = usual_attributes(draft, application)
                update(draft, application, account, name, usual.get(name, ""), why, origin)
                continue
            value = standard.get(name, "")
            plan_setting(draft, application, account, name, value, why, Phase.ACCESS, origin)


def _entitlements(
    draft: Draft, application: Application, account: Account | None, want: Wanted
) -> None:
    held = account.entitlements if account else frozenset()
    missing = [item for item in want.entitlements if item not in held]
    if missing and not application.can(Capability.ENTITLEMENTS):
        draft.warn(
            "cannot-grant",
            f"{application.name} offers no groups; {', '.join(missing)} cannot be granted.",
            "grant",
        )
        for item in missing:
            reason = want.entitlements[item][1]
            draft.hold_back(
                "cannot-grant",
                application,
                account,
                Action.GRANT,
                "not held",
                "held",
                reason,
                item=item,
            )
        missing = []
    for item in missing:
        origin, reason = want.entitlements[item]
        rivals = _rivals(draft, application, item)
        if rivals:
            gone = ", ".join(
                f"{r.item} is seen gone in {draft.world.applications[a].name}" for a, r in rivals
            )
            reason = f"{reason}; once {gone}"
        draft.add(
            application,
            account,
            Action.GRANT,
            "not held",
            "held",
            reason,
            item=item,
            arguments=Arguments(after=tuple(r for _, r in rivals)) if rivals else NO_ARGUMENTS,
            origin=origin,
        )
    for item in sorted(held):
        assert account is not None
        stays_or_goes(draft, application, account, HoldingKind.ENTITLEMENT, item, want)


def _rivals(draft: Draft, application: Application, item: str) -> list[tuple[str, Rival]]:
    """What somebody holds that excludes an entitlement, each with its application."""
    return [
        (account.application_id, Rival(account.id, other))
        for exclusion in draft.world.rules.exclusions
        if (application.id, item) in exclusion.items
        for where, other in exclusion.items
        if (where, other) != (application.id, item)
        for account in draft.subject.accounts
        if account.application_id == where
        and account.state not in GONE
        and other in account.entitlements
    ]


def filled_settings(draft: Draft, wanted: Mapping[str, str]) -> dict[str, str]:
    """Settings with their places filled in: ``{date}`` the day, ``{name}`` the person's name.

    A leaver's day is the one on which the access ended, so that it stays the same in later plans.
    One that needs a successor is left out when there is none.
    """
    person, successor = draft.subject.person, draft.subject.successor
    left = state_at(person, draft.at) is PersonState.LEFT
    day = person.access_ends if left and person.access_ends else draft.at
    places = {"{date}": f"{day:%Y-%m-%d}", "{name}": full_name(person)}
    if successor is not None:
        places |= {
            "{successor}": successor.person.user_name,
            "{successor_name}": full_name(successor.person),
            "{successor_mail}": successor.person.mail,
        }
    filled = {}
    for key, value in sorted(wanted.items()):
        for place, word in places.items():
            value = value.replace(place, word)
        if "{successor" not in value:
            filled[key] = value
    return filled
