"""Looking at people who are alike together: worked out for one of them, stored of all.

A shortcut and no second reading of the rules. Who has anything of their own is looked at alone, and so is
everybody by the daily look, which finds what the shortcut got wrong.
"""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from datetime import datetime

from yugum.core.accounts import AccountState
from yugum.core.alike import kept_in_step, out_of_step, settled_in, timeless
from yugum.core.desired import Subject, World
from yugum.core.invitations import invited_at
from yugum.core.lines import NOTHING
from yugum.core.obligations import owed
from yugum.core.people import day_begins, state_at
from yugum.core.rights import between
from yugum.core.roles import Rules
from yugum.core.standing import standing
from yugum.engine.context import managers_of
from yugum.engine.rights import load_entitled
from yugum.ports.standing import Alike, Head, Together
from yugum.ports.units import UnitOfWork

MANY = 32
"""For fewer it is quicker to look at each."""

Member = tuple[Alike, datetime]
"""Somebody, and the first moment since the last look at which anything changed."""


async def together(
    unit: UnitOfWork, heads: Mapping[str, Head], world: World, now: datetime
) -> dict[str, Head]:
    """Look at those who are alike, store their lines, and return the heads to be stored of them."""
    looked = {i: h for i, h in heads.items() if not h.patrol and h.upto is not None}
    if len(looked) < MANY:
        return {}
    apart = await _out_of_step(unit, list(looked), world)
    looked = {i: h for i, h in looked.items() if i not in apart}
    groups = await _groups(unit, looked, world, now)
    firsts = [members[0][0] for members in groups]
    mine = {a.subject_id: looked[a.subject_id] for a in firsts}
    subjects, moments, changed = await load_entitled(unit, mine, world, now)
    ended = {r.account_id for r in changed}
    # What was read of them one statement after the other is what the others have only if it stayed so.
    same = await _alike(unit, list(mine), world.rules, now)
    result: dict[str, Head] = {}
    found = []
    for first, members in zip(firsts, groups, strict=True):
        subject = subjects.get(first.subject_id)
        if subject is None or same.get(first.subject_id) != first or ended & {*first.accounts}:
            continue
        since = min((t.at for t in moments[first.subject_id]), default=now)
        if not timeless(subject, world, since, now) or owed(subject, world, now):
            continue
        found.append(Together(lines=standing(subject, world, NOTHING, now), members=members))
        shape = shape_of(subject, now)
        for one, _ in members:
            head = Head(subject_id=one.subject_id, upto=now, shape=shape, leans_on=one.leans_on)
            result[one.subject_id] = head
    await unit.standing.put_together(found)
    return result


async def _out_of_step(unit: UnitOfWork, subject_ids: Sequence[str], world: World) -> set[str]:
    """Who has an attribute that is not as their data say, or about which somebody is asked."""
    kept = kept_in_step(world)
    if not kept:
        return set()
    found = await unit.people.many(subject_ids)
    people = {i: person for i, (person, _) in found.items()}
    managers = await managers_of(unit, people)
    accounts = await unit.accounts.shown_by(subject_ids, list(kept))
    disputed = await unit.deviations.disputed([a.id for mine in accounts.values() for a in mine])
    asked = {account_id for account_id, _ in disputed}
    return {
        i
        for i, mine in accounts.items()
        if (asked and any(a.id in asked for a in mine))
        or out_of_step(people[i], managers.get(people[i].manager_id or ""), mine, kept)
    }


async def _groups(
    unit: UnitOfWork, heads: Mapping[str, Head], world: World, now: datetime
) -> list[Sequence[Member]]:
    """Those who are alike, where they are several."""
    people = await _alike(unit, list(heads), world.rules, now)
    told = await unit.standing.told(people.keys())
    groups: dict[Hashable, list[Member]] = {}
    for i, one in people.items():
        begins = day_begins(one.starts, one.time_zone) if one.starts else None
        moments = [world.rules.since, begins, *one.seen]
        changed = between(moments, told.turns.get(i, ()), heads[i].upto, now)
        first = min((t.at for t in changed), default=now)
        if settled_in(begins, world, first):
            variants = tuple(r.variant(begins) for r in world.rules.roles if r.earlier)
            groups.setdefault((one.shape, variants), []).append((one, first))
    return [members for members in groups.values() if len(members) > 1]


async def _alike(
    unit: UnitOfWork, subject_ids: Sequence[str], rules: Rules, now: datetime
) -> dict[str, Alike]:
    items = {item for e in rules.exclusions for _, item in e.items}
    for role in rules.roles:
        given = [*role.gives, *(g for e in role.earlier for g in e.gives)]
        items |= {g.item for g in given if g.item}
    attributes = sorted(rules.attributes())
    people = await unit.standing.alike(subject_ids, attributes, items, now)
    return {one.subject_id: one for one in people}


def shape_of(subject: Subject, now: datetime) -> str:
    """What others read of somebody: whether they have left, and where they can receive."""
    open_in = sorted(
        a.application_id
        for a in subject.accounts
        if a.state is AccountState.ACTIVE and not invited_at(a)
    )
    return " ".join([state_at(subject.person, now).value, *open_in])
