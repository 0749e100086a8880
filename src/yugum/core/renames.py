"""Renames: the new login in every application that can, the old one kept as an alias for a time."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from datetime import datetime

from yugum.core.accounts import Account, AccountKind, HoldingKind
from yugum.core.actions import GONE, Action
from yugum.core.actions.rename import rename
from yugum.core.actions.update import update
from yugum.core.applications import Capability, Trust
from yugum.core.decisions import Decision, DecisionKind, Payload, in_force
from yugum.core.desired import Subject, World, desired, replaced
from yugum.core.drafts import Draft
from yugum.core.holdings import usual_attributes
from yugum.core.people import Person, full_name
from yugum.core.planning import draft_subject
from yugum.core.plans import Plan
from yugum.core.veils import Veil
from yugum.core.verbs import Verb
from yugum.errors import InvalidInput


def plan_rename(subject: Subject, world: World, at: datetime, before: str) -> Plan:
    """The steps of a rename: ``subject`` has the new login, ``before`` is the old one.

    An account under another login than the old one is left alone. Where nothing can be renamed,
    the plan says so: the impact stands there before anything is done.
    """
    draft = draft_subject(subject, world, at, Verb.RENAME)
    person, over = subject.person, replaced(subject, at)
    for account in subject.accounts:
        application = world.applications.get(account.application_id)
        if application is None or account.state in GONE or account.kind is not AccountKind.PERSON:
            continue
        if application.can(Capability.RUN) or account.login == person.user_name:
            continue
        if account.id in over:
            continue
        if account.login.casefold() != before.casefold():
            draft.warn(
                "other-login",
                f"{application.name} knows {full_name(person)} as {account.login}; that stays.",
            )
        elif application.profile.comes_from:
            draft.warn(
                "arrives",
                f"{application.name}: the account is renamed where it comes from.",
            )
        elif not application.can(Capability.RENAME):
            draft.warn(
                "cannot-rename",
                f"{application.name} cannot rename an account; {account.login} stays there.",
                "rename",
            )
        else:
            rename(draft, application, account)
    _forget(draft, before)
    return draft.finish(Verb.RENAME)


def _forget(draft: Draft, before: str) -> None:
    """Where a former name is nobody's business every attribute follows that still says it.

    Also one that is otherwise set once; of one that nothing makes it is said that it stays.
    """
    subject = draft.subject
    names = [
        name
        for d in in_force(subject.decisions, draft.at)
        if d.kind is DecisionKind.VEIL
        for name in d.payload.names
    ]
    veil = Veil(names={subject.person.id: names})
    if names and before.casefold() != subject.person.user_name.casefold():
        _mail_to(draft, before)
    for account in subject.accounts if names else ():
        application = draft.world.applications.get(account.application_id)
        if application is None or account.state in GONE:
            continue
        usual = usual_attributes(draft, application)
        mine = [s for s in draft.steps if s.account_id == account.id]
        renamed = any(s.action is Action.RENAME for s in mine)
        done = {s.item for s in mine} | (BY_RENAME if renamed else frozenset())
        for name, value in sorted(account.settings.items()):
            unseen = name == application.profile.unseen_setting
            if name in done or unseen or veil.hide(value, subject.person.id) == value:
                continue
            if name in usual and application.trust is Trust.FULL:
                update(draft, application, account, name, usual[name], "the former name goes")
            else:
                text = f"{application.name}: {name} keeps the former name"
                text += "; say under accounts in the rules what it is made of."
                draft.warn("former-name", text)


def _mail_to(draft: Draft, before: str) -> None:
    """Say what becomes of mail to a former address that is nobody's business."""
    made = in_force(draft.subject.decisions, draft.at)
    has = {a.application_id for a in draft.subject.accounts if a.state not in GONE}
    for application in draft.world.applications.values():
        name = application.profile.unseen_setting
        if not name or application.id not in has:
            continue
        until = next(
            (
                d.ends
                for d in made
                if d.kind is DecisionKind.GRANT
                and (d.payload.application, d.payload.item) == (application.id, name)
            ),
            None,
        )
        how = f"arrives unseen until {until:%-d %b %Y %H:%M} UTC" if until else "bounces"
        draft.warn("old-mail", f"{application.name}: mail to {before} {how}.")


BY_RENAME = frozenset({"login", "displayName", "emails.work", "cn", "sn", "givenName", "mail"})
"""What a connector sets along with a new login."""


def replacing(
    subject: Subject, world: World, accounts: Collection[Account], at: datetime
) -> list[tuple[DecisionKind, Payload]]:
    """What is settled for accounts to be replaced by ones with the person's login.

    Each is denied by its id; what it holds that no role gives is granted as an exception, so that the
    new one has the same.
    """
    found = []
    wanted = desired(subject, world.rules, at)
    for account in accounts:
        app, kind = account.application_id, HoldingKind.ACCOUNT
        want = wanted.get(app)
        found.append((DecisionKind.DENY, Payload(application=app, kind=kind, item=account.id)))
        if want is None or want.account is None:
            found.append((DecisionKind.GRANT, Payload(application=app, kind=kind)))
        groups, seats = (want.entitlements, want.seats) if want is not None else ({}, {})
        held = [(HoldingKind.ENTITLEMENT, i) for i in sorted(account.entitlements - set(groups))]
        held += [(HoldingKind.SEAT, i) for i in sorted(account.seats - set(seats))]
        for what, item in held:
            payload = Payload(application=app, kind=what, item=item)
            found.append((DecisionKind.GRANT, payload))
    return found


def doubles(subject: Subject, account_ids: Collection[str]) -> list[Account]:
    """The accounts of somebody that end because another one of theirs is enough.

    Raises:
        InvalidInput: one is not theirs, or nothing would be left in its application.
    """
    live = {
        a.id: a for a in subject.accounts if a.kind is AccountKind.PERSON and a.state not in GONE
    }
    stay = {a.application_id for a in live.values() if a.id not in account_ids}
    for account_id in account_ids:
        if account_id not in live or live[account_id].application_id not in stay:
            raise InvalidInput(
                f"No other account takes the place of {account_id}.",
                place="accounts",
                remedy="Name one of two accounts of the person in the same application.",
            )
    return [live[i] for i in account_ids]


def not_renamed(subject: Subject, world: World, before: str) -> list[Account]:
    """The accounts under an old login where nothing can be renamed but another one can be made."""
    found = []
    for account in subject.accounts:
        application = world.applications.get(account.application_id)
        if application is None or account.state in GONE or account.kind is not AccountKind.PERSON:
            continue
        if application.can(Capability.RENAME) or application.can(Capability.RUN):
            continue
        if application.profile.comes_from:
            continue
        full = application.trust is Trust.FULL and application.can(Capability.SUSPEND)
        if full and account.login.casefold() == before.casefold():
            found.append(account)
    return found


def kept_as(
    person: Person,
    where: Mapping[str, tuple[str, str]],
    before: str,
    until: datetime,
    at: datetime,
    author: str,
    reason: str,
) -> list[Decision]:
    """Exceptions that keep the old login for a time in a setting that takes it, as an alias or unseen.

    ``where`` maps an application to the id that its decision gets and the setting.
    """
    found = []
    for application_id, (decision_id, name) in sorted(where.items()):
        if not name or until <= at:
            continue
        payload = Payload(
            application=application_id, kind=HoldingKind.SETTING, item=name, value=before
        )
        found.append(
            Decision(
                id=decision_id,
                subject_id=person.id,
                kind=DecisionKind.GRANT,
                payload=payload,
                author=author,
                reason=reason,
                starts=at,
                ends=until,
            )
        )
    return found
