"""Rules: looking at them, checking a candidate, adopting it as the next version."""

from __future__ import annotations

from typing import Any

from yugum.core.roles import Rules as CoreRules
from yugum.engine.events import make_event
from yugum.errors import InvalidInput
from yugum.ports import Clock, Database, ListPage
from yugum.wire.rulebook import rules_from
from yugum.wire.rules import RulesDocument


class Rules:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def current(self) -> tuple[int, dict[str, Any]]:
        async with self._database.unit() as unit:
            version, document = await unit.rules.current()
            return version, dict(document)

    async def history(self, cursor: str | None, limit: int) -> ListPage:
        async with self._database.unit() as unit:
            return await unit.rules.page(cursor, limit)

    async def check(self, document: RulesDocument) -> CoreRules:
        """Read a candidate; every application and license it names must exist.

        Raises:
            InvalidInput: a condition or a name is wrong; the place names the role.
        """
        rules = rules_from(document, 0)
        async with self._database.unit() as unit:
            applications = await unit.applications.all()
            pools = await unit.seats.pools()
        for role in rules.roles:
            for given in role.gives:
                place = f"roles.{role.name}.gives"
                if given.application_id not in applications:
                    raise InvalidInput(
                        f"There is no application {given.application_id}.",
                        place=place,
                        remedy=f"Known are: {', '.join(sorted(applications)) or 'none'}.",
                    )
                if given.kind == "seat" and (given.application_id, given.item) not in pools:
                    raise InvalidInput(
                        f"{given.application_id} has no pool of {given.item}.",
                        place=place,
                        remedy="Add the pool first: yugum seats pool.",
                    )
        return rules

    async def adopt(self, document: RulesDocument, author: str, note: str) -> int:
        await self.check(document)
        now = await self._clock.now()
        async with self._database.unit() as unit:
            version = await unit.rules.adopt(document.model_dump(mode="json"), now, author, note)
            payload = {"version": version, "note": note}
            await unit.audit.add([make_event(now, author, "rules.adopted", str(version), payload)])
            return version
