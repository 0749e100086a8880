"""What is withdrawn from somebody's account: cut off, handed over, set for leavers, reclaimed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping

from yugum.core.accounts import Account, AccountState, HoldingKind, is_open
from yugum.core.actions import GONE, TO_BE_MADE, Action, Arguments, Phase
from yugum.core.actions.cut_off import shut, ways_in
from yugum.core.actions.delete import close
from yugum.core.actions.set import MAIL_SETTINGS, plan_setting
from yugum.core.actions.transfer import transfer
from yugum.core.applications import Application, Capability
from yugum.core.drafts import Draft
from yugum.core.holdings import filled_settings
from yugum.core.invitations import invited_at
from yugum.core.keeping import take
from yugum.core.licenses import in_reverse
from yugum.core.people import full_name
from yugum.core.seating import free_seats
from yugum.core.windows import setting_ends
from yugum.core.wording import plural


def withdraw(draft: Draft, application: Application, account: Account, why: str) -> None:
    """Cut off, hand over, reclaim; closing is an obligation of a later day."""
    if account.state in GONE:
        return
    if mail_goes_on(draft, application):
        if draft.subject.is_open(account):
            lock(draft, application, account, why)
    elif is_open(account):
        over = f"{why}; its mail is over" if draft.subject.locked(account) else why
        cut_off(draft, application, account, over)
    hand_over(draft, application, account, why)
    _leaver_settings(draft, application, account, why)
    for item in sorted(account.entitlements - {application.profile.primary_group}):
        take(draft, application, account, HoldingKind.ENTITLEMENT, item, why)
    for item in in_reverse(application.id, account.seats, draft.world.rules.licenses):
        take(draft, application, account, HoldingKind.SEAT, item, why)


def replace_account(
    draft: Draft, application: Application, account: Account, new: Account | None
) -> None:
    """Plan that another account of the same person (None: the one that is made) takes one's place.

    What is owned goes over, seats first come free; the old one is cut off and closed once the new stands.
    """
    why = f"another account takes the place of {account.login}"
    free_seats(draft, application, account, why)
    to = new.id if new is not None else TO_BE_MADE
    name = full_name(draft.subject.person)
    for kind, count in sorted(Counter(asset.kind for asset in account.assets).items()):
        moved = Arguments(to_name=name, to_account=to, from_external_id=account.external_id)
        owned = f"{plural(count, kind)} with {account.login}"
        draft.add(
            application,
            new,
            Action.TRANSFER,
            owned,
            "with the new account",
            why,
            item=kind,
            arguments=moved,
            phase=Phase.ACCESS,
        )
    waits = Arguments(replaced_by=to)
    if is_open(account):
        before, after = account.state.value, "suspended, every way in ended"
        draft.add(
            application,
            account,
            Action.CUT_OFF,
            before,
            after,
            why,
            arguments=waits,
            phase=Phase.CLOSE,
        )
    close(draft, application, account, why, arguments=waits)


def mail_goes_on(draft: Draft, application: Application) -> bool:
    """Whether a leaver's mail is forwarded or answered where a suspended account would refuse it."""
    profile, ended = application.profile, draft.subject.person.access_ends
    if not profile.suspended_refuses_mail or ended is None or ended > draft.at:
        return False
    ends = setting_ends(ended, application, draft.subject.person.time_zone)
    filled = filled_settings(draft, profile.leaver_settings)
    return any(
        name in filled and (name not in ends or draft.at < ends[name]) for name in MAIL_SETTINGS
    )


def lock(draft: Draft, application: Application, account: Account, why: str) -> None:
    """Plan that nobody gets into an account that goes on to take mail."""
    draft.add(
        application,
        account,
        Action.LOCK,
        f"{account.state.value}{ways_in(application, account)}",
        "locked, takes mail; every way in ended",
        why,
        origin=draft.origin_of(account, HoldingKind.ACCOUNT),
    )


def cut_off(draft: Draft, application: Application, account: Account, why: str) -> None:
    """Plan that an account is suspended with every way in ended, or say that it cannot be."""
    if not application.can(Capability.SUSPEND):
        draft.warn(
            "cannot-suspend",
            f"{application.name} cannot suspend an account; close it by hand.",
            Action.CUT_OFF.value,
        )
        draft.hold_back(
            "cannot-suspend",
            application,
            account,
            Action.CUT_OFF,
            account.state.value,
            "suspended, every way in ended",
            why,
        )
        return
    draft.add(
        application,
        account,
        Action.CUT_OFF,
        *shut(application, account),
        why,
        origin=draft.origin_of(account, HoldingKind.ACCOUNT),
    )


def hand_over(draft: Draft, application: Application, account: Account, why: str) -> None:
    """One transfer for each kind of thing the account owns, or a warning that nobody takes it."""
    kinds = Counter(asset.kind for asset in account.assets)
    if not kinds:
        return
    successor = draft.subject.successor
    counted = ", ".join(plural(n, kind) for kind, n in sorted(kinds.items()))
    if successor is None:
        draft.warn(
            "no-successor",
            f"Nobody takes over {counted} in {application.name}: no successor is named and no "
            "manager is left in the chain. Name one; the account is not deleted before.",
            Action.TRANSFER.value,
        )
        _nobody(draft, application, account, kinds, why, "no-successor")
        return
    target = successor.accounts.get(application.id)
    if target is None or target.state is not AccountState.ACTIVE or invited_at(target):
        draft.warn(
            "successor-without-account",
            f"{full_name(successor.person)} has no open account in {application.name} to receive "
            f"{counted}. Give one, or name another successor.",
            Action.TRANSFER.value,
        )
        _nobody(draft, application, account, kinds, why, "successor-without-account")
        return
    for kind, count in sorted(kinds.items()):
        transfer(draft, application, account, target, successor, kind, count, why)


def _nobody(
    draft: Draft,
    application: Application,
    account: Account,
    kinds: Mapping[str, int],
    why: str,
    code: str,
) -> None:
    """What somebody owns has nobody yet who takes it."""
    for kind, count in sorted(kinds.items()):
        draft.hold_back(
            code,
            application,
            account,
            Action.TRANSFER,
            plural(count, kind),
            "with a successor",
            why,
            item=kind,
        )


def _leaver_settings(draft: Draft, application: Application, account: Account, why: str) -> None:
    """What a leaver's account is set to, each for its time; then it is the standard again."""
    profile, ended = application.profile, draft.subject.person.access_ends
    ends = setting_ends(ended, application, draft.subject.person.time_zone) if ended else {}
    filled = filled_settings(draft, profile.leaver_settings)
    standard = filled_settings(draft, profile.standard_settings)
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


def standard_again(draft: Draft, application: Application, account: Account) -> None:
    """What a leaver's account was set to goes back to the standard."""
    left = filled_settings(draft, application.profile.leaver_settings)
    for name, value in filled_settings(draft, application.profile.standard_settings).items():
        if name in left and account.state is not AccountState.ACTIVE:
            plan_setting(
                draft, application, account, name, value, "in use again", phase=Phase.ACCOUNT
            )
