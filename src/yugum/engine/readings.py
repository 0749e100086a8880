"""Readings: what applications really hold, page by page, compared with what was known.

A page is fetched while the one before is stored, so memory stays bounded and the slower of the two
sets the pace. An account that is as it was is not written at all.
"""

from __future__ import annotations

import asyncio
import time
import uuid
from collections import Counter
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime, timedelta

from yugum.core.accounts import AccountState, Observed, Unreadable
from yugum.core.applications import Application
from yugum.core.documents import Document
from yugum.core.readings import ReadingCounts, ReadingMode, ReadingState, is_fall, whole_site
from yugum.engine.context import load_applications, load_rules
from yugum.engine.courtesy import Courtesy
from yugum.engine.events import make_event
from yugum.engine.intake import Intake, key_of
from yugum.engine.mentions import look_everywhere
from yugum.engine.progress import Progress
from yugum.errors import ApplicationError, ApplicationRejected, Conflict, NotFound, YugumError
from yugum.ports.clock import Clock
from yugum.ports.connectors import AccountRef, Connectors, Nesting
from yugum.ports.pages import ListPage
from yugum.ports.readings import Reading, UnreadableLine
from yugum.ports.units import Database

HOLDING = (AccountState.ACTIVE, AccountState.SUSPENDED)
AHEAD = 2
"""Pages fetched ahead of those that are being stored."""
SIDE = 2
"""Pages stored side by side: one is compared here while the database writes the other."""
OVERLAP = timedelta(minutes=2)
"""A reading of changes begins so long before the last one, since clocks differ."""
BEAT = 10.0
DEAD = timedelta(minutes=2)
"""A reading that has said nothing for so long has lost its process."""
PORTION = 500
MANY = 1000


