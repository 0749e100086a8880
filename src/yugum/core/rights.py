"""Rights: since when roles or decisions give somebody an account, and until when they did.

The end of one is the moment of the fact that ended it, found among the moments at which anything
changes; it never moves once it is known. What is counted from it (`core.obligations`) moves with nothing else.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime

from yugum.core.accounts import Account, AccountKind, AccountState
from yugum.core.applications import Capability
from yugum.core.decisions import Right
from yugum.core.desired import Subject, World, desired
from yugum.core.facts import Fields, taken_back
from yugum.core.people import DAYS, MOMENTS, Person, start_moment


@dataclass(frozen=True, slots=True)
class Turn:
    """A moment at which something about somebody changed, and when that was known.

    ``begins`` says that the first day is another one since then. ``was`` is who somebody was at that moment,
    where that is not who they are.
    """

    at: datetime
    known_at: datetime
    begins: bool = False
    was: Person | None = field(default=None, compare=False)


@dataclass(frozen=True, slots=True)
class Said:
    """A recorded change of somebody: when it came true, when it was known, its fields before and after."""

    at: datetime
    known_at: datetime
    before: Fields
    after: Fields


def with_persons(moments: Sequence[Turn], said: Sequence[Said], person: Person) -> list[Turn]:
    """Moments with who somebody was then: what came true later is taken back.

    Days and moments among the fields stay: they say themselves from when on they count.
    """
    later = sorted(said, key=lambda s: s.known_at, reverse=True)
    result = []
    for turn in moments:
        was = person
        for one in later:
            if one.at > turn.at:
                fields = (one.before.keys() & one.after.keys()) - DAYS - MOMENTS
                mine = ({n: f[n] for n in fields} for f in (one.before, one.after))
                was = taken_back(was, *mine)
        result.append(turn if was is person else replace(turn, was=was))
    return result


def then(subject: Subject, turn: Turn) -> Subject:
    """A subject with who somebody was at a moment."""
    return subject if turn.was is None else replace(subject, person=turn.was)


def ruled(subject: Subject, world: World) -> list[Account]:
    """The accounts of somebody that rules have a say about."""
    return [
        a
        for a in subject.accounts
        if a.kind is AccountKind.PERSON
        and a.state is not AccountState.PURGED
        and (application := world.applications.get(a.application_id)) is not None
        and not application.can(Capability.RUN)
    ]


def turns(
    subject: Subject,
    world: World,
    facts: Iterable[Turn],
    upto: datetime | None,
    now: datetime,
    made: datetime | None = None,
) -> list[Turn]:
    """The moments after ``upto`` until now at which anything of somebody may have changed, in order.

    ``facts`` are those known since; what they say may have come true before, and then counts what
    came between as well. So may the dates of somebody ``made`` known later, but no rules that were in
    force, and nothing seen, before then.
    """
    person, facts, begins = subject.person, list(facts), start_moment(subject.person)
    if begins is not None:  # of who comes back today it was this morning, and they had nothing then
        begins = max([begins, *(f.at for f in facts if f.begins)])
    dates = [person.access_ends, person.absent_from, person.absent_until, begins]
    moments = [world.rules.since, *(a.seen_at for a in subject.accounts)]
    for decision in subject.decisions:
        moments += [decision.since, decision.ends]
    if made is not None:
        moments = [m for m in moments if m is not None and m >= made]
    return between([*dates, *moments], facts, upto, now)


def between(
    moments: Iterable[datetime | None],
    facts: Iterable[Turn],
    upto: datetime | None,
    now: datetime,
) -> list[Turn]:
    """Those of some moments that came after ``upto``, or after what ``facts`` say, with these."""
    since = upto or now
    told = {f for f in facts if f.at <= now}
    first = min([since, *(f.at for f in told)])
    known = max((f.known_at for f in told), default=since)
    told |= {
        Turn(m, m if since < m else known) for m in moments if m is not None and first < m <= now
    }
    return sorted(told, key=lambda t: (t.at, t.known_at))


def rights(
    subject: Subject, world: World, changed: Sequence[Turn], now: datetime
) -> tuple[Right, ...]:
    """The rights to a person's accounts as they stand now, from those that were known before.

    ``subject.rights`` holds the last one of each account. One that nothing gives any more ends at the
    first of the moments in ``changed`` from which on nothing gave it; what has ended stays as it is.
    """
    if not subject.is_person:
        return ()
    given_now = _given(subject, world, now)
    given_at: list[tuple[Turn, set[str]]] = []
    result = []
    for account in ruled(subject, world):
        known = subject.rights.get(account.id)
        application = account.application_id
        if known is not None and (known.until is None) is (application in given_now):
            result.append(known)
            continue
        given_at = given_at or [(t, _given(then(subject, t), world, t.at)) for t in changed]
        if application in given_now:
            since = first_so([(t, application in given) for t, given in given_at], now).at
            if known is not None and known.until is not None:
                since = max(since, known.until)  # never before the last one ended
            result.append(Right(account_id=account.id, since=since))
        else:
            end = first_so([(t, application not in given) for t, given in given_at], now)
            since_at = known.since if known is not None else end.at
            late = end.known_at if end.known_at > end.at else None
            result.append(Right(account_id=account.id, since=since_at, until=end.at, known_at=late))
    return tuple(result)


def _given(subject: Subject, world: World, at: datetime) -> set[str]:
    wanted = desired(subject, world.rules, at)
    return {application for application, want in wanted.items() if want.account is not None}


def first_so(shown: Sequence[tuple[Turn, bool]], now: datetime) -> Turn:
    """The first moment from which on something is so until now."""
    first = Turn(now, now)
    for turn, is_so in reversed(shown):
        if not is_so:
            break
        first = turn
    return first
