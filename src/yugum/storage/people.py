"""People and the facts recorded about them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict
from datetime import date, datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.exc import IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.conditions import fold
from yugum.core.facts import Fact
from yugum.core.guards import Namesake
from yugum.core.lists import KnownValue, Order
from yugum.core.names import TakenLogin
from yugum.core.people import FIELDS, Person, folded, search_text
from yugum.core.people_file import Numbers
from yugum.core.roles import Role
from yugum.errors import Ambiguous, Conflict, NotFound
from yugum.ports.pages import ListPage
from yugum.ports.people import ChosenPeople, PersonKey, PersonLine, SamePerson, Starter
from yugum.storage import merging
from yugum.storage import tables as t
from yugum.storage.everybody import COLUMNS, REMEDY, listing_of, moment, with_role
from yugum.storage.known import values_of
from yugum.storage.pages import Row, fetch, listed
from yugum.storage.rows import among, among_ids, read, read_all, reader, to_array, to_json

STORED = (*FIELDS, "folded", "search")
CHANGE_SQL = f"""
UPDATE people p SET rev = p.rev + 1, {", ".join(f"{n} = r.{n}" for n in STORED if n != "id")}
FROM jsonb_populate_recordset(NULL::people, cast(:rows AS jsonb)) AS r WHERE p.id = r.id
"""
"""Stores changed people in one statement; the row's own type says what each field is."""

INSERT_SQL = f"""
WITH new AS (INSERT INTO people ({", ".join(STORED)}) SELECT {", ".join(STORED)}
  FROM jsonb_populate_recordset(NULL::people, cast(:rows AS jsonb)) RETURNING id)
INSERT INTO subjects (id, known_at) SELECT id, :known_at FROM new
"""
"""New people, each with a subject: what looks at every statement looks once."""


LOGINS_SQL = sa.text("""
SELECT DISTINCT ON (login) login, by, holder, until FROM (
  SELECT lower(p.user_name) AS login, 1 AS rank, p.display_name AS holder,
    CASE WHEN p.access_ends <= :now THEN 'leaver' ELSE 'person' END AS by,
    cast(NULL AS timestamptz) AS until
  FROM people p WHERE lower(p.user_name) = ANY(:logins) AND NOT p.id = ANY(:but)
    AND (p.access_ends IS NULL OR p.access_ends > :since)
  UNION ALL
  SELECT lower(a.login), 2, x.name, 'account', NULL
  FROM accounts a JOIN applications x ON x.id = a.application_id
  WHERE lower(a.login) = ANY(:logins) AND a.state <> 'purged'
    AND (a.person_id IS NULL OR NOT a.person_id = ANY(:but))
  UNION ALL
  SELECT lower(f.before->>'user_name'), 3, '', 'quarantine', f.effective_at
  FROM facts f WHERE lower(f.before->>'user_name') = ANY(:logins) AND f.effective_at > :since
    AND NOT f.person_id = ANY(:but)
) held ORDER BY login, rank
""")
"""Who or what has a login, or had it until lately."""

MAILS_SQL = sa.text("""
SELECT lower(f.before->>'mail'), 'somebody until lately' FROM facts f
WHERE lower(f.before->>'mail') = ANY(:addresses) AND f.effective_at > :since
UNION ALL
SELECT lower(p.mail), p.display_name FROM people p WHERE lower(p.mail) = ANY(:addresses)
""")
"""Who has a mail address, or that somebody had it until lately."""

REPORTS_SQL = sa.text("""
SELECT r.manager_id AS id, array_agg(r.display_name ORDER BY r.display_name) AS names
FROM people r WHERE r.manager_id = ANY(:ids) AND NOT r.id = ANY(:ids)
  AND (r.access_ends IS NULL OR r.access_ends > :now) GROUP BY 1
""")

ALIKE_SQL = sa.text("""
SELECT p.id, o.display_name AS name, o.employee_number, o.department, o.site
FROM people p JOIN people o ON o.id <> p.id AND o.family_name = p.family_name
  AND (similarity(o.given_name, p.given_name) > 0.5 OR left(o.given_name, 1) = left(p.given_name, 1))
WHERE p.id = ANY(:ids) AND p.family_name <> '' AND (o.access_ends IS NULL OR o.access_ends > :now)
ORDER BY p.id, o.display_name
""")
"""People with the same family name and a given name much like it (pg_trgm)."""

