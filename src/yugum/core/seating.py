"""The seats an account holds against those it should hold: in order of what requires what, with reasons."""

from __future__ import annotations

from collections.abc import Collection

from yugum.core.accounts import Account, AccountState, HoldingKind
from yugum.core.actions import Action, Phase
from yugum.core.applications import Application, SeatReturn, SeatRule
from yugum.core.decisions import DecisionKind, OriginKind, in_force
from yugum.core.drafts import Draft
from yugum.core.keeping import stays_or_goes, take
from yugum.core.licenses import WhenEmpty, contained, in_order, in_reverse, lacking
from yugum.core.people import folded, full_name
from yugum.core.promises import full_for
from yugum.core.seats import Pool
from yugum.core.wanted import Wanted

FREE = Action.FREE_SEAT


def plan_seats(
    draft: Draft, application: Application, account: Account | None, want: Wanted
) -> None:
    """The steps that bring the seats an account holds to those it should hold."""
    held = account.seats if account else frozenset()
    restored = account is not None and account.state is AccountState.DELETED
    by_itself = restored and application.profile.seat_at_restore is SeatReturn.RETURNED
    there = {*held, *want.seats} if by_itself else missing_seats(draft, application, account, want)
    if account is not None:
        _go(draft, application, account, want, there)


def missing_seats(
    draft: Draft, application: Application, account: Account | None, want: Wanted
) -> set[str]:
    """Plan that the wanted seats are taken, a base before its add-on; what will be there then."""
    there = {*(account.seats if account else ())}
    for item in in_order(application.id, want.seats, draft.world.rules.licenses):
        if item not in there and _missing_seat(draft, application, account, item, want, there):
            there.add(item)
    return there


def _missing_seat(
    draft: Draft,
    application: Application,
    account: Account | None,
    item: str,
    want: Wanted,
    there: Collection[str],
) -> bool:
    """Plan that a wanted seat is taken, and whether it is; where none is free, whoever needs it waits in line."""
    origin, reason = want.seats[item]
    before, after = "no seat", "one seat"
    pool = draft.world.pools.get((application.id, item))
    if pool is None:
        code, text = (
            "no-pool",
            f"No pool holds seats of {item} in {application.name}; add one first.",
        )
    else:
        code, text = _kept_from(draft, application, item, there, pool)
    if pool is None or code:
        draft.warn(code, text, "take_seat")
        draft.hold_back(
            code, application, account, Action.TAKE_SEAT, before, after, reason, item=item
        )
        return False
    if full_for(draft.world, (application.id, item), draft.subject.person):
        license = draft.world.rules.license(application.id, item)
        held = f"No seat of {item} is free ({pool.held} of {pool.bought} held)"
        if license.when_empty is WhenEmpty.OVERRUN:
            draft.warn("overrun", f"{held}; one more is taken than was bought.", "take_seat")
        else:
            others = f"; {pool.waiting} wait already" if pool.waiting else ""
            waits = f"{full_name(draft.subject.person)} waits in line{others}"
            draft.warn("no-seat", f"{held}; {waits}.", "take_seat")
    draft.add(
        application, account, Action.TAKE_SEAT, before, after, reason, item=item, origin=origin
    )
    return True


def _kept_from(
    draft: Draft, application: Application, item: str, there: Collection[str], pool: Pool
) -> tuple[str, str]:
    """Why somebody is not even to wait for a seat that is to be theirs: a code and a text, or two empty ones."""
    rules = draft.world.rules
    license = rules.license(application.id, item)
    person = draft.subject.person
    if license.who is not None and not license.is_for(folded(person)):
        text = f"{item} is not for {full_name(person)}: only where {license.who_text}."
        return "not-for-them", text
    if missing := lacking(application.id, item, there, rules.licenses):
        return "no-base", f"{item} needs a seat of {' and '.join(missing)}, which is not to be had."
    if license.when_empty is WhenEmpty.BLOCK and full_for(
        draft.world, (application.id, item), person
    ):
        text = f"No seat of {item} is free ({pool.held} of {pool.bought} held), and nobody waits for it."
        return "no-seat-left", text
    return "", ""


def _go(
    draft: Draft,
    application: Application,
    account: Account,
    want: Wanted,
    there: Collection[str],
) -> None:
    """What becomes of the seats an account holds: an add-on goes before its base, a part after its suite came."""
    licenses = draft.world.rules.licenses
    for item in in_reverse(application.id, account.seats, licenses):
        suite = contained(application.id, {item, *want.seats}, licenses).get(item, "")
        why = _kept_away(draft, application, item)
        other = _swapped_for(draft, application, item, want) if why else ""
        why = why or _without_base(draft, application, account, item, want)
        if other and other not in there:
            draft.stay(application, item, f"until there is a seat of {other}")
        elif other:
            take(draft, application, account, HoldingKind.SEAT, item, why, Phase.ACCESS)
        elif why:
            take(draft, application, account, HoldingKind.SEAT, item, why)
        elif suite and suite not in there:
            draft.stay(application, item, f"until there is a seat of {suite}")
        else:
            phase = Phase.ACCESS if suite else None
            stays_or_goes(draft, application, account, HoldingKind.SEAT, item, want, phase)


def _kept_away(draft: Draft, application: Application, item: str) -> str:
    """The exception by which somebody is not to have a seat, also one that was found there."""
    for decision in in_force(draft.subject.decisions, draft.at):
        said = decision.payload
        of = (said.application, said.kind, said.item)
        if decision.kind is DecisionKind.DENY and of == (application.id, HoldingKind.SEAT, item):
            return f"exception: {decision.reason}"
    return ""


def _swapped_for(draft: Draft, application: Application, item: str, want: Wanted) -> str:
    """The cheaper license that takes a seat's place, or ""."""
    cheaper = draft.world.rules.license(application.id, item).cheaper
    return next((c.license for c in cheaper if c.license in want.seats), "")


def _without_base(
    draft: Draft, application: Application, account: Account, item: str, want: Wanted
) -> str:
    """Why an add-on goes: what it requires is there and goes."""
    bases = draft.world.rules.license(application.id, item).requires
    goes = [
        b
        for b in bases
        if b in account.seats
        and b not in want.seats
        and (
            _kept_away(draft, application, b)
            or draft.origin_of(account, HoldingKind.SEAT, b).kind is not OriginKind.FOUND
        )
    ]
    return f"it needs {goes[0]}, which goes" if goes else ""


def free_seats(draft: Draft, application: Application, account: Account, why: str) -> None:
    """Free every seat of an account that the plan does not free already."""
    freed = {s.item for s in draft.steps if (s.account_id, s.action) == (account.id, FREE)}
    licenses = draft.world.rules.licenses
    for item in in_reverse(application.id, account.seats - freed, licenses):
        take(draft, application, account, HoldingKind.SEAT, item, why)


def free_when_suspended(draft: Draft, application: Application, account: Account, why: str) -> None:
    """Free the seats of an account that is suspended, where its application does not keep them."""
    if application.profile.seat_at_suspension is SeatRule.FREED:
        free_seats(draft, application, account, why)


def free_when_deleted(draft: Draft, application: Application, account: Account, why: str) -> None:
    """Free the seats of an account that is deleted, where its application does not keep them."""
    if application.profile.seat_at_deletion is SeatRule.FREED:
        free_seats(draft, application, account, why)
