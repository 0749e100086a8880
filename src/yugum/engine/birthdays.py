"""By which day of birth somebody is told apart from others, kept as a digest only."""

from __future__ import annotations

from collections.abc import Sequence

from yugum.core.birthdays import digest_of
from yugum.engine.events import make_event
from yugum.engine.own import must_be_for_others
from yugum.ports.clock import Clock
from yugum.ports.people import SamePerson
from yugum.ports.services import Vault
from yugum.ports.units import Database


class Birthdays:
    def __init__(self, database: Database, clock: Clock, vault: Vault) -> None:
        self._database = database
        self._clock = clock
        self._vault = vault

    async def put(self, who: str, day: str, author: str) -> Sequence[SamePerson]:
        """Keep a digest of the day on which somebody was born, or forget it ("").

        Returns who was born on the same day and has one of the names: perhaps the same person.

        Raises:
            InvalidInput: it is no day somebody who works here was born on.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            person = await unit.people.resolve(who)
            digest = digest_of(day, now.date(), self._vault.digest)
            before = (await unit.birthdays.of([person.id])).get(person.id, "")
            if digest != before:
                await must_be_for_others(unit, author, [person.id], "a birthday", now)
                await unit.birthdays.put({person.id: digest})
                payload = {"kept": bool(digest)}
                event = make_event(now, author, "person.birthday", person.id, payload)
                await unit.audit.add([event])
            if not digest:
                return []
            alike = await unit.people.like([person], {person.id: digest}, now)
            return [a for a in alike if a.user_name != person.user_name and a.same == "birthday"]
