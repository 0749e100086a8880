"""Taking in what a reading shows: compared with what is known, linked, stored, adopted by rules."""

from __future__ import annotations

import uuid
from collections.abc import Iterator, Sequence, Set
from dataclasses import replace
from datetime import datetime
from hashlib import blake2b

import orjson

from yugum.core.accounts import AccountKind, Observed, Unreadable
from yugum.core.applications import Capability
from yugum.core.deviations import NOT_THERE, Deviation, DeviationKind, deviations
from yugum.core.matching import CERTAIN, Candidates, Match
from yugum.core.readings import ReadingCounts
from yugum.engine.linking import adopt_given
from yugum.engine.outside import attributes_changed
from yugum.engine.progress import Progress
from yugum.ports.accounts import AccountLine, ChosenAccounts
from yugum.ports.deviations import SeenDeviation
from yugum.ports.proposals import Proposal
from yugum.ports.readings import KnownAccount, Sighting
from yugum.ports.units import Database, UnitOfWork

PORTION = 500


class Intake:
    """Stores what applications show; one whose docket runs is left to its lanes."""

    def __init__(self, database: Database) -> None:
        self._database = database

    async def page(self, progress: Progress, page: Sequence[Observed | Unreadable]) -> None:
        bad = [r for r in page if isinstance(r, Unreadable)]
        seen: list[Observed] = []
        for r in page:
            key = key_of(r.external_id)
            if isinstance(r, Observed):
                (progress.again if key in progress.keys else seen).append(r)
            progress.keys.add(key)
        counts, application_id = progress.counts, progress.application.id
        counts.accounts += len(seen)
        progress.groups += sum(o.kind is AccountKind.GROUP for o in seen)
        counts.unreadable += len(bad)
        async with self._database.unit() as unit:
            await unit.applications.stays(application_id)
            await self.compare(unit, progress, seen)
            await unit.readings.keep_unreadable(application_id, bad, progress.now)

    async def compare(self, unit: UnitOfWork, progress: Progress, seen: Sequence[Observed]) -> None:
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
            if linked is not None and o.kind is not AccountKind.GROUP:
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
        progress: Progress,
        news: Sequence[tuple[Observed, bytes, KnownAccount | None]],
    ) -> None:
        """Store what is new or changed, link it, and write down what was changed outside."""
        application_id, counts, now = progress.application.id, progress.counts, progress.now
        fresh = [
            o
            for o, _, before in news
            if (before is None or before.person_id is None) and o.kind is not AccountKind.GROUP
        ]
        candidates = Candidates(await unit.readings.candidates(fresh) if fresh else ())
        ours = await unit.readings.created_by_us(
            application_id, [o.correlation for o in fresh if o.correlation]
        )
        sightings: list[Sighting] = []
        outside: list[SeenDeviation] = []
        proposals: list[Proposal] = []
        for o, digest, before in news:
            sighting = _sighting(o, digest, before, ours)
            theirs = sighting.person_id is None and o.kind is not AccountKind.GROUP
            if theirs and (match := candidates.match(o)) is not None:
                if match.confidence >= CERTAIN:
                    sighting = replace(sighting, person_id=match.person_id)
                else:
                    proposals.append(_proposal(sighting.id, match, now))
            if before is None:
                counts.new += 1
                if o.kind is AccountKind.GROUP:
                    progress.new_groups += 1
                else:
                    _count_link(counts, sighting.person_id is not None)
            else:
                counts.changed += 1
            # The first reading finds what was there before us; of an account we made it finds changes. What
            # it has shown twice it has stored itself.
            changes = not progress.first or (before is not None and not progress.twice)
            if changes and sighting.id not in ours:
                outside += _deviations(application_id, sighting.id, before, o, now)
            sightings.append(sighting)
        if not progress.application.can(Capability.SEATS):
            # Seats that Yugum alone keeps stay as they are.
            kept = {before.id: before.seats for _, _, before in news if before is not None}
            sightings = [_with_seats(s, kept.get(s.id, frozenset())) for s in sightings]
        await unit.readings.store(application_id, sightings, now)
        await unit.deviations.add(outside)
        await unit.proposals.add(proposals)
        counts.outside += len(outside)
        both = [(s, b) for s, (_, _, b) in zip(sightings, news, strict=True) if b is not None]
        both = [] if progress.first and progress.twice else both
        counts.outside += await attributes_changed(unit, progress, both)
        await self._adopt(unit, progress, sightings)

    async def _adopt(
        self, unit: UnitOfWork, progress: Progress, sightings: Sequence[Sighting]
    ) -> None:
        """What a role would give anyway is the role's; the rest counts as found there.

        Where an application knows no seats, whoever has what a role gives holds its seat.
        """
        mine = [
            (s.id, s.person_id, s.seen)
            for s in sightings
            if s.person_id and s.kind is AccountKind.PERSON
        ]
        await adopt_given(unit, progress.application, progress.rules, mine, progress.now)

    async def adopt_all(self, progress: Progress) -> None:
        """The rules have changed since the last reading: see again what they would have given."""
        cursor: str | None = None
        while True:
            async with self._database.unit() as unit:
                mine = ChosenAccounts(application=progress.application.id)
                page = await unit.accounts.page(mine, cursor=cursor, limit=PORTION)
                sightings = [_as_sighting(line) for line in page.items]
                await self._adopt(unit, progress, sightings)
            cursor = page.next
            if cursor is None:
                return


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


def _sighting(
    seen: Observed, digest: bytes, before: KnownAccount | None, ours: Set[str]
) -> Sighting:
    if before is not None:
        return Sighting(
            id=before.id,
            person_id=before.person_id,
            kind=before.kind,
            seen=seen,
            digest=digest,
        )
    mine = seen.correlation in ours
    account_id = seen.correlation if mine else str(uuid.uuid4())
    return Sighting(
        id=account_id, person_id=None, kind=seen.kind, seen=seen, digest=digest, new=not mine
    )


def _proposal(account_id: str, match: Match, now: datetime) -> Proposal:
    return Proposal(
        account_id=account_id,
        person_id=match.person_id,
        rule=match.rule,
        confidence=match.confidence,
        made_at=now,
    )


def _deviations(
    application_id: str,
    account_id: str,
    before: KnownAccount | None,
    seen: Observed,
    now: datetime,
) -> list[SeenDeviation]:
    return [
        SeenDeviation(
            id=str(uuid.uuid4()),
            application_id=application_id,
            account_id=account_id,
            change=change,
            seen_at=now,
        )
        for change in _outside(before, seen)
    ]


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
