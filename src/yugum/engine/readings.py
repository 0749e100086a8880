"""Readings: what applications really hold, page by page, compared with what was known.

A page is fetched while the one before is stored, so memory stays bounded and the slower of the two
sets the pace. An account that is as it was is not written at all.
"""

from __future__ import annotations

import asyncio
import uuid
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from hashlib import blake2b

import orjson

from yugum.core.accounts import AccountKind, AccountState, HoldingKind, Observed, Unreadable
from yugum.core.applications import Application, Capability
from yugum.core.decisions import LedgerKey, Origin, OriginKind
from yugum.core.deviations import NOT_THERE, Deviation, DeviationKind, deviations
from yugum.core.documents import Document
from yugum.core.matching import CERTAIN, Candidates
from yugum.core.people import folded
from yugum.core.readings import ReadingCounts, ReadingMode, ReadingState, is_fall
from yugum.core.roles import Rules
from yugum.engine.context import load_rules
from yugum.engine.events import make_event
from yugum.errors import ApplicationError, Conflict, NotFound, YugumError
from yugum.ports.accounts import AccountLine
from yugum.ports.clock import Clock
from yugum.ports.connectors import AccountRef, Connectors, Nesting
from yugum.ports.deviations import SeenDeviation
from yugum.ports.pages import ListPage
from yugum.ports.proposals import Proposal
from yugum.ports.readings import KnownAccount, Reading, Sighting, UnreadableLine
from yugum.ports.units import Database, UnitOfWork

HOLDING = (AccountState.ACTIVE, AccountState.SUSPENDED)
AHEAD = 2
"""Pages fetched ahead of those that are being stored."""
SIDE = 2
"""Pages stored side by side: one is compared here while the database writes the other."""
OVERLAP = timedelta(minutes=2)
"""A reading of changes begins so long before the last one, since clocks differ."""
PORTION = 500
MANY = 1000


@dataclass(slots=True)
class _Progress:
    """One reading under way; ``keys`` are short hashes of what was seen.

    ``again`` holds what was shown more than once, since lists shift while they are paged through;
    the last showing counts.
    """

    application: Application
    rules: Rules
    first: bool
    empty: bool
    now: datetime
    keys: set[int] = field(default_factory=set)
    again: list[Observed] = field(default_factory=list)
    counts: ReadingCounts = field(default_factory=ReadingCounts)