TOLD = ("user_name", "employee_number", "outside_mail", "given_name", "family_name")
BORN = "coalesce((SELECT digest FROM birthdays WHERE person_id = p.id), r.birthday)"
SAME_SQL = sa.text(f"""
SELECT r.user_name AS new, x.same, x.display_name AS name, x.user_name, x.employee_number, x.department,
  coalesce(x.access_ends <= :now, false) AS has_left
FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(user_name text, employee_number text,
  outside_mail text, given_name text, family_name text, birthday text)
CROSS JOIN LATERAL (
  SELECT 'number' AS same, p.* FROM people p
  WHERE p.employee_number = r.employee_number AND r.employee_number <> ''
  UNION ALL SELECT 'outside address', p.* FROM people p
  WHERE p.outside_mail = r.outside_mail AND r.outside_mail <> ''
  UNION ALL SELECT 'name', p.* FROM people p
  WHERE p.family_name = r.family_name AND p.given_name = r.given_name AND r.family_name <> ''
    AND (r.birthday = '' OR {BORN} = r.birthday)
  UNION ALL SELECT 'birthday', p.* FROM birthdays b JOIN people p ON p.id = b.person_id
  WHERE b.digest = r.birthday AND r.birthday <> ''
    AND (lower(p.family_name) = lower(r.family_name) OR lower(p.given_name) = lower(r.given_name))
) x
""")
"""Who has the number, the outside address or both names of somebody new, or was born on the same day and has one
of the names. Who has both names and was born on another day is somebody else."""

WITHOUT_NUMBER = sa.text(f"""
SELECT {", ".join(f"p.{c.name}" for c in COLUMNS)}
FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(given text, family text)
CROSS JOIN LATERAL (SELECT * FROM people WHERE family_name = r.family AND given_name = r.given
  AND employee_number = '' OFFSET 0) p
""")

NUMBERS_SQL = sa.text("""
SELECT length(n) AS width, n LIKE '0%' AS nought, count(*) AS count
FROM (SELECT employee_number AS n FROM people WHERE employee_number ~ '^[0-9]+$' LIMIT 5000) few GROUP BY 1, 2
""")

BY_KEY_SQL = """
SELECT p.id, p.user_name, p.employee_number FROM unnest(cast(:keys AS text[])) AS k(key)
CROSS JOIN LATERAL (SELECT * FROM people WHERE {column} = k.key OFFSET 0) p
"""


MANY = sa.select(*COLUMNS, t.people.c.rev).where(among_ids(t.people.c.id))
"""People by their ids, with their revisions."""

FACTS = (
    sa.select(t.facts)
    .where(t.facts.c.person_id == sa.bindparam("id"))
    .order_by(t.facts.c.known_at.desc(), t.facts.c.id)
    .limit(sa.bindparam("limit"))
)

_P = t.people.c
EXACT = (
    sa.select(*COLUMNS)
    .where(
        sa.or_(
            _P.id == sa.bindparam("who"),
            sa.func.lower(_P.user_name) == sa.bindparam("name"),
            _P.employee_number == sa.bindparam("who"),
        )
    )
    .order_by(_P.user_name)
    .limit(6)
)


def person_from(row: Row) -> Person:
    own = tuple(sorted(row["own"].items()))
    return Person(**{name: row[name] for name in FIELDS if name != "own"}, own=own)


def _row(person: Person) -> dict[str, Any]:
    row = {name: getattr(person, name) for name in FIELDS}
    row["own"] = dict(person.own)
    row["folded"] = folded(person)
    row["search"] = search_text(person)
    return row


