"""Applications: connecting, discovering what they can do, reading their accounts."""

from __future__ import annotations

import asyncio
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from yugum.core.applications import (
    NO_CHANGE,
    Application,
    ProfileChange,
    Trust,
    with_profile,
)
from yugum.core.attributes import Made, makes
from yugum.core.documents import Document, Json, full
from yugum.engine.context import load_rules
from yugum.engine.events import make_event
from yugum.engine.seats import report
from yugum.errors import ApplicationError, InvalidInput, YugumError
from yugum.ports.applications import Access, ApplicationLine, Connection
from yugum.ports.clock import Clock
from yugum.ports.connectors import Connectors, Discovery
from yugum.ports.gates import Stop
from yugum.ports.services import Vault
from yugum.ports.units import Database, UnitOfWork

HIDDEN = "(the secret)"


@dataclass(frozen=True, slots=True)
class ListedApplication:
    """An application in a list, with what the rules say over its profile and of its attributes."""

    line: ApplicationLine
    ruled: ProfileChange
    made: Mapping[str, Made]

    @property
    def left_this_hour(self) -> int | None:
        """How many more steps may take something away before the hour ends; None without a ceiling."""
        said = self.ruled.ceiling_per_hour
        ceiling = self.line.profile.ceiling_per_hour if said is None else said
        return max(0, ceiling - self.line.taken_this_hour) if ceiling else None


