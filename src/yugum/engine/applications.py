"""Applications: connecting, discovering what they can do, reading their accounts."""

from __future__ import annotations

import asyncio
import uuid
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from typing import Any

from yugum.core.accounts import AccountKind, AccountState
from yugum.core.applications import Application, Capability
from yugum.core.decisions import LedgerKey, Origin, OriginKind
from yugum.core.people import folded
from yugum.core.seats import Pool
from yugum.engine.context import load_rules
from yugum.engine.events import make_event
from yugum.errors import ApplicationError
from yugum.ports import Clock, Connectors, Database, Row, Vault

HOLDING = (AccountState.ACTIVE, AccountState.SUSPENDED)


class Applications:
    def __init__(
        self, database: Database, connectors: Connectors, clock: Clock, vault: Vault
    ) -> None:
        self._database = database
        self._connectors = connectors
        self._clock = clock
        self._vault = vault

    async def rows(self) -> Sequence[Row]:
        async with self._database.unit() as unit:
            return await unit.applications.rows()

    async def connect(
        self, application: Application, config: Mapping[str, Any], secret: str | None, author: str
    ) -> Application:
        """Store how an application is reached and ask it what it can do.

        ``secret`` is a bearer token (SCIM) or a whole connection URL (PostgreSQL). Pools are made
        of the licenses it reports.

        Raises:
            ApplicationError: it does not answer as its kind should; nothing is stored then.
        """
        now = await self._clock.now()
        sealed = self._vault.seal(secret) if secret else None
        async with self._database.unit() as unit:
            await unit.applications.put(
                replace(application, capabilities=frozenset()), config, sealed
            )
        try:
            connector = await self._connectors.of(application.id)
            found = await connector.discover()
        except ApplicationError as error:
            async with self._database.unit() as unit:
                await unit.applications.problem(application.id, error.message)
            raise
        async with self._database.unit() as unit:
            await unit.applications.discovered(application.id, found.capabilities, now)
            for name, bought in found.licenses.items():
                pool = Pool(
                    id=str(uuid.uuid4()),
                    application_id=application.id,
                    license=name,
                    bought=bought,
                )
                await unit.seats.put(pool)
            payload = {"kind": application.kind, "can": sorted(found.capabilities)}
            await unit.audit.add(
                [make_event(now, author, "application.connected", application.id, payload)]
            )
        return replace(application, capabilities=found.capabilities)

    async def read(self, application_id: str, author: str) -> dict[str, int]:
        """Read every account of an application, page by page, and link them to people.

        What a role would give anyway is written to the ledger as the role's; the rest counts as
        found there.
        """
        now = await self._clock.now()
        counts = {"accounts": 0, "linked": 0, "nobody": 0}
        try:
            connector = await self._connectors.of(application_id)
            async for page in connector.read():
                async with self._database.unit() as unit:
                    linked = await unit.accounts.read_page(application_id, page, now)
                counts["accounts"] += len(page)
                counts["linked"] += linked["linked"]
                counts["nobody"] += linked["nobody"]
        except ApplicationError as error:
            async with self._database.unit() as unit:
                await unit.applications.problem(application_id, error.message)
            raise
        async with self._database.unit() as unit:
            await unit.applications.read_at(application_id, now, counts["accounts"])
            await unit.seats.reconcile(application_id, now)
            await unit.audit.add(
                [make_event(now, author, "application.read", application_id, counts)]
            )
        await self._adopt(application_id)
        return counts

    async def _adopt(self, application_id: str) -> None:
        now = await self._clock.now()
        async with self._database.unit() as unit:
            rules = await load_rules(unit)
            accounts = [
                a
                for a in await unit.accounts.of_application(application_id)
                if a.person_id and a.kind is AccountKind.PERSON
            ]
            people = await unit.people.many({str(a.person_id) for a in accounts})
            application = (await unit.applications.all())[application_id]
            # Where an application knows no seats, whoever has what a role gives holds its seat.
            books = not application.can(Capability.SEATS)
            seats: dict[str, set[str]] = {}
            origins: list[tuple[LedgerKey, Origin]] = []
            for account in accounts:
                person = people[str(account.person_id)][0]
                for role in rules.roles_of(folded(person)):
                    origin = Origin(OriginKind.ROLE, role.name)
                    for given in role.gives:
                        if given.application_id != application_id:
                            continue
                        held: Collection[str] = {
                            "account": {""},
                            "entitlement": account.entitlements,
                            "seat": account.seats,
                        }[given.kind]
                        if books and given.kind == "seat" and account.state in HOLDING:
                            seats.setdefault(account.id, set(account.seats)).add(given.item)
                            held = {given.item}
                        if given.item in held:
                            origins.append(((account.id, given.kind, given.item), origin))
            await unit.accounts.adopt(origins, now)
            if seats:
                await unit.accounts.set_seats(seats)
                await unit.seats.reconcile(application_id, now)

    async def check(self) -> None:
        """Ask every application whether it answers, and note what it says."""
        rows = await self.rows()
        await asyncio.gather(*(self._check(row["id"]) for row in rows))

    async def _check(self, application_id: str) -> None:
        now = await self._clock.now()
        try:
            connector = await self._connectors.of(application_id)
            found = await connector.discover()
        except ApplicationError as error:
            async with self._database.unit() as unit:
                await unit.applications.problem(application_id, error.message)
            return
        async with self._database.unit() as unit:
            await unit.applications.discovered(application_id, found.capabilities, now)