class People:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def many(self, ids: Iterable[str]) -> dict[str, tuple[Person, int]]:
        if not (wanted := list(ids)):
            return {}
        result = await self.connection.execute(MANY, {"ids": wanted})
        return {row["id"]: (person_from(row), row["rev"]) for row in result.mappings()}

    async def with_role(
        self, role: Role, departments: Sequence[str], at: datetime, limit: int
    ) -> Sequence[Person]:
        rows = await self.connection.execute(with_role(role, departments, limit), moment(at))
        return [person_from(row) for row in rows.mappings()]

    async def resolve(self, who: str) -> Person:
        """The one person that an id, a login, a number or a name stands for.

        Raises:
            NotFound: nobody is called that.
            Ambiguous: several are; the message tells them apart by number and place.
        """
        p = t.people.c
        name = fold(who)
        whole = sa.func.lower(p.display_name) == name
        words = sa.and_(*(p.search.contains(w, autoescape=True) for w in name.split() or ["\x01"]))
        some = sa.select(*COLUMNS).order_by(p.user_name).limit(6)
        for query in (EXACT, some.where(whole), some.where(words)):
            values = {"who": who, "name": name} if query is EXACT else {}
            rows = (await self.connection.execute(query, values)).mappings().all()
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

    async def insert(self, people: Sequence[Person], known_at: datetime | None = None) -> None:
        """New people, known since ``known_at``, each with a subject to plan about.

        Raises:
            Conflict: a login is taken.
        """
        if not people:
            return
        try:
            values = {"rows": to_json([_row(p) for p in people]), "known_at": known_at}
            await self.connection.execute(sa.text(INSERT_SQL), values)
        except IntegrityError as error:
            raise Conflict(
                f"A login is taken already: {error.orig}".split("\n")[0],
                remedy="Choose another user name.",
                place="userName",
            ) from error

    async def change(self, people: Sequence[Person]) -> None:
        """Store changed people; each gets a new revision."""
        if not people:
            return
        rows = to_json([_row(person) for person in people])
        await self.connection.execute(sa.text(CHANGE_SQL), {"rows": rows})

    async def record(self, facts: Sequence[Fact]) -> None:
        if facts:
            await self.connection.execute(
                sa.text(
                    """INSERT INTO facts
                       SELECT * FROM jsonb_populate_recordset(NULL::facts, cast(:rows AS jsonb))"""
                ),
                {"rows": to_json([asdict(f) for f in facts])},
            )

    async def page(
        self,
        now: datetime,
        chosen: ChosenPeople,
        cursor: str | None,
        limit: int,
    ) -> ListPage[PersonLine]:
        return await listed(
            self.connection,
            listing_of(chosen),
            reader(PersonLine),
            cursor=cursor,
            limit=limit,
            descending=chosen.order is Order.DESCENDING,
            count=cursor is None,
            values=moment(now),
            narrow=REMEDY if chosen.condition is not None else "",
        )

    async def values(self, field: KnownValue, query: str, limit: int) -> Sequence[str]:
        return list((await self.connection.execute(values_of(field, query, limit))).scalars())

    async def login_held_by(
        self, logins: Sequence[str], since: datetime, now: datetime, but: Sequence[str] = ()
    ) -> dict[str, TakenLogin]:
        values = {"logins": list(logins), "since": since, "now": now, "but": list(but)}
        rows = await self.connection.execute(LOGINS_SQL, values)
        return {row["login"]: read(TakenLogin, row) for row in rows.mappings()}

    async def mail_held_by(self, addresses: Sequence[str], since: datetime) -> dict[str, str]:
        values = {"addresses": [a.lower() for a in addresses if a], "since": since}
        rows = await self.connection.execute(MAILS_SQL, values)
        return {row[0]: row[1] for row in rows}

    async def around(
        self, ids: Sequence[str], now: datetime
    ) -> tuple[Mapping[str, Sequence[str]], Mapping[str, Sequence[Namesake]]]:
        values = {"ids": list(ids), "now": now}
        reports = await self.connection.execute(REPORTS_SQL, values)
        alike: dict[str, list[Namesake]] = {}
        for row in (await self.connection.execute(ALIKE_SQL, values)).mappings():
            alike.setdefault(row["id"], []).append(read(Namesake, row))
        return {r.id: r.names for r in reports}, alike

    async def reports_of(self, ids: Sequence[str], now: datetime) -> Sequence[Person]:
        p = t.people.c
        query = sa.select(*COLUMNS).where(
            among(p.manager_id, ids),
            sa.not_(among(p.id, ids)),
            sa.or_(p.access_ends.is_(None), p.access_ends > now),
        )
        return [person_from(r) for r in (await self.connection.execute(query)).mappings()]

    async def merge(self, keep: str, gone: str) -> int:
        """Make one person of two; returns how many accounts came along.

        Raises:
            Conflict: a docket of the one that goes has not ended.
        """
        values = {"keep": keep, "gone": gone}
        await self.connection.execute(
            sa.text("SELECT id FROM subjects WHERE id IN (:keep, :gone) ORDER BY id FOR UPDATE"),
            values,
        )
        open_dockets = await self.connection.scalar(
            sa.text(
                "SELECT count(*) FROM dockets WHERE subject_id IN (:keep, :gone)"
                " AND state IN ('awaiting', 'scheduled', 'running')"
            ),
            values,
        )
        if open_dockets:
            raise Conflict(
                "A docket of one of the two has not ended.",
                remedy="Cancel it or wait for its end, then merge them.",
            )
        return await merging.merge(self.connection, keep, gone)

    async def starting(
        self, begin: date, until: date, cursor: str | None, limit: int
    ) -> ListPage[Starter]:
        """Who begins between two days, the first day first; who has left does not count."""
        p = t.people.c
        query = sa.select(
            p.id, p.user_name, p.display_name, p.department, p.title, p.site, p.starts, p.time_zone
        ).where(p.starts >= begin, p.starts <= until, p.access_ends.is_(None))
        return await fetch(
            self.connection,
            query,
            [p.starts, p.id],
            reader(Starter),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )

    async def like(
        self, people: Sequence[Person], birthdays: Mapping[str, str], now: datetime
    ) -> Sequence[SamePerson]:
        told = [
            {"birthday": birthdays.get(p.id, ""), **{name: getattr(p, name) for name in TOLD}}
            for p in people
        ]
        rows = await self.connection.execute(SAME_SQL, {"rows": to_json(told), "now": now})
        return read_all(SamePerson, rows)

    async def expected(self, day: date, limit: int) -> Sequence[Person]:
        p = t.people.c
        query = sa.select(*COLUMNS).where(p.starts > day).order_by(p.starts, p.id).limit(limit)
        return [person_from(r) for r in (await self.connection.execute(query)).mappings()]

    async def logins_taken(self, logins: Iterable[str]) -> set[str]:
        query = sa.select(t.people.c.user_name).where(among(t.people.c.user_name, logins))
        return set((await self.connection.scalars(query)).all())

    async def without_number(self, names: Sequence[tuple[str, str]]) -> Sequence[Person]:
        rows = [{"given": given, "family": family} for given, family in names]
        found = await self.connection.execute(WITHOUT_NUMBER, {"rows": to_json(rows)})
        return [person_from(r) for r in found.mappings()]

    async def by_keys(self, logins: Iterable[str], numbers: Iterable[str]) -> Sequence[PersonKey]:
        p = t.people.c
        found: dict[str, PersonKey] = {}
        # One after the other: an OR over both would read the whole table.
        for column, keys in ((p.user_name, list(logins)), (p.employee_number, list(numbers))):
            known = {getattr(row, column.name) for row in found.values()}
            wanted = [k for k in keys if k and k not in known]
            if wanted:
                query = sa.text(BY_KEY_SQL.format(column=column.name))
                values = {"keys": to_array(wanted)}
                for row in (await self.connection.execute(query, values)).mappings():
                    found[row["id"]] = PersonKey(**row)
        return list(found.values())

    async def numbers(self) -> Sequence[Numbers]:
        return read_all(Numbers, await self.connection.execute(NUMBERS_SQL))

    async def facts_of(self, person_id: str, limit: int = 50) -> Sequence[Fact]:
        values = {"id": person_id, "limit": limit}
        return read_all(Fact, await self.connection.execute(FACTS, values))