class Applications:
    def __init__(
        self, database: Database, connectors: Connectors, clock: Clock, vault: Vault
    ) -> None:
        self._database = database
        self._connectors = connectors
        self._clock = clock
        self._vault = vault

    async def list(self) -> Sequence[ListedApplication]:
        """Every application; an organisation has tens of them, so this is no page."""
        async with self._database.unit() as unit:
            lines = await unit.applications.lines()
            rules = await load_rules(unit)
        return [
            ListedApplication(
                line,
                rules.profiles.get(line.id, NO_CHANGE),
                dict(makes(line.attributes, rules.mapped(line.id))),
            )
            for line in lines
        ]

    async def connect(
        self,
        application: Application,
        access: Access,
        secret: str | None,
        author: str,
        *,
        trust: Trust | None,
        profile: ProfileChange,
    ) -> Application:
        """Ask an application what it can do, and store how it is reached once it has answered.

        ``secret`` is a bearer token (SCIM) or a whole connection URL (PostgreSQL). Without ``trust``,
        and in what ``profile`` leaves out, one that is known stays as it is. Pools are made of the
        licenses it reports.

        Raises:
            ApplicationError: it does not answer as its kind should; nothing is stored then.
            InvalidInput: it cannot be reached as was said.
        """
        now = await self._clock.now()
        sealed = self._vault.seal(secret) if secret else None
        async with self._database.unit() as unit:
            every = await unit.applications.all()
            known = every.get(application.id)
            earlier = None if known else await unit.applications.earlier(application.id)
            before = known or earlier or application
            _must_come_from(profile, before, every)
            application = with_profile(
                replace(application, trust=trust or before.trust, profile=before.profile), profile
            )
            kept = (await unit.applications.connection_of(application.id)).secret if known else None
        tried = Connection(
            id=application.id,
            name=application.name,
            kind=application.kind,
            access=access,
            secret=sealed or kept,
        )
        found = await self._discover(tried)
        async with self._database.unit() as unit:
            if earlier is not None:  # what was kept of it is there again
                await unit.applications.come_back(application.id)
            await unit.applications.put(
                replace(application, capabilities=frozenset()), access, sealed
            )
            await _keep(unit, application.id, found, now)
            can: list[Json] = [c.value for c in sorted(found.capabilities)]
            payload: Document = {"kind": application.kind, "can": can}
            await unit.audit.add(
                [make_event(now, author, "application.connected", application.id, payload)]
            )
        self._connectors.forget(application.id)
        return replace(application, capabilities=found.capabilities)

    async def must_exist(self, application_id: str) -> None:
        """Raises NotFound for an id that no application has."""
        async with self._database.unit(alone=True) as unit:
            await unit.applications.connection_of(application_id)

    async def _discover(self, tried: Connection) -> Discovery:
        """What an application can do, reached as was said and not as it may be stored."""
        secret = self._vault.open(tried.secret) if tried.secret else ""
        try:
            connector = self._connectors.trial(tried)
            try:
                return await connector.discover()
            finally:
                await connector.close()
        except YugumError as error:
            if secret and secret in error.message + error.remedy:
                error.message = error.message.replace(secret, HIDDEN)
                error.remedy = error.remedy.replace(secret, HIDDEN)
            raise
        except Exception as error:  # noqa: BLE001 - whatever a connector makes of what was said
            # What is wrong may quote the secret; its kind does not.
            raise InvalidInput(
                f"{tried.name} cannot be reached as was said ({type(error).__name__}).",
                place="url",
                remedy="Look at the address, the secret and the options.",
            ) from None

    async def trust(self, application_id: str, trust: Trust, author: str) -> None:
        """Say what Yugum may do in an application from the next plan on."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            await unit.applications.connection_of(application_id)
            await unit.applications.trust(application_id, trust)
            payload = {"trust": trust.value}
            await unit.audit.add(
                [make_event(now, author, "application.trusted", application_id, payload)]
            )

    async def change_profile(self, application_id: str, said: ProfileChange, author: str) -> None:
        """Change fields of an application's profile from the next plan on.

        Dates that follow from it (when suspended accounts are closed) are renewed; a window that is
        running already ends when it was said to.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            await unit.applications.connection_of(application_id)
            every = await unit.applications.all()
            application = every[application_id]
            _must_come_from(said, application, every)
            before, after = application.profile, with_profile(application, said).profile
            if before == after:
                return
            was, becomes = full(before), full(after)
            changed: Document = {
                name: [was[name], becomes[name]] for name in was if was[name] != becomes[name]
            }
            await unit.applications.change_profile(application_id, after)
            await unit.audit.add(
                [make_event(now, author, "application.profile", application_id, changed)]
            )
            await unit.hint()

    async def stopped(self) -> Stop | None:
        """The stop that is in force, if there is one."""
        async with self._database.unit() as unit:
            return await unit.gates.stopped()

    async def stop(self, author: str, reason: str) -> None:
        """Stop everything but cut-offs; a second stop changes nothing."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            await unit.gates.stop(author, reason)
            event = make_event(now, author, "work.stopped", "everything", {"reason": reason})
            await unit.audit.add([event])

    async def go_on(self, author: str) -> None:
        now = await self._clock.now()
        async with self._database.unit() as unit:
            await unit.gates.go_on()
            await unit.audit.add([make_event(now, author, "work.resumed", "everything", {})])
            await unit.hint()

    async def check(self) -> None:
        """Ask every application whether it answers, and note what it says."""
        async with self._database.unit() as unit:
            ids = list(await unit.applications.all())
        await asyncio.gather(*(self._check(i) for i in ids))

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
            await unit.applications.discovered(
                application_id, found.capabilities, found.attributes, found.groups, now
            )
            await report(unit, application_id, found.licenses)


async def _keep(unit: UnitOfWork, application_id: str, found: Discovery, now: datetime) -> None:
    """Keep what an application has said of itself, with a pool for each license."""
    await unit.applications.discovered(
        application_id, found.capabilities, found.attributes, found.groups, now
    )
    await report(unit, application_id, found.licenses)


def _must_come_from(said: ProfileChange, application: Application, every: Iterable[str]) -> None:
    """Raises InvalidInput where accounts are newly said to come from no other application."""
    others = set(every) - {application.id}
    if said.comes_from and said.comes_from not in {*others, application.profile.comes_from}:
        raise InvalidInput(
            f"There is no other application {said.comes_from}.",
            place="comes_from",
            remedy=f"Known are: {', '.join(sorted(others)) or 'none'}.",
        )
