"""Looking where applications name people: of all with a reading, of some when they are planned for."""

from __future__ import annotations

import asyncio
from collections.abc import Awaitable, Callable, Collection, Mapping, Sequence
from dataclasses import replace
from datetime import datetime

from yugum.core.actions import Action
from yugum.core.applications import Application, Capability
from yugum.core.dockets import DoneStep
from yugum.core.mentions import Finder, Mention, names_in, words_in
from yugum.engine.context import load_applications, observe_all
from yugum.errors import ApplicationError
from yugum.ports.accounts import Known
from yugum.ports.connectors import Connectors, Mentioning
from yugum.ports.mentions import Found
from yugum.ports.units import Database


async def searched(application: Application, connectors: Connectors) -> Mentioning | None:
    """The connector of an application that shows where it names people; None where it cannot."""
    if not application.can(Capability.MENTIONS):
        return None
    connector = await connectors.of(application.id)
    return connector if isinstance(connector, Mentioning) else None


async def look_for(
    database: Database, connectors: Connectors, known: Known, at: datetime
) -> dict[str, str]:
    """Look in every application where it names some people, and keep it; those that did not answer, with why."""
    people = {i: p for i, p in known.people.items() if i not in known.nobody}
    if not people:
        return {}
    async with database.unit() as unit:
        applications = await load_applications(unit)
    silent: dict[str, str] = {}

    async def look(application: Application) -> tuple[str, list[Found]] | None:
        try:
            connector = await searched(application, connectors)
            if connector is None:
                return None
            names = {
                i: names_in(p, known.accounts.get(i, ()), application.id) for i, p in people.items()
            }
            every = {n for mine in names.values() for n in mine}
            finder, found = Finder(names), list[Found]()
            async for page in connector.mentions(every):
                for mention in page:
                    of_it = replace(mention, application_id=application.id)
                    found += [(i, of_it) for i in sorted(finder.whom(mention.text))]
        except ApplicationError as error:
            silent[application.id] = error.message
            return None
        return application.id, found

    seen = await asyncio.gather(*(look(a) for a in applications.values()))
    async with database.unit() as unit:
        for one in sorted(s for s in seen if s is not None):
            await unit.mentions.put(one[0], one[1], at, person_ids=people)
    return silent


async def looked(
    database: Database, connectors: Connectors, known: Known, now: datetime, *, places: bool
) -> dict[str, str]:
    """What is planned from is seen: accounts, with ``places`` also where people are named; who did not answer."""
    silent, _ = await observe_all(database, connectors, known, now)
    return silent | (await look_for(database, connectors, known, now) if places else {})


async def looked_at(
    database: Database, connectors: Connectors, who: str, now: datetime, *, places: bool
) -> tuple[str, Sequence[str]]:
    """The id of somebody whose accounts, with ``places`` also where they are named, were just looked at; who did not answer."""
    async with database.unit() as unit:
        person = await unit.people.resolve(who)
        known = await unit.accounts.known([person.id])
    return person.id, sorted(await looked(database, connectors, known, now, places=places))


async def look_everywhere(
    database: Database,
    connectors: Connectors,
    application: Application,
    at: datetime,
    give_way: Callable[[], Awaitable[None]],
) -> None:
    """Look at every place of an application, whomever it names; others go first after each page."""
    connector = await searched(application, connectors)
    if connector is None:
        return
    keys: set[str] = set()
    async for page in connector.mentions():
        words = {m.key: words_in(m.text) for m in page}
        keys |= words.keys()
        async with database.unit() as unit:
            every = {w for some in words.values() for w in some}
            named = await unit.mentions.named(application.id, every)
            found = _found(application.id, page, words, named)
            await unit.mentions.put(application.id, found, at, keys=words)
        await give_way()
    async with database.unit() as unit:
        await unit.mentions.keep_only(application.id, keys)


def _found(
    application_id: str,
    page: Sequence[Mention],
    words: Mapping[str, Collection[str]],
    named: Mapping[str, Collection[str]],
) -> list[Found]:
    result: list[Found] = []
    for mention in page:
        whom = {i for w in words[mention.key] for i in named.get(w, ())}
        result += [(i, replace(mention, application_id=application_id)) for i in sorted(whom)]
    return result


async def texts_of(
    connectors: Connectors, done: Sequence[DoneStep]
) -> dict[tuple[str, str], str | None]:
    """How places that were redirected read now; one whose application is silent is left out."""
    found: dict[tuple[str, str], str | None] = {}
    for step in done:
        if step.action is not Action.REDIRECT:
            continue
        try:
            connector = await connectors.of(step.application_id)
            if isinstance(connector, Mentioning):
                key = step.arguments.place
                mention = await connector.mention(key)
                found[step.application_id, key] = None if mention is None else mention.text
        except ApplicationError:
            continue
    return found
