"""Planning: what a person should have, less what is seen, as steps with reasons.

Level-triggered and pure: the same subject, world and moment give the same plan. Only what a rule
gave is taken away by a rule; the ledger knows the origin of everything held.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import datetime

from yugum.core.accounts import Account, AccountKind, AccountState, HoldingKind, is_open
from yugum.core.actions import Action, Phase
from yugum.core.applications import Application, Capability, CredentialRule, SeatReturn
from yugum.core.decisions import Decision, DecisionKind, Origin, OriginKind, in_force
from yugum.core.desired import Subject, Wanted, World, desired, prepared_from
from yugum.core.drafts import Draft
from yugum.core.people import (
    PersonState,
    full_name,
    state_at,
)
from yugum.core.plans import Plan
from yugum.core.procedures import own_steps
from yugum.core.summaries import plural
from yugum.core.windows import can_come_back, setting_ends

MAIL_SETTINGS = frozenset({"forward", "reply"})
"""Settings by which a leaver's mail goes on; they are made in the phase of that name."""


def plan_subject(subject: Subject, world: World, at: datetime, verb: str) -> Plan:
    """The steps that lead from what is seen to what the person should have at a moment."""
    return draft_subject(subject, world, at, verb).finish(verb)


def draft_subject(subject: Subject, world: World, at: datetime, verb: str) -> Draft:
    """`plan_subject` before it is finished, for verbs that add steps of their own."""
    draft = Draft(subject, world, at)
    state = state_at(subject.person, at)
    wanted = desired(subject, world.rules, at)
    suspended = {
        str(d.payload["application"]): d
        for d in in_force(subject.decisions, at)
        if d.kind is DecisionKind.SUSPEND
    }
    for application_id, application in sorted(world.applications.items()):
        if application.can(Capability.RUN):
            continue
        mine = [
            a
            for a in subject.accounts
            if a.application_id == application_id and a.kind is AccountKind.PERSON
        ]
        living = [a for a in mine if a.state is not AccountState.PURGED]
        want = wanted.get(application_id)
        if application_id in suspended and state is not PersonState.LEFT:
            _keep_suspended(draft, application, living, suspended[application_id])
            continue
        if want is not None and want.account is not None:
            if state is PersonState.ABSENT:
                _suspend_for_absence(draft, application, living)
            elif state is PersonState.EXPECTED:
                _prepare(draft, application, living, want)
            else:
                _provide(draft, application, living, want)
            continue
        for account in living:
            given_by_rule = draft.origin_of(account, "account", "").kind is OriginKind.ROLE
            if state is PersonState.LEFT or given_by_rule:
                reason = "has left" if state is PersonState.LEFT else "no role gives it any more"
                withdraw(draft, application, account, reason)
            elif state is PersonState.ABSENT:
                _suspend_for_absence(draft, application, [account])
    _warn_of_missing_applications(draft, wanted)
    own_steps(draft, verb)
    return draft


def _warn_of_missing_applications(draft: Draft, wanted: Iterable[str]) -> None:
    for application_id in sorted(set(wanted) - set(draft.world.applications)):
        draft.warn("no-application", f"A role gives access to {application_id}, which is unknown.")


def _keep_suspended(
    draft: Draft, application: Application, accounts: list[Account], decision: Decision
) -> None:
    """Somebody settled that these stay closed; the rules do not open them."""
    for account in accounts:
        if is_open(account) and application.can(Capability.SUSPEND):
            why = f"suspended by {decision.author}: {decision.reason}"
            draft.add(application, account, Action.CUT_OFF, "active", "suspended", why)


def _suspend_for_absence(draft: Draft, application: Application, accounts: list[Account]) -> None:
    frees = draft.world.rules.absence_frees_seats
    kept = "all but seats kept" if frees else "all kept"
    for account in accounts:
        if is_open(account):
            draft.add(
                application, account, Action.CUT_OFF, "active", "suspended", f"absent; {kept}"
            )
        for item in sorted(account.seats) if frees else ():
            _take(draft, application, account, HoldingKind.SEAT, item, "absent")