class Readings:
    def __init__(self, database: Database, connectors: Connectors, clock: Clock) -> None:
        self._database = database
        self._connectors = connectors
        self._clock = clock

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
            application = (await unit.applications.all()).get(application_id)
            if application is None:
                raise NotFound(
                    f"There is no application {application_id}.", remedy="See: yugum apps list."
                )
            last = await unit.readings.last(application_id)
            before = await unit.readings.in_use(application_id)
            empty = not await unit.readings.any_known(application_id)
            rules = await load_rules(unit)
            progress = _Progress(application, rules, last is None, empty, now)
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
            await self._stream(progress, since)
            if since is None:
                await self._miss(progress, before, believe=believe)
                await self._nest(application_id)
        except Exception as error:  # whatever ended it, a reading is never left running
            await self._failed(progress, reading, error)
            raise
        await self._finish(progress, reading, last)
        return progress.counts

    async def _failed(self, progress: _Progress, reading: Reading, error: Exception) -> None:
        text = error.message if isinstance(error, YugumError) else type(error).__name__
        state = ReadingState.HELD if isinstance(error, Conflict) else ReadingState.FAILED
        async with self._database.unit() as unit:
            await unit.readings.end(
                reading.id, state, progress.counts.by_name(), text, datetime.now(UTC)
            )
            await unit.applications.problem(reading.application_id, text)

    async def _finish(self, progress: _Progress, reading: Reading, last: Reading | None) -> None:
        application_id, now = progress.application.id, progress.now
        version = progress.rules.version
        if last is not None and last.counts.get("rules") != version:
            await self._adopt_all(progress)
        counts = {**progress.counts.by_name(), "rules": version}
        told: Document = {**counts}
        async with self._database.unit() as unit:
            await unit.readings.end(reading.id, ReadingState.DONE, counts, "", datetime.now(UTC))
            in_use = await unit.readings.in_use(application_id)
            await unit.applications.read_at(application_id, now, in_use)
            await unit.seats.reconcile(application_id, now)
            if progress.counts.new > MANY:
                await unit.readings.settle_statistics()
            await unit.audit.add(
                [make_event(now, reading.author, "application.read", application_id, told)]
            )

    async def _stream(self, progress: _Progress, since: datetime | None) -> None:
        """Store pages while the next ones are fetched."""
        connector = await self._connectors.of(progress.application.id)
        pages: asyncio.Queue[Sequence[Observed | Unreadable] | None] = asyncio.Queue(AHEAD)

        async def fetch() -> None:
            async for page in connector.read(since):
                await pages.put(page)
            await pages.put(None)

        async def store() -> None:
            while (page := await pages.get()) is not None:
                await self._page(progress, page)
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
                await self._compare(unit, progress, list(latest.values()))

    async def _page(self, progress: _Progress, page: Sequence[Observed | Unreadable]) -> None:
        bad = [r for r in page if isinstance(r, Unreadable)]
        seen: list[Observed] = []
        for r in page:
            key = key_of(r.external_id)
            if isinstance(r, Observed):
                (progress.again if key in progress.keys else seen).append(r)
            progress.keys.add(key)
        counts, application_id = progress.counts, progress.application.id
        counts.accounts += len(seen)
        counts.unreadable += len(bad)
        async with self._database.unit() as unit:
            await self._compare(unit, progress, seen)
            await unit.readings.keep_unreadable(application_id, bad, progress.now)

    async def _compare(
        self, unit: UnitOfWork, progress: _Progress, seen: Sequence[Observed]
    ) -> None:
        """Take in those that differ from what is known of them."""
        digests = [digest_of(o) for o in seen]
        counts, application_id = progress.counts, progress.application.id
        ids = [] if progress.empty else [o.external_id for o in seen]
        kept = await unit.readings.digests(application_id, ids) if ids else {}
        differ: list[tuple[Observed, bytes]] = []
        for o, digest in zip(seen, digests, strict=True):
            before, linked = kept.get(o.external_id, (None, None))
            if before != digest:
                differ.append((o, digest))
            if linked is not None:
                _count_link(counts, linked)
        if differ:
            ids = [o.external_id for o, _ in differ if o.external_id in kept]
            known = await unit.readings.known(application_id, ids) if ids else {}
            news = [(o, d, known.get(o.external_id)) for o, d in differ]
            news = [n for n in news if n[2] is None or not n[2].busy]
            if news:
                await self._take_in(unit, progress, news)
        if not progress.first:
            await unit.readings.clear_unreadable(application_id, [o.external_id for o in seen])

    async def _take_in(
        self,
        unit: UnitOfWork,
        progress: _Progress,
        news: Sequence[tuple[Observed, bytes, KnownAccount | None]],
    ) -> None:
        """Store what is new or changed, link it, and write down what was changed outside."""
        application_id, counts, now = progress.application.id, progress.counts, progress.now
        fresh = [o for o, _, before in news if before is None or before.person_id is None]
        candidates = Candidates(await unit.readings.candidates(fresh) if fresh else ())
        ours = await unit.readings.created_by_us(
            application_id, [o.correlation for o in fresh if o.correlation]
        )
        sightings: list[Sighting] = []
        outside: list[SeenDeviation] = []
        proposals: list[Proposal] = []
        for o, digest, before in news:
            if before is not None:
                account_id = before.id
                counts.changed += 1
            else:
                account_id = o.correlation if o.correlation in ours else str(uuid.uuid4())
                counts.new += 1
            person = before.person_id if before else None
            if person is None and (match := candidates.match(o)) is not None:
                if match.confidence >= CERTAIN:
                    person = match.person_id
                else:
                    proposals.append(
                        Proposal(
                            account_id=account_id,
                            person_id=match.person_id,
                            rule=match.rule,
                            confidence=match.confidence,
                            made_at=now,
                        )
                    )
            if before is None:
                _count_link(counts, person is not None)
            if not progress.first and account_id not in ours:
                outside += [
                    SeenDeviation(
                        id=str(uuid.uuid4()),
                        application_id=application_id,
                        account_id=account_id,
                        change=change,
                        seen_at=now,
                    )
                    for change in _outside(before, o)
                ]
            sightings.append(
                Sighting(
                    id=account_id,
                    person_id=person,
                    kind=before.kind if before else o.kind,
                    seen=o,
                    digest=digest,
                    new=before is None and account_id not in ours,
                )
            )
        books = not progress.application.can(Capability.SEATS)
        if books:  # seats that Yugum alone keeps stay as they are
            kept = {before.id: before.seats for _, _, before in news if before is not None}
            sightings = [_with_seats(s, kept.get(s.id, frozenset())) for s in sightings]
        await unit.readings.store(application_id, sightings, now)
        await unit.deviations.add(outside)
        await unit.proposals.add(proposals)
        counts.outside += len(outside)
        await self._adopt(unit, progress, sightings)

    async def _adopt(
        self, unit: UnitOfWork, progress: _Progress, sightings: Sequence[Sighting]
    ) -> None:
        """What a role would give anyway is the role's; the rest counts as found there.

        Where an application knows no seats, whoever has what a role gives holds its seat.
        """
        mine = [s for s in sightings if s.person_id and s.kind is AccountKind.PERSON]
        if not mine or not progress.rules.roles:
            return
        application = progress.application
        people = await unit.people.many({str(s.person_id) for s in mine})
        books = not application.can(Capability.SEATS)
        seats: dict[str, set[str]] = {}
        origins: list[tuple[LedgerKey, Origin]] = []
        for sighting in mine:
            person, seen = people[str(sighting.person_id)][0], sighting.seen
            for role in progress.rules.roles_of(folded(person)):
                origin = Origin(OriginKind.ROLE, role.name)
                for given in role.gives:
                    if given.application_id != application.id:
                        continue
                    held = _held(seen, given.kind)
                    if books and given.kind is HoldingKind.SEAT and seen.state in HOLDING:
                        seats.setdefault(sighting.id, set(seen.seats or ())).add(given.item)
                        held = {given.item}
                    if given.item in held:
                        origins.append(((sighting.id, given.kind, given.item), origin))
        await unit.accounts.adopt(origins, progress.now)
        if seats:
            await unit.accounts.set_seats(seats)

    async def _adopt_all(self, progress: _Progress) -> None:
        """The rules have changed since the last reading: see again what they would have given."""
        cursor: str | None = None
        while True:
            async with self._database.unit() as unit:
                page = await unit.accounts.page(
                    application=progress.application.id, cursor=cursor, limit=PORTION
                )
                sightings = [_as_sighting(line) for line in page.items]
                await self._adopt(unit, progress, sightings)
            cursor = page.next
            if cursor is None:
                return

    async def _miss(self, progress: _Progress, before: int, *, believe: bool) -> None:
        """What was not seen any more is gone, unless so much is that it is not believed."""
        application, counts = progress.application, progress.counts
        seen = counts.accounts + counts.unreadable
        if counts.new + before == seen:
            return
        if is_fall(seen, before) and not believe:
            raise Conflict(
                f"{application.name} shows {seen} accounts where {before} were in use; "
                "nothing was taken as gone.",
                remedy=f"If it is right: yugum apps read {application.id} --believe.",
            )
        gone: list[str] = []
        async with self._database.unit() as unit:
            async for account_id, external_id, busy in unit.readings.all_keys(application.id):
                if key_of(external_id) not in progress.keys and external_id and not busy:
                    gone.append(account_id)
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
        """Look again at one record that could not be understood."""
        now = await self._clock.now()
        connector = await self._connectors.of(application_id)
        seen = await connector.observe(AccountRef("", external_id, external_id), assets=True)
        async with self._database.unit() as unit:
            application = (await unit.applications.all())[application_id]
            progress = _Progress(application, await load_rules(unit), False, False, now)
        if seen is None:
            async with self._database.unit() as unit:
                await unit.readings.clear_unreadable(application_id, [external_id])
        else:
            await self._page(progress, [seen])
        return progress.counts

    async def read_due(self, author: str) -> int:
        """Read the applications whose time has come; returns how many."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            due = await unit.readings.due(now)
        for application_id in due:
            try:
                await self.read(application_id, author, mode=ReadingMode.CHANGES)
            except (ApplicationError, Conflict):
                continue  # written down with the reading
        return len(due)

    async def page(self, application_id: str, cursor: str | None, limit: int) -> ListPage[Reading]:
        async with self._database.unit() as unit:
            return await unit.readings.page(application_id, cursor, limit)

    async def unreadable(
        self, application_id: str, cursor: str | None, limit: int
    ) -> ListPage[UnreadableLine]:
        async with self._database.unit() as unit:
            return await unit.readings.unreadable(application_id, cursor, limit)


def key_of(external_id: str) -> int:
    """Eight bytes that stand for an id: a hundred thousand of them are a few megabytes."""
    return int.from_bytes(blake2b(external_id.encode(), digest_size=8).digest(), "big")


def digest_of(seen: Observed) -> bytes:
    """What tells whether an account is as it was; its last use counts by the day."""
    content = (
        seen.login,
        seen.state,
        sorted(seen.entitlements),
        sorted(seen.seats) if seen.seats is not None else None,
        seen.sessions,
        seen.keys,
        seen.devices,
        seen.recoverable_until,
        seen.display_name,
        seen.employee_number,
        seen.kind,
        dict(seen.settings),
        seen.last_used.date() if seen.last_used else None,
        [(a.kind, a.external_id, a.name) for a in seen.assets or ()],
    )
    return blake2b(orjson.dumps(content, option=orjson.OPT_SORT_KEYS), digest_size=12).digest()


def _with_seats(sighting: Sighting, seats: frozenset[str]) -> Sighting:
    return replace(sighting, seen=replace(sighting.seen, seats=seats))


def _count_link(counts: ReadingCounts, linked: bool) -> None:
    if linked:
        counts.linked += 1
    else:
        counts.nobody += 1


def _outside(before: KnownAccount | None, seen: Observed) -> Iterator[Deviation]:
    """What an account shows that Yugum did not do."""
    if before is None:
        yield Deviation(DeviationKind.ACCOUNT, "", NOT_THERE, seen.state.value)
    else:
        yield from deviations(before.state, before.entitlements, before.seats, seen)


def _held(seen: Observed, kind: HoldingKind) -> Collection[str]:
    """What of a kind an account holds, as far as a role can have given it."""
    match kind:
        case HoldingKind.ACCOUNT:
            return ("",)
        case HoldingKind.ENTITLEMENT:
            return seen.entitlements
        case HoldingKind.SEAT:
            return seen.seats or ()
        case HoldingKind.SETTING:
            return ()


def _as_sighting(line: AccountLine) -> Sighting:
    """A stored account as if it had just been seen."""
    seen = Observed(
        external_id=line.external_id,
        login=line.login,
        state=line.state,
        entitlements=frozenset(line.entitlements),
        seats=frozenset(line.seats),
    )
    return Sighting(id=line.id, person_id=line.person_id, kind=line.kind, seen=seen, digest=b"")
