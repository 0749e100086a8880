"""Findings accepted until a day: they are told again from then on, if they are still so."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from yugum.core.findings import STANDING, FindingKind
from yugum.core.licenses import pairs
from yugum.core.lines import LineKind, Side
from yugum.engine.context import load_rules, zone_of
from yugum.engine.decisions import end_of
from yugum.engine.events import make_event
from yugum.engine.standings import Standings
from yugum.errors import InvalidInput, YugumError
from yugum.ports.clock import Clock
from yugum.ports.findings import NewAcceptance
from yugum.ports.units import Database

LONGEST = timedelta(days=90)
"""What is accepted for longer is forgotten."""
NOT_HERE = {
    FindingKind.OUTSIDE: "is kept or put back: yugum findings keep, revert",
    FindingKind.ASKED: "is asked for: agree to it, or call it off",
}
"""Kinds that are settled otherwise, and how."""


@dataclass(frozen=True, slots=True)
class Found:
    """Which finding."""

    kind: FindingKind
    key: str


@dataclass(frozen=True, slots=True)
class Refused:
    """A finding that was not accepted, and why."""

    kind: FindingKind
    key: str
    problem: str


class Accepting:
    def __init__(self, database: Database, clock: Clock, standings: Standings) -> None:
        self._database = database
        self._clock = clock
        self._standings = standings

    async def accept(
        self, items: Sequence[Found], until: str, reason: str, author: str
    ) -> list[Refused]:
        """Accept findings until a moment at most 90 days ahead; those that were not, each with why.

        Raises:
            InvalidInput: no reason, an end that is none or too far ahead, or more than one open account of
                somebody who has left: these are looked at one by one.
        """
        if not reason.strip():
            raise InvalidInput("What is accepted needs a reason.", place="reason")
        now = await self._clock.now()
        async with self._database.unit() as unit:
            end = end_of(until, now, await zone_of(unit), "until")
        if end is None or end > now + LONGEST:
            raise InvalidInput(
                "A finding is accepted for at most 90 days from now.",
                place="until",
                remedy="Name a day before, for example +30d.",
            )
        wanted = list(dict.fromkeys(items))
        if sum(f.kind is FindingKind.LEAVER_OPEN for f in wanted) > 1:
            raise InvalidInput(
                "Open accounts of people who have left are accepted one by one.",
                place="items",
                remedy="Cut them off: yugum accounts suspend, or recheck these people.",
            )
        refused: list[Refused] = []
        plain = [f for f in wanted if f.kind not in STANDING and f.kind not in NOT_HERE]
        for found in wanted:
            if why := NOT_HERE.get(found.kind):
                refused.append(Refused(found.kind, found.key, why))
            elif found.kind in STANDING:
                refused += await self._difference(found, end, reason, author)
        return refused + await self._keep(plain, end, reason, author, now)

    async def _keep(
        self, items: Sequence[Found], end: datetime, reason: str, author: str, now: datetime
    ) -> list[Refused]:
        async with self._database.unit() as unit:
            known = pairs((await load_rules(unit)).licenses)
            keys: dict[FindingKind, list[str]] = {}
            for found in items:
                keys.setdefault(found.kind, []).append(found.key)
            there = {
                Found(kind, key)
                for kind, some in keys.items()
                for key in await unit.findings.there(now, kind, some, known)
            }
            made = [
                NewAcceptance(
                    kind=f.kind, key=f.key, until_at=end, author=author, reason=reason, made_at=now
                )
                for f in items
                if f in there
            ]
            await unit.findings.accept(made)
            await unit.audit.add(
                [
                    make_event(
                        now,
                        author,
                        "finding.accepted",
                        a.key,
                        {"kind": a.kind.value, "until": end.isoformat(), "reason": reason},
                    )
                    for a in made
                ]
            )
        gone = "is not found any more"
        return [Refused(f.kind, f.key, gone) for f in items if f not in there]

    async def _difference(
        self, found: Found, end: datetime, reason: str, author: str
    ) -> list[Refused]:
        """What differs of somebody is accepted as such: it is the same on their page."""
        parts = found.key.split("/", 4)
        try:
            who, application, _, kind, item = parts
            about = (application, LineKind(kind), item, Side(found.kind.value))
            await self._standings.accept(who, about, reason, end.isoformat(), author)
        except (ValueError, YugumError) as error:
            why = error.message if isinstance(error, YugumError) else "is not found any more"
            return [Refused(found.kind, found.key, why)]
        return []

    async def end(self, items: Sequence[Found], author: str) -> int:
        """Findings that are told again from now on; how many were accepted."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            pairs_of = [(f.kind, f.key) for f in dict.fromkeys(items)]
            ended = await unit.findings.end_acceptance(pairs_of)
            await unit.audit.add(
                [
                    make_event(now, author, "finding.reopened", key, {"kind": kind.value})
                    for kind, key in ended
                ]
            )
        return len(ended)
