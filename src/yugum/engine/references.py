"""Where somebody is named without owning it: in applications and in Yugum itself, and who is to stand there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from yugum.core.actions import GONE
from yugum.core.applications import Application, Capability, Trust
from yugum.core.desired import Subject
from yugum.core.handover import Settled
from yugum.core.mentions import Mention
from yugum.core.people import Person, PersonState, full_name, state_at
from yugum.core.redirections import How, Redirection, redirection
from yugum.engine.context import load_applications, load_subjects
from yugum.engine.mentions import looked_at
from yugum.engine.own_mentions import own_mentions
from yugum.engine.standing import look_again
from yugum.errors import Conflict
from yugum.ports.clock import Clock
from yugum.ports.connectors import Connectors
from yugum.ports.units import Database, UnitOfWork


@dataclass(frozen=True, slots=True, kw_only=True)
class Reference:
    """A place that names somebody and what becomes of it; without an application it is Yugum's own."""

    application: Application | None
    mention: Mention
    found: Redirection | None
    how: How


@dataclass(frozen=True, slots=True, kw_only=True)
class Key:
    """Keys of an account, which stop working with the end of access."""

    application: Application
    login: str
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ReferencesShown:
    """Where somebody is named, as of a moment; ``silent`` did not answer, ``unsearched`` cannot be searched."""

    person: Person
    at: datetime
    rows: Sequence[Reference]
    keys: Sequence[Key]
    silent: Sequence[str]
    unsearched: Sequence[str]


class References:
    def __init__(self, database: Database, connectors: Connectors, clock: Clock) -> None:
        self._database = database
        self._connectors = connectors
        self._clock = clock

    async def show(self, who: str) -> ReferencesShown:
        """Where somebody is named, looked for now in every application that can be searched.

        Raises:
            NotFound: nobody is called so.
        """
        now = await self._clock.now()
        person_id, silent = await looked_at(self._database, self._connectors, who, now, places=True)
        async with self._database.unit(alone=True) as unit:
            return await _shown(unit, person_id, now, silent)

    async def redirect(self, who: str, author: str) -> ReferencesShown:
        """Put others where somebody who has left is still named, by a docket that begins at once.

        Raises:
            NotFound: nobody is called so.
            Conflict: they have not left: it goes with their leaving.
        """
        shown = await self.show(who)
        person = shown.person
        now = await self._clock.now()
        if state_at(person, now) is not PersonState.LEFT:
            raise Conflict(
                f"{full_name(person)} has not left; others are put in their place with the leaving.",
                place="who",
                remedy=f"Plan it: yugum leaver {person.user_name}.",
            )
        if any(r.how is How.LEAVING for r in shown.rows):
            async with self._database.unit() as unit:
                await look_again(unit, [person.id], now, author, "places still name them")
                await unit.hint()
        return shown


async def _shown(
    unit: UnitOfWork, person_id: str, now: datetime, silent: Sequence[str]
) -> ReferencesShown:
    known = await unit.accounts.known([person_id])
    person = known.people[person_id]
    at = max(now, person.access_ends or now)
    subject = (await load_subjects(unit, {person_id: person}, known, at))[person_id]
    applications = await load_applications(unit)
    mentions = (await unit.mentions.of([person_id])).get(person_id, ())
    rows = []
    for mention in mentions:
        application = applications[mention.application_id]
        found = redirection(subject, mention, at)
        how = _how(subject, application, found)
        rows.append(Reference(application=application, mention=mention, found=found, how=how))
    rows += [
        Reference(application=None, mention=m, found=None, how=How.BY_HAND)
        for m in await own_mentions(unit, subject, applications.values(), now)
    ]
    own = {a.id for a in subject.accounts}
    for mention in await unit.mentions.forwards([person.mail] if person.mail else []):
        if mention.key.removeprefix("forward ") not in own:
            where = applications[mention.application_id]
            rows.append(Reference(application=where, mention=mention, found=None, how=How.BY_HAND))
    return ReferencesShown(
        person=person,
        at=at,
        rows=rows,
        keys=[
            Key(application=applications[a.application_id], login=a.login, count=a.keys)
            for a in subject.accounts
            if a.keys and a.state not in GONE
        ],
        silent=[applications[i].name for i in silent],
        unsearched=sorted(a.name for a in applications.values() if not a.can(Capability.MENTIONS)),
    )


def _how(subject: Subject, application: Application, found: Redirection) -> How:
    """What becomes of a place: a step needs an account of theirs there, and an application that may be changed."""
    if found.choice.settled in (Settled.GOES, Settled.KEPT, Settled.COPIED):
        return How.STAYS
    if not found.text:
        return How.OPEN
    theirs = any(
        a.application_id == application.id and a.state not in GONE for a in subject.accounts
    )
    return (
        How.LEAVING
        if found.mention.fixable and theirs and application.trust is Trust.FULL
        else How.BY_HAND
    )
