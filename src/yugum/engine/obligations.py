"""Obligations in step with what is owed; what is due becomes dockets.

Part of one look at some subjects (`engine.standing`): nothing else writes obligations.
"""

from __future__ import annotations

import uuid
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from datetime import datetime

from yugum.core.actions import Action
from yugum.core.actions.delete import ENDING
from yugum.core.applications import Deletion, effective_deletion
from yugum.core.closing import plan_owed
from yugum.core.desired import Subject, World, desired
from yugum.core.lines import NOTHING
from yugum.core.obligations import HELD_BACK, LIVE, ObligationKind, ObligationState, Owed, owed
from yugum.core.people import PersonState, state_at
from yugum.core.wanted import NOTHING_WANTED
from yugum.ports.obligations import Obligation
from yugum.ports.units import UnitOfWork


async def settle(
    unit: UnitOfWork, subjects: Mapping[str, Subject], world: World, now: datetime
) -> set[str]:
    """Bring the obligations of some subjects to what is owed; what is due becomes dockets.

    Returns of whom anything changed.
    """
    before = {o.id: o for o in await unit.obligations.of(list(subjects))}
    stored: dict[str, list[Obligation]] = {}
    for one in before.values():
        stored.setdefault(one.subject_id, []).append(one)
    after = [
        o
        for i, subject in subjects.items()
        for o in _obligations(subject, world, stored.get(i, ()), now)
    ]
    after = await _agreed(unit, after, before, subjects, world, now)
    changed = [o for o in after if o != before.get(o.id)]
    if undue := [o for o in changed if o.docket_id and o.state is ObligationState.CANCELLED]:
        await _leave_out(unit, undue, _given(undue, subjects, world, now), now)
    await unit.obligations.put(changed)
    had = {o.docket_id for o in before.values()}
    begun = [o for o in changed if o.docket_id and o.docket_id not in had]
    if begun:
        await unit.dockets.schedule(begun, now, "schedule")
        await unit.leases.wake_free({o.subject_id for o in begun})
        await unit.hint()
    return {o.subject_id for o in changed}


async def _agreed(
    unit: UnitOfWork,
    after: Sequence[Obligation],
    before: Mapping[str, Obligation],
    subjects: Mapping[str, Subject],
    world: World,
    now: datetime,
) -> list[Obligation]:
    """Nothing of who has left is closed or purged before somebody has agreed to what must be agreed to.

    What an application lets go by itself, and what a hold brings back, waits for nobody.
    """
    left = {i for i, s in subjects.items() if state_at(s.person, now) is PersonState.LEFT}
    fresh = [
        o
        for o in after
        if o.subject_id in left
        and o.state is ObligationState.TAKEN
        and o.docket_id != (before[o.id].docket_id if o.id in before else None)
        and _ends(o, subjects[o.subject_id], world)
    ]
    if not fresh:
        return list(after)
    hands = await unit.standing.hands({o.subject_id for o in fresh}, now)
    waits = {o.id for o in fresh if hands.get(o.subject_id, NOTHING).leaving_asked}
    return [
        replace(o, state=ObligationState.DUE, docket_id=None) if o.id in waits else o for o in after
    ]


def _ends(one: Obligation, subject: Subject, world: World) -> bool:
    """Whether we end an account by it."""
    if one.kind is ObligationKind.CLOSE:
        return True
    account = next((a for a in subject.accounts if a.id == one.account_id), None)
    if account is None or one.kind is not ObligationKind.PURGE or one.basis == HELD_BACK:
        return False
    application = world.applications[account.application_id]
    return effective_deletion(application) is not Deletion.RECOVERABLE


def _given(
    undue: Sequence[Obligation], subjects: Mapping[str, Subject], world: World, now: datetime
) -> set[str]:
    """The accounts among those not owed any more that something gives again: nothing of them is due."""
    found = set()
    for one in undue:
        subject = subjects[one.subject_id]
        account = next((a for a in subject.accounts if a.id == one.account_id), None)
        wanted = desired(subject, world.rules, now)
        if account is not None and wanted.get(account.application_id, NOTHING_WANTED).account:
            found.add(account.id)
    return found


