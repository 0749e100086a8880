"""Planning: what a person should have, less what is seen, as steps with reasons.

Level-triggered and pure: the same subject, world and moment give the same plan. Only what a rule
gave is taken away by a rule; the ledger knows the origin of everything held.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime

from yugum.core.accounts import Account, AccountKind, AccountState, HoldingKind, is_open
from yugum.core.actions import ADDING, Action, Phase
from yugum.core.applications import (
    Application,
    Capability,
    CredentialRule,
    Deletion,
    SeatReturn,
    Trust,
    effective_deletion,
)
from yugum.core.decisions import (
    FOUND,
    Decision,
    DecisionKind,
    Ledger,
    Origin,
    OriginKind,
    in_force,
)
from yugum.core.people import Person, PersonState, folded, full_name, state_at
from yugum.core.plans import Caution, Plan, PlannedStep, in_order
from yugum.core.roles import Rules
from yugum.core.seats import Pool
from yugum.core.summaries import plural, summarise
from yugum.core.windows import can_come_back


@dataclass(frozen=True, slots=True, kw_only=True)
class Successor:
    """Who takes over, and the accounts in which things can be received."""

    person: Person
    accounts: Mapping[str, Account] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Subject:
    """What a plan is about, with all that is known of it.

    An account that is nobody's is one too, with ``is_person`` False: no rule gives it anything.
    """

    person: Person
    accounts: tuple[Account, ...] = ()
    ledger: Ledger = field(default_factory=dict)
    decisions: tuple[Decision, ...] = ()
    successor: Successor | None = None
    is_person: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class World:
    """What is the same for every subject of a batch."""

    applications: Mapping[str, Application]
    rules: Rules
    pools: Mapping[tuple[str, str], Pool] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Wanted:
    """What should be held in one application, each with its origin and reason."""

    account: tuple[Origin, str] | None
    entitlements: Mapping[str, tuple[Origin, str]]
    seats: Mapping[str, tuple[Origin, str]]


def desired(subject: Subject, rules: Rules, at: datetime) -> dict[str, Wanted]:
    """What the person should have in each application at a moment.

    Nothing for somebody who is expected or has left; an absent person keeps everything.
    """
    if not subject.is_person:
        return {}
    if state_at(subject.person, at) in (PersonState.LEFT, PersonState.EXPECTED):
        return {}
    collected: dict[str, dict[str, dict[str, tuple[Origin, str]]]] = {}

    def give(application: str, kind: str, item: str, origin: Origin, reason: str) -> None:
        kinds = collected.setdefault(application, {"account": {}, "entitlement": {}, "seat": {}})
        kinds[kind].setdefault(item, (origin, reason))
        kinds["account"].setdefault("", (origin, reason))

    for role in rules.roles_of(folded(subject.person)):
        for given in role.gives:
            origin = Origin(OriginKind.ROLE, role.name)
            give(given.application_id, given.kind, given.item, origin, f"role {role.name}")
    for decision in in_force(subject.decisions, at):
        payload = decision.payload
        if decision.kind is DecisionKind.GRANT:
            origin = Origin(OriginKind.DECISION, decision.id)
            reason = f"exception: {decision.reason}"
            give(payload["application"], payload["kind"], payload["item"], origin, reason)
    for decision in in_force(subject.decisions, at):
        payload = decision.payload
        if decision.kind is DecisionKind.DENY and payload["application"] in collected:
            collected[payload["application"]][payload["kind"]].pop(payload["item"], None)
    return {
        application: Wanted(kinds["account"].get(""), kinds["entitlement"], kinds["seat"])
        for application, kinds in collected.items()
    }


@dataclass(slots=True)
class Draft:
    """A plan in the making."""

    subject: Subject
    world: World
    at: datetime
    steps: list[PlannedStep] = field(default_factory=list)
    cautions: list[Caution] = field(default_factory=list)
    stays: list[dict[str, str]] = field(default_factory=list)
    withheld: dict[str, set[Action]] = field(default_factory=dict)

    def add(
        self,
        application: Application,
        account: Account | None,
        action: Action,
        before: str,
        after: str,
        reason: str,
        *,
        item: str = "",
        arguments: Mapping[str, object] | None = None,
        origin: Origin | None = None,
        phase: Phase | None = None,
    ) -> None:
        if application.trust is Trust.WATCH or (
            application.trust is Trust.ADD and action not in ADDING
        ):
            self.withheld.setdefault(application.id, set()).add(action)
            return
        self.steps.append(
            PlannedStep(
                application_id=application.id,
                account_id=account.id if account else "",
                action=action,
                item=item,
                arguments=arguments or {},
                before=before,
                after=after,
                reason=reason,
                origin=origin,
                phase=phase,
            )
        )

    def warn(self, code: str, text: str, blocks: str = "") -> None:
        caution = Caution(code, text, blocks)
        if caution not in self.cautions:
            self.cautions.append(caution)

    def tell_withheld(self) -> None:
        """Say what is not done because the application is not trusted that far."""
        for application_id, actions in sorted(self.withheld.items()):
            application = self.world.applications[application_id]
            may = "only watched" if application.trust is Trust.WATCH else "only added to"
            words = ", ".join(sorted(a.value.replace("_", " ") for a in actions))
            self.warn(
                "not-trusted",
                f"{application.name} is {may}: left to its own administrators are {words}.",
                "trust",
            )

    def origin_of(self, account: Account, kind: str, item: str) -> Origin:
        return self.subject.ledger.get((account.id, kind, item), FOUND)

    def finish(self, verb: str) -> Plan:
        steps = in_order(self.steps)
        self.tell_withheld()
        plan = Plan(
            subject_id=self.subject.person.id,
            verb=verb,
            steps=steps,
            cautions=tuple(self.cautions),
            stays=tuple(self.stays),
        )
        return replace(plan, summary=summarise(plan, self.world.applications))


def plan_subject(subject: Subject, world: World, at: datetime, verb: str) -> Plan:
    """The steps that lead from what is seen to what the person should have at a moment."""
    draft = Draft(subject, world, at)
    state = state_at(subject.person, at)
    wanted = desired(subject, world.rules, at)
    for application_id, application in sorted(world.applications.items()):
        mine = [
            a
            for a in subject.accounts
            if a.application_id == application_id and a.kind is AccountKind.PERSON
        ]
        living = [a for a in mine if a.state is not AccountState.PURGED]
        want = wanted.get(application_id)
        if want is not None and want.account is not None:
            if state is PersonState.ABSENT:
                _suspend_for_absence(draft, application, living)
            else:
                _provide(draft, application, living, want)
            continue
        for account in living:
            given_by_rule = draft.origin_of(account, "account", "").kind is OriginKind.ROLE
            if state is PersonState.LEFT or given_by_rule:
                reason = "has left" if state is PersonState.LEFT else "no role gives it any more"
                _withdraw(draft, application, account, reason)
            elif state is PersonState.ABSENT:
                _suspend_for_absence(draft, application, [account])
    _warn_of_missing_applications(draft, wanted)
    return draft.finish(verb)


def _warn_of_missing_applications(draft: Draft, wanted: Iterable[str]) -> None:
    for application_id in sorted(set(wanted) - set(draft.world.applications)):
        draft.warn("no-application", f"A role gives access to {application_id}, which is unknown.")


def _suspend_for_absence(draft: Draft, application: Application, accounts: list[Account]) -> None:
    for account in accounts:
        if is_open(account):
            draft.add(
                application, account, Action.CUT_OFF, "active", "suspended", "absent; all kept"
            )


def _provide(draft: Draft, application: Application, accounts: list[Account], want: Wanted) -> None:
    """An account with what roles and decisions give; an existing one is used before a new one."""
    assert want.account is not None
    account = _best(accounts, draft.at)
    origin, reason = want.account
    if account is None:
        person = draft.subject.person
        arguments = {
            "login": person.user_name,
            "display_name": full_name(person),
            "given_name": person.given_name,
            "family_name": person.family_name,
            "settings": _settings(draft, application.profile.standard_settings),
        }
        draft.add(
            application,
            None,
            Action.CREATE,
            "no account",
            "active",
            reason,
            arguments=arguments,
            origin=origin,
        )
        _credential(draft, application, None, "first sign-in")
    else:
        _bring_back(draft, application, account)
        _standard_again(draft, application, account)
    _entitlements(draft, application, account, want)
    _seats(draft, application, account, want)


def _settings(draft: Draft, wanted: Mapping[str, str]) -> dict[str, str]:
    """Settings with their places filled in: ``{date}`` the day, ``{name}`` the person's name."""
    name = full_name(draft.subject.person)
    return {
        key: value.replace("{date}", f"{draft.at:%Y-%m-%d}").replace("{name}", name)
        for key, value in sorted(wanted.items())
    }


