"""People who are alike have the same lines: worked out for one of them, said of all."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import NamedTuple

from yugum.core.accounts import Account, AccountState, HoldingKind
from yugum.core.attributes import PLAIN, Recipe, attributes_wanted, values_of
from yugum.core.desired import Subject, Successor, World, desired
from yugum.core.people import Person, start_moment
from yugum.core.verbs import Verb

LONGEST_SHUT = timedelta(days=31)
"""No pause between two working days is longer: so much later than it says may a step run."""


def timeless(subject: Subject, world: World, first: datetime, now: datetime) -> bool:
    """Whether what somebody should have is the same at every moment from ``first`` until now.

    So for nearly everybody: no decisions, no date in between, no step of a procedure that comes later,
    nothing that is going, no setting, which may name them. Attributes are looked at before (`out_of_step`).
    """
    person = subject.person
    if not subject.is_person or subject.decisions:
        return False
    if person.absent_from is not None or person.access_ends is not None:
        return False
    if not settled_in(start_moment(person), world, first):
        return False
    wanted = desired(subject, world.rules, now)
    if any(want.settings for want in wanted.values()):
        return False
    if any(kind is HoldingKind.SETTING for _, kind, _ in subject.ledger):
        return False
    return not any(
        _changes(subject, world, a, given=a.application_id in wanted) for a in subject.accounts
    )


class Shown(NamedTuple):
    """What an account says of its person; not more, for there are a hundred thousand of them."""

    id: str
    application_id: str
    settings: Mapping[str, str]


@dataclass(frozen=True, slots=True)
class Kept:
    """What an application keeps in step: ``plain`` are attributes that are one field of the person each."""

    plain: tuple[tuple[str, str], ...]
    others: tuple[Recipe, ...]


def kept_in_step(world: World) -> dict[str, Kept]:
    """What is kept in step, by application, where anything is."""
    found = {}
    for application_id, application in world.applications.items():
        if application.profile.comes_from:
            continue
        kept = [r for r in world.rules.recipes(application) if r.in_step]
        plain = tuple((r.name, r.sole) for r in kept if r.sole in PLAIN)
        if kept:
            others = tuple(r for r in kept if r.sole not in PLAIN)
            found[application_id] = Kept(plain, others)
    return found


def out_of_step(
    person: Person,
    manager: Successor | None,
    accounts: Iterable[Shown],
    kept: Mapping[str, Kept],
) -> bool:
    """Whether an attribute of an account that is ``kept`` in step is not as the person's data say.

    Then somebody is not alike others, who may be as theirs say; whether it is theirs to have is not asked.
    """
    values = values_of(person)
    subject = Subject(person=person, manager=manager)
    for account in accounts:
        of, settings = kept[account.application_id], account.settings
        for name, sole in of.plain:
            if settings.get(name, "") != values[sole]:
                return True
        if of.others:
            boss = subject.boss(account.application_id)
            for name, value, _ in attributes_wanted(person, boss, of.others):
                if settings.get(name, "") != value:
                    return True
    return False


def settled_in(begins: datetime | None, world: World, first: datetime) -> bool:
    """Whether somebody who began then had begun before ``first``, with no step that is yet to come."""
    if begins is None:
        return True
    if begins >= first:
        return False
    later = [s for s in world.rules.procedure(Verb.JOINER).steps if s.later]
    if not later:
        return True
    since = world.rules.since
    if since is None or any(s.at is not None and s.at.anchor != "starts" for s in later):
        return False
    # What fell due before the rules were adopted is not caught up on (`procedures.later_steps`).
    delays = [timedelta(days=s.at.days, hours=s.at.hours) for s in later if s.at is not None]
    return begins + max([timedelta(), *delays]) + LONGEST_SHUT < since


def _changes(subject: Subject, world: World, account: Account, *, given: bool) -> bool:
    """Whether an account goes, at moments of its own, or is set back from what a leaver's is set to."""
    if not given and subject.gave(account):
        return True
    application = world.applications.get(account.application_id)
    reset = application is not None and application.profile.leaver_settings
    return bool(reset) and account.state is not AccountState.ACTIVE
