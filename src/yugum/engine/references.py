"""Where somebody is named without owning it: in applications and in Yugum itself, and who is to stand there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from yugum.core.accounts import Account
from yugum.core.actions import GONE
from yugum.core.applications import Application, Capability, Trust
from yugum.core.causes import KeysCause
from yugum.core.desired import Subject
from yugum.core.documents import Document
from yugum.core.handover import Settled
from yugum.core.keys import account_with_keys, plan_keys
from yugum.core.mentions import Mention
from yugum.core.people import Person, PersonState, full_name, state_at
from yugum.core.redirections import How, Redirection, redirection
from yugum.core.verbs import Verb
from yugum.engine.at_once import Asked, start_at_once
from yugum.engine.context import load_applications, load_rules, load_subjects
from yugum.engine.events import make_event
from yugum.engine.mentions import looked_at
from yugum.engine.own_mentions import own_mentions
from yugum.engine.standing import look_again
from yugum.errors import Conflict, InvalidInput
from yugum.ports.clock import Clock
from yugum.ports.connectors import Connectors
from yugum.ports.credentials import ReplacedKey
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
    replaced: Sequence[ReplacedKey]
    silent: Sequence[str]
    unsearched: Sequence[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class KeysAsked:
    """Which keys are to be replaced, by the applications' ids of their ``places`` or all; the old ones work on for ``days``."""

    days: int
    reason: str
    reference: str = ""
    places: tuple[str, ...] = ()


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

    async def replace_keys(
        self, who: str, asked: KeysAsked, author: str
    ) -> tuple[list[int], list[str]]:
        """A key of whoever comes after for each program that runs with one of somebody who is to leave.

        A docket at once for each account with such; the old keys go on beside the new ones for so many days, at most
        until the access ends. The dockets' numbers, and why nothing is replaced in other applications.

        Raises:
            Conflict: they do not leave, or have left; or no key can be replaced.
            InvalidInput: a place that is named is none that runs with a key of theirs.
        """
        shown = await self.show(who)
        person, now = shown.person, await self._clock.now()
        if person.access_ends is None or state_at(person, now) is PersonState.LEFT:
            left = person.access_ends is not None
            how = f"yugum handover redirect {person.user_name}" if left else "date their leaving"
            raise Conflict(
                f"{full_name(person)} {'has left' if left else 'does not leave'}; keys are replaced between.",
                place="who",
                remedy=f"First: {how}." if not left else f"Do what is left: {how}.",
            )
        mine: dict[str, list[Mention]] = {}
        for row in shown.rows:
            if row.mention.replaceable and (not asked.places or row.mention.key in asked.places):
                mine.setdefault(row.mention.application_id, []).append(row.mention)
        if strange := set(asked.places) - {m.key for some in mine.values() for m in some}:
            raise InvalidInput(
                f"{min(strange)} is no place that runs with a key of {full_name(person)}.",
                place="places",
                remedy=f"Look which there are: yugum handover references {person.user_name}.",
            )
        until = min(now + timedelta(days=asked.days), person.access_ends)
        async with self._database.unit() as unit:
            known = await unit.accounts.known([person.id])
            subjects = await load_subjects(
                unit, {person.id: person}, known, now, await load_rules(unit)
            )
            accounts = [account_with_keys(subjects[person.id], i, m) for i, m in mine.items()]
            there = [a for a in accounts if a is not None]
            if not there:
                raise Conflict(
                    f"No program runs with a key of {full_name(person)} that could be replaced.",
                    place="who",
                )
            numbers: list[int] = []
            refused: list[Conflict] = []
            for account in there:  # one where nobody can have the key holds up no other
                try:
                    numbers.append(await _replace(unit, account, until, asked, author, now))
                except Conflict as error:
                    refused.append(error)
            if not numbers:
                raise refused[0]
            return numbers, [error.message for error in refused]

    async def tell_anew(self, who: str, key_id: str, author: str) -> None:
        """Have a new key that nobody has opened told of by another link; the one before opens nothing then.

        Raises:
            NotFound: nobody is called so; or there is no such key.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            person = await unit.people.resolve(who)
            known = await unit.accounts.known([person.id])
            accounts = [a.id for a in known.accounts.get(person.id, ())]
            await unit.credentials.tell_anew(key_id, accounts)
            event = make_event(now, author, "key.told-anew", person.id, {"key": key_id})
            await unit.audit.add([event])


async def _replace(
    unit: UnitOfWork,
    account: Account,
    until: datetime,
    asked: KeysAsked,
    author: str,
    now: datetime,
) -> int:
    cause = KeysCause(account=account.id, until=until, places=asked.places)
    about = Asked(
        verb=Verb.KEYS,
        cause=cause,
        author=author,
        reason=asked.reason,
        reference=asked.reference,
        priority=3,
        nothing="No key can be replaced.",
        remedy="Say who takes over: yugum handover choose WHO --thing key --to …",
    )
    docket = await start_at_once(
        unit,
        account.id,
        about,
        lambda subject, world, mine: plan_keys(subject, world, mine, now, until, asked.places),
        now,
    )
    said: Document = {"account": account.id, "until": until.isoformat(), "reason": asked.reason}
    event = make_event(now, author, "keys.asked", docket.subject_id, said, docket.id)
    await unit.audit.add([event])
    return docket.number


async def _shown(
    unit: UnitOfWork, person_id: str, now: datetime, silent: Sequence[str]
) -> ReferencesShown:
    known = await unit.accounts.known([person_id])
    person = known.people[person_id]
    at = max(now, person.access_ends or now)
    subject = (await load_subjects(unit, {person_id: person}, known, at, await load_rules(unit)))[
        person_id
    ]
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
        replaced=await unit.credentials.keys([a.id for a in subject.accounts]),
        silent=[applications[i].name for i in silent],
        unsearched=sorted(a.name for a in applications.values() if not a.can(Capability.MENTIONS)),
    )


def _how(subject: Subject, application: Application, found: Redirection) -> How:
    """What becomes of a place: a step needs an account of theirs there, and an application that may be changed."""
    if found.choice.settled in (Settled.GOES, Settled.KEPT, Settled.COPIED):
        return How.STAYS
    if not found.text:
        return How.OPEN
    if found.lacks:
        return How.OPEN
    theirs = any(
        a.application_id == application.id and a.state not in GONE for a in subject.accounts
    )
    return (
        How.LEAVING
        if found.mention.fixable and theirs and application.trust is Trust.FULL
        else How.BY_HAND
    )
