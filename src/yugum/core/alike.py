"""People who are alike have the same lines: worked out for one of them, said of all."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from datetime import datetime

from yugum.core.accounts import Account, AccountState
from yugum.core.decisions import Origin
from yugum.core.desired import Subject, World, desired
from yugum.core.lines import Line
from yugum.core.people import folded, start_moment
from yugum.core.roles import same_for


def timeless(subject: Subject, world: World, first: datetime, now: datetime) -> bool:
    """Whether what somebody should have is the same at every moment from ``first`` until now.

    So for nearly everybody: no decisions, no date in between, no step of a procedure that comes later,
    nothing that is going, no setting, which may name them.
    """
    person = subject.person
    if not subject.is_person or subject.decisions or person.absent_from is not None:
        return False
    if person.access_ends is not None and person.access_ends <= now:
        return False
    begins = start_moment(person)
    if (begins is not None and begins >= first) or (
        (begins is not None or person.access_ends is not None) and _has_later(world)
    ):
        return False
    wanted = desired(subject, world.rules, now)
    if any(want.settings for want in wanted.values()):
        return False
    return not any(
        a.settings or a.assets or _changes(subject, world, a, given=a.application_id in wanted)
        for a in subject.accounts
    )


def _has_later(world: World) -> bool:
    return any(s.later for p in world.rules.procedures.values() for s in p.steps)


def _changes(subject: Subject, world: World, account: Account, *, given: bool) -> bool:
    """Whether an account goes, at moments of its own, or is set back from what a leaver's is set to."""
    if not given and subject.gave(account):
        return True
    application = world.applications.get(account.application_id)
    reset = application is not None and application.profile.leaver_settings
    return bool(reset) and account.state is not AccountState.ACTIVE


def shape(subject: Subject, world: World) -> Hashable:
    """What decides about the lines of somebody `timeless`: whoever has the same has the same lines."""
    held: dict[str, list[tuple[str, str, Origin]]] = {}
    for (account, kind, item), origin in subject.ledger.items():
        held.setdefault(account, []).append((kind.value, item, origin))
    accounts = tuple(
        (
            a.application_id,
            a.kind,
            a.state,
            a.entitlements,
            a.seats,
            a.sessions > 0,
            a.keys > 0,
            a.recoverable_until,
            frozenset(held.get(a.id, ())),
        )
        for a in subject.accounts
    )
    roles = world.rules.roles_of(folded(subject.person))
    return (same_for(roles, start_moment(subject.person)), accounts)


def moved(lines: Sequence[Line], before: Subject, to: Subject) -> list[Line]:
    """The lines of one as those of another of the same `shape`."""
    place = {a.id: n for n, a in enumerate(before.accounts)}
    return [
        Line(
            application_id=x.application_id,
            account_id=to.accounts[place[x.account_id]].id if x.account_id else "",
            kind=x.kind,
            item=x.item,
            side=x.side,
            want=x.want,
            held=x.held,
            reason=x.reason,
            status=x.status,
            code=x.code,
            ref=x.ref,
            step_id=x.step_id,
        )
        for x in lines
    ]