def _prepare(draft: Draft, application: Application, accounts: list[Account], want: Wanted) -> None:
    """The account of somebody who is expected: made some days ahead, closed until the first day."""
    account = best(accounts, draft.at)
    person = draft.subject.person
    if account is None:
        begins = prepared_from(person, application)
        if not application.profile.prepare_days or begins is None or draft.at < begins:
            return
        _create(draft, application, want, closed=True)
    elif account.state is AccountState.ACTIVE:
        if draft.origin_of(account, "account", "").kind is OriginKind.FOUND:
            return
        if application.can(Capability.SUSPEND):
            until = f"suspended until {person.starts}"
            draft.add(application, account, Action.CUT_OFF, "active", until, "has not begun yet")
    elif account.state is AccountState.DELETED:
        draft.add(application, account, Action.RESTORE, "deleted", "suspended", "is expected")
    _holdings(draft, application, account, want)


def _provide(draft: Draft, application: Application, accounts: list[Account], want: Wanted) -> None:
    """An account with what roles and decisions give; an existing one is used before a new one."""
    account = best(accounts, draft.at)
    if account is None:
        _create(draft, application, want, closed=False)
        new_credential(draft, application, None, "first sign-in")
    else:
        _bring_back(draft, application, account)
        _standard_again(draft, application, account)
    _holdings(draft, application, account, want)


def _create(draft: Draft, application: Application, want: Wanted, *, closed: bool) -> None:
    assert want.account is not None
    origin, reason = want.account
    person = draft.subject.person
    arguments: dict[str, object] = {
        "login": person.user_name,
        "display_name": full_name(person),
        "given_name": person.given_name,
        "family_name": person.family_name,
        "settings": _settings(draft, application.profile.standard_settings),
    }
    if person.mail:
        arguments["mail"] = person.mail
    if closed and application.can(Capability.SUSPEND):
        arguments["closed"] = True
    after = f"suspended until {person.starts}" if closed else "active"
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


def _holdings(
    draft: Draft, application: Application, account: Account | None, want: Wanted
) -> None:
    for text in want.kept_out:
        draft.warn("excluded", f"{application.name}: {text}", "grant")
    _entitlements(draft, application, account, want)
    _seats(draft, application, account, want)
    _role_settings(draft, application, account, want)


def _role_settings(
    draft: Draft, application: Application, account: Account | None, want: Wanted
) -> None:
    """Settings that roles and exceptions give; one that nothing gives any more goes back."""
    if want.settings and not application.can(Capability.SETTINGS):
        names = ", ".join(sorted(want.settings))
        draft.warn("cannot-set", f"{application.name} has no settings; {names} stay as they are.")
        return
    for name, (value, origin, reason) in sorted(want.settings.items()):
        plan_setting(draft, application, account, name, value, reason, Phase.ACCESS, origin)
    if account is None:
        return
    standard = _settings(draft, application.profile.standard_settings)
    for (owner, kind, name), origin in sorted(
        draft.subject.ledger.items(), key=lambda entry: entry[0]
    ):
        if owner == account.id and kind == "setting" and name not in want.settings:
            why = f"role {origin.name} no longer applies"
            if origin.kind is OriginKind.DECISION:
                why = "its time is over"
            value = standard.get(name, "")
            plan_setting(draft, application, account, name, value, why, Phase.ACCESS, origin)


def _settings(draft: Draft, wanted: Mapping[str, str]) -> dict[str, str]:
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


def _leaver_settings(draft: Draft, application: Application, account: Account, why: str) -> None:
    """What a leaver's account is set to, each for its time; then it is the standard again."""
    profile, ended = application.profile, draft.subject.person.access_ends
    ends = setting_ends(ended, application) if ended else {}
    filled = _settings(draft, profile.leaver_settings)
    standard = _settings(draft, profile.standard_settings)
    for name in sorted(profile.leaver_settings):
        until, reason = ends.get(name), why
        if until is not None and until <= draft.at:
            plan_setting(
                draft, application, account, name, standard.get(name, ""), "its time is over"
            )
            continue
        if name not in filled:
            draft.warn(
                "no-successor",
                f"{application.name}: {name} is not set, for there is no successor. Name one.",
            )
            continue
        if until is not None:
            reason = f"{why}; until {until:%-d %b %Y}"
        ground = profile.leaver_ground if name in MAIL_SETTINGS else ""
        if ground:
            reason += f"; ground: {ground}"
        plan_setting(draft, application, account, name, filled[name], reason, ground=ground)