async def _leave_out(
    unit: UnitOfWork, undue: Sequence[Obligation], given: Collection[str], now: datetime
) -> None:
    """A deletion, or a return for a hold, that is not begun is not done once it is not due any more.

    Nor is anything else of it for accounts that are ``given`` again.
    """
    subject_ids = list({o.subject_id for o in undue})
    docket_ids = {o.docket_id for o in undue}
    gone = [
        s.id
        for s in await unit.dockets.begun(subject_ids)
        if s.docket_id in docket_ids
        and (s.action in UNDONE or s.account_id in given)
        and not s.in_doubt
    ]
    if gone:
        await unit.dockets.leave_out(gone, "It is not due any more.", now)
        await unit.leases.wake_free(subject_ids)


def _obligations(
    subject: Subject, world: World, stored: Sequence[Obligation], now: datetime
) -> list[Obligation]:
    """One subject's obligations as they stand now, those that have ended among them.

    Each is tried once for its moment: what its docket left open is not tried again by itself. One that
    was due and is not any more before its docket has done it is cancelled, and owed anew.
    """
    person = subject.person.id
    wanted = {(o.account_id or person, o.kind): o for o in owed(subject, world, now)}
    result, tried = [], set()
    for one in stored:
        key = (one.account_id, one.kind)
        if one.state in LIVE and not (one.state is ObligationState.TAKEN and one.ended):
            want = wanted.get(key)
            if one.state is ObligationState.TAKEN and _undue(one, want, now):
                result.append(replace(one, state=ObligationState.CANCELLED))
            else:
                wanted.pop(key, None)
                result.append(_gone_on(subject, world, one, want, now))
            continue
        tried.add((*key, one.due_at))
        result.append(replace(one, state=ObligationState.DONE))
    for (account_id, kind), want in wanted.items():
        if (account_id, kind, want.due) not in tried:
            made = Obligation(
                id=str(uuid.uuid4()),
                subject_id=person,
                account_id=account_id,
                kind=kind,
                due_at=want.due,
                basis=want.basis,
            )
            result.append(_begun(subject, world, made, now))
    return result


def _undue(one: Obligation, want: Owed | None, now: datetime) -> bool:
    """Whether what a docket carries out is not owed any more, or something else of the account is."""
    if want is None or want.due > now:
        return True
    return (one.basis == HELD_BACK) != (want.basis == HELD_BACK)


def _gone_on(
    subject: Subject, world: World, one: Obligation, want: Owed | None, now: datetime
) -> Obligation:
    """What becomes of an obligation that has not ended."""
    if one.state is ObligationState.TAKEN or (one.kind in OF_DAYS and one.due_at <= now):
        return _begun(subject, world, one, now)
    if want is None:
        return replace(one, state=ObligationState.CANCELLED)
    return _begun(subject, world, replace(one, due_at=want.due, basis=want.basis), now)


def _begun(subject: Subject, world: World, one: Obligation, now: datetime) -> Obligation:
    """An obligation with its docket, if it is due and there is something to do.

    Else it stays due and is looked at again with the next mark.
    """
    if one.state is ObligationState.TAKEN or one.kind is ObligationKind.REMIND:
        return one
    if one.due_at > now:
        return replace(one, state=ObligationState.OPEN)
    if one.kind is ObligationKind.RECHECK:
        docket = str(uuid.uuid4())
        return replace(one, state=ObligationState.DONE, docket_id=docket)
    account = next((a for a in subject.accounts if a.id == one.account_id), None)
    if account is None or not plan_owed(one.kind, subject, world, account, now).steps:
        return replace(one, state=ObligationState.DUE)
    docket = str(uuid.uuid4())
    return replace(one, state=ObligationState.TAKEN, docket_id=docket)


UNDONE = ENDING | {Action.RESTORE}
"""What a docket that is owed ends with; it is left out once it is not due any more."""
OF_DAYS = frozenset({ObligationKind.RECHECK, ObligationKind.REMIND})
"""What is owed only once its day comes: by then the next one is owed already."""
