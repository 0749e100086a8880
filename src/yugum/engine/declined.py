"""Who is taken in: the same person once, and who was declined is no person any more, but on record."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from datetime import datetime

from yugum.core.facts import fields_of
from yugum.core.people import Person, fields_of_both, full_name
from yugum.engine.events import make_event
from yugum.errors import Conflict, InvalidInput
from yugum.ports.clock import Clock
from yugum.ports.declined import Declined
from yugum.ports.pages import ListPage
from yugum.ports.units import Database, UnitOfWork


class DeclinedPeople:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def page(self, cursor: str | None, limit: int) -> ListPage[Declined]:
        async with self._database.unit() as unit:
            return await unit.declined.page(cursor, limit)

    async def decline(self, who: str, author: str, reason: str) -> Declined:
        """Take somebody out who has not begun, with what is planned for them.

        Raises:
            InvalidInput: no reason is given.
            Conflict: something was carried out for them already.
        """
        if not reason.strip():
            raise InvalidInput("Say why.", place="reason")
        now = await self._clock.now()
        async with self._database.unit() as unit:
            person = await unit.people.resolve(who)
            return await decline(unit, person, author, reason, now)


SAME_AT = {
    "number": "employee_number",
    "outside address": "outside_mail",
    "name": "family_name",
    "birthday": "birthday",
}
"""The field by which somebody looks like another."""


async def must_be_new(
    unit: UnitOfWork, people: Sequence[Person], birthdays: Mapping[str, str], now: datetime
) -> None:
    """The same person is not made twice by mistake.

    Raises:
        Conflict: somebody has the number, the outside address or the names of a new one, or a name and the
            birthday.
    """
    numbers = Counter(p.employee_number for p in people if p.employee_number)
    if twice := next((n for n, times in numbers.items() if times > 1), ""):
        raise InvalidInput(f"The number {twice} is named twice.", place="employee_number")
    for like in await unit.people.like(people, birthdays, now):
        there = f"bring them back: yugum returner {like.user_name}"
        if not like.has_left:
            there = f"plan for them: yugum people show {like.user_name}"
        raise Conflict(
            f"{like.name} (no. {like.employee_number}, {like.user_name}, {like.department}), who "
            f"{'has left, had' if like.has_left else 'is here, has'} the same {like.same} as the new "
            f"{like.new}.",
            place=SAME_AT[like.same],
            remedy=f"The same person? Then {there}. If it is another one say so: another (--another).",
        )


async def must_not_be_declined(unit: UnitOfWork, people: Sequence[Person], again: set[str]) -> None:
    """Somebody declined is asked about again only when their record has changed, or somebody says so.

    Raises:
        Conflict: a record is as it was when its person was declined.
    """
    asked = [p for p in people if p.id not in again]
    found = await unit.declined.like([(p.user_name, p.employee_number) for p in asked])
    for person in asked:
        record = fields_of(person, fields_of_both(person, person))
        same = next((d for d in found if dict(d.record) == record), None)
        if same is not None:
            raise Conflict(
                f"{same.display_name} was declined by {same.author} on {same.at:%a %-d %b %Y}: "
                f"{same.reason}. Nothing of the record has changed since.",
                place="people",
                remedy="Say again (--again) to take them in all the same.",
            )


async def decline(
    unit: UnitOfWork,
    person: Person,
    author: str,
    reason: str,
    now: datetime,
    docket_id: str | None = None,
) -> Declined:
    """Take somebody out within a transaction; dockets that have not begun are cancelled."""
    await unit.standing.hold([person.id])
    gone = await unit.dockets.cancel_all(person.id, now)
    await unit.approvals.withdraw(gone, author, reason, now)
    one = Declined(
        id=person.id,
        user_name=person.user_name,
        display_name=full_name(person),
        employee_number=person.employee_number,
        author=author,
        reason=reason,
        at=now,
        docket_id=docket_id,
        record=fields_of(person, fields_of_both(person, person)),
    )
    await unit.declined.decline(one)
    payload = {"user_name": one.user_name, "name": one.display_name, "reason": reason}
    await unit.audit.add(
        [make_event(now, author, "person.declined", person.id, payload, docket_id)]
    )
    return one