def plan_setting(
    draft: Draft,
    application: Application,
    account: Account | None,
    name: str,
    value: str,
    why: str,
    phase: Phase | None = None,
    origin: Origin | None = None,
    ground: str = "",
) -> None:
    """Set one setting of an account, where it is not so already."""
    was = account.settings.get(name, "") if account else ""
    if was == value or not application.can(Capability.SETTINGS):
        return
    arguments = {"value": value, "was": was}
    if ground:
        arguments["ground"] = ground
    if name in MAIL_SETTINGS:
        phase = phase or Phase.MAIL
    draft.add(
        application,
        account,
        Action.SET,
        f"{name}: {was or 'nothing'}",
        value or "nothing",
        why,
        item=name,
        arguments=arguments,
        origin=origin,
        phase=phase,
    )


def _standard_again(draft: Draft, application: Application, account: Account) -> None:
    """What a leaver's account was set to goes back to the standard."""
    left = _settings(draft, application.profile.leaver_settings)
    for name, value in _settings(draft, application.profile.standard_settings).items():
        if name in left and account.state is not AccountState.ACTIVE:
            plan_setting(
                draft, application, account, name, value, "in use again", phase=Phase.ACCOUNT
            )


def best(accounts: list[Account], at: datetime) -> Account | None:
    """The account to use: an open one first, a deleted one only while it can come back."""
    order = {AccountState.ACTIVE: 0, AccountState.SUSPENDED: 1, AccountState.ARCHIVED: 2}
    usable = [a for a in accounts if a.state is not AccountState.DELETED or can_come_back(a, at)]
    return min(usable, key=lambda a: (order.get(a.state, 3), a.id), default=None)


def _bring_back(draft: Draft, application: Application, account: Account) -> None:
    if account.state is AccountState.ACTIVE:
        return
    if account.state is AccountState.DELETED:
        until = account.recoverable_until
        before = f"deleted, back until {until:%-d %b %Y %H:%M} UTC" if until else "deleted"
        draft.add(application, account, Action.RESTORE, before, "suspended", "should have access")
    if account.state is AccountState.ARCHIVED:
        draft.add(
            application, account, Action.REOPEN, "archived", "suspended", "should have access"
        )
    draft.add(application, account, Action.RESUME, "suspended", "active", "should have access")
    if application.profile.credential_on_resume is CredentialRule.NEW:
        new_credential(draft, application, account, "a new one after the cut-off")


def new_credential(
    draft: Draft, application: Application, account: Account | None, reason: str
) -> None:
    """An initial credential, to be changed at the first sign-in where the profile says so."""
    if not application.can(Capability.CREDENTIAL):
        return
    after, arguments = "new initial one", {}
    if application.profile.must_change:
        if application.can(Capability.MUST_CHANGE):
            after, arguments = f"{after}, to be changed at the first sign-in", {"must_change": True}
        else:
            draft.warn(
                "cannot-force-change",
                f"{application.name} cannot ask for another password at the first sign-in.",
            )
    draft.add(
        application,
        account,
        Action.SET_CREDENTIAL,
        "none known",
        after,
        reason,
        arguments=arguments,
    )


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
        missing = []
    for item in missing:
        origin, reason = want.entitlements[item]
        draft.add(
            application,
            account,
            Action.GRANT,
            "not held",
            "held",
            reason,
            item=item,
            origin=origin,
        )
    for item in sorted(held):
        assert account is not None
        _stays_or_goes(draft, application, account, HoldingKind.ENTITLEMENT, item, want)


def _seats(draft: Draft, application: Application, account: Account | None, want: Wanted) -> None:
    held = account.seats if account else frozenset()
    restored = account is not None and account.state is AccountState.DELETED
    by_itself = restored and application.profile.seat_at_restore is SeatReturn.RETURNED
    for item, (origin, reason) in want.seats.items():
        if item in held or by_itself:
            continue
        key = (application.id, item)
        pool = draft.world.pools.get(key)
        if pool is None:
            draft.warn(
                "no-pool",
                f"No pool holds seats of {item} in {application.name}; add one first.",
                "take_seat",
            )
            continue
        if pool.free <= 0:
            draft.warn(
                "no-seat",
                f"No seat of {item} is free ({pool.held} of {pool.bought} held); "
                f"{full_name(draft.subject.person)} waits as number {pool.waiting + 1} in line.",
                "take_seat",
            )
        draft.add(
            application,
            account,
            Action.TAKE_SEAT,
            "no seat",
            "one seat",
            reason,
            item=item,
            origin=origin,
        )
    for item in sorted(held):
        assert account is not None
        _stays_or_goes(draft, application, account, HoldingKind.SEAT, item, want)