def plan_setting(
    draft: Draft,
    application: Application,
    account: Account,
    name: str,
    value: str,
    why: str,
    phase: Phase | None = None,
) -> None:
    """Set one setting of an account, where it is not so already."""
    was = account.settings.get(name, "")
    if was == value or not application.can(Capability.SETTINGS):
        return
    draft.add(
        application,
        account,
        Action.SET,
        f"{name}: {was or 'nothing'}",
        value or "nothing",
        why,
        item=name,
        arguments={"value": value, "was": was},
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


def _best(accounts: list[Account], at: datetime) -> Account | None:
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
    draft.add(application, account, Action.RESUME, "suspended", "active", "should have access")
    if application.profile.credential_on_resume is CredentialRule.NEW:
        _credential(draft, application, account, "a new one after the cut-off")


def _credential(
    draft: Draft, application: Application, account: Account | None, reason: str
) -> None:
    if application.can(Capability.CREDENTIAL):
        draft.add(
            application, account, Action.SET_CREDENTIAL, "none known", "new initial one", reason
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


def _withdraw(draft: Draft, application: Application, account: Account, why: str) -> None:
    """Cut off, hand over, reclaim; closing is an obligation of a later day."""
    if account.state in (AccountState.DELETED, AccountState.PURGED):
        return
    if is_open(account):
        if application.can(Capability.SUSPEND):
            ways = _ways_in(application, account)
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
    for name, value in _settings(draft, application.profile.leaver_settings).items():
        plan_setting(draft, application, account, name, value, why)
    for item in sorted(account.entitlements - {application.profile.primary_group}):
        _take(draft, application, account, HoldingKind.ENTITLEMENT, item, why)
    for item in sorted(account.seats):
        _take(draft, application, account, HoldingKind.SEAT, item, why)


def _ways_in(application: Application, account: Account) -> str:
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


def plan_close(subject: Subject, world: World, account: Account, at: datetime) -> Plan:
    """The closing of one account on its day, under the rules and holds of that day."""
    draft = Draft(subject, world, at)
    application = world.applications[account.application_id]
    if not _still_unwanted(subject, world, account, at):
        draft.warn("wanted-again", "The person should have this account again; it stays.", "close")
    elif account.state in (AccountState.DELETED, AccountState.PURGED):
        draft.warn("closed", "The account is closed already.", "close")
    elif hold := _hold(subject, at):
        draft.warn("held", f"On hold by {hold.author}: {hold.reason}", "close")
    else:
        _withdraw(draft, application, account, "has left")
        blocked = {w.blocks for w in draft.cautions}
        if "transfer" not in blocked:
            _close(draft, application, account)
    return draft.finish("close")


def _close(draft: Draft, application: Application, account: Account) -> None:
    deletion = effective_deletion(application)
    before = account.state.value
    reason = f"closes {application.profile.close_after_days} days after the access ended"
    if deletion is Deletion.FINAL:
        draft.add(application, account, Action.PURGE, before, "gone for good", reason)
        return
    action = Action.PARK if deletion is Deletion.PARK else Action.DELETE
    days = application.profile.window_days
    word = "parked" if action is Action.PARK else "deleted"
    draft.add(application, account, action, before, f"{word}, back for {days} days", reason)


def plan_purge(subject: Subject, world: World, account: Account, at: datetime) -> Plan:
    """The end of a window: the account is gone, or made gone; a hold brings it back first."""
    draft = Draft(subject, world, at)
    application = world.applications[account.application_id]
    if account.state is not AccountState.DELETED:
        draft.warn("not-deleted", "The account is not deleted; nothing to purge.", "purge")
    elif hold := _hold(subject, at):
        if can_come_back(account, at):
            draft.add(
                application,
                account,
                Action.RESTORE,
                "deleted",
                "suspended",
                f"on hold by {hold.author}: {hold.reason}",
            )
        draft.warn("held", f"On hold by {hold.author}: {hold.reason}", "purge")
    else:
        draft.add(
            application, account, Action.PURGE, "deleted", "gone for good", "the window is over"
        )
    return draft.finish("purge")


def _hold(subject: Subject, at: datetime) -> Decision | None:
    holds = [d for d in in_force(subject.decisions, at) if d.kind is DecisionKind.HOLD]
    return holds[0] if holds else None


def _still_unwanted(subject: Subject, world: World, account: Account, at: datetime) -> bool:
    want = desired(subject, world.rules, at).get(account.application_id)
    return want is None or want.account is None
