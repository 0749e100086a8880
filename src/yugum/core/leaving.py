"""What is withdrawn from somebody's account: cut off, handed over, set for leavers, reclaimed."""

from __future__ import annotations

from collections import Counter
from datetime import datetime

from yugum.core.accounts import Account, AccountState, HoldingKind, is_open
from yugum.core.actions import GONE, TO_BE_MADE, Action, Arguments, Phase
from yugum.core.actions.call_off import call_off
from yugum.core.actions.copying import copy
from yugum.core.actions.cut_off import shut, ways_in
from yugum.core.actions.delete import close
from yugum.core.actions.redirect import redirect
from yugum.core.actions.replace_key import replace_key
from yugum.core.actions.set import plan_setting
from yugum.core.actions.transfer import transfer
from yugum.core.applications import Application, Capability
from yugum.core.decisions import Decision
from yugum.core.desired import hold_on
from yugum.core.drafts import Draft
from yugum.core.handover import MEETING, Part, Settled, called_off, kept_by, parts_of, to_copy
from yugum.core.holdings import filled_settings
from yugum.core.keeping import take
from yugum.core.licenses import Carries, in_reverse
from yugum.core.people import full_name
from yugum.core.redirections import NO_ACCOUNT, STAYS, place_of, redirection
from yugum.core.seating import free_seats
from yugum.core.windows import MAIL_SETTINGS, setting_ends
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
    _redirect(draft, application, account, why)
    _leaver_settings(draft, application, account, why)
    for item in sorted(account.entitlements - {application.profile.primary_group}):
        take(draft, application, account, HoldingKind.ENTITLEMENT, item, why)
    for item in in_reverse(application.id, account.seats, draft.world.rules.licenses):
        if stays := _carries(draft, application, account, item):
            draft.stay(application, item, stays)
        else:
            data = Carries.DATA in draft.world.rules.license(application.id, item).carries
            # It goes after the handover has come through, which may take longer than the rest.
            after = Phase.ACCESS if data and account.assets else None
            take(draft, application, account, HoldingKind.SEAT, item, why, after)


def _carries(draft: Draft, application: Application, account: Account, item: str) -> str:
    """Why a leaver's seat is not freed yet: what it carries is needed, until when if that is known."""
    carries = draft.world.rules.license(application.id, item).carries
    if not carries:
        return ""
    hold = hold_on(draft.subject, draft.world, account, draft.at)
    if hold is not None:
        return f"carries {' and '.join(sorted(carries))}; on hold by {hold.author}: {hold.reason}"
    if Carries.DATA in carries and draft.lacks(account, Action.TRANSFER):
        return "carries data; until what is owned has a successor"
    if Carries.DATA in carries and kept_by(draft.subject, account, draft.at):
        return "carries data for which the account is kept"
    goes_on, until = mail_until(draft, application)
    if Carries.MAIL in carries and goes_on:
        return "carries mail" + (f" until {until:%-d %b %Y}" if until else "")
    return ""


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
    return application.profile.suspended_refuses_mail and mail_until(draft, application)[0]


