"""The standing difference for people: lists of it, somebody's own, and what is accepted of it."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from yugum.core.dates import parse_moment
from yugum.core.desired import Subject, World
from yugum.core.lines import Acceptance, Line, LineKind, LineStatus, Side
from yugum.engine.context import load_world
from yugum.engine.events import make_event
from yugum.engine.standing import stands
from yugum.errors import Conflict, InvalidInput, NotFound
from yugum.ports.clock import Clock
from yugum.ports.pages import ListPage
from yugum.ports.standing import Chosen, StandingLine
from yugum.ports.units import Database, UnitOfWork


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """How many people a change for many has still to reach, ``of`` how many.

    ``looked_at`` is when everybody was last looked at, ``faults`` how many were not in step then.
    """

    ahead: int
    of: int
    looked_at: datetime | None
    faults: int


class Standings:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def page(
        self, chosen: Chosen, who: str, hours: float, cursor: str | None, limit: int
    ) -> ListPage[StandingLine]:
        """Lines of everybody as last worked out, the oldest first; with ``hours`` no younger ones."""
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            person_id = (await unit.people.resolve(who)).id if who else ""
            if chosen.application_id:
                await must_be_known(unit, chosen.application_id)
            before = now - timedelta(hours=hours) if hours else None
            chosen = replace(chosen, subject_id=person_id, before=before)
            return await unit.standing.page(chosen, cursor, limit)

    async def progress(self) -> Progress:
        """How far changes for many have come, and what the last look at everybody found."""
        async with self._database.unit() as unit:
            ahead, of = await unit.standing.sweeps()
            looked = await unit.standing.last_patrol()
        at, faults = looked or (None, 0)
        return Progress(ahead=ahead, of=of, looked_at=at, faults=faults)

    async def accept(
        self, who: str, about: tuple[str, LineKind, str, Side], reason: str, ends: str, author: str
    ) -> Acceptance:
        """Settle that a line of somebody may stay as it is, until a day or for good.

        Raises:
            InvalidInput: there is no reason, or no such line to accept.
            Conflict: it is accepted already, or a docket has it in hand.
        """
        if not reason.strip():
            raise InvalidInput("What is accepted needs a reason.", place="reason")
        now = await self._clock.now()
        async with self._database.unit() as unit:
            person = await unit.people.resolve(who)
            known = await unit.accounts.known([person.id])
            _, stand = await stands(unit, person, known, await load_world(unit), now)
            mine = [
                line
                for line in stand.lines
                if (line.application_id, line.kind, line.item, line.side) == about
            ]
            if not mine:
                raise NotFound(
                    "Nothing of this person differs so.",
                    place="item",
                    remedy=f"See what does: yugum standing show {person.user_name}.",
                )
            if all(line.status in (LineStatus.ACCEPTED, LineStatus.RUNNING) for line in mine):
                raise Conflict(
                    "This is accepted already, or being seen to.",
                    remedy=f"See: yugum standing show {person.user_name}.",
                )
            until = parse_moment(ends, now, person.time_zone) if ends else None
            if until is not None and until <= now:
                raise InvalidInput("An end lies ahead.", place="ends")
            application, kind, item, side = about
            made = Acceptance(
                id=str(uuid.uuid4()),
                subject_id=person.id,
                application_id=application,
                kind=kind,
                item=item,
                side=side,
                author=author,
                reason=reason,
                made=now,
                ends=until,
            )
            await unit.standing.accept(made)
            await unit.audit.add(
                [make_event(now, author, "standing.accepted", person.id, _told(made))]
            )
            return made

    async def end(self, acceptance_id: str, author: str) -> Acceptance:
        """Settle that it may not stay any longer."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            ended = await unit.standing.end_acceptance(acceptance_id, now)
            await unit.audit.add(
                [make_event(now, author, "standing.reopened", ended.subject_id, _told(ended))]
            )
            return ended


async def must_be_known(unit: UnitOfWork, application_id: str) -> None:
    """An application of that id is connected.

    Raises:
        NotFound: there is none.
    """
    known = await unit.applications.all()
    if application_id not in known:
        raise NotFound(
            f"There is no application {application_id}.",
            place="application",
            remedy=f"Known are: {', '.join(sorted(known))}.",
        )


def _told(made: Acceptance) -> dict[str, str]:
    return {
        "application_id": made.application_id,
        "kind": made.kind.value,
        "item": made.item,
        "side": made.side.value,
        "reason": made.reason,
    }


def shown_line(
    line: Line,
    subject: Subject,
    world: World,
    numbers: Mapping[str, int],
    settled: Mapping[str, Acceptance],
) -> StandingLine:
    """A line with the names people read."""
    application = world.applications.get(line.application_id)
    account = next((a for a in subject.accounts if a.id == line.account_id), None)
    accepted = settled.get(line.ref)
    assert line.since is not None
    return StandingLine(
        subject_id=subject.person.id,
        display_name=subject.person.display_name,
        user_name=subject.person.user_name,
        application_id=line.application_id,
        application_name=application.name if application else "",
        contact=application.contact if application else "",
        account_id=line.account_id,
        login=account.login if account else "",
        kind=line.kind,
        item=line.item,
        side=line.side,
        want=line.want,
        held=line.held,
        reason=line.reason,
        status=line.status,
        code=line.code,
        number=numbers.get(line.ref),
        since=line.since,
        waits_since=line.waits_since,
        accepted_by=accepted.author if accepted else "",
        accepted_why=accepted.reason if accepted else "",
        accepted_until=accepted.ends if accepted else None,
        acceptance_id=accepted.id if accepted else None,
    )