def _stays_or_goes(
    draft: Draft,
    application: Application,
    account: Account,
    kind: HoldingKind,
    item: str,
    want: Wanted,
) -> None:
    wanted = want.entitlements if kind is HoldingKind.ENTITLEMENT else want.seats
    origin = draft.origin_of(account, kind.value, item)
    if item in wanted:
        draft.stays.append({"application": application.id, "item": item, "reason": wanted[item][1]})
    elif origin.kind is OriginKind.FOUND:
        draft.stays.append(
            {"application": application.id, "item": item, "reason": "found there, no rule gave it"}
        )
    else:
        why = f"role {origin.name} no longer applies"
        if origin.kind is OriginKind.DECISION:
            why = "the exception has ended"
        _take(draft, application, account, kind, item, why)


def _take(
    draft: Draft,
    application: Application,
    account: Account,
    kind: HoldingKind,
    item: str,
    why: str,
) -> None:
    origin = draft.origin_of(account, kind.value, item)
    if kind is HoldingKind.SEAT:
        draft.add(
            application,
            account,
            Action.FREE_SEAT,
            "one seat",
            "no seat",
            why,
            item=item,
            origin=origin,
        )
    elif application.can(Capability.ENTITLEMENTS):
        draft.add(
            application, account, Action.REVOKE, "held", "not held", why, item=item, origin=origin
        )


def withdraw(draft: Draft, application: Application, account: Account, why: str) -> None:
    """Cut off, hand over, reclaim; closing is an obligation of a later day."""
    if account.state in (AccountState.DELETED, AccountState.PURGED):
        return
    if is_open(account):
        if application.can(Capability.SUSPEND):
            ways = ways_in(application, account)
            draft.add(
                application,
                account,
                Action.CUT_OFF,
                f"{account.state.value}{ways}",
                "suspended, every way in ended",
                why,
                origin=draft.origin_of(account, "account", ""),
            )
        else:
            draft.warn(
                "cannot-suspend",
                f"{application.name} cannot suspend an account; close it by hand.",
                "cut_off",
            )
    hand_over(draft, application, account, why)
    _leaver_settings(draft, application, account, why)
    for item in sorted(account.entitlements - {application.profile.primary_group}):
        _take(draft, application, account, HoldingKind.ENTITLEMENT, item, why)
    for item in sorted(account.seats):
        _take(draft, application, account, HoldingKind.SEAT, item, why)


def ways_in(application: Application, account: Account) -> str:
    """``, 2 sessions, 1 API key``: what a cut-off ends besides the password."""
    parts = []
    if account.sessions and application.can(Capability.SESSIONS):
        parts.append(plural(account.sessions, "session"))
    if account.keys and application.can(Capability.KEYS):
        parts.append(plural(account.keys, "API key"))
    return f", {', '.join(parts)}" if parts else ""


def hand_over(draft: Draft, application: Application, account: Account, why: str) -> None:
    """One transfer for each kind of thing the account owns, or a warning that nobody takes it."""
    kinds: dict[str, int] = {}
    for asset in account.assets:
        kinds[asset.kind] = kinds.get(asset.kind, 0) + 1
    if not kinds:
        return
    successor = draft.subject.successor
    counted = ", ".join(plural(n, kind) for kind, n in sorted(kinds.items()))
    if successor is None:
        draft.warn(
            "no-successor",
            f"Nobody takes over {counted} in {application.name}: no successor is named and no "
            "manager is left in the chain. Name one; the account is not deleted before.",
            "transfer",
        )
        return
    target = successor.accounts.get(application.id)
    if target is None or target.state is not AccountState.ACTIVE:
        draft.warn(
            "successor-without-account",
            f"{full_name(successor.person)} has no open account in {application.name} to receive "
            f"{counted}. Give one, or name another successor.",
            "transfer",
        )
        return
    for kind, count in sorted(kinds.items()):
        draft.add(
            application,
            account,
            Action.TRANSFER,
            f"{plural(count, kind)} owned",
            f"with {full_name(successor.person)}",
            why,
            item=kind,
            arguments={
                "to_person": successor.person.id,
                "to_name": full_name(successor.person),
                "to_account": target.id,
                "to_external_id": target.external_id,
            },
        )