def mail_until(draft: Draft, application: Application) -> tuple[bool, datetime | None]:
    """Whether a leaver's mail is forwarded or answered, and until when; None for as long as the account is there."""
    profile, ended = application.profile, draft.subject.person.access_ends
    if ended is None or ended > draft.at:
        return False, None
    ends = setting_ends(ended, application, draft.subject.person.time_zone)
    filled = filled_settings(draft, profile.leaver_settings)
    found = [
        ends.get(name)
        for name in MAIL_SETTINGS
        if name in filled and (name not in ends or draft.at < ends[name])
    ]
    if not found:
        return False, None
    known = [moment for moment in found if moment is not None]
    return True, max(known) if len(known) == len(found) else None


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
    """A transfer for each kind of thing the account owns, or part of it; what goes with it, what it is kept for, and what
    nobody takes is said."""
    open_kinds: dict[tuple[str, str], dict[str, int]] = {}
    for kind, part in parts_of(draft.subject, account, draft.at):
        choice, count = part.choice, len(part.things)
        by = choice.decision.author if choice.decision else ""
        if choice.settled is Settled.GOES and called_off(application, kind):
            call_off(draft, application, account, part, kind, f"{why}; goes, by {by}")
        elif choice.settled is Settled.COPIED:
            _copy(draft, application, account, part, kind, why)
        elif choice.settled is Settled.GOES:
            draft.stay(application, kind, f"{plural(count, kind)}: goes with the account, by {by}")
        elif choice.settled is Settled.KEPT and choice.decision is not None:
            _keep(draft, application, plural(count, kind), kind, choice.decision)
        elif choice.successor is not None and choice.account is not None:
            transfer(draft, application, account, part, kind, why)
        else:
            kinds = open_kinds.setdefault((choice.code, choice.text), {})
            kinds[kind] = kinds.get(kind, 0) + count
    for (code, text), kinds in open_kinds.items():
        counted = ", ".join(plural(n, kind) for kind, n in kinds.items())
        draft.warn(
            code,
            f"Nobody takes over {counted} in {application.name}: {text}; the account is not deleted before.",
            Action.TRANSFER.value,
        )
        for kind, count in kinds.items():
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


def _copy(
    draft: Draft, application: Application, account: Account, part: Part, kind: str, why: str
) -> None:
    """Copies of what has none yet; where an application cannot, or not of this kind, it is as if nobody took it."""
    choice = part.choice
    if not application.can(Capability.COPY) or kind == MEETING:
        text = f"{application.name} cannot copy a {kind}"
        draft.warn(
            "cannot-copy",
            f"{text}: choose otherwise; the account is not deleted before.",
            Action.TRANSFER.value,
        )
        owned = plural(len(part.things), kind)
        draft.hold_back(
            "cannot-copy", application, account, Action.TRANSFER, owned, "copied", why, item=kind
        )
    elif things := to_copy(draft.subject, account, part):
        copy(draft, application, account, kind, things, choice, why)
    elif choice.successor is not None:
        name = full_name(choice.successor.person)
        told = f"{plural(len(part.things), kind)}: copied for {name}, goes with the account"
        draft.stay(application, kind, told)


def _keep(draft: Draft, application: Application, what: str, kind: str, decision: Decision) -> None:
    """Say that an account is kept for what it owns: it is not deleted before that ends."""
    until = f" until {decision.ends:%-d %b %Y}" if decision.ends else ""
    draft.stay(application, kind, f"{what}: kept with the account{until}, by {decision.author}")
    draft.warn(
        "kept",
        f"The account in {application.name} is kept for {what}{until}, by {decision.author}; it is not deleted before.",
        Action.DELETE.value,
    )


def may_close(draft: Draft, account: Account) -> bool:
    """Whether all that an account owns has a home, and it is not kept for any of it."""
    return not (draft.lacks(account, Action.TRANSFER) or kept_by(draft.subject, account, draft.at))


def _redirect(draft: Draft, application: Application, account: Account, why: str) -> None:
    """One step for each place that names them and can be changed; what is done by hand is said."""
    for mention in draft.subject.mentions:
        if mention.application_id != application.id:
            continue
        found = redirection(draft.subject, mention, draft.at)
        place = place_of(draft.subject, mention)
        if found.choice.settled in STAYS:
            continue
        if found.is_replaced:
            replace_key(draft, application, account, found, place, why, None)
            continue
        if found.text and mention.fixable and not mention.replaceable:
            redirect(draft, application, account, found, place, why)
            continue
        code = "by-hand" if found.text else found.choice.code
        told = f"write by hand: {found.text}" if found.text else found.choice.text
        if found.lacks:
            code, told = NO_ACCOUNT, found.lacks
        draft.warn(code, f"{application.name}, {mention.place} names them: {told}.")
        draft.hold_back(
            code,
            application,
            account,
            Action.REDIRECT,
            mention.text,
            found.text or "somebody else",
            why,
            item=place,
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
