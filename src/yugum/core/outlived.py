"""What dockets have left to do that has ended meanwhile: undos and closings go by what is so."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime

from yugum.core.accounts import AccountState, HoldingKind
from yugum.core.actions import Action
from yugum.core.actions.registry import ACTIONS
from yugum.core.decisions import FOUND, OriginKind
from yugum.core.desired import Subject, World, desired, replaced
from yugum.core.dockets import OpenStep
from yugum.core.people import PersonState, state_at
from yugum.core.precautions import suspended_whole
from yugum.core.verbs import Verb
from yugum.core.wanted import NOTHING_WANTED
from yugum.core.windows import can_come_back


def outlived(
    subject: Subject, world: World, begun: Iterable[OpenStep], at: datetime
) -> frozenset[str]:
    """Open steps of undos that would give what nothing gives any more, or let in who is kept out.

    An undo gives what was so when it was planned; while an application does not answer that may end. Likewise
    those of closings for accounts that are given again by now.
    """
    begun = tuple(begun)
    mine = [s for s in begun if s.verb is Verb.UNDO and not s.in_doubt]
    wanted = desired(subject, world.rules, at) if mine else {}
    out = state_at(subject.person, at) in (PersonState.LEFT, PersonState.ABSENT)
    out = out or suspended_whole(subject.decisions, at) is not None
    found, closed, unmade, ended = set(), set(), set(), set()
    for step in mine:
        want = wanted.get(step.application_id, NOTHING_WANTED)
        key = (step.account_id, HoldingKind.ACCOUNT, "")
        there = any(a.id == step.account_id for a in subject.accounts)
        kept = there and subject.ledger.get(key, FOUND).kind is OriginKind.FOUND
        ours = step.origin is not None and step.origin.kind is not OriginKind.FOUND
        if want.account is None and not kept:
            ended.add(step.account_id)
        match step.action:
            case Action.CREATE if out or want.account is None:
                unmade.add(step.account_id)
            case Action.RESUME if out or step.account_id in ended:
                closed.add(step.account_id)
            case Action.RESTORE | Action.REOPEN if step.account_id in ended:
                closed.add(step.account_id)
            case Action.GRANT if ours and (out or step.item not in want.entitlements):
                found.add(step.id)
            case Action.TAKE_SEAT if ours and (out or step.item not in want.seats):
                found.add(step.id)
    opening = {
        s.id
        for s in mine
        if s.account_id in unmade
        or (s.account_id in closed and ACTIONS[s.action].adds)
        or (s.account_id in ended and s.action is Action.UPDATE)
    }
    return frozenset(found | opening | closing_of_given(subject, world, begun, at))


def closing_of_given(
    subject: Subject, world: World, begun: Iterable[OpenStep], at: datetime
) -> frozenset[str]:
    """Open steps of closings for accounts that something gives again.

    One whose window is over is purged all the same: another account takes its place.
    """
    lost = {
        a.id
        for a in subject.accounts
        if a.state is AccountState.DELETED and not can_come_back(a, at)
    }
    over = replaced(subject, at) | lost
    mine = [
        s
        for s in begun
        if s.verb in (Verb.CLOSE, Verb.PURGE)
        and not s.in_doubt
        and s.action is not Action.RESTORE
        and s.account_id not in over
    ]
    wanted = desired(subject, world.rules, at) if mine else {}
    return frozenset(
        s.id for s in mine if wanted.get(s.application_id, NOTHING_WANTED).account is not None
    )