class Readings:
    def __init__(
        self,
        database: Database,
        connectors: Connectors,
        clock: Clock,
        courtesy: Courtesy | None = None,
    ) -> None:
        self._database = database
        self._connectors = connectors
        self._clock = clock
        self._courtesy = courtesy or Courtesy()
        self._intake = Intake(database)

    async def read(
        self,
        application_id: str,
        author: str,
        *,
        mode: ReadingMode = ReadingMode.FULL,
        believe: bool = False,
    ) -> ReadingCounts:
        """Read an application's accounts; returns how many were new, changed, gone and so on.

        ``mode`` ``changes`` asks only for what has changed since the last reading, where the
        application can tell. With ``believe`` even a sudden fall is taken as it is.

        Raises:
            ApplicationError: the application does not answer; what was read until then is kept.
            Conflict: so few accounts were found that somebody has to say whether it is right.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            application = (await load_applications(unit)).get(application_id)
            if application is None:
                raise NotFound(
                    f"There is no application {application_id}.", remedy="See: yugum apps list."
                )
            last = await unit.readings.last(application_id)
            before = await unit.readings.in_use(application_id)
            empty = not await unit.readings.any_known(application_id)
            rules = await load_rules(unit)
            progress = Progress(application, rules, last is None, empty, now)
            reading = Reading(
                id=str(uuid.uuid4()),
                application_id=application_id,
                mode=mode,
                state=ReadingState.RUNNING,
                author=author,
                began_at=datetime.now(UTC),
                counts={},
            )
            await unit.readings.begin(reading)
        changes = mode is ReadingMode.CHANGES
        since = last.began_at - OVERLAP if last and changes else None
        try:
            await self._stream(progress, reading, since)
            if since is None:
                await self._miss(progress, before, believe=believe)
                await self._nest(application_id)
            unsearched = await self._look_for_places(application, now)
        except Exception as error:  # whatever ended it, a reading is never left running
            await self._failed(progress, reading, error)
            raise
        await self._finish(progress, reading, last, unsearched)
        return progress.counts

    async def _look_for_places(self, application: Application, now: datetime) -> str:
        """Where it names people; what is wrong with that is told and holds up nothing else of a reading."""
        give_way = self._courtesy.give_way
        try:
            await look_everywhere(self._database, self._connectors, application, now, give_way)
        except ApplicationError as error:
            return f"Where it names people could not be read: {error.message}"
        return ""

    async def _failed(self, progress: Progress, reading: Reading, error: Exception) -> None:
        text = error.message if isinstance(error, YugumError) else type(error).__name__
        state = ReadingState.HELD if isinstance(error, Conflict) else ReadingState.FAILED
        async with self._database.unit() as unit:
            await unit.readings.end(
                reading.id, state, progress.counts.by_name(), text, datetime.now(UTC)
            )
            await unit.applications.problem(reading.application_id, text)

    async def _finish(
        self, progress: Progress, reading: Reading, last: Reading | None, text: str
    ) -> None:
        application_id, now = progress.application.id, progress.now
        version = progress.rules.version
        if last is not None and last.counts.get("rules") != version:
            await self._intake.adopt_all(progress)
        progress.counts.accounts -= progress.groups
        progress.counts.new -= progress.new_groups
        counts = {**progress.counts.by_name(), "rules": version}
        told: Document = {**counts}
        async with self._database.unit() as unit:
            await unit.readings.end(reading.id, ReadingState.DONE, counts, text, datetime.now(UTC))
            in_use = await unit.readings.in_use(application_id)
            await unit.applications.read_at(application_id, now, in_use)
            await unit.seats.reconcile(application_id, now)
            if progress.counts.new > MANY:
                await unit.readings.settle_statistics()
            await unit.audit.add(
                [make_event(now, reading.author, "application.read", application_id, told)]
            )

    async def _stream(self, progress: Progress, reading: Reading, since: datetime | None) -> None:
        """Store pages while the next ones are fetched."""
        connector = await self._connectors.of(progress.application.id)
        pages: asyncio.Queue[Sequence[Observed | Unreadable] | None] = asyncio.Queue(AHEAD)

        async def fetch() -> None:
            beat = time.monotonic()
            await self._courtesy.give_way()
            async for page in connector.read(since):
                await self._courtesy.give_way()
                await pages.put(page)
                if time.monotonic() - beat > BEAT:
                    beat = time.monotonic()
                    async with self._database.unit() as unit:
                        await unit.readings.goes_on(reading.id)
            await pages.put(None)

        async def store() -> None:
            while (page := await pages.get()) is not None:
                await self._intake.page(progress, page)
            await pages.put(None)  # for the others who store

        work = [asyncio.create_task(fetch()), *(asyncio.create_task(store()) for _ in range(SIDE))]
        try:
            await asyncio.gather(*work)
        finally:
            for task in work:
                task.cancel()
            await asyncio.gather(*work, return_exceptions=True)
        if progress.again:
            progress.empty = False
            async with self._database.unit() as unit:
                latest = {o.external_id: o for o in progress.again}
                progress.twice = True
                await self._intake.compare(unit, progress, list(latest.values()))

    async def _miss(self, progress: Progress, before: int, *, believe: bool) -> None:
        """What was not seen any more is gone, unless so much is that it is not believed."""
        application, counts = progress.application, progress.counts
        if counts.new + before == counts.accounts + counts.unreadable:
            return
        gone: list[str] = []
        missing, known = Counter[str](), Counter[str]()
        async with self._database.unit() as unit:
            async for key in unit.readings.all_keys(application.id):
                known[key.site] += key.in_use
                if key_of(key.external_id) in progress.keys or not key.external_id or key.busy:
                    continue
                gone.append(key.account_id)
                missing[key.site] += key.in_use
        if not believe:
            _must_be_likely(application, missing, known)
        for begin in range(0, len(gone), PORTION):
            async with self._database.unit() as unit:
                portion = gone[begin : begin + PORTION]
                await unit.readings.vanished(application.id, portion, progress.now)
        counts.gone = len(gone)

    async def _nest(self, application_id: str) -> None:
        """Keep which groups are inside which others, where the application has such."""
        connector = await self._connectors.of(application_id)
        if isinstance(connector, Nesting):
            nested = await connector.nesting()
            async with self._database.unit() as unit:
                await unit.applications.nest(application_id, nested)

    async def retry(self, application_id: str, external_id: str) -> ReadingCounts:
        """Look again at one record that could not be understood.

        Raises:
            NotFound: it is not among these.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            if not await unit.readings.is_unreadable(application_id, external_id):
                raise NotFound(
                    f"No record {external_id} of {application_id} could not be understood.",
                    remedy=f"See: yugum apps unreadable {application_id}.",
                )
        connector = await self._connectors.of(application_id)
        seen: Observed | Unreadable | None
        try:
            seen = await connector.observe(AccountRef("", external_id, external_id), assets=True)
        except ApplicationRejected as error:
            seen = Unreadable(external_id, "", error.message)
        async with self._database.unit() as unit:
            application = (await load_applications(unit))[application_id]
            progress = Progress(application, await load_rules(unit), False, False, now)
        if seen is None:
            async with self._database.unit() as unit:
                await unit.readings.clear_unreadable(application_id, [external_id])
        else:
            await self._intake.page(progress, [seen])
        return progress.counts

    async def read_due(self, author: str) -> int:
        """Read the applications whose time has come; returns how many.

        Readings whose process died are ended: nothing waits for them, and nobody believes them.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            await unit.readings.end_dead(DEAD)
            due = await unit.readings.due(now)
        for application_id in due:
            try:
                await self.read(application_id, author, mode=ReadingMode.CHANGES)
            except (ApplicationError, Conflict, NotFound):
                continue  # written down with the reading; or it was disconnected meanwhile
        return len(due)

    async def page(self, application_id: str, cursor: str | None, limit: int) -> ListPage[Reading]:
        async with self._database.unit() as unit:
            return await unit.readings.page(application_id, cursor, limit)

    async def unreadable(
        self, application_id: str, cursor: str | None, limit: int
    ) -> ListPage[UnreadableLine]:
        async with self._database.unit() as unit:
            return await unit.readings.unreadable(application_id, cursor, limit)


def _must_be_likely(
    application: Application, missing: Mapping[str, int], known: Mapping[str, int]
) -> None:
    """So many accounts gone at once are rather a fault of the application or of the connection."""
    gone, before = sum(missing.values()), sum(known.values())
    if is_fall(gone, before, application.profile):
        text = f"{application.name} shows {gone} accounts less than the {before} in use"
    elif site := whole_site(missing, known):
        text = (
            f"{application.name} shows no account of {site} any more ({missing[site]} were in use)"
        )
    else:
        return
    raise Conflict(
        f"{text}; nothing was taken as gone.",
        remedy=f"If it is right: yugum apps read {application.id} --believe.",
    )
