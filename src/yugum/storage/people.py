"""People and the facts recorded about them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.exc import IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.conditions import Condition, fold
from yugum.core.people import FIELDS, Person, folded, search_text
from yugum.errors import Ambiguous, Conflict, NotFound
from yugum.storage import tables as t
from yugum.storage.filters import to_sql
from yugum.storage.pages import Page, Row, fetch
from yugum.storage.rows import among, to_json

COLUMNS = [t.people.c[name] for name in FIELDS]
STORED = (*FIELDS, "folded", "search")
CHANGE_SQL = f"""
UPDATE people p SET rev = p.rev + 1, {", ".join(f"{n} = r.{n}" for n in STORED if n != "id")}
FROM jsonb_populate_recordset(NULL::people, cast(:rows AS jsonb)) AS r WHERE p.id = r.id
"""
"""Stores changed people in one statement; the row's own type says what each field is."""


def person_from(row: Row) -> Person:
    return Person(**{name: row[name] for name in FIELDS})


def state_sql(now: datetime) -> sa.ColumnElement[str]:
    """The twin of ``core.people.state_at``."""
    p = t.people.c
    moment = sa.bindparam("state_now", now, type_=t.Moment, unique=True)
    begins = sa.func.timezone(p.time_zone, sa.cast(p.starts, sa.DateTime()))
    return sa.case(
        (p.access_ends <= moment, "left"),
        (begins > moment, "expected"),
        (
            sa.and_(
                p.absent_from <= moment,
                sa.or_(p.absent_until.is_(None), p.absent_until > moment),
            ),
            "absent",
        ),
        else_="active",
    )


def _row(person: Person) -> dict[str, Any]:
    row = {name: getattr(person, name) for name in FIELDS}
    row["folded"] = folded(person)
    row["search"] = search_text(person)
    return row


class People:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def many(self, ids: Iterable[str]) -> dict[str, tuple[Person, int]]:
        query = sa.select(*COLUMNS, t.people.c.rev).where(among(t.people.c.id, ids))
        result = await self.connection.execute(query)
        return {row["id"]: (person_from(row), row["rev"]) for row in result.mappings()}

    async def resolve(self, who: str) -> Person:
        """The one person that an id, a login, a number or a name stands for.

        Raises:
            NotFound: nobody is called that.
            Ambiguous: several are; the message tells them apart by number and place.
        """
        p = t.people.c
        name = fold(who)
        exact = sa.or_(p.id == who, sa.func.lower(p.user_name) == name, p.employee_number == who)
        whole = sa.func.lower(p.display_name) == name
        words = sa.and_(*(p.search.contains(w, autoescape=True) for w in name.split() or ["\x01"]))
        for clause in (exact, whole, words):
            query = sa.select(*COLUMNS).where(clause).order_by(p.user_name).limit(6)
            rows = (await self.connection.execute(query)).mappings().all()
            if len(rows) == 1:
                return person_from(rows[0])
            if rows:
                listed = "; ".join(
                    f"{r['display_name']} (no. {r['employee_number']}, {r['department']}, "
                    f"{r['site']})"
                    for r in rows[:5]
                )
                raise Ambiguous(
                    f"'{who}' fits several people: {listed}.",
                    remedy="Name the one you mean by number or login.",
                    place="who",
                )
        raise NotFound(
            f"Nobody is called '{who}'.",
            remedy="Search with: yugum people list --search PART-OF-A-NAME.",
            place="who",
        )

    async def insert(self, people: Sequence[Person]) -> None:
        """New people, each with a subject to plan about.

        Raises:
            Conflict: a login is taken.
        """
        if not people:
            return
        try:
            await self.connection.execute(sa.insert(t.people), [_row(p) for p in people])
        except IntegrityError as error:
            raise Conflict(
                f"A login is taken already: {error.orig}".split("\n")[0],
                remedy="Choose another user name.",
                place="userName",
            ) from error
        await self.connection.execute(sa.insert(t.subjects), [{"id": p.id} for p in people])

    async def change(self, people: Sequence[Person]) -> None:
        """Store changed people; each gets a new revision."""
        if not people:
            return
        rows = to_json([_row(person) for person in people])
        await self.connection.execute(sa.text(CHANGE_SQL), {"rows": rows})

    async def record(self, facts: Sequence[Row]) -> None:
        if facts:
            await self.connection.execute(
                sa.text(
                    """INSERT INTO facts
                       SELECT * FROM jsonb_populate_recordset(NULL::facts, cast(:rows AS jsonb))"""
                ),
                {"rows": to_json(facts)},
            )

    async def page(
        self,
        now: datetime,
        *,
        condition: Condition | None,
        query: str,
        state: str,
        cursor: str | None,
        limit: int,
    ) -> Page:
        p = t.people.c
        manager = t.people.alias("manager")
        current = state_sql(now)
        select = sa.select(
            *COLUMNS,
            p.rev,
            current.label("state"),
            manager.c.display_name.label("manager_name"),
            sa.select(sa.func.count())
            .where(t.accounts.c.person_id == p.id, t.accounts.c.state == "active")
            .scalar_subquery()
            .label("open_accounts"),
        ).select_from(t.people.outerjoin(manager, manager.c.id == p.manager_id))
        if condition is not None:
            select = select.where(to_sql(condition, p.folded, {"state": current}))
        for word in fold(query).split():
            select = select.where(p.search.contains(word, autoescape=True))
        if state:
            select = select.where(current == state)
        keys = [p.family_name, p.given_name, p.id]
        return await fetch(
            self.connection, select, keys, cursor=cursor, limit=limit, count=cursor is None
        )

    async def logins_taken(self, logins: Iterable[str]) -> set[str]:
        query = sa.select(t.people.c.user_name).where(among(t.people.c.user_name, logins))
        return set((await self.connection.scalars(query)).all())

    async def by_keys(
        self, logins: Iterable[str], numbers: Iterable[str]
    ) -> Sequence[Mapping[str, Any]]:
        """Id, login and number of the people that have one of the keys."""
        p = t.people.c
        query = sa.select(p.id, p.user_name, p.employee_number).where(
            sa.or_(among(p.user_name, logins), among(p.employee_number, [n for n in numbers if n]))
        )
        return [dict(r) for r in (await self.connection.execute(query)).mappings()]

    async def facts_of(self, person_id: str, limit: int = 50) -> Sequence[Mapping[str, Any]]:
        query = (
            sa.select(t.facts)
            .where(t.facts.c.person_id == person_id)
            .order_by(t.facts.c.known_at.desc(), t.facts.c.id)
            .limit(limit)
        )
        return [dict(r) for r in (await self.connection.execute(query)).mappings()]
